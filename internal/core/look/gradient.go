package look

import (
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// inkKinds are the ways of an ink: one colour, or a gradient of a kind.
var inkKinds = schema.Words("plain", "one colour", "linear", "from side to side", "radial", "from the middle out")

var (
	stopFields = schema.Part{
		Fields: []schema.Field{
			{Key: "at", Type: schema.Number, Keep: true, Most: 1, Step: 0.01, Code: "look.share", Control: "range",
				Called: "place of the ink", Label: "Place"},
			{Key: "colour", Type: schema.Colour, Keep: true, Required: true, Called: "ink", Label: "Colour"},
		},
		New: func() any { return &ink.Stop{} },
	}
	gradientFields = schema.Part{
		Fields: []schema.Field{
			{Key: "kind", Choices: inkKinds, Put: putInkKind, Called: "ink", Label: "Ink",
				Schema: `{"enum": ["linear", "radial"], "default": "linear"}`},
			{Key: "angle", Type: schema.Number, Least: -360, Most: 360, Step: 15, Code: "look.share", Control: "range",
				Called: "angle of the ink", Label: "Angle",
				Hint:  "Degrees: 0 from left to right, 90 downwards.",
				About: "Of a linear one, in degrees: 0 from left to right, 90 from top to bottom."},
			{Key: "stops", Type: schema.List, Part: &stopFields, Required: true, Least: 2, Most: ink.MaxStops},
		},
		New:  func() any { return &ink.Gradient{} },
		Name: "gradient",
	}
)

// readShaded reads an ink that is a colour or a gradient; has is false where neither is there.
func readShaded(o *fields.Object, key string, was ink.Colour) (c ink.Colour, g ink.Gradient, has bool) {
	if v, ok := o.Any(key); ok && isGradient(v) {
		if g = readGradient(o.Object(key)); g.N > 0 {
			return g.Stops[0].Colour, g, true
		}
		return was, g, false
	}
	if c, ok := ink.Read(o, key, exampleInk); ok {
		return c, g, true
	}
	return was, g, false
}

// putInkKind turns a plain ink into a gradient that begins with it, one sort of gradient into the other, and a gradient into
// the plain ink of its first stop.
func putInkKind(draft any, path, kind string) (patch.Patch, *problem.Problem) {
	at := path[:len(path)-len("/kind")]
	var first any = ink.Black.String()
	if old, ok := patch.Get(draft, at); ok {
		first = old
	}
	if stop, ok := patch.Get(draft, at+"/stops/0/colour"); ok {
		first = stop
	}
	if kind != "linear" && kind != "radial" {
		return patch.Set(at, first), nil
	}
	if _, is := patch.Get(draft, at+"/stops"); is {
		return patch.Set(path, kind), nil
	}
	second := "#1f3a5a"
	if first == second {
		second = "#12352b"
	}
	return patch.Set(at, map[string]any{"kind": kind, "angle": 45.0,
		"stops": []any{map[string]any{"at": 0.0, "colour": first}, map[string]any{"at": 1.0, "colour": second}}}), nil
}

// share reads a number between least and most.
func share(o *fields.Object, key string, def, least, most float64) float64 {
	f := schema.Field{Key: key, Type: schema.Number, Least: least, Most: most, Code: "look.share"}
	return f.ReadNumber(o, def)
}

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
	case len(list) > ink.MaxStops:
		o.Problem("stops", "look.stops", "has %d; at most %d are taken", len(list), ink.MaxStops)
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
