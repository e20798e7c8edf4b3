package style

import (
	"fmt"
	"html/template"
	"slices"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/pattern"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/style"
	"sodrik/internal/core/typeface"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// View is the page.
type View struct {
	ui.Frame
	Name      string
	Rev       int64
	MayChange bool
	Manages   bool
	Locked    bool
	Contrast  string
	Grades    []forms.Choice // that the house may ask for
	Colours   []Strip
	Marks     []MarkTile
	Faces     []FaceLine
	Looks     []LookTile
	Media     []MediumLine
	Links     []pattern.Pattern
	Names     string // how files are called; "" is as usual

	UsualNames, NamesExample string

	History []HistoryLine
	Older   int64 // the change from which an older list goes on, 0 for none

	Model string // the code that the looks are shown on
	Done  string

	form     string
	problems problem.List
	typed    map[string]string
}

// HistoryLine is one change of the house style.
type HistoryLine struct {
	Rev              int64
	Words, Who, When string
	First            bool // nothing came before it
}

// At is what is wrong with a field of a form, as a sentence.
func (v View) At(form, field string) string {
	if v.form != form {
		return ""
	}
	for _, p := range v.problems {
		at := p.Field
		if i := strings.LastIndex(at, "/"); i >= 0 {
			at = at[i+1:]
		}
		if at == field || field == "" && !slices.Contains(formFields[form], at) {
			return sentence(p)
		}
	}
	return ""
}

// formFields are the fields of each form that show their own problems; others stand at its end.
var formFields = map[string][]string{"colour": {"name", "screen", "cmyk", "spot"}, "mark": {"name", "icon", "file", "clear"},
	"rules": {"contrast"}, "kit": {"file"}, "typeface": {"file"}, "names": {"names"}, "link": {"name", "address"}}

// Typed is what was typed into a field of a form that came back.
func (v View) Typed(form, field string) string {
	if v.form != form {
		return ""
	}
	return v.typed[field]
}

// Strip is a colour as a printer draws it down.
type Strip struct {
	Key, Name, Screen, Inks, Spot string
	Light                         bool
	Picture                       template.HTML
	Plates                        []Plate
}

// Plate is one ink's share.
type Plate struct {
	Ink   string
	Share string
	Bar   template.HTML
}

// MarkTile is a mark on paper and reversed.
type MarkTile struct {
	Key, Name, Clear string
	Paper, Reversed  template.HTML
}

// MediumLine is a medium of the house.
type MediumLine struct{ Key, Name, Words string }

// FaceLine is a typeface and whether the house has it.
type FaceLine struct {
	Key, Name, Tone string
	On              bool
	Sample          template.HTML
}

// LookTile is a look as one of the workspace's own codes wears it.
type LookTile struct {
	Key, Name string
	Own       bool // of the house, not one that comes along
	Picture   template.HTML
	Worn      string // "worn by 3 codes, one altered"

	look style.Look
}

// NewView formats a house style.
func NewView(s *style.Style, rev int64, wearers []code.Wearer, find compose.Assets) View {
	v := View{Name: s.Name, Rev: rev, Locked: s.Locked}
	v.Grades = []forms.Choice{{Words: "no rule", On: s.Rules.Grade == ""}}
	for _, g := range style.Grades {
		v.Grades = append(v.Grades, forms.Choice{Value: g, Words: g, On: g == s.Rules.Grade})
	}
	if s.Rules.Contrast > 0 {
		v.Contrast = fmt.Sprintf("%.0f", s.Rules.Contrast*100)
	}
	for _, c := range s.Colours {
		v.Colours = append(v.Colours, stripOf(c))
	}
	for _, m := range s.Marks {
		t := MarkTile{Key: m.Key, Name: m.Name, Clear: fmt.Sprintf("%.3g", m.Clear)}
		if art, err := find.Art(m.Source); err == nil {
			draw := func(ground, fill ink.Colour) template.HTML {
				s := &scene.Scene{Width: 1, Height: 1}
				s.Items = append(s.Items, scene.Item{Path: scene.Rectangle(0, 0, 1, 1), At: scene.Unit, Fill: ground})
				w, h := art.Width, art.Height
				k := 0.6 / max(w, h)
				for _, it := range art.Items {
					it.At = it.At.Then(scene.At(k, 0.5-w*k/2, 0.5-h*k/2))
					if it.Current { // what has colours of its own keeps them on any ground
						it.Fill, it.Current = fill, false
					}
					s.Items = append(s.Items, it)
				}
				return template.HTML(svg.Inline(s.Reduced(160), "", `aria-hidden="true"`))
			}
			t.Paper, t.Reversed = draw(ink.White, night), draw(night, ink.White)
		}
		v.Marks = append(v.Marks, t)
	}
	for _, m := range s.Media {
		sub, _ := place.SubstrateOf(m.Substrate)
		words := fmt.Sprintf("%s, code %s, from %s", sub.Name, m.Width, m.Distance.Spoken())
		if m.Size[0] > 0 {
			words = fmt.Sprintf("%s × %s mm, ", measure.Number(float64(m.Size[0]), 1), measure.Number(float64(m.Size[1]), 1)) +
				words
		}
		v.Media = append(v.Media, MediumLine{m.Key, m.Name, words})
	}
	v.Links = s.Links
	v.Names, v.UsualNames = string(s.Names), string(export.UsualNames)
	v.NamesExample = s.Names.File(export.Named{Name: "Gate poster", Place: "north gate", Width: 160, Version: 3}, "pdf")
	for _, f := range s.Faces {
		if typeface.Uploaded(f.Key) {
			line := FaceLine{Key: f.Key, Name: f.Name, Tone: "came in as a file", On: true}
			if face, ok := find.Face(f.Key); ok {
				line.Sample = sampleOf(face)
			}
			v.Faces = append(v.Faces, line)
		}
	}
	for _, f := range typeface.Faces {
		v.Faces = append(v.Faces, FaceLine{f.Key, f.Name, f.Tone, slices.ContainsFunc(s.Faces, func(g style.Face) bool {
			return g.Key == f.Key
		}), sampleOf(f)})
	}
	for _, l := range append(slices.Clone(s.Looks), style.Shipped...) {
		v.Looks = append(v.Looks, tileOf(l, wearers))
	}
	return v
}

func tileOf(l style.Look, wearers []code.Wearer) LookTile {
	n, altered := 0, 0
	for _, w := range wearers {
		if w.Look == l.Key {
			if n++; w.Altered {
				altered++
			}
		}
	}
	t := LookTile{Key: l.Key, Name: l.Name, Own: !strings.HasPrefix(l.Key, style.ShippedKey), look: l}
	switch {
	case n == 1:
		t.Worn = "worn by 1 code"
	case n > 1:
		t.Worn = fmt.Sprintf("worn by %d codes", n)
	}
	if altered > 0 {
		t.Worn += fmt.Sprintf(", %d altered", altered)
	}
	return t
}

// stripOf draws a colour as ink drawn down over paper, thinner at its foot.
func stripOf(c style.Colour) Strip {
	s := Strip{Key: c.Key, Name: c.Name, Screen: c.Value.String(), Spot: c.Value.Spot, Light: c.Value.Luminance() > 0.6}
	p := c.Value.Plates()
	if c.Value.Separated {
		s.Inks = fmt.Sprintf("%.4g, %.4g, %.4g, %.4g", p[0], p[1], p[2], p[3])
	}
	s.Picture = template.HTML(
		fmt.Sprintf(
			`<svg viewBox="0 0 96 120" aria-hidden="true"><rect width="96" height="120" fill="#FDFCF8"/><path d="M0 20h96v12H0z" fill="#16241F"/><path d="M10 6h76v82l-6 4-5-3-7 5-6-4-8 6-5-5-7 4-6-5-7 4-6-4-8 3-5-4z" fill="%[1]s"/><path d="M10 96h76v3H10zM10 103h76v1.500H10zM10 109h76v.7H10z" fill="%[1]s"/></svg>`, c.Value))
	for i, name := range []string{"C", "M", "Y", "K"} {
		s.Plates = append(s.Plates, Plate{name, fmt.Sprintf("%.0f", p[i]),
			template.HTML(fmt.Sprintf(
				`<svg viewBox="0 0 100 6" preserveAspectRatio="none" aria-hidden="true"><rect width="100" height="6" fill="#E6E9E4"/><rect width="%.1f" height="6" fill="%s"/></svg>`, p[i], []string{"#0090C8", "#C8207A", "#E0B800", "#16241F"}[i]))})
	}
	return s
}

// sampleOf sets a word in a typeface.
func sampleOf(f *typeface.Face) template.HTML {
	line := f.Set("Sow thinly")
	const size = 18.0
	s := &scene.Scene{Width: 130, Height: 26, Items: []scene.Item{{Path: line.Path, At: scene.At(size, 0, 19), Current: true}}}
	return template.HTML(svg.Inline(s, "", `aria-hidden="true" fill="currentColor"`))
}

// night is the dark ground that marks are shown reversed on.
var night = ink.Colour{R: 0x16, G: 0x24, B: 0x1f}
