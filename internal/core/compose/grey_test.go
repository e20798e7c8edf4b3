package compose

import (
	"bytes"
	"image"
	"image/jpeg"
	"testing"
	"time"
)

// TestGreyJPEG: a code without a colour has one channel, one with a colour keeps it.
func TestGreyJPEG(t *testing.T) {
	for look, isGrey := range map[string]bool{`{}`: true, `{"ink":"#404040","paper":"#f0f0f0"}`: true,
		`{"ink":"#12352b"}`: false} {
		t.Run(look, func(t *testing.T) {
			m, problems := Parse([]byte(`{"content":{"kind":"text","text":"Leek"},"look":`+look+`,"output":{"pixels":300}}`), nil)
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			f := MustFormat("jpg")
			file, problems := m.File(f, nil, MetaOf(f, "Leek", time.Time{}))
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			img, err := jpeg.Decode(bytes.NewReader(file))
			if err != nil {
				t.Fatal(err)
			}
			if _, grey := img.(*image.Gray); grey != isGrey {
				t.Errorf("%s: %T", look, img)
			}
			want := m.Job.Look.Ink
			per := m.Pixels(nil).PerModule
			at := img.At(4*per+per/2, 4*per+per/2) // the corner of an eye
			r, g, b, _ := at.RGBA()
			if diff := max(abs(int(r>>8)-int(want.R)), abs(int(g>>8)-int(want.G)), abs(int(b>>8)-int(want.B))); diff > 12 {
				t.Errorf("%s: %v, want %v", look, at, want)
			}
		})
	}
}

func abs(n int) int { return max(n, -n) }
