package scans

import (
	"cmp"
	"context"
	"encoding/json"
	"maps"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/scan"
)

// maxKeys is how many towns or languages of a day are kept apart; the rest of a day stands together.
const maxKeys = 100

// foldedAtOnce is how many days of workspaces are folded by one call.
const foldedAtOnce = 50

// Fold adds up what the scans of each day of UTC that is over were, by workspace, campaign, code and link, with how many
// different phones there were, and says how many days that was. A day to which something came late is folded anew.
func (s *Store) Fold(ctx context.Context) (n int64, err error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT u.workspace, u.day FROM scan_unfolded u WHERE u.day < $1
		ORDER BY u.day, u.workspace LIMIT $2`, s.today(), foldedAtOnce)
	if err != nil {
		return 0, err
	}
	type due struct {
		Workspace string
		Day       time.Time
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[due])
	for _, d := range list {
		if err == nil {
			err = s.fold(ctx, d.Workspace, d.Day)
		}
		if err != nil {
			return n, err
		}
		n++
	}
	return n, err
}

func (s *Store) today() time.Time {
	day, _ := moment(s.Now())
	return day
}

// fold adds up one day. Of a day whose events are deleted, what came later is left out: what is folded stays.
func (s *Store) fold(ctx context.Context, workspace string, day time.Time) error {
	return pgx.BeginFunc(ctx, s.DB.Pool, func(tx pgx.Tx) error {
		// Whoever brings events of that day just now has written the mark, and is waited for.
		tag, err := tx.Exec(ctx, `DELETE FROM scan_unfolded WHERE workspace = $1 AND day = $2`, workspace, day)
		if err != nil || tag.RowsAffected() == 0 {
			return err
		}
		var gone bool
		if err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM scan_deletions WHERE workspace = $1 AND before > $2)`, workspace,
			day).Scan(&gone); err != nil || gone {
			return err
		}
		f, err := s.folded(ctx, tx, workspace, day)
		if err != nil {
			return err
		}
		return f.keep(ctx, tx, workspace, day)
	})
}

// foldedDay are the scans of a day, by scope.
type foldedDay map[Scope]*foldedScope

type foldedScope struct {
	parts  map[string]map[string]int
	phones map[string]struct{}
}

// folded reads the events of a day.
func (s *Store) folded(ctx context.Context, tx pgx.Tx, workspace string, day time.Time) (foldedDay, error) {
	columns := ""
	for _, d := range dimensions {
		columns += ", " + d.sql
	}
	rows, err := tx.Query(ctx, `SELECT s.kind, s.phone, s.code, s.link, coalesce(c.campaign, '')`+columns+` FROM scans s
		LEFT JOIN codes c ON c.workspace = s.workspace AND c.id = s.code
		WHERE s.workspace = $1 AND s.id >= $2::uuid AND s.id < $3::uuid AND s.kind IN ('scan', 'robot', 'head', 'where')`, workspace,
		firstID(day), firstID(day.AddDate(0, 0, 1)))
	if err != nil {
		return nil, err
	}
	f := foldedDay{}
	var kind, phone, code, link, campaign string
	keys := make([]string, len(dimensions))
	into := []any{&kind, &phone, &code, &link, &campaign}
	for i := range keys {
		into = append(into, &keys[i])
	}
	_, err = pgx.ForEachRow(rows, into, func() error {
		scopes := []Scope{Workspace, CodeScope(code), LinkScope(link), CampaignScope(campaign)}
		if campaign == "" {
			scopes = scopes[:3]
		}
		for _, scope := range scopes {
			f.add(scope, kind, phone, keys)
		}
		return nil
	})
	return f, err
}

func (f foldedDay) add(scope Scope, kind, phone string, keys []string) {
	of := f[scope]
	if of == nil {
		of = &foldedScope{map[string]map[string]int{}, map[string]struct{}{}}
		f[scope] = of
	}
	count := func(name, key string) {
		if of.parts[name] == nil {
			of.parts[name] = map[string]int{}
		}
		of.parts[name][key]++
	}
	if kind != string(scan.Scan) {
		count("apart", kind)
		return
	}
	for i, d := range dimensions {
		count(d.name, keys[i])
	}
	if phone != "" {
		of.phones[phone] = struct{}{}
	}
}

// few keeps the most frequent of a list apart, and the rest together.
func few(m map[string]int) map[string]int {
	if len(m) <= maxKeys {
		return m
	}
	keys := slices.SortedFunc(maps.Keys(m), func(a, b string) int { return cmp.Or(cmp.Compare(m[b], m[a]), cmp.Compare(a, b)) })
	out := map[string]int{}
	for i, k := range keys {
		if i >= maxKeys {
			k = others
		}
		out[k] += m[keys[i]]
	}
	return out
}

// keep writes what a day was in place of what was folded of it before.
func (f foldedDay) keep(ctx context.Context, tx pgx.Tx, workspace string, day time.Time) error {
	scopes, parts, phones := []string{}, []string{}, []int{}
	for scope, of := range f {
		for name, m := range of.parts {
			of.parts[name] = few(m)
		}
		text, err := json.Marshal(of.parts)
		if err != nil {
			return err
		}
		scopes, parts, phones = append(scopes, string(scope)), append(parts, string(text)), append(phones, len(of.phones))
	}
	b := &pgx.Batch{}
	b.Queue(`DELETE FROM scan_parts WHERE workspace = $1 AND day = $2`, workspace, day)
	b.Queue(`INSERT INTO scan_parts SELECT $1, s, $2, p::jsonb, n FROM unnest($3::text[], $4::text[], $5::int[]) t(s, p, n)`, workspace,
		day, scopes, parts, phones)
	return tx.SendBatch(ctx, b).Close()
}
