package desk

import (
	"fmt"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/style"
	"sodrik/internal/web/forms"
)

// Group is media of a kind, to be put on.
type Group = forms.ChoiceGroup

// mediaOf are the media to choose from, by groups, those of the house last.
func mediaOf(house *style.Style) (out []Group) {
	for _, name := range place.Groups {
		g := Group{Name: name}
		for _, m := range house.AllMedia() {
			if m.Group == name {
				g.Choices = append(g.Choices, Choice{Value: m.Key, Words: m.Name})
			}
		}
		if len(g.Choices) > 0 {
			out = append(out, g)
		}
	}
	return out
}

func (v *View) sits(b builder, i int) {
	m := b.c.Rendition
	var lines []string
	for k, p := range m.Job.Placements {
		v.Places = append(v.Places, PlaceTab{k, p.Name, k == i})
		lines = append(lines, fmt.Sprintf("%s %s, from %s", p.Name, p.Width, p.Distance.Spoken()))
	}
	v.Sits = strings.Join(lines, " · ")
	if len(lines) == 0 {
		v.Sits = "Where will it hang?"
		return
	}
	p := m.Job.Placements[i]
	v.PlaceName = p.Name
	at := fmt.Sprintf("/placements/%d/", i)
	name := b.at(at + "name")
	medium := b.at(at + "medium")
	medium.Choices = []Choice{{Words: "another", On: medium.Value == ""}}
	known := medium.Value == ""
	for _, g := range v.Media {
		own := Group{Name: g.Name}
		for _, c := range g.Choices {
			c.On = c.Value == medium.Value
			known = known || c.On
			own.Choices = append(own.Choices, c)
		}
		medium.Grouped = append(medium.Grouped, own)
	}
	if !known { // one that the house has taken away since
		medium.Choices = append(medium.Choices, Choice{Value: medium.Value, Words: strings.TrimPrefix(medium.Value, place.OwnKey), On: true})
	}
	substrate := b.chosen(at+"substrate", p.Substrate)
	width := b.at(at + "width_mm")
	width.Hint = fmt.Sprintf("%s in · %s px · %s a module", measure.Number(float64(p.Width/measure.Inch), 2),
		measure.Count(m.Pixels(&p).Pixels), measure.Length(float64(p.Width)/float64(m.For(&p).Modules())))
	distance := b.at(at + "distance_mm")
	light := b.chosen(at+"light", p.Light)
	v.PlaceFields = []Field{name, medium, substrate, width, distance, light}
	if _, ok := m.Job.Content.(content.HumanReadable); ok {
		use := b.chosen(at+"use", p.Use)
		v.PlaceFields = append(v.PlaceFields, use, b.at(at+"readable"))
	}
	if _, ok := m.Job.Content.(content.Keyed); ok {
		keyword := b.at(at + "keyword")
		v.PlaceFields = append(v.PlaceFields, keyword)
	}
	for k, f := range v.PlaceFields {
		if f.ID == light.ID {
			v.PlaceRows[k-1].Beside, v.PlaceRows[k-1].Share = &v.PlaceFields[k], 45
			continue
		}
		v.PlaceRows = append(v.PlaceRows, forms.Row{Field: f})
	}
	v.PlaceShape = fmt.Sprint(i, p.Substrate == "screen", m.Job.Look.Paper.None)
	v.sizes(b, i, p)
	v.artFields(b, at, p)
	v.wordFields(b, at, p)
	v.aroundFields(b, at, p)
	v.Width = measure.Number(m.Scene(&p).Width, 2)
}

// sizes says what distance and width ask of one another, by the rule of thumb of the trade.
func (v *View) sizes(b builder, i int, p place.Placement) {
	act := func(key string, value measure.Length, format string, args ...any) {
		v.Sizes = append(v.Sizes, Act{Label: fmt.Sprintf(format, args...), Patch: forms.PatchText(job.Guarded(b.c.Draft, "", patch.Set(fmt.Sprintf("/placements/%d/%s", i, key), float64(value)))), CodeID: b.c.ID})
	}
	if tenth := p.Distance / 10; tenth >= place.MinWidth && tenth <= place.MaxWidth && !near(tenth, p.Width) {
		v.Rule = "Width is usually a tenth of the distance:"
		act("width_mm", tenth, "%s wide", tenth.Spoken())
		if far := p.Width * 10; far <= place.MaxDistant {
			act("distance_mm", far, "from %s", far.Spoken())
		}
	}
}

func near(a, b measure.Length) bool { return a < b*1.05 && b < a*1.05 }

// artFields are those of what it lies on.
func (v *View) artFields(b builder, at string, p place.Placement) {
	m := b.c.Rendition
	a := p.Artwork
	source := b.at(at + "artwork/source")
	w, h, known := m.Surface(&p)
	v.ArtLine = "not said"
	if known {
		v.ArtLine = fmt.Sprintf("%s × %s mm", measure.Number(w, 1), measure.Number(h, 1))
	}
	sheet := m.Sheet(&p)
	if a.Source != "" {
		source.Choices = []Choice{{Value: a.Source, Words: "artwork"}}
	}
	if sheet != nil {
		words := "picture or drawing"
		if sheet.PDF != nil {
			words = fmt.Sprintf("page %d of %d", sheet.Page, sheet.Pages)
			for n := 1; n <= sheet.Pages && sheet.Pages > 1; n++ {
				v.Pages = append(v.Pages, Choice{Value: fmt.Sprint(n), Words: fmt.Sprintf("page %d", n), On: n == sheet.Page})
			}
		}
		source.Choices[0].Words = words
		v.ArtLine += ", " + words
	}
	v.ArtFields = []Field{source}
	wide := b.at(at + "artwork/width_mm")
	switch {
	case sheet != nil:
		wide.Sample = measure.Number(sheet.Width, 1) + " mm, as its file says"
		if !sheet.Said {
			wide.Hint = "Its file does not say how large it is; this follows from its dots."
		}
		v.ArtFields = append(v.ArtFields, wide)
	default:
		high := b.at(at + "artwork/height_mm")
		if known {
			wide.Sample, high.Sample = measure.Number(w, 1)+" mm", measure.Number(h, 1)+" mm"
		} else {
			wide.Sample, high.Sample = "148 mm", "210 mm"
		}
		v.ArtFields = append(v.ArtFields, wide, high)
		if !a.None() {
			ground := b.at(at + "artwork/colour")
			ground.Swatches, ground.Hex = b.grounds(), "#ffffff"
			if a.Colour != nil {
				ground.Hex = a.Colour.String()
			}
			v.ArtFields = append(v.ArtFields, ground)
		}
	}
	if known {
		c, _ := m.Compose(&p)
		left, top := b.at(at+"artwork/x_mm"), b.at(at+"artwork/y_mm")
		left.Sample, top.Sample = measure.Number(c.Code.X, 1)+" mm, in the middle", measure.Number(c.Code.Y, 1)+" mm, in the middle"
		top.Hint = "Or drag the code in the view in place; Alt leaves edges and empty parts alone."
		v.ArtFields = append(v.ArtFields, left, top)
		if !a.None() {
			panel := b.at(at + "artwork/panel")
			panel.Swatches, panel.Hex = append(b.grounds(), Swatch{Value: "", Name: "None"}), "#ffffff"
			if a.Panel != nil {
				panel.Hex = a.Panel.String()
			}
			v.ArtFields = append(v.ArtFields, panel)
		}
	}
	v.ArtShape = fmt.Sprint(at, a.None(), sheet != nil, a.Source != "", known, len(v.Pages))
}

// grounds are colours of what a code lies on: papers, and the inks of the house.
func (b builder) grounds() []Swatch {
	papers := b.papers()
	return append(papers[:len(papers)-1:len(papers)-1], b.house(func(c ink.Colour) bool { return c.Luminance() < lightest })...)
}

// wordFields are those of what stands beside it.
func (v *View) wordFields(b builder, at string, p place.Placement) {
	kind := b.c.Rendition.Job.Content.Kind()
	headline := b.at(at + "words/headline")
	if list := content.Calls(kind); len(list) > 0 {
		headline.Sample = list[0]
	}
	help := b.at(at + "words/help")
	address := b.at(at + "words/address")
	v.WordFields, v.WordLine = []Field{headline, help, address}, "none"
	v.PlaceShape += fmt.Sprint(" ", p.Words.None())
	if p.Words.None() {
		return
	}
	v.WordLine = "“" + firstOf(p.Words.Headline, p.Words.Help, p.Words.Address) + "”"
	side := b.chosen(at+"words/side", p.Words.Side)
	size := b.slide(at+"words/size", p.Words.Size)
	font := b.at(at + "words/font")
	font.Choices = b.faces(b.c.Rendition.WordFace(&p))
	fill := b.at(at + "words/ink")
	fill.Swatches = append(b.inks(), Swatch{Value: "", Name: "That of the modules"})
	if fill.Hex = b.c.Rendition.Job.Look.Ink.String(); p.Words.Ink != nil {
		fill.Hex = p.Words.Ink.String()
	}
	v.WordFields = append(v.WordFields, side, size, font, fill)
}

func firstOf(list ...string) string {
	for _, s := range list {
		if s != "" {
			return s
		}
	}
	return ""
}

// aroundFields are those of what is around it, rarely touched.
func (v *View) aroundFields(b builder, at string, p place.Placement) {
	m := b.c.Rendition
	free := b.at(at + "clear_mm")
	radius := b.at(at + "radius_mm")
	v.AroundFields = append(v.AroundFields, free, radius)
	if s, _ := place.SubstrateOf(p.Substrate); s.Screen {
		pixels := b.at(at + "pixels")
		v.AroundFields = append(v.AroundFields, pixels)
	}
	v.AroundFields = append(v.AroundFields, b.at(at+"behind_glass"), b.at(at+"moving"))
	if m.Job.Look.Paper.None {
		ground := b.at(at + "background")
		ground.Swatches, ground.Hex = b.grounds(), "#ffffff"
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

// artworksOf are a workspace's artwork to choose from.
func artworksOf(list []code.Asset) (out []Choice) {
	for _, a := range list {
		out = append(out, Choice{Value: a.Source, Words: a.Name})
	}
	return out
}

// ownMedium is a placement as a medium of the house.
func ownMedium(m *compose.Rendition, p place.Placement, name string) place.Medium {
	out := place.Medium{Key: place.OwnKey + style.KeyOf(name), Name: strings.TrimSpace(name), Group: place.Groups[len(place.Groups)-1], Substrate: p.Substrate, Light: p.Light,
		Width: p.Width, Distance: p.Distance, Radius: p.Radius, Glass: p.Glass, Moving: p.Moving}
	if w, h, ok := m.Surface(&p); ok {
		out.Size = [2]measure.Length{measure.Length(w), measure.Length(h)}
	}
	if p.Pixels > 0 && out.Size[0] > 0 {
		k := float64(p.Pixels) / float64(p.Width)
		out.Screen = [2]int{int(float64(out.Size[0])*k + 0.5), int(float64(out.Size[1])*k + 0.5)}
	}
	if was, ok := place.MediumOf(p.Medium); ok {
		out.Round = was.Round
	}
	return out
}
