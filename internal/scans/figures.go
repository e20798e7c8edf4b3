package scans

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/tally"
)

// Linked is the scans of one link, one count a day of a span.
type Linked struct {
	Code, Link string
	Days       tally.Days
}

// Which says of which links figures are asked for; nil is all.
type Which struct{ Codes, Links []string }

// Daily counts the scans of links of a workspace, day by day. Links that nobody scanned are not among them.
func (s *Store) Daily(ctx context.Context, actor access.Actor, of Which, span Span) ([]Linked, error) {
	return s.daily(ctx, actor, `link <> '' AND ($5::text[] IS NULL OR code = ANY ($5)) AND ($6::text[] IS NULL OR link = ANY ($6))`,
		span, of.Codes, of.Links)
}

// All counts the scans of a whole workspace, day by day.
func (s *Store) All(ctx context.Context, actor access.Actor, span Span) (tally.Days, error) {
	list, err := s.daily(ctx, actor, `code = '' AND link = ''`, span)
	if err != nil || len(list) == 0 {
		return make(tally.Days, span.Days()), err
	}
	return list[0].Days, nil
}

func (s *Store) daily(ctx context.Context, actor access.Actor, where string, span Span, args ...any) (out []Linked, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	m := span.midnights()
	type counts struct{ n, early []int }
	var by []counts
	at := map[string]int{}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT code, link, day - $2::date, n, coalesce(cum[($4::int[])[day - $2::date + 1]], 0) FROM scan_days
			WHERE workspace = $1 AND day >= $2 AND day <= $3 AND `+where, append([]any{actor.Workspace, m.first, m.last, m.gone},
			args...)...).Query(func(rows pgx.Rows) error {
			var l Linked
			var day, n, early int
			_, err := pgx.ForEachRow(rows, []any{&l.Code, &l.Link, &day, &n, &early}, func() error {
				i, known := at[l.Code+" "+l.Link]
				if !known {
					i = len(out)
					at[l.Code+" "+l.Link] = i
					out = append(out, Linked{Code: l.Code, Link: l.Link})
					by = append(by, counts{make([]int, len(m.gone)), make([]int, len(m.gone))})
				}
				by[i].n[day], by[i].early[day] = n, early
				return nil
			})
			return err
		})
	})
	for i := range out {
		out[i].Days = m.days(by[i].n, by[i].early)
	}
	return out, err
}

// Totals counts the scans of each link within a span, of some codes, nil for all: whole months, then the days before and after
// them, then the quarters of an hour at either end.
func (s *Store) Totals(ctx context.Context, actor access.Actor, codes []string, span Span) (map[string]int, error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	first, before := moment(span.From)
	last, after := moment(span.To)
	from := time.Date(first.Year(), first.Month(), 1, 0, 0, 0, 0, time.UTC)
	if from.Before(first) {
		from = from.AddDate(0, 1, 0)
	}
	to := time.Date(last.Year(), last.Month(), 1, 0, 0, 0, 0, time.UTC)
	if to.Before(from) { // no whole month
		from, to = last, last
	}
	out := map[string]int{}
	err := s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT link, sum(n)::int FROM (
				SELECT link, code, n FROM scan_months WHERE workspace = $1 AND month >= $4 AND month < $5
				UNION ALL SELECT link, code, n FROM scan_days WHERE workspace = $1 AND day >= $2 AND day < $4
				UNION ALL SELECT link, code, n FROM scan_days WHERE workspace = $1 AND day >= $5 AND day < $3
				UNION ALL SELECT link, code, -cum[$6] FROM scan_days WHERE workspace = $1 AND day = $2 AND $6::int > 0
				UNION ALL SELECT link, code, cum[$7] FROM scan_days WHERE workspace = $1 AND day = $3 AND $7::int > 0) x
			WHERE link <> '' AND ($8::text[] IS NULL OR code = ANY ($8)) GROUP BY link`, actor.Workspace, first, last, from, to,
			before, after, codes).Query(func(rows pgx.Rows) error {
			var link string
			var n int
			_, err := pgx.ForEachRow(rows, []any{&link, &n}, func() error {
				out[link] = n
				return nil
			})
			return err
		})
	})
	return out, err
}

// Week is how many scans each hour of each weekday had, Sunday first, in the zone of a span.
type Week [7][24]int

// Hours counts the scans of links within a span by weekday and hour; no codes and no links are the whole workspace.
func (s *Store) Hours(ctx context.Context, actor access.Actor, of Which, span Span) (w Week, err error) {
	return w, s.quarters(ctx, actor, of, span, func(at time.Time, n int) {
		local := at.In(span.Zone)
		w[local.Weekday()][local.Hour()] += n
	})
}

// Led counts the scans of links within a span from each of some moments to the next, the latest first, to the quarter of an
// hour.
func (s *Store) Led(ctx context.Context, actor access.Actor, links []string, since []time.Time, span Span) ([]int, error) {
	out := make([]int, len(since))
	return out, s.quarters(ctx, actor, Which{Links: links}, span, func(at time.Time, n int) {
		for i, t := range since {
			if !t.Truncate(quarter).After(at) {
				out[i] += n
				return
			}
		}
	})
}

// quarters tells of each quarter of an hour of a span with scans of links how many there were.
func (s *Store) quarters(ctx context.Context, actor access.Actor, of Which, span Span, tell func(at time.Time, n int)) error {
	if err := actor.Need(access.Look); err != nil {
		return err
	}
	m := span.midnights()
	where, args := `link <> '' AND ($4::text[] IS NULL OR code = ANY ($4)) AND ($5::text[] IS NULL OR link = ANY ($5))`,
		[]any{actor.Workspace, m.first, m.last, of.Codes, of.Links}
	if of.Codes == nil && of.Links == nil {
		where, args = `code = '' AND link = ''`, args[:3]
	}
	return s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT day, cum FROM scan_days WHERE workspace = $1 AND day >= $2 AND day <= $3 AND `+where, args...).
			Query(func(rows pgx.Rows) error {
				var day time.Time
				var cum []int32
				_, err := pgx.ForEachRow(rows, []any{&day, &cum}, func() error {
					was := int32(0)
					for i, c := range cum {
						if at := day.Add(time.Duration(i) * quarter); c > was && !at.Before(span.From) && at.Before(span.To) {
							tell(at, int(c-was))
						}
						was = c
					}
					return nil
				})
				return err
			})
	})
}
