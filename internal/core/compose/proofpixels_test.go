package compose

import (
	"bytes"
	"image/png"
	"testing"

	"sodrik/internal/core/export"
	"sodrik/internal/core/raster"
)

// TestPNGKeepsPixels: what a PNG holds is what was drawn, pixel by pixel, in one bit, eight or full colour, with and without
// alpha. A proof stands on it: readers are handed the drawing, and the file is read back only when it leaves.
func TestPNGKeepsPixels(t *testing.T) {
	for _, c := range []struct{ name, look string }{
		{"two colours", `{}`}, {"a few colours", `{"ink":"#12352b","eyes":{"ring":{"ink":"#a8321f"}},"modules":{"corner":1}}`},
		{"a gradient", `{"ink":{"kind":"linear","angle":30,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#a8321f"}]}}`},
		{"no paper", `{"paper":"none","modules":{"motif":"disc","scale":0.9}}`},
		{"a gradient without paper",
			`{"paper":"none","ink":{"kind":"radial","stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#205044"}]}}`},
	} {
		t.Run(c.name, func(t *testing.T) {
			m, problems := Parse([]byte(`{"content":{"kind":"url","url":"https://marrowby.example/a"},"look":`+c.look+`}`), nil)
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			s := m.Scene(nil)
			file, problems := m.pixels("png", s, 330, nil, export.Meta{})
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			got, err := png.Decode(bytes.NewReader(file))
			want, err2 := raster.Draw(s, raster.Fit(s, 330))
			if err != nil || err2 != nil || got.Bounds() != want.Bounds() {
				t.Fatal(err, err2, got.Bounds(), want.Bounds())
			}
			for y := range want.Rect.Dy() {
				for x := range want.Rect.Dx() {
					r, g, b, a := got.At(x, y).RGBA()
					if wr, wg, wb, wa := want.At(x, y).RGBA(); r != wr || g != wg || b != wb || a != wa {
						t.Fatalf("at %d, %d the file has %v, drawn was %v", x, y, got.At(x, y), want.At(x, y))
					}
				}
			}
		})
	}
}
