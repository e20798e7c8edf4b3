package compose

import (
	"testing"

	"sodrik/internal/core/proof"
)

// TestUnfound: under a proof that found nothing stands the limit that lies nearest: of distance at one and a half times the
// usual one, of contrast at 55 points, of the module at what its substrate needs (0.4 mm on coated paper). Each figure is
// counted by hand.
func TestUnfound(t *testing.T) {
	m, problems := Parse(
		[]byte(
			`{"content":{"kind":"url","url":"https://marrowby.example/a"},"placements":[{"name":"card","width_mm":33,"distance_mm":200}]}`,
		),
		nil,
	)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if m.Modules() != 33 { // so that a module is 1 mm
		t.Fatalf("%d modules across", m.Modules())
	}
	for _, c := range []struct {
		name   string
		proof  proof.Proof
		placed bool
		want   string
	}{
		{"a picture only", proof.Proof{Contrast: 0.7, Range: [2]float64{50, 310}}, false,
			"Nothing found. Closest to its limit: contrast. It is 15 points above."},
		{"distance, reckoned", proof.Proof{Contrast: 1, Range: [2]float64{50, 310}}, true,
			"Nothing found. Closest to its limit: distance. It reads up to about 310 mm."},
		{"distance, measured", proof.Proof{Contrast: 1, Range: [2]float64{50, 310}, Stages: []proof.Stage{proof.Range}}, true,
			"Nothing found. Closest to its limit: distance. It reads up to 310 mm."},
		{"contrast", proof.Proof{Contrast: 0.56, Range: [2]float64{50, 310}}, true,
			"Nothing found. Closest to its limit: contrast. It is 1 point above."},
		{"distance no more, then contrast", proof.Proof{Contrast: 0.6, Range: [2]float64{50, 330}}, true,
			"Nothing found. Closest to its limit: contrast. It is 5 points above."},
		{"notes alone", proof.Proof{Contrast: 1, Range: [2]float64{50, 310},
			Findings: []proof.Finding{{Severity: proof.SeverityNote}}}, true,
			"Closest to its limit: distance. It reads up to about 310 mm."},
		{"something found", proof.Proof{Contrast: 1, Range: [2]float64{50, 310},
			Findings: []proof.Finding{{Severity: proof.SeverityNote}, {Severity: proof.SeverityCare}}}, true, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			i := -1
			if c.placed {
				i = 0
			}
			if got := m.Unfound(&c.proof, i); got != c.want {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
}
