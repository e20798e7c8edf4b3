package scans

import (
	"context"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
)

// Seen is one scan, as the live strip shows it.
type Seen struct {
	ID                                string
	At                                time.Time
	Link, Code, Place, Town, Language string
	Name                              string // of the code, "" where there is none any more
}

// ahead is how far clocks of machines may differ: what claims to come later is shown once its time has come.
const ahead = time.Minute

// Latest are the scans of people after another, by its id, in their order; after "" the newest there are, the newest last.
func (s *Store) Latest(ctx context.Context, actor access.Actor, after string, limit int) (out []Seen, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	order := "ASC"
	if after == "" {
		order, after = "DESC", firstID(s.Now().AddDate(0, 0, -1))
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT id::text, at, link, code, place, town, coalesce(split_part(languages[1], '-', 1), ''),
			coalesce((SELECT name FROM codes WHERE codes.workspace = scans.workspace AND codes.id = scans.code), '') FROM scans
			WHERE workspace = $1 AND id > $2::uuid AND id < $4::uuid AND kind = 'scan' ORDER BY scans.id `+order+` LIMIT $3`,
			actor.Workspace, after, limit, firstID(s.Now().Add(ahead))).
			Query(func(rows pgx.Rows) (err error) {
				out, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Seen])
				return err
			})
	})
	if order == "DESC" {
		slices.Reverse(out)
	}
	return out, err
}

// From is the id before which nothing after a time lies.
func From(t time.Time) string { return firstID(t) }

// Since is how many people scanned since two times, the first at a full quarter of an hour, such as a midnight.
func (s *Store) Since(ctx context.Context, actor access.Actor, early, late time.Time) (fromEarly, fromLate int, err error) {
	if err := actor.Need(access.Look); err != nil {
		return 0, 0, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		day, gone := moment(early)
		b.Queue(`SELECT coalesce(sum(n - CASE WHEN day = $2 THEN coalesce(cum[$3], 0) ELSE 0 END), 0)::int FROM scan_days
			WHERE workspace = $1 AND code = '' AND link = '' AND day >= $2 AND day <= $4`, actor.Workspace, day, gone,
			s.Now().Add(ahead).UTC().Truncate(24*time.Hour)).QueryRow(func(r pgx.Row) error { return r.Scan(&fromEarly) })
		b.Queue(
			`SELECT count(*)::int FROM scans WHERE workspace = $1 AND id >= $2::uuid AND id < $3::uuid AND kind = 'scan'`,
			actor.Workspace,
			firstID(late),
			firstID(s.Now().Add(ahead)),
		).QueryRow(func(r pgx.Row) error { return r.Scan(&fromLate) })
	})
	return fromEarly, fromLate, err
}
