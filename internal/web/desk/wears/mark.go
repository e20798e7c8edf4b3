package wears

import (
	"html/template"
	"strings"
	"sync"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/look"
	"sodrik/internal/core/style"
	"sodrik/internal/shelf"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/forms"
)

// thumbOf draws an upload small, where it is a drawing.
func thumbOf(a shelf.Asset) template.HTML {
	art, _ := a.Is.(*artwork.Art)
	return drawn.Thumb(art)
}

// iconsAtHand are shown before anything is looked for.
var iconsAtHand = []string{
	"sprout",
	"leaf",
	"flower-2",
	"tree-deciduous",
	"bean",
	"sun",
	"wifi",
	"phone",
	"mail",
	"calendar-days",
	"map-pin",
	"shopping-basket",
	"gift",
	"store",
	"ticket",
	"euro",
}

// Drawings are icons to choose from, those at hand where nothing is looked for.
func Drawings(query string) []forms.Choice {
	if strings.TrimSpace(query) == "" {
		return atHand()
	}
	return drawingsOf(artwork.Icons(query, 24))
}

// atHand are drawn once.
var atHand = sync.OnceValue(func() []forms.Choice { return drawingsOf(iconsAtHand) })

func drawingsOf(names []string) (out []forms.Choice) {
	for _, name := range names {
		if a, ok := artwork.Icon(name); ok {
			out = append(
				out,
				forms.Choice{Value: "icon:" + name, Words: strings.ReplaceAll(name, "-", " "), Picture: drawn.Thumb(a)},
			)
		}
	}
	return out
}

// UploadsOf are a workspace's uploads to choose from.
func UploadsOf(list []shelf.Asset) (out []forms.Choice) {
	for _, a := range list {
		out = append(out, forms.Choice{Value: a.Source, Words: a.Name, Picture: thumbOf(a)})
	}
	return out
}

// HouseMarksOf are the marks of the house to choose from.
func HouseMarksOf(s *style.Style, find compose.Assets) (out []forms.Choice) {
	if s == nil {
		return nil
	}
	for _, m := range s.Marks {
		if a, err := find.Art(m.Source); err == nil {
			out = append(out, forms.Choice{Value: m.Source, Words: m.Name, Picture: drawn.Thumb(a)})
		}
	}
	return out
}

// MarksLocked says that only marks of the house are offered.
func (v Wears) MarksLocked() bool { return v.locked && len(v.HouseMarks) > 0 }

// markFields are those of the mark.
func (v *Wears) markFields(b bound.Code) {
	m := b.C.Rendition
	source := b.At("/look/mark/source")
	mark := m.Job.Look.Mark
	if m.Mark != nil {
		source.Choices = []forms.Choice{{Value: mark.Source, Words: look.MarkName(mark.Source), Picture: drawn.Thumb(m.Mark.Art)}}
	}
	v.Mark = []forms.Field{source}
	v.MarkShape = "none"
	if m.Mark == nil && b.Text("/look/mark/source") == "" {
		return
	}
	width := b.Slide("/look/mark/width", mark.Width)
	width.Hint = m.Kept
	clears := b.Chosen("/look/mark/clear", mark.Clear)
	pad := b.Slide("/look/mark/pad", mark.Pad)
	crop, reserve := b.Chosen("/look/mark/crop", mark.Crop), b.Slide("/look/mark/reserve", mark.Reserve)
	v.Mark = append(v.Mark, width, b.At(look.MarkPlace), clears, pad)
	v.MarkMore = []forms.Field{crop, reserve}
	v.MarkShape = "asked"
	if m.Mark == nil {
		return
	}
	v.MarkShape = "drawn"
	if art := m.Mark.Art; !art.Pixels() {
		f := b.At("/look/mark/ink")
		f.Swatches = append(b.Inks(), forms.Swatch{Value: "", Name: "Its own"})
		if f.Hex = mark.Ink.String(); !mark.Inked {
			f.Hex = m.Job.Look.Ink.String()
		}
		v.Mark = append(v.Mark, f)
		v.MarkShape = "outlines"
	} else if _, stands := art.Ground(); stands || mark.Ground == "cut" {
		f := b.Chosen("/look/mark/ground", mark.Ground)
		v.Mark = append(v.Mark, f)
		v.MarkShape = "ground"
	}
}
