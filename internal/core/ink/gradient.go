package ink

import (
	"encoding/json"
	"math"
)

// MaxStops bounds a gradient.
const MaxStops = 8

// Gradient is an ink that changes across a square: from one side to the other at an angle, or from the middle outwards. The zero
// value is none. Colours between stops are mixed in their encoded values, as SVG and PDF do.
type Gradient struct {
	Kind  string  // "linear" or "radial"
	Angle float64 // of a linear one, in degrees: 0 from left to right, 90 from top to bottom
	N     int
	Stops [MaxStops]Stop // the first N, in ascending order
}

// Stop is a colour at a place, 0 to 1.
type Stop struct {
	At     float64
	Colour Colour
}

// None says that there is no gradient.
func (g Gradient) None() bool { return g.Kind == "" }

// Line is where a linear gradient runs in a unit square: through the middle, so long that corners have the end colours.
func (g Gradient) Line() (x0, y0, x1, y1 float64) {
	sin, cos := math.Sincos(g.Angle * math.Pi / 180)
	half := (math.Abs(sin) + math.Abs(cos)) / 2
	return 0.5 - cos*half, 0.5 - sin*half, 0.5 + cos*half, 0.5 + sin*half
}

// Radius is how far a radial gradient reaches from the middle of a unit square: to its corners.
const Radius = math.Sqrt2 / 2

// Mix is the colour at a place t of stops in ascending order, of which there is one at least.
func Mix(stops []Stop, t float64) Colour {
	if t <= stops[0].At {
		return stops[0].Colour
	}
	for i := 1; i < len(stops); i++ {
		if t <= stops[i].At {
			k := 1.0
			if d := stops[i].At - stops[i-1].At; d > 0 {
				k = (t - stops[i-1].At) / d
			}
			mix := func(a, b uint8) uint8 { return uint8(math.Round(float64(a) + (float64(b)-float64(a))*k)) }
			a, b := stops[i-1].Colour, stops[i].Colour
			return Colour{R: mix(a.R, b.R), G: mix(a.G, b.G), B: mix(a.B, b.B)}
		}
	}
	return stops[len(stops)-1].Colour
}

// MarshalJSON writes the form of the job file.
func (g Gradient) MarshalJSON() ([]byte, error) {
	type stop struct {
		At     float64 `json:"at"`
		Colour Colour  `json:"colour"`
	}
	out := struct {
		Kind  string  `json:"kind"`
		Angle float64 `json:"angle,omitempty"`
		Stops []stop  `json:"stops"`
	}{Kind: g.Kind, Angle: g.Angle}
	for _, s := range g.Stops[:g.N] {
		out.Stops = append(out.Stops, stop(s))
	}
	return json.Marshal(out)
}
