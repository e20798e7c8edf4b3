package batches

import (
	"testing"
)

// TestWorst: the worst verdict counts first, then the symbol with the most modules.
func TestWorst(t *testing.T) {
	for name, c := range map[string]struct {
		sorts []Sort
		want  int // row, 0 for none
	}{
		"none": {nil, 0},
		"one":  {[]Sort{{Version: 3, Row: 4, Verdict: "safe"}}, 4},
		"by verdict": {[]Sort{{Version: 5, Row: 1, Verdict: "safe"}, {Version: 3, Row: 2, Verdict: "care"},
			{Version: 4, Row: 3, Verdict: "safe"}}, 2},
		"unproved": {[]Sort{{Version: 5, Row: 1, Verdict: "safe"}, {Version: 3, Row: 2}}, 2},
		"by modules": {[]Sort{{Version: 3, Row: 1, Verdict: "safe"}, {Version: 5, Row: 2, Verdict: "safe"},
			{Version: 4, Row: 3, Verdict: "safe"}}, 2},
	} {
		t.Run(name, func(t *testing.T) {
			if o, ok := (&Batch{Sorts: c.sorts}).Worst(); o.Row != c.want || ok != (c.want > 0) {
				t.Errorf("row %d, %v; want %d", o.Row, ok, c.want)
			}
		})
	}
}
