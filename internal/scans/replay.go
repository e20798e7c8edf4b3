package scans

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
)

// Asker is what was kept of somebody who scanned, as far as routes ask for it.
type Asker struct {
	At                  time.Time
	Place, System       string
	Languages           []string
	Country, Part, Town string
	Bare                bool // nothing of whom was kept
	Route               string
	Draw                float64 // 0 where none was drawn
}

// Replayed is how many of the latest scans are gone through at most.
const Replayed = 10_000

// Askers are those who scanned links since a time, the latest Replayed of them.
func (s *Store) Askers(ctx context.Context, actor access.Actor, links []string, since time.Time) (out []Asker, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT at, place, system, languages, country, part, town, bare, route, draw FROM scans WHERE workspace = $1
			AND link = ANY ($2) AND id >= $3::uuid AND kind = 'scan' ORDER BY id DESC LIMIT $4`, actor.Workspace, links, firstID(since),
			Replayed).
			Query(func(rows pgx.Rows) (err error) {
				out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Asker])
				return err
			})
	})
	return out, err
}
