package proof_test

import (
	"errors"
	"fmt"
	"testing"

	"sodrik/internal/core/proof"
)

// TestSmallest: the search ends within a step of where safe begins, from above and from below, and says where nothing is safe
// or something failed.
func TestSmallest(t *testing.T) {
	for _, c := range []struct{ from, limit, most float64 }{{40, 21.3, 23}, {100, 33, 36}, {20, 24, 27}, {20, 44, 45},
		{600, 250, 265}, {12, 12, 12}} {
		t.Run(fmt.Sprint(c.from), func(t *testing.T) {
			tried := 0
			got, ok, err := proof.Smallest(c.from, func(mm float64) (bool, error) { tried++; return mm >= c.limit, nil })
			if err != nil || !ok || got < c.limit || got > c.most || tried > 7 {
				t.Errorf("from %g, safe from %g: %g %v %v after %d", c.from, c.limit, got, ok, err, tried)
			}
		})
	}
	if _, ok, err := proof.Smallest(20, func(float64) (bool, error) { return false, nil }); ok || err != nil {
		t.Errorf("nothing is safe: %v %v", ok, err)
	}
	failed := errors.New("no readers")
	n := 0
	if _, ok, err := proof.Smallest(20, func(float64) (bool, error) {
		if n++; n == 3 {
			return false, failed
		}
		return true, nil
	}); ok || !errors.Is(err, failed) {
		t.Errorf("an error: %v %v", ok, err)
	}
}
