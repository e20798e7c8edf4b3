package artwork

import (
	"math"

	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// fineness is in how many rows or columns art is looked at along its longer side, and solidity from which a part counts as
// covered.
const (
	fineness = 192
	solidity = 32 // of 255
)

// row is a strip of the art with what is covered of it, in the art's units.
type row struct {
	y0, y1 float64
	spans  [][2]float64
}

// rows are where the art is. They hold it, and at most a strip's width more.
func (a *Art) rows() []row {
	a.lines.once.Do(func() {
		unit := max(a.Width, a.Height) / fineness
		w, h := int(math.Ceil(a.Width/unit)), int(math.Ceil(a.Height/unit))
		img, err := raster.Draw(&scene.Scene{Width: a.Width, Height: a.Height, Items: a.Items},
			raster.View{Width: w, Height: h, Scale: 1 / unit})
		if err != nil { // a side of nothing, which newArt refuses
			return
		}
		for y := range h {
			r := row{y0: float64(y) * unit, y1: float64(y+1) * unit}
			for x := 0; x < w; x++ {
				if img.Pix[y*img.Stride+4*x+3] < solidity {
					continue
				}
				from := x
				for x < w && img.Pix[y*img.Stride+4*x+3] >= solidity {
					x++
				}
				r.spans = append(r.spans, [2]float64{float64(from) * unit, float64(x) * unit})
			}
			if r.spans != nil {
				a.lines.rows = append(a.lines.rows, r)
			}
		}
	})
	return a.lines.rows
}

// Near says whether the art comes closer than d to a rectangle, all in the art's units; d 0 asks whether it covers some of it.
func (a *Art) Near(x0, y0, x1, y1, d float64) bool {
	for _, r := range a.rows() {
		dy := max(0, r.y0-y1, y0-r.y1)
		if dy > d || r.y0 >= y1+d || r.y1 <= y0-d {
			continue
		}
		for _, s := range r.spans {
			if s[0] >= x1+d || s[1] <= x0-d {
				continue
			}
			if dx := max(0, s[0]-x1, x0-s[1]); dx*dx+dy*dy <= d*d {
				return true
			}
		}
	}
	return false
}
