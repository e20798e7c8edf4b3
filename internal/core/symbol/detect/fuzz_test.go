package detect

import (
	"image"
	"testing"

	"sodrik/internal/core/optics"
)

// FuzzFind: no picture makes the search panic or run on, and what it finds lies where it says.
func FuzzFind(f *testing.F) {
	img := seen(f, "https://marrowby.example/fair", 3, 3, optics.Setup{Turn: 20, Seed: 1})
	f.Add(img.Rect.Dx(), img.Pix, 0, byte(0))
	f.Add(img.Rect.Dx(), img.Pix, 5000, byte(255))
	f.Add(30, []byte("dark, light, dark, light, dark"), 3, byte(7))
	f.Fuzz(func(t *testing.T, width int, pix []byte, at int, v byte) {
		if width < 1 || width > 300 || len(pix) < width || len(pix) > 90_000 {
			return
		}
		h := len(pix) / width
		img := &image.Gray{Pix: append([]byte(nil), pix[:width*h]...), Stride: width, Rect: image.Rect(0, 0, width, h)}
		for i := range 40 { // a blot
			if j := at + i; j >= 0 && j < len(img.Pix) {
				img.Pix[j] = v
			}
		}
		for _, found := range Find(img, 4) {
			for _, c := range found.Corners {
				if !(c[0] > -float64(width) && c[0] < 2*float64(width) && c[1] > -float64(h) && c[1] < 2*float64(h)) {
					t.Errorf("a corner at %v of a picture of %d × %d", c, width, h)
				}
			}
		}
	})
}
