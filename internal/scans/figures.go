package scans

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/tally"
)

// Span is days in a zone, the first and the day after the last.
type Span struct {
	From, To time.Time // midnights in Zone
	Zone     *time.Location
}

// Days is how many days there are in a span.
func (s Span) Days() (n int) {
	for at := s.From; at.Before(s.To); at = at.AddDate(0, 0, 1) {
		n++
	}
	return n
}

// Before is the span of as many days that ends where this one begins.
func (s Span) Before() Span {
	return Span{s.From.AddDate(0, 0, -s.Days()), s.From, s.Zone}
}

// Linked is the scans of one link, one count a day of a span.
type Linked struct {
	Code, Link string
	Days       tally.Days
}

// Daily counts the scans of each link of a workspace, day by day; code is one code, "" for all. Links that nobody scanned are not
// among them.
func (s *Store) Daily(ctx context.Context, actor access.Actor, code string, span Span) (out []Linked, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	days := span.Days()
	at := map[string]int{}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT code, link, (quarter AT TIME ZONE $4)::date - $5::date, sum(n)::int FROM scan_quarters
			WHERE workspace = $1 AND quarter >= $2 AND quarter < $3 AND ($6 = '' OR code = $6) GROUP BY 1, 2, 3`, actor.Workspace,
			span.From, span.To, span.Zone.String(), span.From.Format("2006-01-02"), code).Query(func(rows pgx.Rows) error {
			var l Linked
			var day, n int
			_, err := pgx.ForEachRow(rows, []any{&l.Code, &l.Link, &day, &n}, func() error {
				i, known := at[l.Code+" "+l.Link]
				if !known {
					i = len(out)
					at[l.Code+" "+l.Link] = i
					out = append(out, Linked{l.Code, l.Link, make(tally.Days, days)})
				}
				if day >= 0 && day < days {
					out[i].Days[day] += n
				}
				return nil
			})
			return err
		})
	})
	return out, err
}

// Part is how many scans have something in common, such as a town; "" is unknown.
type Part struct {
	Name string
	N    int
}

// Parts are the scans of a link within a span, by what is known of them, each the most frequent first.
type Parts struct {
	Towns, Systems, Languages, Hours []Part
}

// maxParts is how many of each are told apart; others stand together at the end.
const maxParts = 6

// OfLink says what the scans of a link were.
func (s *Store) OfLink(ctx context.Context, actor access.Actor, link string, span Span) (p Parts, err error) {
	if err := actor.Need(access.Look); err != nil {
		return p, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		for _, of := range []struct {
			to  *[]Part
			sql string
		}{{&p.Towns, "town"}, {&p.Systems, "CASE WHEN device = 'tablet' THEN 'tablet' ELSE system END"},
			{&p.Languages, "coalesce(split_part(languages[1], '-', 1), '')"},
			{&p.Hours, "lpad(extract(hour FROM at AT TIME ZONE $5)::text, 2, '0')"}} {
			b.Queue(`SELECT `+of.sql+`, count(*)::int FROM scans WHERE workspace = $1 AND link = $2 AND id >= $3::uuid AND id < $4::uuid
				AND kind = 'scan' AND $5 <> '' GROUP BY 1 ORDER BY 2 DESC, 1`, actor.Workspace, link, first(span.From), first(span.To),
				span.Zone.String()).Query(func(rows pgx.Rows) (err error) {
				*of.to, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Part])
				return err
			})
		}
	})
	for _, list := range []*[]Part{&p.Towns, &p.Systems, &p.Languages} {
		if l := *list; len(l) > maxParts {
			rest := Part{Name: "others"}
			for _, x := range l[maxParts-1:] {
				rest.N += x.N
			}
			*list = append(l[:maxParts-1:maxParts-1], rest)
		}
	}
	return p, err
}

// Apart is how many were no scans of people within a span: robots, previews, looks at where it leads.
func (s *Store) Apart(ctx context.Context, actor access.Actor, span Span) (n int, err error) {
	if err := actor.Need(access.Look); err != nil {
		return 0, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT count(*)::int FROM scans WHERE workspace = $1 AND id >= $2::uuid AND id < $3::uuid AND kind IN ('robot', 'head')`,
			actor.Workspace, first(span.From), first(span.To)).QueryRow(func(r pgx.Row) error { return r.Scan(&n) })
	})
	return n, err
}

// Seen is one scan, as the live strip shows it.
type Seen struct {
	ID                                string
	At                                time.Time
	Link, Code, Place, Town, Language string
}

// Latest are the scans of people after another, by its id, in their order; after "" the newest there are, the newest last.
func (s *Store) Latest(ctx context.Context, actor access.Actor, after string, limit int) (out []Seen, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	order := "ASC"
	if after == "" {
		order, after = "DESC", first(s.Now().AddDate(0, 0, -1))
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT id::text, at, link, code, place, town, coalesce(split_part(languages[1], '-', 1), '') FROM scans
			WHERE workspace = $1 AND id > $2::uuid AND kind = 'scan' ORDER BY id `+order+` LIMIT $3`, actor.Workspace, after, limit).
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
func From(t time.Time) string { return first(t) }

// Since is how many people scanned since two times.
func (s *Store) Since(ctx context.Context, actor access.Actor, early, late time.Time) (fromEarly, fromLate int, err error) {
	if err := actor.Need(access.Look); err != nil {
		return 0, 0, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT count(*)::int, count(*) FILTER (WHERE id >= $3::uuid)::int FROM scans
			WHERE workspace = $1 AND id >= $2::uuid AND kind = 'scan'`, actor.Workspace, first(early), first(late)).
			QueryRow(func(r pgx.Row) error { return r.Scan(&fromEarly, &fromLate) })
	})
	return fromEarly, fromLate, err
}

// CSV is every count there is of a workspace, a row for each link and day of UTC.
func (s *Store) CSV(ctx context.Context, actor access.Actor) ([]byte, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Write([]string{"day", "link", "scans"})
	err := s.DB.Trip(ctx, actor.Workspace, func(batch *pgx.Batch) {
		batch.Queue(`SELECT to_char(quarter AT TIME ZONE 'UTC', 'YYYY-MM-DD'), link, sum(n)::text FROM scan_quarters WHERE workspace = $1
			GROUP BY 1, 2 ORDER BY 1, 2`, actor.Workspace).Query(func(rows pgx.Rows) error {
			row := make([]string, 3)
			_, err := pgx.ForEachRow(rows, []any{&row[0], &row[1], &row[2]}, func() error { return w.Write(row) })
			return err
		})
	})
	w.Flush()
	return b.Bytes(), errors.Join(err, w.Error())
}
