package proof

import (
	"math"

	"sodrik/internal/core/place"
)

// smallestTries is how many widths are proved on the way to the smallest one.
const smallestTries = 7

// Smallest is the smallest width in millimetres that safe holds for, in steps of a half, a whole or five millimetres: halving
// what lies between a width that is safe and one that is not, beginning at from. ok is false where none of the widths tried
// is safe; an error of safe ends it.
func Smallest(from float64, safe func(mm float64) (bool, error)) (mm float64, ok bool, err error) {
	step := func(mm float64) float64 {
		switch {
		case mm < 30:
			return math.Round(mm*2) / 2
		case mm < 200:
			return math.Round(mm)
		}
		return math.Round(mm/5) * 5
	}
	tried := 0
	try := func(mm float64) bool {
		tried++
		if err == nil {
			ok, err = safe(mm)
		}
		return ok && err == nil
	}
	low, high := 0.0, from
	for !try(high) {
		if err != nil || tried > 2 || high >= place.MaxWidth {
			return 0, false, err
		}
		low, high = high, min(step(high*1.5), place.MaxWidth)
	}
	low = max(low, place.MinWidth-0.5, high*0.2)
	for tried < smallestTries {
		mid := step((low + high) / 2)
		if mid >= high || mid <= low {
			break
		}
		if try(mid) {
			high = mid
		} else if low = mid; err != nil {
			return 0, false, err
		}
	}
	return high, true, nil
}
