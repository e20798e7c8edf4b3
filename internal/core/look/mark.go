package look

import (
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
)

// Mark is a logo, a symbol or a picture laid into the code. The zero value is none.
type Mark struct {
	Source  string  // "icon:sprout", "asset:sha256-…" or "data:…"
	Width   float64 // share of the symbol's side without quiet zone
	X, Y    float64 // of its middle, shares of the symbol's side
	Clear   string  // one of Clears: which modules make room
	Pad     float64 // modules around it that make room too
	Crop    string  // one of Crops
	Ground  string  // one of Grounds: whether a picture keeps the one colour it stands on
	Ink     ink.Colour
	Inked   bool    // drawn in Ink instead of its own colours, pixels aside
	Reserve float64 // share of error correction that must stay unspent in the worst block
}

// Values of "clear", "crop" and "ground", the default first.
var (
	Clears  = []string{"box", "disc", "outline", "none"}
	Crops   = []string{"none", "round"}
	Grounds = []string{"keep", "cut"}
)

// Bounds of a mark's width. Beyond half the side no symbol has the error correction; below a twentieth nothing is made out.
const (
	LeastMark = 0.05
	MostMark  = 0.5
)

// DefaultMark is a mark with everything but its source.
var DefaultMark = Mark{Width: 0.22, X: 0.5, Y: 0.5, Clear: "box", Pad: 1, Crop: "none", Ground: "keep", Reserve: 0.35}

// None says that there is no mark.
func (m Mark) None() bool { return m.Source == "" }

func readMark(o *fields.Object) Mark {
	m := DefaultMark
	m.Source = strings.TrimSpace(o.String("source"))
	checkSource(o, m.Source)
	m.Width = share(o, "width", m.Width, LeastMark, MostMark)
	m.X, m.Y = share(o, "x", m.X, 0, 1), share(o, "y", m.Y, 0, 1)
	m.Clear, m.Crop, m.Ground = o.OneOf("clear", Clears...), o.OneOf("crop", Crops...), o.OneOf("ground", Grounds...)
	m.Pad = share(o, "pad", m.Pad, 0, 4)
	m.Ink, m.Inked = readInk(o, ink.Black, false)
	m.Reserve = share(o, "reserve", m.Reserve, 0, 0.9)
	o.Close()
	return m
}

func (m Mark) json() map[string]any {
	out, d := map[string]any{"source": m.Source}, DefaultMark
	for _, f := range []struct {
		key      string
		is, like float64
	}{{"width", m.Width, d.Width}, {"x", m.X, d.X}, {"y", m.Y, d.Y}, {"pad", m.Pad, d.Pad}, {"reserve", m.Reserve, d.Reserve}} {
		if f.is != f.like {
			out[f.key] = f.is
		}
	}
	for _, f := range []struct{ key, is, like string }{{"clear", m.Clear, d.Clear}, {"crop", m.Crop, d.Crop}, {"ground", m.Ground, d.Ground}} {
		if f.is != f.like {
			out[f.key] = f.is
		}
	}
	if m.Inked {
		out["ink"] = m.Ink
	}
	return out
}

// MarkName is what a source is called: an icon by its name.
func MarkName(source string) string {
	name, isIcon := strings.CutPrefix(source, "icon:")
	switch {
	case source == "":
		return "none"
	case isIcon:
		return strings.ReplaceAll(name, "-", " ")
	case strings.HasPrefix(source, "data:"):
		return "a picture in the job"
	}
	return "an upload"
}
