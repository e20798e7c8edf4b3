package look

import (
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
)

// isGradient tells a gradient from a colour that is an object too.
func isGradient(v any) bool {
	m, ok := v.(map[string]any)
	if !ok {
		return false
	}
	for _, key := range []string{"cmyk", "spot", "style", "screen"} {
		if m[key] != nil {
			return false
		}
	}
	return true
}

// readGradient reads an ink that changes across the symbol.
func readGradient(o *fields.Object) ink.Gradient {
	g := ink.Gradient{Kind: o.OneOf("kind", "linear", "radial"), Angle: share(o, "angle", 0, -360, 360)}
	list := o.Objects("stops")
	switch {
	case len(list) < 2 && o.Sound("stops"):
		o.Problem("stops", "look.stops", "has %d; a gradient has two colours or more, each with its place", len(list))
	case len(list) > ink.MostStops:
		o.Problem("stops", "look.stops", "has %d; at most %d are taken", len(list), ink.MostStops)
		list = nil
	}
	before := 0.0
	for i, s := range list {
		at := share(s, "at", float64(i)/float64(max(1, len(list)-1)), 0, 1)
		if at < before {
			s.Problem("at", "look.stops", "is %.3g, before the stop in front of it", at)
		}
		before = at
		c, ok := ink.Read(s, "colour", "#12352b")
		if !ok && s.Sound("colour") {
			s.Problem("colour", "look.colour", "is missing; write six hexadecimal digits such as #12352b")
		}
		s.Close()
		g.Stops[i], g.N = ink.Stop{At: at, Colour: c}, i+1
	}
	o.Close()
	if g.N < 2 { // what could not be read is a plain ink
		return ink.Gradient{}
	}
	return g
}
