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

// OfCodes counts the scans of several codes.
func (s *Store) OfCodes(ctx context.Context, actor access.Actor, codes []string) (map[string]Count, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	return s.counted(ctx, actor, `SELECT code, sum(n)::bigint, coalesce(sum(n) FILTER (WHERE quarter > $3), 0)::bigint
		FROM scan_quarters WHERE workspace = $1 AND code = ANY ($2) GROUP BY code`, codes)
}

// OfCode counts the scans of a code, by its links.
func (s *Store) OfCode(ctx context.Context, actor access.Actor, code string) (map[string]Count, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	return s.counted(ctx, actor, `SELECT link, sum(n)::bigint, coalesce(sum(n) FILTER (WHERE quarter > $3), 0)::bigint
		FROM scan_quarters WHERE workspace = $1 AND code = $2 GROUP BY link`, code)
}

// counted asks for counts by what stands in the first column; the second argument of the query is of, the third since when a
// day counts.
func (s *Store) counted(ctx context.Context, actor access.Actor, sql string, of any) (map[string]Count, error) {
	out := map[string]Count{}
	err := s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(sql, actor.Workspace, of, s.Now().Add(-24*time.Hour)).Query(func(rows pgx.Rows) error {
			var key string
			var c Count
			_, err := pgx.ForEachRow(rows, []any{&key, &c.All, &c.Day}, func() error {
				out[key] = c
				return nil
			})
			return err
		})
	})
	return out, err
}
