package sits

import (
	"fmt"
	"html/template"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/shelf"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/forms"
)

// artFields are those of what it lies on.
func (v *Sits) artFields(b bound.Code, at string, p place.Placement) {
	m := b.C.Rendition
	a := p.Artwork
	source := b.At(at + "artwork/source")
	w, h, known := m.Surface(&p)
	v.ArtLine = "not said"
	if known {
		v.ArtLine = fmt.Sprintf("%s × %s mm", measure.Number(w, 1), measure.Number(h, 1))
	}
	sheet := m.Sheet(&p)
	if a.Source != "" {
		source.Choices = []forms.Choice{{Value: a.Source, Words: "artwork"}}
	}
	if v.ArtFile = sheet != nil; v.ArtFile {
		words := "picture or drawing"
		if sheet.PDF != nil {
			words = fmt.Sprintf("page %d of %d", sheet.Page, sheet.Pages)
			for n := 1; n <= sheet.Pages && sheet.Pages > 1; n++ {
				v.Pages = append(
					v.Pages,
					forms.Choice{Value: fmt.Sprint(n), Words: fmt.Sprintf("page %d", n), On: n == sheet.Page},
				)
			}
		}
		source.Choices[0].Words = words
		source.Choices[0].Picture = template.HTML(fmt.Sprintf(`<img src="%s" alt="">`,
			template.HTMLEscapeString(drawn.ArtworkAt(b.C, b.Place, &p))))
		v.ArtLine += ", " + words
	}
	v.ArtFields = []forms.Field{source}
	wide := b.At(at + "artwork/width_mm")
	switch {
	case sheet != nil:
		wide.Sample = measure.Number(sheet.Width, 1) + " mm"
		if sheet.Said {
			wide.Sample += ", as its file says"
		} else {
			wide.Hint = "Its file does not say how large it is; this follows from its dots."
		}
		v.ArtFields = append(v.ArtFields, wide)
	default:
		high := b.At(at + "artwork/height_mm")
		if known {
			wide.Sample, high.Sample = measure.Number(w, 1)+" mm", measure.Number(h, 1)+" mm"
		} else {
			wide.Sample, high.Sample = "148 mm", "210 mm"
		}
		v.ArtFields = append(v.ArtFields, wide, high)
		if !a.None() {
			ground := b.At(at + "artwork/colour")
			ground.Swatches, ground.Hex = b.Grounds(), "#ffffff"
			if a.Colour != nil {
				ground.Hex = a.Colour.String()
			}
			v.ArtFields = append(v.ArtFields, ground)
		}
	}
	if known {
		c, _ := m.Compose(&p)
		left, top := b.At(at+"artwork/x_mm"), b.At(at+"artwork/y_mm")
		left.Sample, top.Sample = measure.Number(
			c.Code.X,
			1,
		)+" mm, in the middle", measure.Number(
			c.Code.Y,
			1,
		)+" mm, in the middle"
		top.Hint = "Or drag the code in the view in place; Alt leaves edges and empty parts alone."
		v.ArtFields = append(v.ArtFields, left, top)
		if !a.None() {
			panel := b.At(at + "artwork/panel")
			panel.Swatches, panel.Hex = append(b.Grounds(), forms.Swatch{Value: "", Name: "None"}), "#ffffff"
			if a.Panel != nil {
				panel.Hex = a.Panel.String()
			}
			v.ArtFields = append(v.ArtFields, panel)
		}
	}
	v.ArtShape = fmt.Sprint(at, a.None(), sheet != nil, a.Source != "", known, len(v.Pages))
}

// ArtworksOf are a workspace's artwork to choose from.
func ArtworksOf(list []shelf.Asset) (out []forms.Choice) {
	for _, a := range list {
		out = append(out, forms.Choice{Value: a.Source, Words: a.Name})
	}
	return out
}
