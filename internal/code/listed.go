package code

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/patch"
)

// Cursor stands after one code of a listing: the time of its last change, then its id.
type Cursor struct {
	Changed time.Time `json:"c"`
	ID      string    `json:"i"`
}

// Listed gives codes newest change first, from after on; the zero Cursor is the beginning. next is nil on the last page.
func (s *Store) Listed(ctx context.Context, actor access.Actor, state, query string, after Cursor, limit int) (out []*Code,
	next *Cursor, err error) {
	if err := actor.Need(access.Look); err != nil {
		return out, next, err
	}
	workspace := actor.Workspace
	var list []*row
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx,
			`SELECT id, changed_at FROM (`+found(
				query)+`) f WHERE $5 = '' OR (changed_at, id) < ($4, $5) ORDER BY changed_at DESC, id DESC LIMIT $6`,
			workspace, state, patterns(query), after.Changed, after.ID, limit+1)
		if err != nil {
			return err
		}
		found, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (c Cursor, err error) {
			err = r.Scan(&c.ID, &c.Changed)
			return c, err
		})
		if err != nil {
			return err
		}
		if len(found) > limit {
			found = found[:limit]
			next = &found[limit-1]
		}
		for _, f := range found {
			r, err := s.fetch(ctx, tx, workspace, f.ID, asking{Edit: Edit{Base: -1}})
			if err != nil {
				return err
			}
			list = append(list, r)
		}
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	find := s.In(ctx, workspace)
	for _, r := range list {
		c, err := s.open(ctx, actor, r)
		if err == nil {
			err = s.made(workspace, c, find)
		}
		if err != nil {
			return nil, nil, err
		}
		out = append(out, c)
	}
	return out, next, nil
}

// ErrChanged says that a code has changed since the revision a change was meant for.
var ErrChanged = errors.New("the code has changed since")

// PatchAt applies a patch of the job as one edit, only where the code is still at revision rev; −1 is any.
func (s *Store) PatchAt(ctx context.Context, actor access.Actor, id string, p patch.Patch, rev int64) (*Code, error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	if err := few(p); err != nil {
		return nil, err
	}
	return s.change(ctx, actor, id, Edit{Base: -1},
		act{"a change by the API", func(c *Code) (patch.Patch, map[string]*string, error) {
			if rev >= 0 && c.Rev != rev {
				return nil, nil, ErrChanged
			}
			return patched(c, p)
		}})
}
