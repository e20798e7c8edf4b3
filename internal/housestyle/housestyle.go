// Package housestyle keeps the house style of each workspace: it reads and changes it as a whole, one change after the other. What a house style
// is, and what may stand in it, is core/style's.
package housestyle

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/style"
	"sodrik/internal/db"
)

// ErrStale is the error of a change to a house style that somebody has changed since.
var ErrStale = errors.New("somebody has changed the house style since; look at it again and repeat the change")

// Store carries out the use cases. Every method takes the workspace first.
type Store struct {
	DB  *db.DB
	Now func() time.Time
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
func (s *Store) Get(ctx context.Context, workspace string) (h *style.Style, rev int64, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		h, rev, err = Read(ctx, tx, workspace)
		return err
	})
	return h, rev, err
}

// Change changes the house style. rev is the revision that the change is based on, −1 for any. What must not stand in a house style is a
// problem.List, and nothing is changed; a change that does nothing is no new revision.
func (s *Store) Change(ctx context.Context, workspace string, rev int64, who string, change func(*style.Style) error) (h *style.Style, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('house style ' || $1, 0))`, workspace); err != nil {
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
		_, err = tx.Exec(ctx, `INSERT INTO house_styles (workspace, rev, style, at, who) VALUES ($1, 1, $2, $3, $4)
			ON CONFLICT (workspace) DO UPDATE SET rev = house_styles.rev + 1, style = excluded.style, at = excluded.at, who = excluded.who`, workspace, text, s.Now(), who)
		return err
	})
	if err != nil {
		return nil, err
	}
	return h, nil
}
