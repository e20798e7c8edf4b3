package scans

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/db"
	"sodrik/internal/seal"
)

// Store reads what was counted.
type Store struct {
	DB   *db.DB
	Now  func() time.Time
	Seal *seal.Box // of what overviews stand at; needed where those are shared
}

// Count is how many people scanned a link: in all, and within the last 24 hours, by quarters of an hour.
type Count struct{ All, Day int64 }

// OfCodes counts the scans of several codes.
func (s *Store) OfCodes(ctx context.Context, actor access.Actor, codes []string) (map[string]Count, error) {
	return s.counted(ctx, actor, "code", codes)
}

// OfCode counts the scans of a code, by its links.
func (s *Store) OfCode(ctx context.Context, actor access.Actor, code string) (map[string]Count, error) {
	return s.counted(ctx, actor, "link", []string{code})
}

// counted counts the scans of codes by a column: all by months, the last 24 hours by whole quarters of an hour.
func (s *Store) counted(ctx context.Context, actor access.Actor, by string, codes []string) (map[string]Count, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	out := map[string]Count{}
	day, gone := moment(s.Now().Add(-24*time.Hour + quarter - 1))
	err := s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT `+by+`, sum(n)::bigint, 0::bigint FROM scan_months WHERE workspace = $1 AND code = ANY ($2) GROUP BY 1
			UNION ALL SELECT `+by+`, 0, sum(n - CASE WHEN day = $3 THEN coalesce(cum[$4], 0) ELSE 0 END)::bigint
			FROM scan_days WHERE workspace = $1 AND code = ANY ($2) AND link <> '' AND day >= $3 GROUP BY 1`, actor.Workspace, codes, day, gone).
			Query(func(rows pgx.Rows) error {
				var key string
				var c Count
				_, err := pgx.ForEachRow(rows, []any{&key, &c.All, &c.Day}, func() error {
					was := out[key]
					out[key] = Count{was.All + c.All, was.Day + c.Day}
					return nil
				})
				return err
			})
	})
	return out, err
}
