package compose

import (
	"cmp"
	"slices"

	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/symbol"
)

// Price is what the payload costs, and a ladder of what would make it smaller.
type Price struct {
	Bytes, Size int // of the payload; modules along one side, quiet zone not counted
	Less        int // codewords that would have to go for the next smaller symbol, 0 where there is none
	Steps       []Step
}

// Step is one change with its price.
type Step struct {
	Label string
	Field string          // pointer of the field it empties or fills, "" for another sort
	Patch patch.Patch     // on the job
	Bytes int             // of the payload then
	Size  int             // modules along one side then
	Saves int             // modules along one side fewer; negative where the symbol grows
	Then  content.Content // what is said then, nil where it is the same
}

// maxSteps bounds the ladder.
const maxSteps = 6

// Price works out the ladder: the steps that make the symbol smaller, most first.
func (m *Rendition) Price() Price {
	p := Price{Bytes: len(m.Payload), Size: m.plain.Size}
	least := max(1, m.Job.Symbol.MinVersion)
	if v := m.plain.Version; v > least && !(crossed(m.Job) && v == clearOfCross) {
		p.Less = max(1, m.plain.Used()-symbol.DataCodewords(v-1, askedLevel(m.Job)))
	}
	if c, ok := m.Job.Content.(content.Thrifty); ok {
		for _, s := range c.Savings() {
			if step, ok := m.step(s); ok && step.Saves > 0 {
				p.Steps = append(p.Steps, step)
			}
		}
	}
	o, _ := options(m.Job)
	if asked := askedLevel(m.Job); asked != symbol.L && !m.prescribed() {
		o.Level = symbol.L
		if size, ok := sizeOf(m.Payload, o, false); ok && size < p.Size {
			p.Steps = append(p.Steps,
				Step{"Level L: survives 7 % damage, not " + map[symbol.Level]string{symbol.M: "15 %", symbol.Q: "25 %",
					symbol.H: "30 %"}[asked],
					"/symbol/level", patch.Set("/symbol/level", "L"), p.Bytes, size, p.Size - size, nil})
		}
	}
	slices.SortStableFunc(p.Steps, func(a, b Step) int { return cmp.Compare(b.Saves, a.Saves) })
	p.Steps = p.Steps[:min(len(p.Steps), maxSteps)]
	return p
}

// Adding prices each field that is still empty, filled with content.SampleLength characters.
func (m *Rendition) Adding() map[string]Step {
	out := map[string]Step{}
	if c, ok := m.Job.Content.(content.Growing); ok {
		for _, s := range c.Adding() {
			if step, ok := m.step(s); ok {
				out[s.Field] = step
			}
		}
	}
	return out
}

func (m *Rendition) prescribed() bool {
	c, ok := m.Job.Content.(content.Prescriptive)
	return ok && c.Prescribes().Level != ""
}

func (m *Rendition) step(s content.Saving) (Step, bool) {
	payload := s.Then.Payload()
	o, _ := options(m.Job)
	size, ok := sizeOf(payload, o, crossed(m.Job))
	return Step{s.Label, s.Field, s.Patch, len(payload), size, m.plain.Size - size, s.Then}, ok
}

// sizeOf is the side of the symbol that a payload would make. The mask does not matter for that, so that none is weighed.
func sizeOf(payload string, o symbol.Options, cross bool) (int, bool) {
	o.Mask, o.NoBoost = symbol.Pattern(0), true
	s, err := encodeClear(payload, o, cross)
	if err != nil {
		return 0, false
	}
	return s.Size, true
}

func askedLevel(j *job.Job) symbol.Level {
	if j.Symbol.Level == symbol.LevelAuto {
		return symbol.M
	}
	return j.Symbol.Level
}
