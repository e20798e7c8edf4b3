// Package housestyle keeps the house style of each workspace: it reads and changes it as a whole, one change after the other.
// What a house style is, and what may stand in it, is core/style's.
package housestyle

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/db"
)

// ErrStale is the error of a change to a house style that somebody has changed since.
var ErrStale = errors.New("somebody has changed the house style since; look at it again and repeat the change")

// Store carries out the use cases. Every method takes the workspace first.
type Store struct {
	DB  *db.DB
	Now func() time.Time
	// Changed has its say within the transaction of every change; nil for nobody
	Changed func(ctx context.Context, tx pgx.Tx, workspace string) error
}

// Read gives the house style within a transaction, an empty one where there is none, and its revision.
func Read(ctx context.Context, tx pgx.Tx, workspace string) (*style.Style, int64, error) {
	var text []byte
	var rev int64
	err := tx.QueryRow(ctx, `SELECT style, rev FROM house_styles WHERE workspace = $1`, workspace).Scan(&text, &rev)
	if errors.Is(err, pgx.ErrNoRows) {
		return &style.Style{}, 0, nil
	}
	if err != nil {
		return nil, 0, err
	}
	s, problems := style.Parse(text)
	if len(problems) > 0 {
		return nil, 0, fmt.Errorf("the stored house style cannot be read: %w", problems)
	}
	return s, rev, nil
}

// Get gives the house style and its revision.
func (s *Store) Get(ctx context.Context, actor access.Actor) (h *style.Style, rev int64, err error) {
	if err := actor.Need(access.Files); err != nil {
		return h, rev, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		h, rev, err = Read(ctx, tx, workspace)
		return err
	})
	return h, rev, err
}

// Change changes the house style. rev is the revision that the change is based on, −1 for any. What must not stand in a house
// style is a problem.List, and nothing is changed; a change that does nothing is no new revision. What belongs to the change
// is done by after, in the same transaction: all of it, or nothing.
func (s *Store) Change(ctx context.Context, actor access.Actor, rev int64, change func(*style.Style) error,
	after ...func(tx pgx.Tx, was, now *style.Style) error) (h *style.Style, err error) {
	if err := actor.Need(access.Change); err != nil {
		return h, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('house style ' || $1, 0))`,
			workspace); err != nil {
			return err
		}
		old, now, err := Read(ctx, tx, workspace)
		if err != nil {
			return err
		}
		if rev >= 0 && rev != now {
			return ErrStale
		}
		before, err := json.Marshal(old)
		if err != nil {
			return err
		}
		if err := change(old); err != nil {
			return err
		}
		text, err := json.Marshal(old)
		if err != nil {
			return err
		}
		again, problems := style.Parse(text)
		if len(problems) > 0 {
			return problems
		}
		h = again
		if string(text) == string(before) {
			return nil
		}
		was, problems := style.Parse(before)
		if len(problems) > 0 {
			return problems
		}
		if err := s.keep(ctx, tx, actor, now+1, text, style.Changed(was, again)); err != nil {
			return err
		}
		if s.Changed != nil {
			if err := s.Changed(ctx, tx, workspace); err != nil {
				return err
			}
		}
		for _, f := range after {
			if err := f(tx, was, again); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return h, nil
}

// keep stores a revision, and beside it in the history.
func (s *Store) keep(ctx context.Context, tx pgx.Tx, actor access.Actor, rev int64, text []byte, words string) error {
	workspace := actor.Workspace
	if _, err := tx.Exec(ctx, `INSERT INTO house_styles (workspace, rev, style, at, who, who_id) VALUES ($1, $2, $3, $4, $5, $6)
		ON CONFLICT (workspace) DO UPDATE SET rev = excluded.rev, style = excluded.style, at = excluded.at, who = excluded.who,
		who_id = excluded.who_id`, workspace, rev, text, s.Now(), actor.Name, actor.ID); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `INSERT INTO house_style_history (workspace, rev, style, words, at, who, who_id)
		VALUES ($1, $2, $3, $4, $5, $6, $7)`, workspace, rev, text, words, s.Now(), actor.Name, actor.ID)
	return err
}

// Entry is one change of a house style.
type Entry struct {
	Rev   int64
	Words string // what was changed: "colour Pine changed"; "" of what was there before changes were kept
	Who   string
	At    time.Time
}

// History lists the changes of a house style, newest first, from before on (0 is the newest), and says whether there are
// older ones.
func (s *Store) History(ctx context.Context, actor access.Actor, before int64, most int) (out []Entry, more bool, err error) {
	if err := actor.Need(access.Look); err != nil {
		return out, more, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `SELECT rev, words, who, at FROM house_style_history
			WHERE workspace = $1 AND ($2 = 0 OR rev < $2) ORDER BY rev DESC LIMIT $3`, workspace, before, most+1)
		if err == nil {
			out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Entry])
		}
		return err
	})
	if more = len(out) > most; more {
		out = out[:most]
	}
	return out, more, err
}

// ErrNoEntry says that there is no such change.
var ErrNoEntry = errors.New("there is no such change of the house style")

// Before gives the house style as it was before a change.
func (s *Store) Before(ctx context.Context, actor access.Actor, rev int64) (h *style.Style, err error) {
	if err := actor.Need(access.Look); err != nil {
		return h, err
	}
	workspace := actor.Workspace
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		var there bool
		var text []byte
		err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM house_style_history WHERE workspace = $1 AND rev = $2),
			(SELECT style FROM house_style_history WHERE workspace = $1 AND rev < $2 ORDER BY rev DESC LIMIT 1)`, workspace, rev).
			Scan(&there, &text)
		switch {
		case err != nil:
			return err
		case !there:
			return ErrNoEntry
		case text == nil:
			h = &style.Style{}
			return nil
		}
		var problems problem.List
		if h, problems = style.Parse(text); len(problems) > 0 {
			return fmt.Errorf("a house style of the history cannot be read: %w", problems)
		}
		return nil
	})
	return h, err
}
