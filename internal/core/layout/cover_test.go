package layout

import (
	"math"
	"testing"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/look"
)

// TestCover: a picture of 40 × 20 behind a symbol of 20 modules. At size 1 its height covers the symbol, so that it lies 20 to
// the left of its middle and cannot move up or down; at size 2 it is 80 × 40. Every figure follows from these by hand.
func TestCover(t *testing.T) {
	art := &artwork.Art{Width: 40, Height: 20}
	for _, c := range []struct {
		name         string
		look         look.Backdrop
		k, dx, dy    float64
		x, y         float64 // what is in the middle, after the edges had their say
		dmodX, dmodY float64
	}{
		{"as it comes", look.Backdrop{Scale: 1, X: 0.5, Y: 0.5}, 1, -10, 0, 0.5, 0.5, 1. / 40, 1. / 20},
		{"a size that is not given", look.Backdrop{X: 0.5, Y: 0.5}, 1, -10, 0, 0.5, 0.5, 1. / 40, 1. / 20},
		{"its left", look.Backdrop{Scale: 1, X: 0.25, Y: 0.5}, 1, 0, 0, 0.25, 0.5, 1. / 40, 1. / 20},
		{"farther than its edge", look.Backdrop{Scale: 1, X: 0, Y: 0}, 1, 0, 0, 0.25, 0.5, 1. / 40, 1. / 20},
		{"beyond its right and lower edge", look.Backdrop{Scale: 1, X: 1, Y: 1}, 1, -20, 0, 0.75, 0.5, 1. / 40, 1. / 20},
		{"twice as large", look.Backdrop{Scale: 2, X: 0.5, Y: 0.25}, 2, -30, 0, 0.5, 0.25, 1. / 80, 1. / 40},
		{"twice as large, moved", look.Backdrop{Scale: 2, X: 0.6, Y: 0.6}, 2, -38, -14, 0.6, 0.6, 1. / 80, 1. / 40},
	} {
		t.Run(c.name, func(t *testing.T) {
			g := &Ground{Look: c.look, Art: art, size: 20}
			k, dx, dy := g.cover(20)
			x, y, mx, my := g.Focus()
			for i, d := range []float64{k - c.k, dx - c.dx, dy - c.dy, x - c.x, y - c.y, mx - c.dmodX, my - c.dmodY} {
				if math.Abs(d) > 1e-9 {
					t.Errorf("figure %d is off by %g: %v", i, d, []float64{k, dx, dy, x, y, mx, my})
				}
			}
		})
	}
}
