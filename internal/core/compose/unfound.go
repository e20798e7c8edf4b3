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

// leastContrast is the one under which a proof has a remark, and spare how much of a range lies beyond the usual distance at
// least.
const (
	leastContrast = 0.55
	spare         = 1.5
)

func (m *Rendition) closest(p *proof.Proof, i int) string {
	contrast := fmt.Sprintf(
		"Closest to its limit: contrast. It is %s above.",
		measure.Plural(int(math.Round((p.Contrast-leastContrast)*100)), "point"),
	)
	if i < 0 {
		return contrast
	}
	at := m.Job.Placements[i]
	sub, _ := place.SubstrateOf(at.Substrate)
	module := float64(at.Width) / float64(m.Modules()) / sub.MinXDimension
	distance := p.Range[1] / float64(at.Distance) / spare
	switch {
	case distance <= module && distance < p.Contrast/leastContrast:
		return fmt.Sprintf("Closest to its limit: distance. It reads up to %s.", measure.Length(p.Range[1]).Rounded().Spoken())
	case module < p.Contrast/leastContrast:
		return fmt.Sprintf(
			"Closest to its limit: module size. It has %s times what %s needs.",
			measure.Number(module, 1),
			sub.Name,
		)
	}
	return contrast
}
