package scans

import (
	"context"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/scan"
)

// recorded are the columns of a scan.Record, in its order.
const recorded = `id::text, at, kind, link, code, place, does, device, system, languages, country, part, town, accuracy, route,
	goal, signed`

// Events are those after an id and before another, in their order, of some links or of all where links is nil.
func (s *Store) Events(ctx context.Context, actor access.Actor, links []string, after, until string, limit int) (
	out []scan.Record, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT `+recorded+` FROM scans WHERE workspace = $1 AND id > $2::uuid AND id < $3::uuid AND kind <> 'report'
			AND ($4::text[] IS NULL OR link = ANY ($4)) ORDER BY scans.id LIMIT $5`, actor.Workspace, after, until, links, limit).
			Query(into(&out))
	})
	return out, err
}

// Named are the events of some ids, in the order of their times; those that are gone since are left out.
func (s *Store) Named(ctx context.Context, actor access.Actor, ids []string) (out []scan.Record, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT `+recorded+` FROM scans WHERE workspace = $1 AND id = ANY ($2::uuid[]) ORDER BY scans.id`, actor.Workspace,
			ids).Query(into(&out))
	})
	return out, err
}

func into(out *[]scan.Record) func(pgx.Rows) error {
	return func(rows pgx.Rows) (err error) {
		*out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[scan.Record])
		return err
	}
}
