// Package sits is the stub of where a code sits: its places, their sizes, what they lie on, what stands around.
package sits

import (
	"fmt"
	"slices"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/forms"
)

// Sits is the stub.
type Sits struct {
	Line   string // of the ticket
	Places []PlaceTab
	Media  []forms.ChoiceGroup // to put it on
	Width  string              // of the current place in mm, for the clipboard

	PlaceName, PlaceShape string
	PlaceFields           []forms.Field
	PlaceRows             []forms.Row // the same in rows
	Sizes                 []bound.Act // what the distance asks for
	Rule                  string      // that they follow
	MediumKept            string      // what the place has just been kept as

	ArtFields []forms.Field // of what it lies on
	ArtLine   string
	ArtFile   bool // it is a file
	ArtShape  string
	Artworks  []forms.Choice
	Pages     []forms.Choice // of the artwork, where it has several

	WordFields   []forms.Field // of what stands beside it
	WordLine     string
	AroundFields []forms.Field
	AroundLine   string
}

// Fields are all fields of the stub.
func (v *Sits) Fields() []forms.Field {
	return slices.Concat(v.PlaceFields, v.AroundFields, v.ArtFields, v.WordFields)
}

// Of is the stub of a code, with its place current.
func Of(b bound.Code) (v Sits) {
	m, i := b.C.Rendition, b.Place
	v.Media = mediaOf(b.C.House)
	var lines []string
	for k, p := range m.Job.Placements {
		v.Places = append(v.Places, PlaceTab{k, p.Name, k == i})
		lines = append(lines, fmt.Sprintf("%s %s, from %s", p.Name, p.Width, p.Distance.Spoken()))
	}
	v.Line = strings.Join(lines, " · ")
	if len(lines) == 0 {
		v.Line = "Where will it hang?"
		return v
	}
	p := m.Job.Placements[i]
	v.PlaceName = p.Name
	at := fmt.Sprintf("/placements/%d/", i)
	name := b.At(at + "name")
	medium := b.At(at + "medium")
	medium.Choices = []forms.Choice{{Words: "another", On: medium.Value == ""}}
	known := medium.Value == ""
	for _, g := range v.Media {
		own := forms.ChoiceGroup{Name: g.Name}
		for _, c := range g.Choices {
			c.On = c.Value == medium.Value
			known = known || c.On
			own.Choices = append(own.Choices, c)
		}
		medium.Grouped = append(medium.Grouped, own)
	}
	if !known { // one that the house has taken away since
		medium.Choices = append(
			medium.Choices,
			forms.Choice{Value: medium.Value, Words: strings.TrimPrefix(medium.Value, place.OwnKey), On: true},
		)
	}
	substrate := b.Chosen(at+"substrate", p.Substrate)
	width := b.At(at + "width_mm")
	width.Hint = fmt.Sprintf("%s in · %s px · %s a module", measure.Number(float64(p.Width/measure.Inch), 2),
		measure.Count(m.Pixels(&p).Pixels), measure.Length(float64(p.Width)/float64(m.For(&p).Modules())))
	distance := b.At(at + "distance_mm")
	light := b.Chosen(at+"light", p.Light)
	v.PlaceFields = []forms.Field{name, medium, substrate, width, distance, light}
	if _, ok := m.Job.Content.(content.HumanReadable); ok {
		use := b.Chosen(at+"use", p.Use)
		v.PlaceFields = append(v.PlaceFields, use, b.At(at+"readable"))
	}
	if _, ok := m.Job.Content.(content.Keyed); ok {
		keyword := b.At(at + "keyword")
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
	return v
}

// sizes says what distance and width ask of one another, by the rule of thumb of the trade.
func (v *Sits) sizes(b bound.Code, i int, p place.Placement) {
	act := func(key string, value measure.Length, format string, args ...any) {
		v.Sizes = append(
			v.Sizes,
			b.Act(
				fmt.Sprintf(format, args...),
				job.Guarded(b.C.Draft, "", patch.Set(fmt.Sprintf("/placements/%d/%s", i, key), float64(value))),
			),
		)
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

// PlaceTab switches to a placement.
type PlaceTab struct {
	Index   int
	Name    string
	Current bool
}
