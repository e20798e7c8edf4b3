package compose

import (
	"slices"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/scene"
)

// maxThinner is the share of a module that bar width reduction may take.
const maxThinner = 1 / 3.0

// dark are the names of what bar width reduction takes from.
var dark = []string{"modules", "eye rings", "eye cores"}

// thinned takes the job's bar width reduction from every dark part of a drawing for a placement, half of it at each edge:
// what is named, or the symbol. Screens do not gain, and what is not placed has no size in print.
func (m *Rendition) thinned(s *scene.Scene, p *place.Placement, names ...string) *scene.Scene {
	if m.Job.Output.Reduction == 0 || p == nil {
		return s
	}
	if sub, _ := place.SubstrateOf(p.Substrate); sub.Screen {
		return s
	}
	if len(names) == 0 {
		names = dark
	}
	out := *s
	out.Items = slices.Clone(s.Items)
	for i, it := range out.Items {
		if slices.Contains(names, it.Name) && it.Picture == nil {
			by := m.Job.Output.Reduction / 2 / it.At.Size()
			out.Items[i].Path = it.Path.Inset(by)
			out.Items[i].Letters = insetLetters(it.Letters, by)
		}
	}
	return &out
}

// tooThin names the reduction where it takes too much of a module somewhere.
func (m *Rendition) tooThin() (problems problem.List) {
	for _, p := range m.Job.Placements {
		module := float64(p.Width) / float64(m.Modules())
		if sub, _ := place.SubstrateOf(p.Substrate); !sub.Screen && m.Job.Output.Reduction > maxThinner*module+1e-9 {
			problems.Add("/output/reduction_mm", "output.reduction",
				"is %s mm, more than a third of a module of %s mm at %s; take less away, or print it larger",
				measure.Number(m.Job.Output.Reduction, 3), measure.Number(module, 2), p.Name)
			return problems
		}
	}
	return nil
}

// insetLetters are letters after Inset, each outline once: as none of them overlap, their insets are that of the whole.
func insetLetters(letters []scene.Letter, by float64) (out []scene.Letter) {
	done := map[*scene.Path]*scene.Path{}
	for _, l := range letters {
		if done[l.Outline] == nil {
			p := l.Outline.Inset(by)
			done[l.Outline] = &p
		}
		l.Outline = done[l.Outline]
		out = append(out, l)
	}
	return out
}
