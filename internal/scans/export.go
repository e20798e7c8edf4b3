package scans

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
)

// CSV is every count there is of a workspace, a row for each link and day of UTC.
func (s *Store) CSV(ctx context.Context, actor access.Actor) ([]byte, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Write([]string{"day", "link", "scans"})
	err := s.DB.Trip(ctx, actor.Workspace, func(batch *pgx.Batch) {
		batch.Queue(`SELECT to_char(day, 'YYYY-MM-DD'), link, n::text FROM scan_counts WHERE workspace = $1 ORDER BY day, link`, actor.Workspace).Query(func(rows pgx.Rows) error {
			row := make([]string, 3)
			_, err := pgx.ForEachRow(rows, []any{&row[0], &row[1], &row[2]}, func() error { return w.Write(row) })
			return err
		})
	})
	w.Flush()
	return b.Bytes(), errors.Join(err, w.Error())
}
