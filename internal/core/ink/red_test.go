package ink

import (
	"fmt"
	"testing"
)

// TestAt660: black and cyan take red light away, magenta and yellow let it through, and the bounds hold one another.
func TestAt660(t *testing.T) {
	const stock = 0.86
	for name, c := range map[string]struct {
		colour      Colour
		least, most float64 // within which both bounds lie
	}{
		"black": {Black, 0.02, 0.07}, "white": {White, 0.86, 0.86}, "solid cyan": {OfCMYK(CMYK{100, 0, 0, 0}), 0.06, 0.16},
		"solid magenta": {OfCMYK(CMYK{0, 100, 0, 0}), 0.61, 0.80}, "solid yellow": {OfCMYK(CMYK{0, 0, 100, 0}), 0.70, 0.83},
		"red": {Colour{R: 220}, 0.30, 0.80}, "pine": {Colour{R: 0x12, G: 0x35, B: 0x2b}, 0.03, 0.30},
	} {
		t.Run(name, func(t *testing.T) {
			least, most := c.colour.At660(stock)
			if least > most || least < c.least-1e-9 || most > c.most+1e-9 {
				t.Errorf("%s: %.3f to %.3f, want within %.2f and %.2f", name, least, most, c.least, c.most)
			}
		})
	}
	if a, _ := Black.At660(0.5); a > 0.02 {
		t.Errorf("on darker stock black throws back %.3f", a)
	}
}

// TestPlates: what is common to three inks is black's; a colour given by its inks keeps them.
func TestPlates(t *testing.T) {
	for c, want := range map[Colour]CMYK{Black: {0, 0, 0, 100}, White: {}, {R: 255}: {0, 100, 100, 0},
		{R: 51, G: 51, B: 51}: {0, 0, 0, 80}, OfCMYK(CMYK{10, 20, 30, 40}): {10, 20, 30, 40}} {
		t.Run(fmt.Sprint(c), func(t *testing.T) {
			got := c.Plates()
			for i := range got {
				if d := got[i] - want[i]; d > 0.01 || d < -0.01 {
					t.Errorf("%v: %v, want %v", c, got, want)
					break
				}
			}
		})
	}
}
