package optics

import (
	"math"
	"testing"
)

// TestSpread: what is dark grows by the same width whichever way its edge faces, wherever in a pixel the edge lies. By
// geometry a disc of radius r becomes one of r + g, and a square of side a covers a² + 4ag + πg².
func TestSpread(t *testing.T) {
	const side, per = 160, 4 // pixels of the object, and parts of one that shapes are drawn with
	dark := func(at func(x, y float64) bool) *object {
		o := &object{width: side, height: side, fine: 1, y: make([]float64, side*side)}
		for j := range side {
			for i := range side {
				light := 0
				for k := range per * per {
					if !at(float64(i)+(float64(k%per)+0.5)/per, float64(j)+(float64(k/per)+0.5)/per) {
						light++
					}
				}
				o.y[j*side+i] = float64(light) / (per * per)
			}
		}
		return o
	}
	covered := func(o *object) (sum float64) {
		for _, y := range o.y {
			sum += 1 - y
		}
		return sum
	}
	for _, g := range []float64{0.3, 1, 1.57, 2.4, 4.8} {
		for _, off := range []float64{0, 0.25, 0.5} {
			const r, a = 30.0, 60.0
			disc := dark(func(x, y float64) bool { return math.Hypot(x-80-off, y-80) < r })
			disc.spread(g)
			if got, want := math.Sqrt(covered(disc)/math.Pi)-r, g; math.Abs(got-want) > 0.12 {
				t.Errorf("a disc %g off grows by %.3f, want %g", off, got, want)
			}
			square := dark(func(x, y float64) bool { return x > 50+off && x < 50+off+a && y > 50+off && y < 50+off+a })
			square.spread(g)
			if got, want := covered(square), a*a+4*a*g+math.Pi*g*g; math.Abs(got-want) > 0.07*4*a {
				t.Errorf("a square %g off that grows by %g covers %.1f, want %.1f", off, g, got, want)
			}
		}
	}
}
