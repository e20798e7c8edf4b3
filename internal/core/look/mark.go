package look

import (
	"strings"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/schema"
)

// Mark is a logo, a symbol or a picture laid into the code. The zero value is none.
type Mark struct {
	Source  string  // "icon:sprout", "asset:sha256-…" or "data:…"
	Width   float64 // share of the symbol's side without quiet zone
	X, Y    float64 // of its middle, shares of the symbol's side
	Clear   string  // "box", "disc", "outline" or "none": which modules make room
	Pad     float64 // modules around it that make room too
	Crop    string  // "none" or "round"
	Ground  string  // "keep" or "cut": whether a picture keeps the one colour it stands on
	Ink     ink.Colour
	Inked   bool    // drawn in Ink instead of its own colours, pixels aside
	Reserve float64 // share of error correction that must stay unspent in the worst block
}

// Values of "clear", "crop" and "ground", the default first.
var (
	clears  = schema.Words("box", "box", "disc", "disc", "outline", "outline", "none", "none")
	crops   = schema.Words("none", "none", "round", "round")
	grounds = schema.Words("keep", "stays", "cut", "is cut out")
	Clears  = schema.Values(clears)
)

// Bounds of a mark's width. Beyond half the side no symbol has the error correction; below a twentieth nothing is made out.
const (
	MinMark = 0.05
	MaxMark = 0.5
)

// DefaultMark is a mark with everything but its source.
var DefaultMark = Mark{Width: 0.22, X: 0.5, Y: 0.5, Clear: "box", Pad: 1, Crop: "none", Ground: "keep", Reserve: 0.35}

// None says that there is no mark.
func (m Mark) None() bool { return m.Source == "" }

// MarkPlace is the path under which the middle of a mark is typed as one, in percent from the left and from the top.
const MarkPlace = "/look/mark/place"

var markFields = schema.Part{
	Fields: []schema.Field{
		sourceField("mark", "Mark", func(m *Mark) any { return &m.Source }),
		shareField("width", MinMark, MaxMark, 0.005, schema.Field{Called: "width of the mark", Label: "Width"},
			func(m *Mark) any { return &m.Width }),
		placeField("mark", MarkPlace, "In percent. Or drag it on the sheet."),
		shareField("x", 0, 1, 0, schema.Field{Fixed: true, Off: true, Called: "place of the mark"}, func(m *Mark) any {
			return &m.X
		}),
		shareField("y", 0, 1, 0, schema.Field{Fixed: true, Off: true, Called: "place of the mark"}, func(m *Mark) any {
			return &m.Y
		}),
		{Key: "clear", At: schema.In(func(m *Mark) any { return &m.Clear }), Choices: clears, Called: "mark",
			Label: "Clear space", About: "Which modules make room."},
		sliding("pad", 0, 4, 0.5, schema.Field{Called: "room around the mark", Label: "Margin", Unit: " mod"},
			schema.In(func(m *Mark) any { return &m.Pad })),
		{Key: "crop", At: schema.In(func(m *Mark) any { return &m.Crop }), Choices: crops, Called: "mark", Label: "Crop"},
		shareField("reserve", 0, 0.9, 0.01, schema.Field{Called: "reserve", Label: "Reserve", Hint: "Error correction to keep."},
			func(m *Mark) any { return &m.Reserve }),
		{Key: "ink", Type: schema.Colour, At: schema.In(func(m *Mark) any {
			return schema.OwnInk{Colour: &m.Ink, Has: &m.Inked}
		}), Example: exampleInk,
			Called: "ink of the mark", Label: "One ink"},
		{Key: "ground", At: schema.In(func(m *Mark) any { return &m.Ground }), Choices: grounds, Called: "mark",
			Label: "Background", Hint: "It stands on one colour."},
	},
	New:   func() any { m := DefaultMark; return &m },
	About: "A logo, a symbol or a picture laid into the code.",
}

// sourceField declares where a drawing comes from; without it the object is nothing.
func sourceField[T any](called, label string, at func(*T) any) schema.Field {
	return schema.Field{Key: "source", Type: schema.Line, At: schema.In(at), Required: true, Bears: true, Control: "source",
		Called: called, Label: label, Say: MarkName,
		Schema: `{"type": "string", "pattern": "^(icon|asset|data):."}`}
}

// shareField declares a share of something, typed in percent.
func shareField[T any](key string, least, most, step float64, f schema.Field, at func(*T) any) schema.Field {
	f = sliding(key, least, most, step, f, schema.In(at))
	f.Type, f.Unit = schema.Share, " %"
	return f
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
