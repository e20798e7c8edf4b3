package compose

import (
	"math"
	"testing"

	"sodrik/internal/core/ink"
)

// TestContrastOfBackdrops: the contrast with a picture beneath is that at the module where ink and picture differ least. The
// left half of the picture is a grey of 128, which at full strength lies there as it is; moved so that only the white half
// covers the symbol, paper and ink differ as without it. Luminances are those of IEC 61966-2-1.
func TestContrastOfBackdrops(t *testing.T) {
	const picture = `data:image/svg+xml;base64,PHN2ZyB4bWxucz0iaHR0cDovL3d3dy53My5vcmcvMjAwMC9zdmciIHZpZXdCb3g9IjAgMCAyMDAgMTAwIj48cGF0aCBkPSJNMCAwaDIwMHYxMDBIMHoiIGZpbGw9IiNmZmYiLz48cGF0aCBkPSJNMCAwaDEwMHYxMDBIMHoiIGZpbGw9IiM4MDgwODAiLz48L3N2Zz4=`
	grey, black := ink.Colour{R: 128, G: 128, B: 128}.Luminance(), 0.0
	for _, c := range []struct {
		name, backdrop string
		want           float64
	}{
		{"none", ``, 1}, {"the grey half over half of it", `,"backdrop":{"source":"` + picture + `","strength":1}`, -1},
		{"the white half alone", `,"backdrop":{"source":"` + picture + `","strength":1,"x":1}`, 1},
		{"the grey half alone", `,"backdrop":{"source":"` + picture + `","strength":1,"x":0}`, -1},
		{"nothing of it", `,"backdrop":{"source":"` + picture + `","strength":0}`, 1},
		{"in one ink", `,"backdrop":{"source":"` + picture + `","mode":"halftone","strength":1}`, 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			m, problems := Parse(
				[]byte(`{"content":{"kind":"url","url":"https://marrowby.example/a"},"look":{"ink":"#000"`+c.backdrop+`}}`),
				nil,
			)
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			got, want := m.Figures(-1).Contrast, c.want
			if want < 0 { // as solid as it is drawn, which is less than all of it where its dark tones would hide the modules
				opaque := 1.0
				for _, it := range m.Scene(nil).Items {
					if it.Name == "backdrop" {
						opaque = 1 - it.Fade
					}
				}
				mixed := uint8(math.Round(255 + (128-255)*opaque))
				want = ink.Colour{R: mixed, G: mixed, B: mixed}.Luminance() - black
				if want < grey-0.01 {
					t.Errorf("mixed grey %d is darker than the picture", mixed)
				}
			}
			if math.Abs(got-want) > 0.01 {
				t.Errorf("%.3f, want %.3f", got, want)
			}
		})
	}
}
