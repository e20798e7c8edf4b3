package place

import (
	"math"
	"regexp"
	"strings"
	"unicode"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/schema"
	"sodrik/internal/core/typeface"
)

// Artwork is the thing that a code lies on, as it is designed: a page of a PDF, an SVG, a picture, or a plain sheet. The zero
// value is none.
type Artwork struct {
	// "asset:sha256-…" or "data:…", with "#page=2" for another page of a PDF (RFC 8118); "" is a plain sheet
	Source string
	Width  measure.Length  // of the thing; 0 is as wide as its file says
	Height measure.Length  // of a plain sheet; what has a file follows its proportions
	Colour *ink.Colour     // of a plain sheet; nil is white
	X, Y   *measure.Length // left and top edge of the code with its quiet zone; nil is in the middle
	Panel  *ink.Colour     // laid under the code, so that what is drawn there is knocked out
}

// Bounds of the words beside a code, in characters.
const (
	MaxHeadline = 60
	MaxHelp     = 120
	MaxAddress  = 60
)

// Sides that the words stand on.
var (
	sides = schema.Words("right", "to its right", "left", "to its left", "below", "below", "above", "above")
	Sides = schema.Values(sides)
)

// Words are what stands beside a code and says why to scan it. The zero value is none.
type Words struct {
	Headline string
	Help     string // a line of what happens then
	Address  string // for those who cannot scan
	Side     string // one of Sides
	Size     float64
	Font     string // key of a typeface
	Ink      *ink.Colour
}

// None says that there is no artwork.
func (a Artwork) None() bool { return a == Artwork{} }

// None says that there are no words.
func (w Words) None() bool { return w.Headline == "" && w.Help == "" && w.Address == "" }

var artworkSource = regexp.MustCompile(`^(asset:sha256-[0-9a-f]{64}|data:[^#]*)(#page=[1-9][0-9]{0,3})?$`)

// surface declares a length of the thing that a code lies on.
func surface(key, label, about string, at func(*Artwork) *measure.Length) schema.Field {
	f := schema.Field{Key: key, Type: schema.Length, Least: MinSurface, Most: MaxSurface, Called: "size of the artwork",
		Label: label, About: about}
	f.Read = func(o schema.Reader, part any) {
		if !o.Has(key) {
			return
		}
		mm := o.Number(key, 0)
		if o.Sound(key) && (mm < MinSurface || mm > MaxSurface) {
			o.Problem(key, "artwork.size",
				"is %s mm; it lies between %d mm and %s m (of the thing that the code lies on, trimmed)", measure.Number(mm, 3),
				MinSurface, measure.Count(MaxSurface/1000))
			mm = 0
		}
		*at(part.(*Artwork)) = measure.Length(mm)
	}
	f.Write = func(part any) any {
		if l := *at(part.(*Artwork)); l > 0 {
			return schema.Millimetres(l)
		}
		return nil
	}
	return f
}

// edge declares where the code begins on the thing.
func edge(key, label, about string, at func(*Artwork) **measure.Length) schema.Field {
	f := schema.Field{Key: key, Type: schema.Length, Least: -MaxSurface, Most: MaxSurface, Called: "place on the artwork",
		Label: label, About: about}
	f.Read = func(o schema.Reader, part any) {
		if !o.Has(key) {
			return
		}
		mm := o.Number(key, 0)
		if o.Sound(key) && math.Abs(mm) > MaxSurface {
			o.Problem(key, "artwork.place", "is %s mm; it lies within %s m", measure.Number(mm, 3),
				measure.Count(MaxSurface/1000))
		}
		l := measure.Length(mm)
		*at(part.(*Artwork)) = &l
	}
	f.Write = func(part any) any {
		if l := *at(part.(*Artwork)); l != nil {
			return schema.Millimetres(*l)
		}
		return nil
	}
	return f
}

var artworkFields = schema.Part{
	Fields: []schema.Field{
		{Key: "source", Control: "source", Type: schema.Line, At: schema.In(func(a *Artwork) any { return &a.Source }),
			Pattern: "^$|" + artworkSource.String(), Called: "artwork", Label: "Artwork",
			About: "#page=2 is another page of a PDF."},
		surface("width_mm", "Width", "As its file says, if not given.", func(a *Artwork) *measure.Length { return &a.Width }),
		surface("height_mm", "Height", "Of a plain sheet.", func(a *Artwork) *measure.Length { return &a.Height }),
		{Key: "colour", Type: schema.Colour, At: schema.In(func(a *Artwork) any { return &a.Colour }), Example: "#f6f0e2",
			Called: "what lies under it", Label: "Colour", About: "Of a plain sheet."},
		edge("x_mm", "From the left", "Left edge of the code with its quiet zone; in the middle if not given.",
			func(a *Artwork) **measure.Length { return &a.X }),
		edge("y_mm", "From the top", "Its top edge.", func(a *Artwork) **measure.Length { return &a.Y }),
		{Key: "panel", Type: schema.Colour, At: schema.In(func(a *Artwork) any { return &a.Panel }), Example: "#ffffff",
			Called: "what lies under it", Label: "Panel", Hint: "What is drawn under the code is knocked out.",
			About: "Laid under the code; what is drawn there is knocked out."},
	},
	New:   func() any { return &Artwork{} },
	Name:  "artwork",
	About: "The thing that the code lies on: a file, or a plain sheet with its size.",
	Rules: `"if": {"required": ["source"], "properties": {"source": {"minLength": 1}}},
		"then": {"not": {"anyOf": [{"required": ["height_mm"]}, {"required": ["colour"]}]}}, "else": {"required": ["width_mm", "height_mm"]}`,
}

func (a Artwork) check(o *fields.Object) {
	if a.Source != "" && !artworkSource.MatchString(a.Source) && o.Sound("source") {
		o.Problem("source", "artwork.source",
			"%.40q names no artwork; write asset: and the digest of an upload, with #page=2 for another page", a.Source)
	}
	switch {
	case a.Source == "" && o.Sound("source") && (a.Width == 0 && !o.Has("width_mm") || a.Height == 0 && !o.Has("height_mm")):
		o.Problem("width_mm", "artwork.size", "is missing, or height_mm is; a plain sheet has both, such as 148 and 210")
	case a.Source != "" && a.Height != 0:
		o.Problem("height_mm", "artwork.size", "is only for a plain sheet; what has a file follows its proportions")
	}
	if a.Colour != nil && a.Source != "" {
		o.Problem("colour", "artwork.colour", "is only for a plain sheet; what has a file brings its own")
	}
}

func wordsLine(key, called, label, example string, most float64, at func(*Words) any) schema.Field {
	return schema.Field{Key: key, Type: schema.Line, At: schema.In(at), Most: most, Called: called, Label: label,
		Example: example}
}

var wordsFields = schema.Part{
	Fields: []schema.Field{
		wordsLine("headline", "headline", "Headline", "", MaxHeadline, func(w *Words) any { return &w.Headline }),
		wordsLine("help", "help line", "Help line", "Point your phone's camera at the code", MaxHelp, func(w *Words) any {
			return &w.Help
		}),
		wordsLine("address", "short address", "Address", "for those who cannot scan", MaxAddress, func(w *Words) any {
			return &w.Address
		}),
		{Key: "side", At: schema.In(func(w *Words) any { return &w.Side }), Choices: sides, Called: "words beside it",
			Label: "Side"},
		{Key: "size", Type: schema.Number, At: schema.In(func(w *Words) any { return &w.Size }), Least: 0.5, Most: 3, Step: 0.05,
			Code: "words.size", Usual: "1 is usual", Control: "range",
			Called: "size of the words", Label: "Size"},
		look.FontField(func(w *Words) *string { return &w.Font }),
		{Key: "ink", Type: schema.Colour, At: schema.In(func(w *Words) any { return &w.Ink }), Example: "#12352b",
			Called: "ink of the words", Label: "Word ink", About: "That of the modules if not given."},
	},
	New:   func() any { return &Words{Side: Sides[0], Size: 1, Font: typeface.Faces[0].Key} },
	Name:  "words",
	About: "What stands beside the code and says why to scan it.",
}

func (w Words) check(o *fields.Object) {
	for key, line := range map[string]struct {
		text, example string
	}{"headline": {w.Headline, "See it grow"}, "help": {w.Help, "Point your phone's camera at the code"},
		"address": {w.Address, "marrowby.example/fair"}} {
		switch n, most := len([]rune(line.text)), int(wordsFields.Field(key).Most); {
		case n > most:
			o.Problem(key, "words.long", "has %d characters; up to %d can be read in passing, such as %s", n, most, line.example)
		case strings.ContainsFunc(line.text, unicode.IsControl):
			o.Problem(key, "words.long", "is more than a line")
		}
	}
}
