package scans

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/db"
)

// Store reads what was counted.
type Store struct {
	DB  *db.DB
	Now func() time.Time
}

// Count is how many people scanned a link: in all, and within the last 24 hours, by quarters of an hour.
type Count struct{ All, Day int64 }

// OfCode counts the scans of a code, by its links.
func (s *Store) OfCode(ctx context.Context, actor access.Actor, code string) (map[string]Count, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	out := map[string]Count{}
	err := s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT link, sum(n)::bigint, coalesce(sum(n) FILTER (WHERE quarter > $3), 0)::bigint FROM scan_quarters
			WHERE workspace = $1 AND code = $2 GROUP BY link`, actor.Workspace, code, s.Now().Add(-24*time.Hour)).
			Query(func(rows pgx.Rows) error {
				var link string
				var c Count
				_, err := pgx.ForEachRow(rows, []any{&link, &c.All, &c.Day}, func() error {
					out[link] = c
					return nil
				})
				return err
			})
	})
	return out, err
}
