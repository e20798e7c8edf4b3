package sits

import (
	"cmp"
	"fmt"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/place"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/forms"
)

// wordFields are those of what stands beside it.
func (v *Sits) wordFields(b bound.Code, at string, p place.Placement) {
	kind := b.C.Rendition.Job.Content.Kind()
	headline := b.At(at + "words/headline")
	if list := content.Calls(kind); len(list) > 0 {
		headline.Sample = list[0]
	}
	help := b.At(at + "words/help")
	address := b.At(at + "words/address")
	v.WordFields, v.WordLine = []forms.Field{headline, help, address}, "none"
	v.PlaceShape += fmt.Sprint(" ", p.Words.None())
	if p.Words.None() {
		return
	}
	v.WordLine = "“" + cmp.Or(p.Words.Headline, p.Words.Help, p.Words.Address) + "”"
	side := b.Chosen(at+"words/side", p.Words.Side)
	size := b.Slide(at+"words/size", p.Words.Size)
	font := b.At(at + "words/font")
	font.Choices = b.Faces(b.C.Rendition.WordFace(&p))
	fill := b.At(at + "words/ink")
	fill.Swatches = append(b.Inks(), forms.Swatch{Value: "", Name: "That of the modules"})
	if fill.Hex = b.C.Rendition.Job.Look.Ink.String(); p.Words.Ink != nil {
		fill.Hex = p.Words.Ink.String()
	}
	v.WordFields = append(v.WordFields, side, size, font, fill)
}

// aroundFields are those of what is around it, rarely touched.
func (v *Sits) aroundFields(b bound.Code, at string, p place.Placement) {
	m := b.C.Rendition
	free := b.At(at + "clear_mm")
	radius := b.At(at + "radius_mm")
	v.AroundFields = append(v.AroundFields, free, radius)
	if s, _ := place.SubstrateOf(p.Substrate); s.Screen {
		pixels := b.At(at + "pixels")
		v.AroundFields = append(v.AroundFields, pixels)
	}
	v.AroundFields = append(v.AroundFields, b.At(at+"behind_glass"), b.At(at+"moving"))
	if m.Job.Look.Paper.None {
		ground := b.At(at + "background")
		ground.Swatches, ground.Hex = b.Grounds(), "#ffffff"
		if p.Background != nil {
			ground.Hex = p.Background.String()
		}
		v.AroundFields = append(v.AroundFields, ground)
	}
	var said []string
	if p.Radius > 0 {
		said = append(said, "around "+p.Radius.String())
	}
	if p.Glass {
		said = append(said, "behind glass")
	}
	if p.Moving {
		said = append(said, "moving")
	}
	if p.Clear != nil {
		said = append(said, p.Clear.String()+" free")
	}
	if v.AroundLine = strings.Join(said, ", "); v.AroundLine == "" {
		v.AroundLine = "nothing in the way"
	}
}
