package scans

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/tally"
)

// Linked is the scans of one link, or of a code, whose link is "": one count a day of a span.
type Linked struct {
	Code, Link string
	Days       tally.Days
}

// Key is a link, by the id of its code and its host and path.
type Key struct{ Code, Link string }

// Which says what figures are asked for: of the links named, else of some codes as a whole, else of all links of a workspace.
type Which struct {
	Links []Key
	Codes []string
}

// sql gives the rows of scan_days d that count, with arguments from number n on. whole is the row of all of a workspace, where
// neither links nor codes are named.
func (w Which) sql(n int, whole bool) (from, where string, args []any) {
	switch {
	case w.Links != nil:
		codes, links := make([]string, len(w.Links)), make([]string, len(w.Links))
		for i, k := range w.Links {
			codes[i], links[i] = k.Code, k.Link
		}
		return fmt.Sprintf(`unnest($%d::text[], $%d::text[]) k(code, link) JOIN scan_days d ON d.code = k.code AND d.link = k.link`,
			n, n+1), "", []any{codes, links}
	case w.Codes != nil:
		return `scan_days d`, fmt.Sprintf(`AND d.code = ANY ($%d) AND d.link = ''`, n), []any{w.Codes}
	case whole:
		return `scan_days d`, `AND d.code = '' AND d.link = ''`, nil
	}
	return `scan_days d`, `AND d.link <> ''`, nil
}

// Daily counts scans day by day. What nobody scanned is not among them.
func (s *Store) Daily(ctx context.Context, actor access.Actor, of Which, span Span) ([]Linked, error) {
	return s.daily(ctx, actor, of, false, span)
}

// All counts the scans of a whole workspace, day by day.
func (s *Store) All(ctx context.Context, actor access.Actor, span Span) (tally.Days, error) {
	list, err := s.daily(ctx, actor, Which{}, true, span)
	switch {
	case err != nil:
		return nil, err
	case len(list) == 0:
		return make(tally.Days, span.Days()), nil
	}
	return list[0].Days, nil
}

func (s *Store) daily(ctx context.Context, actor access.Actor, of Which, whole bool, span Span) (out []Linked, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	m := span.midnights()
	from, where, args := of.sql(5, whole)
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		// What is grouped is narrow: OFFSET 0 keeps the lists out of the sort.
		b.Queue(`SELECT code, link, array_agg(day), array_agg(n), array_agg(early) FROM (
			SELECT d.code, d.link, d.day - $2::date AS day, d.n, coalesce(d.cum[($4::int[])[d.day - $2::date + 1]], 0) AS early
			FROM `+from+` WHERE d.workspace = $1 AND d.day >= $2 AND d.day <= $3 `+where+` OFFSET 0) x GROUP BY code, link`,
			append([]any{actor.Workspace, m.first, m.last, m.gone}, args...)...).Query(func(rows pgx.Rows) error {
			var l Linked
			var days, ns, earlies []int32
			_, err := pgx.ForEachRow(rows, []any{&l.Code, &l.Link, &days, &ns, &earlies}, func() error {
				n, early := make([]int, len(m.gone)), make([]int, len(m.gone))
				for i, day := range days {
					n[day], early[day] = int(ns[i]), int(earlies[i])
				}
				l.Days = m.days(n, early)
				out = append(out, l)
				return nil
			})
			return err
		})
	})
	return out, err
}

// Totals counts the scans of each link of a workspace within a span: whole months, then the days before and after them, then the
// quarters of an hour at either end.
func (s *Store) Totals(ctx context.Context, actor access.Actor, span Span) (map[string]int, error) {
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
		// How many rows a span has differs by a hundred times: a plan for any span suits none.
		b.Queue(`SELECT set_config('plan_cache_mode', 'force_custom_plan', true)`)
		b.Queue(`SELECT link, sum(n)::int FROM (
				SELECT link, n FROM scan_months WHERE workspace = $1 AND month >= $4 AND month < $5
				UNION ALL SELECT link, n FROM scan_counts WHERE workspace = $1 AND day >= $2 AND day < $4
				UNION ALL SELECT link, n FROM scan_counts WHERE workspace = $1 AND day >= $5 AND day < $3
				UNION ALL SELECT link, -cum[$6] FROM scan_days WHERE workspace = $1 AND day = $2 AND $6::int > 0
				UNION ALL SELECT link, cum[$7] FROM scan_days WHERE workspace = $1 AND day = $3 AND $7::int > 0) x
			WHERE link <> '' GROUP BY link`, actor.Workspace, first, last, from, to, before, after).
			Query(func(rows pgx.Rows) error {
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
func (s *Store) Led(ctx context.Context, actor access.Actor, links []Key, since []time.Time, span Span) ([]int, error) {
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
	from, where, args := of.sql(4, true)
	return s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT d.day, d.cum FROM `+from+` WHERE d.workspace = $1 AND d.day >= $2 AND d.day <= $3 `+where,
			append([]any{actor.Workspace, m.first, m.last}, args...)...).
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
