package code

import (
	"context"
	"errors"
	"slices"
	"strconv"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
)

// MaxMany is how many codes one act changes at most.
const MaxMany = 500

// Acts upon several codes at once.
const (
	ActState    = "state"    // retired or restored
	ActCampaign = "campaign" // moved into a campaign
	ActLook     = "look"     // a look put on
)

// Acted is what an act changed, by which it is taken back: for each code the state or the campaign that it was in, or the
// revision that put the look on.
type Acted struct {
	Act string            `json:"act"`
	Was map[string]string `json:"was"`
}

// inOrder are ids without doubles, always in the same order, so that two who act at once never wait for one another. More
// than MaxMany are refused.
func inOrder(ids []string) ([]string, error) {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	switch {
	case len(ids) == 0:
		return nil, problem.List{{Field: "/id", Code: "many.none", Message: "are chosen: none. Tick the codes first"}}
	case len(ids) > MaxMany:
		return nil, problem.List{{Field: "/id", Code: "many.most", Message: "are more than " + strconv.Itoa(MaxMany) +
			" codes; choose fewer at a time"}}
	}
	return ids, nil
}

// many does one thing to several codes, all or none. do gives what a code was before, and whether it was changed.
func (s *Store) many(ctx context.Context, actor access.Actor, act string, ids []string,
	do func(tx pgx.Tx, id string) (was string, changed bool, err error)) (Acted, error) {
	out := Acted{act, map[string]string{}}
	if err := actor.Need(access.Change); err != nil {
		return out, err
	}
	ids, err := inOrder(ids)
	if err != nil {
		return out, err
	}
	return out, s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		for _, id := range ids {
			was, changed, err := do(tx, id)
			if err != nil {
				return err
			}
			if changed {
				out.Was[id] = was
			}
		}
		return nil
	})
}

// SetStates retires or restores codes, all or none. Nothing is deleted; issued versions stay as they were handed over.
func (s *Store) SetStates(ctx context.Context, actor access.Actor, ids []string, state string) (Acted, error) {
	return s.many(ctx, actor, ActState, ids, func(tx pgx.Tx, id string) (was string, changed bool, err error) {
		if err := tx.QueryRow(ctx, `SELECT state FROM codes WHERE workspace = $1 AND id = $2 FOR UPDATE`, actor.Workspace, id).
			Scan(&was); err != nil || was == state {
			return was, false, missing(err)
		}
		return was, true, s.setState(ctx, tx, actor, id, state)
	})
}

func (s *Store) setState(ctx context.Context, tx pgx.Tx, actor access.Actor, id, state string) error {
	_, err := tx.Exec(ctx, `UPDATE codes SET state = $3, changed_at = $4 WHERE workspace = $1 AND id = $2`, actor.Workspace, id,
		state, s.Now())
	return err
}

// missing is ErrNotFound where there is no row.
func missing(err error) error {
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// MoveAll moves codes into a campaign, made where it is not there, all or none; "" takes them out of any.
func (s *Store) MoveAll(ctx context.Context, actor access.Actor, ids []string, name string) (Acted, error) {
	name, bad := campaignName(name)
	return s.many(ctx, actor, ActCampaign, ids, func(tx pgx.Tx, id string) (was string, changed bool, err error) {
		if bad != nil {
			return "", false, bad
		}
		was, err = s.moveIn(ctx, tx, actor, id, name, nil)
		return was, was != name, err
	})
}

// DressAll puts a look on codes, each as one edit, all or none.
func (s *Store) DressAll(ctx context.Context, actor access.Actor, ids []string, l style.Look) (Acted, error) {
	return s.many(ctx, actor, ActLook, ids, func(tx pgx.Tx, id string) (string, bool, error) {
		c, changed, err := s.changeIn(ctx, tx, actor, id, Edit{Base: -1}, act{"wear " + l.Name, s.wearing(l)})
		if err != nil || !changed {
			return "", false, err
		}
		return strconv.FormatInt(c.Rev, 10), true, nil
	})
}

// TakeBack undoes an act, and says on how many codes. A look that was changed since stays.
func (s *Store) TakeBack(ctx context.Context, actor access.Actor, a Acted) (n int, err error) {
	if err := actor.Need(access.Change); err != nil {
		return 0, err
	}
	var ids []string
	for id := range a.Was {
		ids = append(ids, id)
	}
	if ids, err = inOrder(ids); err != nil {
		return 0, err
	}
	if a.Act == ActLook {
		for _, id := range ids {
			rev, err := strconv.ParseInt(a.Was[id], 10, 64)
			if err != nil {
				return n, problem.List{{Code: "many",
					Message: "what was to be undone was cut off on its way; undo it on each desk"}}
			}
			if _, err = s.Undo(ctx, actor, id, Turn{Rev: rev}); errors.Is(err, ErrNothing) {
				continue
			} else if err != nil {
				return n, err
			}
			n++
		}
		return n, nil
	}
	err = s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		for _, id := range ids {
			var err error
			switch was := a.Was[id]; {
			case a.Act == ActCampaign:
				_, err = s.moveIn(ctx, tx, actor, id, was, nil)
			case a.Act == ActState && (was == Active || was == Retired):
				err = s.setState(ctx, tx, actor, id, was)
			default:
				err = problem.List{{Code: "many", Message: "nothing is known of what was to be undone; undo it on each desk"}}
			}
			if err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}
