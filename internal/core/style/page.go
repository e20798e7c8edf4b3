package style

import "sodrik/internal/core/ink"

// legible is the ratio of luminances that small print needs on its ground (WCAG 2.2, 1.4.3).
const legible = 4.5

// Page gives the colours of a plain page of the house: as ink the first of its colours that can be read on white, as paper the
// lightest that it can be read on, or white. ok is false where no colour can be read.
func (s *Style) Page() (on, paper ink.Colour, ok bool) {
	paper = ink.Colour{R: 255, G: 255, B: 255}
	for _, c := range s.Colours {
		if !ok && ratio(c.Value, paper) >= legible {
			on, ok = c.Value, true
		}
	}
	if !ok {
		return on, paper, false
	}
	found := false
	for _, c := range s.Colours {
		if ratio(on, c.Value) >= legible && c.Value.Luminance() > on.Luminance() &&
			(!found || c.Value.Luminance() > paper.Luminance()) {
			paper, found = c.Value, true
		}
	}
	return on, paper, true
}

// ratio is how many times lighter one of two colours is, as WCAG 2.2 has it.
func ratio(a, b ink.Colour) float64 {
	x, y := a.Luminance(), b.Luminance()
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}
