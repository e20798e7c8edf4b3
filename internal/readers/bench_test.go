package readers

import (
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
)

// BenchmarkProof: what a person waits for, with every reader that is here, on a code of 33 × 33 modules: the first verdict,
// the other two sets after it, and the range.
func BenchmarkProof(b *testing.B) {
	m,
		problems := compose.Parse(
		[]byte(
			`{"content":{"kind":"url","url":"https://marrowby.example/fair/programme"},"symbol":{"min_version":4},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500,"substrate":"uncoated"}]}`), nil)
	if len(problems) > 0 {
		b.Fatal(problems)
	}
	if m.Symbol.Size != 33 {
		b.Fatal(m.Symbol.Size)
	}
	in, err := m.Proof(0)
	if err != nil {
		b.Fatal(err)
	}
	panel := Panel()
	first, err := proof.Prove(b.Context(), in, panel, proof.Ordinary)
	if err != nil || first.Verdict != proof.Safe {
		b.Fatal(first.Findings, err)
	}
	for name, sets := range map[string][]proof.Stage{"verdict": {proof.Ordinary}, "hard+abuse": {proof.Hard, proof.Abuse},
		"range": {proof.Range}, "margin": {proof.Margins}} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, err := proof.Prove(b.Context(), in, panel, sets...); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
