package ink

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/fields"
)

// CMYK is a colour as four inks of a press, in percent: cyan, magenta, yellow, black.
type CMYK [4]float64

// OfCMYK is a colour that is given by its inks. What screens show of it is the plain complement, until a press condition says
// more.
func OfCMYK(v CMYK) Colour {
	channel := func(f float64) uint8 { return uint8(math.Round(255 * (1 - f/100) * (1 - v[3]/100))) }
	return Colour{R: channel(v[0]), G: channel(v[1]), B: channel(v[2]), Inks: v, Separated: true}
}

// MaxSpot bounds the name of a spot colour.
const MaxSpot = 60

// Read reads a colour of a job: "#rrggbb", a name of style sheets, or an object of "cmyk": [c, m, y, k] in percent, "spot", the
// name of an ink with these as its alternate, "screen", what screens show where that is not the plain complement, and "style",
// its key in a house style. ok is false where it is absent or wrong; then a problem is noted that gives an example.
func Read(o *fields.Object, key, example string) (c Colour, ok bool) {
	v, there := o.Any(key)
	if !there {
		return c, false
	}
	if _, is := v.(map[string]any); !is {
		s := o.String(key)
		if s == "" {
			return c, false
		}
		if c, ok = Parse(s); !ok {
			c, ok = Name(s)
		}
		if !ok {
			o.Problem(key, "look.colour", "%q is not a colour; write six hexadecimal digits such as %s", s, example)
		}
		return c, ok
	}
	return readParts(o, key)
}

// readParts reads a colour that is an object.
func readParts(o *fields.Object, key string) (c Colour, ok bool) {
	in := o.Object(key)
	spot, style, screen := strings.TrimSpace(in.String("spot")), in.String("style"), in.String("screen")
	shown, known := Parse(screen)
	if screen != "" && !known {
		in.Problem("screen", "look.colour", "%q is not a colour; write six hexadecimal digits such as #12352b", screen)
	}
	if len(spot) > MaxSpot || strings.ContainsFunc(spot, func(r rune) bool { return r < ' ' }) {
		in.Problem("spot", "look.spot", "is longer than a line of %d bytes; write the name of the ink, such as Marrowby Pine",
			MaxSpot)
	}
	if !in.Has("cmyk") {
		switch {
		case spot != "":
			in.Problem("cmyk", "look.cmyk",
				"is missing; four shares in percent, cyan, magenta, yellow and black, stand in where %s is not printed", spot)
		case screen == "" && style != "":
			o.Problem(key, "look.style", "is called %q, and no house style here has such a colour; choose another", style)
		case screen == "":
			in.Problem("cmyk", "look.cmyk", "is missing; it has four entries, cyan, magenta, yellow and black, in percent")
		}
		in.Close()
		return Colour{R: shown.R, G: shown.G, B: shown.B, Style: style}, known && spot == ""
	}
	list := in.List("cmyk")
	if in.Sound("cmyk") && len(list) != 4 {
		in.Problem("cmyk", "look.cmyk", "has %d entries; it has four: cyan, magenta, yellow and black, in percent", len(list))
	}
	var inks CMYK
	for i, v := range list {
		f, number := fields.Float(v)
		if i < 4 && (!number || f < 0 || f > 100) {
			in.ProblemBelow("cmyk", string(rune('0'+i)), "look.cmyk", "lies between 0 and 100 percent")
		} else if i < 4 {
			inks[i] = f
		}
	}
	in.Close()
	c = OfCMYK(inks)
	if known {
		c.R, c.G, c.B = shown.R, shown.G, shown.B
	}
	c.Spot, c.Style = spot, style
	return c, in.Sound("cmyk") && len(list) == 4 && (screen == "" || known)
}

// String gives "#rrggbb", what screens show.
func (c Colour) String() string { return fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B) }

// MarshalJSON writes the form of the job file.
func (c Colour) MarshalJSON() ([]byte, error) {
	if !c.Separated && c.Style == "" {
		return json.Marshal(c.String())
	}
	out := map[string]any{}
	if c.Separated {
		out["cmyk"] = c.Inks
	}
	if !c.Separated || !c.Same(OfCMYK(c.Inks)) {
		out["screen"] = c.String()
	}
	if c.Spot != "" {
		out["spot"] = c.Spot
	}
	if c.Style != "" {
		out["style"] = c.Style
	}
	return json.Marshal(out)
}

// Words is the colour as a person types it: "#12352b" or "cmyk(80, 20, 60, 40)".
func (c Colour) Words() string {
	if c.Style != "" {
		return House + c.Style
	}
	if !c.Separated {
		return c.String()
	}
	return fmt.Sprintf("cmyk(%.4g, %.4g, %.4g, %.4g)", c.Inks[0], c.Inks[1], c.Inks[2], c.Inks[3])
}

// House stands before the key of a colour of the house style where it is typed: "style:pine".
const House = "style:"

// Named is a colour that comes with Sodrik.
type Named struct {
	Name   string
	Colour Colour
}

// Inks and Papers are at hand in every workspace.
var (
	Inks = []Named{{"Black", Black}, {"Pine", Colour{R: 0x12, G: 0x35, B: 0x2b}}, {"Bark", Colour{R: 0x5a, G: 0x2d, B: 0x0c}},
		{"Beetroot", Colour{R: 0x5b, G: 0x1f, B: 0x33}}, {"Cornflower", Colour{R: 0x1f, G: 0x3a, B: 0x5a}},
		{"Olive", Colour{R: 0x3d, G: 0x3b, B: 0x1f}}}

	Papers = []Named{{"White", White}, {"Cream", Colour{R: 0xf6, G: 0xf0, B: 0xe2}},
		{"Pale green", Colour{R: 0xe9, G: 0xef, B: 0xdf}}}
)

// Typed reads a colour as people write it: hexadecimal, rgb(), hsl(), cmyk() in percent, or the name of a
// colour at hand or of style sheets.
func Typed(s string) (Colour, bool) {
	s = strings.TrimSpace(s)
	for _, list := range [2][]Named{Inks, Papers} {
		for _, n := range list {
			if strings.EqualFold(n.Name, s) {
				return n.Colour, true
			}
		}
	}
	if c, ok := Parse(s); ok {
		return c, true
	}
	if inner, ok := strings.CutPrefix(strings.ToLower(s), "cmyk"); ok {
		inner = strings.Trim(inner, " ():")
		var v CMYK
		part := strings.FieldsFunc(inner, func(r rune) bool { return strings.ContainsRune(" ,;/%", r) })
		if len(part) != 4 {
			return Colour{}, false
		}
		for i, p := range part {
			if _, err := fmt.Sscanf(p, "%g", &v[i]); err != nil || !(v[i] >= 0 && v[i] <= 100) {
				return Colour{}, false
			}
		}
		return OfCMYK(v), true
	}
	c, alpha, ok := CSS(s)
	return c, ok && alpha == 1
}

// Plates gives the shares of the inks, in percent, that print a colour: its own where it has them, else the plain complement
// with what is common to three taken over by black. A press condition may divide it otherwise.
func (c Colour) Plates() CMYK {
	if c.Separated {
		return c.Inks
	}
	most := float64(max(c.R, c.G, c.B))
	if most == 0 {
		return CMYK{0, 0, 0, 100}
	}
	share := func(v uint8) float64 { return (1 - float64(v)/most) * 100 }
	return CMYK{share(c.R), share(c.G), share(c.B), (1 - most/255) * 100}
}
