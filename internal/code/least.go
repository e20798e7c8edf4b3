package code

import (
	"context"
	"encoding/json"
	"fmt"
	"math"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	sites "sodrik/internal/core/place"
	"sodrik/internal/core/proof"
)

// leastTries is how many widths are proved on the way to the least one.
const leastTries = 7

// LeastWidth is the smallest width of placement i at which the code still proves safe, to a whole or half millimetre: halving what lies between a
// width that is safe and one that is not. ok is false where none of the widths tried is.
func (s *Store) LeastWidth(ctx context.Context, workspace string, c *Code, i int) (measure.Length, bool, error) {
	text, err := json.Marshal(c.Made.Job)
	if err != nil {
		return 0, false, err
	}
	doc, err := fields.Decode(text)
	if err != nil {
		return 0, false, err
	}
	find := s.Assets(ctx, workspace)
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
	safe := func(mm float64) (bool, error) {
		tried++
		with, _, err := patch.Set(fmt.Sprintf("/placements/%d/width_mm", i), mm).Apply(doc)
		if err != nil {
			return false, err
		}
		m, _, problems := compose.Read(with, find)
		if len(problems) > 0 {
			return false, nil // a width that its standard does not allow
		}
		p, err := s.Prove(ctx, workspace, m, i, proof.Ordinary)
		if err != nil {
			return false, err
		}
		return p.Verdict == proof.Safe, nil
	}
	high := float64(c.Made.Job.Placements[i].Width)
	low := 0.0
	for {
		ok, err := safe(high)
		if err != nil {
			return 0, false, err
		}
		if ok {
			break
		}
		if tried > 2 || high >= sites.MostWidth {
			return 0, false, nil
		}
		low, high = high, min(step(high*1.5), sites.MostWidth)
	}
	low = max(low, sites.LeastWidth-0.5, high*0.2)
	for tried < leastTries {
		mid := step((low + high) / 2)
		if mid >= high || mid <= low {
			break
		}
		ok, err := safe(mid)
		if err != nil {
			return 0, false, err
		}
		if ok {
			high = mid
		} else {
			low = mid
		}
	}
	return measure.Length(high), true, nil
}
