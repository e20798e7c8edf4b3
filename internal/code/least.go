package code

import (
	"context"
	"encoding/json"
	"fmt"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/proof"
)

// MinWidth is the smallest width of placement i at which the code still proves safe, by proof.Smallest; ok is false where
// none of the widths tried is.
func (s *Store) MinWidth(ctx context.Context, actor access.Actor, c *Code, i int) (measure.Length, bool, error) {
	if err := actor.Need(access.Make); err != nil {
		return 0, false, err
	}
	workspace := actor.Workspace
	text, err := json.Marshal(c.Rendition.Job)
	if err != nil {
		return 0, false, err
	}
	doc, err := fields.Decode(text)
	if err != nil {
		return 0, false, err
	}
	find := s.In(ctx, workspace)
	mm, ok, err := proof.Smallest(float64(c.Rendition.Job.Placements[i].Width), func(mm float64) (bool, error) {
		with, _, err := patch.Set(fmt.Sprintf("/placements/%d/width_mm", i), mm).Apply(doc)
		if err != nil {
			return false, err
		}
		m, _, problems := compose.Read(with, find)
		if len(problems) > 0 {
			return false, nil // a width that its standard does not allow
		}
		p, err := s.Prove(ctx, actor, m, i, proof.Ordinary)
		if err != nil {
			return false, err
		}
		return p.Verdict == proof.Safe, nil
	})
	return measure.Length(mm), ok, err
}
