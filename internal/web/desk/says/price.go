package says

import (
	"fmt"

	"sodrik/internal/core/compose"
	"sodrik/internal/web/forms"
)

// Price is what the payload costs, in words, and what would make it smaller, the step that saves most apart.
type Price struct {
	Words string
	Fewer string
	First *PriceStep
	More  []PriceStep
}

// PriceStep is one rung of the ladder.
type PriceStep struct {
	CodeID, Label, Patch, Saves, Size string
	First                             bool
}

func priceOf(id string, m *compose.Rendition) Price {
	p := m.Price()
	out := Price{Words: forms.PriceWords(p), Fewer: forms.FewerWords(p)}
	for i, s := range p.Steps {
		step := PriceStep{
			id,
			s.Label,
			forms.PatchText(s.Patch),
			fmt.Sprintf("−%d", s.Saves),
			fmt.Sprintf("%d × %d", s.Size, s.Size),
			i == 0,
		}
		if i == 0 {
			out.First = &step
		} else {
			out.More = append(out.More, step)
		}
	}
	return out
}

// costs says what a field that is still empty would cost.
func costs(m *compose.Rendition) func(path string) string {
	adding := m.Adding()
	return func(path string) string { return forms.Cost(adding[path]) }
}
