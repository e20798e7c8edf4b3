package scans

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
)

// Kept is what was kept of one who asked for a link, without what tells phones apart.
type Kept struct {
	ID                            string
	At                            time.Time
	Kind, Link, Code, Place, Does string
	Device, System                string
	Languages                     []string
	Country, Part, Town           string
	Accuracy                      int
	Route, Goal                   string
	Signed                        bool
}

// EventColumns are the names of what Row gives.
var EventColumns = []string{"id", "at", "kind", "link", "code", "place", "does", "device", "system", "languages", "country",
	"part",
	"town", "accuracy_km", "route", "goal", "signed"}

// Row gives an event as a row of a table.
func (k Kept) Row() []any {
	return []any{k.ID, k.At.UTC().Format(time.RFC3339), k.Kind, k.Link, k.Code, k.Place, k.Does, k.Device, k.System, k.Languages,
		k.Country, k.Part, k.Town, k.Accuracy, k.Route, k.Goal, k.Signed}
}

// Events are those after an id and before another, in their order, of some links or of all where links is nil.
func (s *Store) Events(ctx context.Context, actor access.Actor, links []string, after, until string, limit int) (out []Kept,
	err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT id::text, at, kind, link, code, place, does, device, system, languages, country, part, town, accuracy,
			route, goal, signed FROM scans WHERE workspace = $1 AND id > $2::uuid AND id < $3::uuid AND kind <> 'report'
			AND ($4::text[] IS NULL OR link = ANY ($4)) ORDER BY scans.id LIMIT $5`, actor.Workspace, after, until, links, limit).
			Query(func(rows pgx.Rows) (err error) {
				out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Kept])
				return err
			})
	})
	return out, err
}
