package scans

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
)

// Scope is whose scans are told apart by what is known of them: a workspace's, a code's, a link's, a campaign's.
type Scope string

// Workspace is the scope of all scans of a workspace.
const Workspace Scope = ""

// CodeScope is that of a code.
func CodeScope(id string) Scope { return Scope("code:" + id) }

// LinkScope is that of a link, by its host and path.
func LinkScope(link string) Scope { return Scope("link:" + link) }

// CampaignScope is that of a campaign, by its id: of the codes that were in it on the day.
func CampaignScope(id string) Scope { return Scope("campaign:" + id) }

// Part is how many scans have something in common, such as a town; "" is unknown.
type Part struct {
	Name string
	N    int
}

// Parts are scans within a span, by what is known of them, each the most frequent first.
type Parts struct {
	Towns, Systems, Languages []Part
	Apart                     []Part      // who was no person: robot, head, where
	Phones                    map[int]int // different phones of each day of UTC, by its index from that of the span's first day
	// Whole says that a day at an end of the span is one of UTC, whose events are deleted.
	Whole bool
}

// dimensions of a scan, by their names in what is folded.
var dimensions = []struct {
	name, sql string
	of        func(p *Parts) *[]Part
}{
	{"town", "town", func(p *Parts) *[]Part { return &p.Towns }},
	{"system", "CASE WHEN device = 'tablet' THEN 'tablet' ELSE system END", func(p *Parts) *[]Part { return &p.Systems }},
	{"language", "coalesce(split_part(languages[1], '-', 1), '')", func(p *Parts) *[]Part { return &p.Languages }},
}

// apartKinds are those of events that are no scans of people and are no reports.
const apartKinds = `('robot', 'head', 'where')`

// maxParts is how many of each are told apart; others stand together at the end.
const maxParts = 6

// others stands for what is left over; no town or language has this name.
const others = "others"

// Parts says what scans of a scope were. Days that are folded are read from there, others and what is cut off at either end
// from the events.
func (s *Store) Parts(ctx context.Context, actor access.Actor, of Scope, span Span) (p Parts, err error) {
	if err := actor.Need(access.Look); err != nil {
		return p, err
	}
	var unfolded []time.Time
	kept := time.Time{}
	sums := newSums(span)
	first, before := moment(span.From)
	last, after := moment(span.To)
	whole, end := first, last // days of UTC that lie within the span, and the end of those that have a part in it
	if before > 0 {
		whole = first.AddDate(0, 0, 1)
	}
	if after > 0 {
		end = last.AddDate(0, 0, 1)
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT day FROM scan_unfolded WHERE workspace = $1 AND day >= $2 AND day <= $3`, actor.Workspace, first, last).
			Query(func(rows pgx.Rows) (err error) {
				unfolded, err = pgx.CollectRows(rows, pgx.RowTo[time.Time])
				return err
			})
		b.Queue(`SELECT coalesce(max(before), '0001-01-01') FROM scan_deletions WHERE workspace = $1`, actor.Workspace).
			QueryRow(func(r pgx.Row) error { return r.Scan(&kept) })
		b.Queue(`SELECT day, parts, phones FROM scan_parts f WHERE workspace = $1 AND scope = $2 AND day >= $3 AND day < $4
			AND NOT EXISTS (SELECT 1 FROM scan_unfolded u WHERE u.workspace = $1 AND u.day = f.day)
			AND ((day >= $5 AND day < $6) OR day < (SELECT max(before) FROM scan_deletions WHERE workspace = $1))`, actor.Workspace,
			string(of), first, end, whole, last).Query(sums.folded)
	})
	if err != nil {
		return p, err
	}
	var from, to []string
	add := func(f, t time.Time) {
		if f.Before(span.From) {
			f = span.From
		}
		if t.After(span.To) {
			t = span.To
		}
		if f.Before(t) {
			from, to = append(from, firstID(f)), append(to, firstID(t))
		}
	}
	for _, day := range unfolded {
		add(day, day.AddDate(0, 0, 1))
	}
	ends := func(day time.Time, cut bool) {
		switch {
		case !cut || slices.ContainsFunc(unfolded, day.Equal):
		case day.Before(kept):
			p.Whole = true
		default:
			add(day, day.AddDate(0, 0, 1))
		}
	}
	ends(first, before > 0)
	if !last.Equal(first) {
		ends(last, after > 0)
	}
	if len(from) > 0 {
		err = s.unfoldedParts(ctx, actor.Workspace, of, from, to, sums)
	}
	sums.fill(&p)
	return p, err
}

// unfoldedParts adds up events between ids.
func (s *Store) unfoldedParts(ctx context.Context, workspace string, of Scope, from, to []string, sums *sums) error {
	join, arg := scopeSQL(of)
	return s.DB.Trip(ctx, workspace, func(b *pgx.Batch) {
		for i := range from {
			args := append([]any{workspace, from[i], to[i]}, arg...)
			// Of thousands of events few differ: those that do not are counted before they are taken apart.
			columns, values := "", ""
			for _, d := range dimensions {
				columns += ", " + d.sql + " AS of_" + d.name
				values += "('" + d.name + "', CASE WHEN kind = 'scan' THEN of_" + d.name + " END), "
			}
			b.Queue(`SELECT d.name, d.key, sum(alike)::int FROM (SELECT s.kind`+columns+`, count(*) AS alike FROM scans s `+join+`
				WHERE s.workspace = $1 AND s.id >= $2::uuid AND s.id < $3::uuid GROUP BY kind, of_town, of_system, of_language) s
				CROSS JOIN LATERAL (VALUES `+values+`('apart', CASE WHEN kind IN `+apartKinds+` THEN kind END)) d(name, key)
				WHERE d.key IS NOT NULL GROUP BY 1, 2`, args...).Query(sums.counted)
			b.Queue(`SELECT day, count(*)::int FROM (SELECT DISTINCT (s.at AT TIME ZONE 'UTC')::date AS day, s.phone FROM scans s `+join+`
				WHERE s.workspace = $1 AND s.id >= $2::uuid AND s.id < $3::uuid AND s.kind = 'scan' AND s.phone <> '') x
				GROUP BY day`, args...).Query(sums.phoned)
		}
	})
}

// scopeSQL narrows scans s to a scope, whose argument is $4.
func scopeSQL(of Scope) (join string, args []any) {
	kind, id, _ := cut(of)
	switch kind {
	case "code":
		return `JOIN (SELECT $4::text AS is) o ON s.code = o.is`, []any{id}
	case "link":
		return `JOIN (SELECT $4::text AS is) o ON s.link = o.is`, []any{id}
	case "campaign":
		return `JOIN codes o ON o.workspace = s.workspace AND o.id = s.code AND o.campaign = $4`, []any{id}
	}
	return "", nil
}

func cut(of Scope) (kind, id string, ok bool) {
	for i := range of {
		if of[i] == ':' {
			return string(of[:i]), string(of[i+1:]), true
		}
	}
	return "", "", of == Workspace
}

// sums add up what scans were.
type sums struct {
	span   Span
	by     map[string]map[string]int
	phones map[int]int
}

func newSums(span Span) *sums {
	return &sums{span, map[string]map[string]int{}, map[int]int{}}
}

func (s *sums) add(dimension, key string, n int) {
	if s.by[dimension] == nil {
		s.by[dimension] = map[string]int{}
	}
	s.by[dimension][key] += n
}

func (s *sums) index(day time.Time) int {
	first, _ := moment(s.span.From)
	return int(day.Sub(first) / (24 * time.Hour))
}

func (s *sums) folded(rows pgx.Rows) error {
	var day time.Time
	var text []byte
	var phones int
	_, err := pgx.ForEachRow(rows, []any{&day, &text, &phones}, func() error {
		var parts map[string]map[string]int
		if err := json.Unmarshal(text, &parts); err != nil {
			return err
		}
		for d, keys := range parts {
			for k, n := range keys {
				s.add(d, k, n)
			}
		}
		s.phones[s.index(day)] = phones
		return nil
	})
	return err
}

func (s *sums) counted(rows pgx.Rows) error {
	var d, k string
	var n int
	_, err := pgx.ForEachRow(rows, []any{&d, &k, &n}, func() error {
		s.add(d, k, n)
		return nil
	})
	return err
}

func (s *sums) phoned(rows pgx.Rows) error {
	var day time.Time
	var n int
	_, err := pgx.ForEachRow(rows, []any{&day, &n}, func() error {
		s.phones[s.index(day)] = n
		return nil
	})
	return err
}

func (s *sums) fill(p *Parts) {
	for _, d := range dimensions {
		*d.of(p) = most(s.by[d.name])
	}
	p.Apart = most(s.by["apart"])
	p.Phones = s.phones
}

// most are the largest of a list, and what is left over.
func most(m map[string]int) (out []Part) {
	left := 0
	for name, n := range m {
		if name == others {
			left += n
			continue
		}
		out = append(out, Part{name, n})
	}
	slices.SortFunc(out, func(a, b Part) int { return cmp.Or(cmp.Compare(b.N, a.N), cmp.Compare(a.Name, b.Name)) })
	if len(out) > maxParts || left > 0 && len(out) == maxParts {
		for _, x := range out[maxParts-1:] {
			left += x.N
		}
		out = out[: maxParts-1 : maxParts-1]
	}
	if left > 0 {
		out = append(out, Part{others, left})
	}
	return out
}
