package bound

import (
	"strings"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/typeface"
	"sodrik/internal/web/forms"
)

// Faces are the typefaces to choose from, with what those that come along are like.
func (b Code) Faces(current *typeface.Face) (out []forms.Choice) {
	for _, f := range b.C.House.Offered(current) {
		words := f.Name
		if face, ok := typeface.Of(f.Key); ok {
			words += ": " + face.Tone
		}
		out = append(out, forms.Choice{Value: f.Key, Words: words, On: f.Key == current.Key})
	}
	return out
}

// Grounds are colours of what a code lies on: papers, and the inks of the house.
func (b Code) Grounds() []forms.Swatch {
	papers := b.Papers()
	return append(papers[:len(papers)-1:len(papers)-1], b.House(func(c ink.Colour) bool { return c.Luminance() < lightest })...)
}

// swatches shows colours at hand.
func swatches(list []ink.Named) (out []forms.Swatch) {
	for _, n := range list {
		out = append(out, forms.Swatch{Value: n.Colour.String(), Name: n.Name, Fill: n.Colour.String()})
	}
	return out
}

// House gives the house's colours as swatches, those that wanted says.
func (b Code) House(wanted func(ink.Colour) bool) (out []forms.Swatch) {
	if b.C.House == nil {
		return nil
	}
	for _, c := range b.C.House.Colours {
		if wanted(c.Value) {
			out = append(out, forms.Swatch{Value: ink.House + c.Key, Name: c.Name, Fill: c.Value.String()})
		}
	}
	return out
}

// lightest is the luminance from which a colour of the house is offered as paper, and not as ink.
const lightest = 0.6

// Locked says that only parts of the house are offered.
func (b Code) Locked() bool { return b.C.House != nil && b.C.House.Locked }

// Inks are those on offer: the house's and black, or where it has none, those at hand. A locked house offers its own alone.
func (b Code) Inks() []forms.Swatch {
	own := b.House(func(c ink.Colour) bool { return c.Luminance() < lightest })
	switch {
	case len(own) == 0:
		return append(b.sampled(), swatches(ink.Inks)...)
	case b.Locked():
		return own
	}
	return append(append(b.sampled(), own...), swatches(ink.Inks[:1])...)
}

// sampled are the inks of the artwork that the code lies on.
func (b Code) sampled() (out []forms.Swatch) {
	sheet := b.C.Rendition.Sheet(b.C.Rendition.Place(b.Place))
	if sheet == nil {
		return nil
	}
	for _, c := range sheet.Inks() {
		if c.Luminance() < lightest {
			out = append(out, forms.Swatch{Value: c.String(), Name: "From the artwork, " + c.String(), Fill: c.String()})
		}
	}
	return out[:min(len(out), 3)]
}

// Papers are those on offer; white paper and no paper are there in any house.
func (b Code) Papers() []forms.Swatch {
	none := forms.Swatch{Value: "none", Name: "No paper"}
	own := b.House(func(c ink.Colour) bool { return c.Luminance() >= lightest })
	if b.C.House == nil || len(b.C.House.Colours) == 0 {
		return append(swatches(ink.Papers), none)
	}
	return append(append(swatches(ink.Papers[:1]), own...), none)
}

// ColourName is what a colour is called: by the house, by us, or by its value.
func (b Code) ColourName(c ink.Colour) string {
	if own, ok := b.C.House.Colour(c.Style); ok {
		return strings.ToLower(own.Name)
	}
	for _, list := range [2][]ink.Named{ink.Inks, ink.Papers} {
		for _, n := range list {
			if n.Colour.Same(c) {
				return strings.ToLower(n.Name)
			}
		}
	}
	return c.String()
}

// Hex is what a colour chooser shows of a colour as it is typed, or of another where it is none.
func (b Code) Hex(text string, other ink.Colour) string {
	if key, house := strings.CutPrefix(b.C.House.Typed(text), ink.House); house {
		if c, ok := b.C.House.Colour(key); ok {
			return c.Value.String()
		}
	}
	if c, ok := ink.Typed(text); ok {
		return c.String()
	}
	return other.String()
}
