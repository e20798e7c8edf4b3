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
	"sodrik/internal/core/typeface"
)

// Artwork is the thing that a code lies on, as it is designed: a page of a PDF, an SVG, a picture, or a plain sheet. The zero value is none.
type Artwork struct {
	Source string          // "asset:sha256-…" or "data:…", with "#page=2" for another page of a PDF (RFC 8118); "" is a plain sheet
	Width  measure.Length  // of the thing; 0 is as wide as its file says
	Height measure.Length  // of a plain sheet; what has a file follows its proportions
	Colour *ink.Colour     // of a plain sheet; nil is white
	X, Y   *measure.Length // left and top edge of the code with its quiet zone; nil is in the middle
	Panel  *ink.Colour     // laid under the code, so that what is drawn there is knocked out
}

// Bounds of the words beside a code, in characters.
const (
	MostHeadline = 60
	MostHelp     = 120
	MostAddress  = 60
)

// Sides that the words stand on.
var Sides = []string{"right", "left", "below", "above"}

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

func readArtwork(o *fields.Object) Artwork {
	a := Artwork{Source: o.String("source")}
	if a.Source != "" && !artworkSource.MatchString(a.Source) && o.Sound("source") {
		o.Problem("source", "artwork.source", "%.40q names no artwork; write asset: and the digest of an upload, with #page=2 for another page", a.Source)
	}
	size := func(key, what string) measure.Length {
		if !o.Has(key) {
			return 0
		}
		mm := o.Number(key, 0)
		if o.Sound(key) && (mm < LeastSurface || mm > MostSurface) {
			o.Problem(key, "artwork.size", "is %s mm; it lies between %d mm and %s m (%s)", measure.Number(mm, 3), LeastSurface, measure.Count(MostSurface/1000), what)
			return 0
		}
		return measure.Length(mm)
	}
	a.Width = size("width_mm", "of the thing that the code lies on, trimmed")
	a.Height = size("height_mm", "of the thing that the code lies on, trimmed")
	switch {
	case a.Source == "" && o.Sound("source") && (a.Width == 0 && !o.Has("width_mm") || a.Height == 0 && !o.Has("height_mm")):
		o.Problem("width_mm", "artwork.size", "is missing, or height_mm is; a plain sheet has both, such as 148 and 210")
	case a.Source != "" && a.Height != 0:
		o.Problem("height_mm", "artwork.size", "is only for a plain sheet; what has a file follows its proportions")
	}
	if c, ok := ink.Read(o, "colour", "#f6f0e2"); ok {
		if a.Colour = &c; a.Source != "" {
			o.Problem("colour", "artwork.colour", "is only for a plain sheet; what has a file brings its own")
		}
	}
	edge := func(key string) *measure.Length {
		if !o.Has(key) {
			return nil
		}
		mm := o.Number(key, 0)
		if o.Sound(key) && math.Abs(mm) > MostSurface {
			o.Problem(key, "artwork.place", "is %s mm; it lies within %s m", measure.Number(mm, 3), measure.Count(MostSurface/1000))
		}
		l := measure.Length(mm)
		return &l
	}
	a.X, a.Y = edge("x_mm"), edge("y_mm")
	if c, ok := ink.Read(o, "panel", "#ffffff"); ok {
		a.Panel = &c
	}
	o.Close()
	return a
}

func readWords(o *fields.Object) Words {
	w := Words{Side: o.OneOf("side", Sides...), Size: o.Number("size", 1), Font: look.ReadFont(o)}
	if o.Sound("size") && !(w.Size >= 0.5 && w.Size <= 3) {
		o.Problem("size", "words.size", "is %.3g; it lies between 0.5 and 3, and 1 is usual", w.Size)
	}
	line := func(key string, most int, example string) string {
		s := strings.TrimSpace(o.String(key))
		switch n := len([]rune(s)); {
		case n > most:
			o.Problem(key, "words.long", "has %d characters; up to %d can be read in passing, such as %s", n, most, example)
		case strings.ContainsFunc(s, unicode.IsControl):
			o.Problem(key, "words.long", "is more than a line")
		}
		return s
	}
	w.Headline = line("headline", MostHeadline, "See it grow")
	w.Help = line("help", MostHelp, "Point your phone's camera at the code")
	w.Address = line("address", MostAddress, "marrowby.example/fair")
	if c, ok := ink.Read(o, "ink", "#12352b"); ok {
		w.Ink = &c
	}
	o.Close()
	return w
}

func (a Artwork) json() any {
	if a.None() {
		return nil
	}
	out := map[string]any{}
	if a.Source != "" {
		out["source"] = a.Source
	}
	for key, v := range map[string]measure.Length{"width_mm": a.Width, "height_mm": a.Height} {
		if v > 0 {
			out[key] = round(v)
		}
	}
	for key, v := range map[string]*measure.Length{"x_mm": a.X, "y_mm": a.Y} {
		if v != nil {
			out[key] = round(*v)
		}
	}
	for key, v := range map[string]*ink.Colour{"colour": a.Colour, "panel": a.Panel} {
		if v != nil {
			out[key] = *v
		}
	}
	return out
}

func (w Words) json() any {
	if w.None() {
		return nil
	}
	out := map[string]any{}
	for key, v := range map[string]string{"headline": w.Headline, "help": w.Help, "address": w.Address} {
		if v != "" {
			out[key] = v
		}
	}
	if w.Font != typeface.Faces[0].Key {
		out["font"] = w.Font
	}
	if w.Side != Sides[0] {
		out["side"] = w.Side
	}
	if w.Size != 1 {
		out["size"] = w.Size
	}
	if w.Ink != nil {
		out["ink"] = *w.Ink
	}
	return out
}
