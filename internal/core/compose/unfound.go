package compose

import (
	"fmt"
	"math"
	"slices"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
)

// Unfound is the line under a proof for placement i, −1 for none, in which nothing was found, or only notes: it says which limit
// lies nearest, so that this is still worth a line. "" where something was found.
func (m *Rendition) Unfound(p *proof.Proof, i int) string {
	if slices.ContainsFunc(p.Findings, func(f proof.Finding) bool { return f.Severity != proof.SeverityNote }) {
		return ""
	}
	if len(p.Findings) == 0 {
		return "Nothing found. " + m.closest(p, i)
	}
	return m.closest(p, i)
}

// spare is how much of a range lies beyond the usual distance at least.
const spare = 1.5

func (m *Rendition) closest(p *proof.Proof, i int) string {
	contrast := fmt.Sprintf(
		"Closest to its limit: contrast. It is %s above.",
		measure.Plural(int(math.Round((p.Contrast-proof.ContrastFair)*100)), "point"),
	)
	if i < 0 {
		return contrast
	}
	at := m.Job.Placements[i]
	sub, _ := place.SubstrateOf(at.Substrate)
	module := float64(at.Width) / float64(m.Modules()) / sub.MinXDimension
	distance := p.Range[1] / float64(at.Distance) / spare
	switch {
	case distance <= module && distance < p.Contrast/proof.ContrastFair:
		far := measure.Length(p.Range[1]).Rounded().Spoken()
		if !p.Has(proof.Range) { // reckoned, not measured
			far = "about " + far
		}
		return fmt.Sprintf("Closest to its limit: distance. It reads up to %s.", far)
	case module < p.Contrast/proof.ContrastFair:
		return fmt.Sprintf(
			"Closest to its limit: module size. It has %s times what %s needs.",
			measure.Number(module, 1),
			sub.Name,
		)
	}
	return contrast
}
