package proof_test

import (
	"image"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/proof"
)

// forgetful reads every picture but those of which it is told to lose so many, by condition. Pictures come in the order of
// conditions and draws.
func forgetful(in proof.Input, loses map[string]int) func(*image.Gray) ([]string, error) {
	var lost []bool
	for _, c := range proof.Conditions(in) {
		for d := range c.Draws {
			if c.Stage == proof.Ordinary || c.Stage == proof.Better {
				lost = append(lost, d < loses[c.Key])
			}
		}
	}
	next := 0
	return func(*image.Gray) ([]string, error) {
		i := next
		next++
		if lost[i] {
			return nil, nil
		}
		return []string{in.Payload}, nil
	}
}

// TestVerdictRule: how many pictures a family may lose, in one circumstance and over all, before it counts against a code.
func TestVerdictRule(t *testing.T) {
	// two files, six circumstances of five pictures, one of three, and a poor phone's five
	in := input(t, placed(`"width_mm":60,"distance_mm":400`))
	most := func(good int) map[string]int {
		return map[string]int{"distance": 3, "nearer": 1, "smaller": 3, "slant": 3, "uneven": 3, "hand": 3, "good": good}
	}
	all := map[string]int{"distance": 5, "nearer": 3, "smaller": 5, "slant": 5, "uneven": 5, "hand": 5, "farther": 5,
		"poor": 5, "good": 14}
	for _, c := range []struct {
		name    string
		a, b    map[string]int // lost by either family
		verdict proof.Verdict
		finding string
	}{
		{"nothing lost", nil, nil, proof.Safe, ""},
		{"two of five", map[string]int{"slant": 2}, nil, proof.Safe, "note unread.slant"},
		{"three of five", map[string]int{"slant": 3}, nil, proof.Care, "care unread.slant"},
		{"three of thirty by one family", map[string]int{"slant": 1, "hand": 1, "uneven": 1}, nil, proof.Safe, ""},
		{"four by one family, a tenth and more", map[string]int{"slant": 1, "hand": 1, "uneven": 1, "smaller": 1}, nil,
			proof.Care, "care unread.smaller"},
		{"the PNG by one family", map[string]int{"picture": 1}, nil, proof.Care, "care unread.picture"},
		{"from afar by one family of two", nil, map[string]int{"farther": 5}, proof.Safe, "note unread.farther"},
		{"from afar by both", map[string]int{"farther": 3}, map[string]int{"farther": 3}, proof.Care, "care unread.farther"},
		{"from afar by both, two of five", map[string]int{"farther": 2}, map[string]int{"farther": 2}, proof.Safe,
			"note unread.farther"},
		{"two of five with a poor phone", map[string]int{"poor": 2}, nil, proof.Safe, "note unread.poor"},
		{"three of five with a poor phone", nil, map[string]int{"poor": 3}, proof.Care, "care unread.poor"},
		{"a poor phone's do not count among all", map[string]int{"slant": 1, "hand": 1, "uneven": 1, "poor": 2}, nil, proof.Safe,
			"note unread.poor"},
		{"most by one family", most(14), nil, proof.Care, "care unread.distance"},
		{"most by both, and with a good phone most by one", most(7), all, proof.Care, "care unread.distance"},
		{"most by both, with a good phone too", most(8), all, proof.Stop, "stop unread.distance"},
	} {
		t.Run(c.name, func(t *testing.T) {
			p, err := proof.Prove(t.Context(), in, panelOf(fake{"a", "one", forgetful(in, c.a)},
				fake{"b", "two", forgetful(in, c.b)}), proof.Ordinary)
			if err != nil {
				t.Fatal(err)
			}
			found := ""
			unread := func(f proof.Finding) bool { return strings.HasPrefix(f.Code, "unread") }
			if i := slices.IndexFunc(p.Findings, unread); i >= 0 {
				found = string(p.Findings[i].Severity) + " " + p.Findings[i].Code
			}
			if p.Verdict != c.verdict || found != c.finding {
				t.Errorf("%s: %s for %q, want %s for %q", c.name, p.Verdict, found, c.verdict, c.finding)
			}
		})
	}
}
