package scene

import (
	"math"

	"sodrik/internal/core/ink"
)

// Shade is an ink that changes along a line or outwards from a point, in the units of its item's path. Beyond its ends it goes on
// in the end colours.
type Shade struct {
	Radial bool
	X0, Y0 float64 // where it begins; of a radial one, its middle
	X1, Y1 float64 // where a linear one ends
	Radius float64 // of a radial one
	Stops  []ink.Stop
}

// Across spreads a gradient over a square of a side from the origin; nil where there is none.
func Across(g ink.Gradient, side float64) *Shade {
	switch {
	case g.None():
		return nil
	case g.Kind == "radial":
		return &Shade{Radial: true, X0: side / 2, Y0: side / 2, Radius: ink.Radius * side, Stops: g.Stops[:g.N]}
	}
	x0, y0, x1, y1 := g.Line()
	return &Shade{X0: x0 * side, Y0: y0 * side, X1: x1 * side, Y1: y1 * side, Stops: g.Stops[:g.N]}
}

// Share is how far along the shade a point lies, 0 to 1.
func (s *Shade) Share(x, y float64) float64 {
	if s.Radial {
		dx, dy := x-s.X0, y-s.Y0
		return math.Min(1, math.Sqrt(dx*dx+dy*dy)/s.Radius) // Hypot guards against overflow, and takes four times as long
	}
	dx, dy := s.X1-s.X0, s.Y1-s.Y0
	return math.Max(0, math.Min(1, ((x-s.X0)*dx+(y-s.Y0)*dy)/(dx*dx+dy*dy)))
}

// Colour is that at a share.
func (s *Shade) Colour(share float64) ink.Colour { return ink.Mix(s.Stops, share) }
