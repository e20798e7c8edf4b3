package style

import (
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/patch"
)

// Breach is one way in which a look is not of the house.
type Breach struct {
	Code    string
	Message string
	Label   string // of what mends it, "" where nothing does
	Patch   patch.Patch
}

// Check holds a look against the house. A house that is not locked only keeps its rules; a locked one wants its own colours,
// marks and typefaces too.
func (s *Style) Check(l look.Look) (out []Breach) {
	if s == nil {
		return nil
	}
	if least := s.Rules.Contrast; least > 0 && !l.Paper.None {
		if c := math.Abs(ink.Contrast(l.Palest().Colour, l.Paper.Colour)); c < least {
			out = append(out, Breach{Code: "style.contrast",
				Message: fmt.Sprintf("The house asks for a contrast of %.0f %%; this is %.0f %%.", least*100, c*100)})
		}
	}
	if !l.Mark.None() {
		for _, m := range s.Marks {
			if m.Source == l.Mark.Source && l.Mark.Pad < m.Clear && l.Mark.Clear != "none" {
				out = append(out, Breach{"style.clear", fmt.Sprintf("%s needs %s around it; here it has %s.", m.Name,
					clearOf(m.Clear), had(l.Mark.Pad)),
					fmt.Sprintf("Keep %s free", freeOf(m.Clear)),
					patch.Patch{{Op: "add", Path: "/look/mark/pad", Value: m.Clear}}})
			}
		}
	}
	if !s.Locked {
		return out
	}
	if len(s.Colours) > 0 {
		var strange []string
		var all patch.Patch
		for _, part := range colours(l) {
			if _, ok := s.Colour(part.colour.Style); ok || part.colour.Same(ink.White) && part.path == "/look/paper" {
				continue
			}
			strange = append(strange, part.words)
			all = append(all, patch.Op{Op: "add", Path: part.path, Value: map[string]any{"style": s.Nearest(part.colour).Key}})
		}
		if len(strange) > 0 {
			label := "Take colours of the house"
			if len(all) == 1 {
				label = "Print it in " + s.Nearest(colourAt(l, all[0].Path)).Name
			}
			out = append(out, Breach{"style.colour", "Not in a colour of the house: " + strings.Join(strange, ", ") + ".",
				label, all})
		}
	}
	if !l.Mark.None() && len(s.Marks) > 0 && !s.hasMark(l.Mark.Source) {
		out = append(out, Breach{"style.mark", "The mark is none of the house.", "Lay in " + s.Marks[0].Name,
			patch.Patch{{Op: "add", Path: "/look/mark/source", Value: s.Marks[0].Source}}})
	}
	if f := l.Frame; !f.None() && f.Text != "" && len(s.Faces) > 0 && !s.hasFace(f.Face().Key) {
		out = append(out, Breach{"style.typeface", fmt.Sprintf("%s is no typeface of the house.", f.Face().Name),
			"Take the typeface of the house",
			patch.Patch{{Op: "add", Path: "/look/frame/font", Value: s.Faces[0].Key}}})
	}
	if c := l.Caption; !c.None() && len(s.Faces) > 0 && !s.hasFace(c.Face().Key) {
		out = append(out, Breach{"style.caption", fmt.Sprintf("%s is no typeface of the house.", c.Face().Name),
			"Set the caption in the typeface of the house",
			patch.Patch{{Op: "add", Path: "/look/caption/font", Value: s.Faces[0].Key}}})
	}
	return out
}

// LeastGrade is what the house asks the forecast of a print for, "" for nothing.
func (s *Style) LeastGrade() string {
	if s == nil {
		return ""
	}
	return s.Rules.Grade
}

// FreeAround is how many modules the house keeps free around one of its marks, 0 for a mark that is none of it.
func (s *Style) FreeAround(source string) float64 {
	if s != nil && source != "" {
		for _, m := range s.Marks {
			if m.Source == source {
				return m.Clear
			}
		}
	}
	return 0
}

func (s *Style) hasMark(source string) bool {
	for _, m := range s.Marks {
		if m.Source == source {
			return true
		}
	}
	return false
}

// Nearest is the colour of the house that differs least, as distance in CIE Lab (1976).
func (s *Style) Nearest(c ink.Colour) Colour {
	best := s.Colours[0]
	for _, x := range s.Colours[1:] {
		if ink.Distance(x.Value, c) < ink.Distance(best.Value, c) {
			best = x
		}
	}
	return best
}

// part is a place of a look that has a colour.
type part struct {
	path, words string
	colour      ink.Colour
}

// colours are those that a look names itself, each once.
func colours(l look.Look) (out []part) {
	add := func(path, words string, c ink.Colour) { out = append(out, part{path, words, c}) }
	if l.Shade.None() {
		add("/look/ink", "the ink", l.Ink)
	}
	for i := range l.Shade.N {
		add(fmt.Sprintf("/look/ink/stops/%d/colour", i), fmt.Sprintf("colour %d of the gradient", i+1), l.Shade.Stops[i].Colour)
	}
	if !l.Paper.None {
		add("/look/paper", "the paper", l.Paper.Colour)
	}
	if l.Eyes.All.Ring.Inked {
		add("/look/eyes/ring/ink", "the rings", l.Eyes.All.Ring.Ink)
	}
	if l.Eyes.All.Core.Inked {
		add("/look/eyes/core/ink", "the cores", l.Eyes.All.Core.Ink)
	}
	for i := range 3 {
		if e := l.Eyes.Each[i]; l.Eyes.Own[i] {
			if e.Ring.Inked && e.Ring.Ink != l.Eyes.All.Ring.Ink {
				add(fmt.Sprintf("/look/eyes/each/%d/ring/ink", i), "the ring of one eye", e.Ring.Ink)
			}
			if e.Core.Inked && e.Core.Ink != l.Eyes.All.Core.Ink {
				add(fmt.Sprintf("/look/eyes/each/%d/core/ink", i), "the core of one eye", e.Core.Ink)
			}
		}
	}
	if l.Mark.Inked {
		add("/look/mark/ink", "the mark", l.Mark.Ink)
	}
	if l.Frame.Inked {
		add("/look/frame/ink", "the frame", l.Frame.Ink)
	}
	if l.Frame.TextInked {
		add("/look/frame/text_ink", "the words of the frame", l.Frame.TextInk)
	}
	return out
}

func colourAt(l look.Look, path string) ink.Colour {
	for _, p := range colours(l) {
		if p.path == path {
			return p.colour
		}
	}
	return ink.Black
}

// clearOf is how many modules have to be clear.
func clearOf(n float64) string {
	if n == 1 {
		return "1 clear module"
	}
	return fmt.Sprintf("%.2g clear modules", n)
}

// had is how many of them are.
func had(n float64) string {
	switch n {
	case 0:
		return "none"
	case 0.5:
		return "half of one"
	}
	return fmt.Sprintf("%.2g", n)
}

// freeOf is a number of modules in words.
func freeOf(n float64) string {
	if n == 1 {
		return "1 module"
	}
	return fmt.Sprintf("%.2g modules", n)
}
