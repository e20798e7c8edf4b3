package ships

import (
	"fmt"
	"html/template"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/measure"
	"sodrik/internal/web/desk/drawn"
)

// Plates is the view of a code as its plates.
type Plates struct {
	Condition string
	Plates    []PlateTile
	Total     string
	Over      bool // total ink is above the limit
	Together  template.URL
	Off       template.URL // an eye with one plate off
	OffWords  string
	Colours   []string // what cannot be had, in words
	Why       string
}

// PlateTile is one ink.
type PlateTile struct {
	Name, Coverage string
	Spot, Empty    bool
	Picture        template.HTML
}

// PlatesOf separates a code at placement i.
func PlatesOf(m *compose.Rendition, i int) (v Plates, err error) {
	p := m.Place(i)
	condition := m.Condition(p)
	v.Condition = condition.Name
	if !m.Pressed() {
		v.Condition += ", which its substrate is nearest to"
	}
	s, problems := m.Separated(p, false)
	if len(problems) > 0 {
		v.Why = "The plates cannot be made: " + problems[0].Message + "."
		return v, nil
	}
	f, err := s.Figures()
	if err != nil {
		return v, err
	}
	v.Total, v.Over = measure.Number(f.Most, 0)+" %", f.Most > condition.Limit+0.5
	for k, plate := range s.Plates {
		t := PlateTile{Name: plate.Name, Spot: plate.Spot, Empty: !s.Used(k), Coverage: measure.Number(f.Coverage[k], 1) + " %"}
		if !t.Empty {
			t.Picture = template.HTML(svg.Inline(s.Plate(k).Reduced(drawn.ScreenPixels), plate.Name+", plate", ""))
		}
		v.Plates = append(v.Plates, t)
	}
	img, err := compose.DrawPlates(s)
	if err != nil {
		return v, err
	}
	if v.Together, err = drawn.PNG(img); err != nil {
		return v, err
	}
	off, which, err := m.Misplaced(i, s)
	if err != nil {
		return v, err
	}
	if off != nil {
		v.OffWords = fmt.Sprintf("%s off by a tenth of a millimetre, as happens on a good press.", which)
		if v.Off, err = drawn.PNG(off); err != nil {
			return v, err
		}
	}
	if s.Off >= press.Seen {
		v.Colours = append(
			v.Colours,
			fmt.Sprintf("%s cannot be had in these inks: off by ΔE %s.", s.OffOf, measure.Number(s.Off, 1)),
		)
	}
	return v, nil
}
