// Package notices tells a house what it should know of its codes without having looked: a place that fell silent, a destination
// that answers errors, what is about to end. Each is told once, on the page of scans and by mail, and goes where it no longer
// holds.
package notices

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/db"
	"sodrik/internal/link"
	"sodrik/internal/scans"
	"sodrik/internal/seal"
)

// Kind is what a notice is about.
type Kind struct {
	Name  string
	Words string // of the choice
	Usual bool   // told where nobody chose otherwise
	Stays bool   // until somebody has seen it; others go where they no longer hold
}

// kinds are all there are, in the order of the page. Asks is no notice: it lets destinations and hosts be asked.
var kinds = []Kind{
	{Name: "silent", Words: "A place fell silent", Usual: true},
	{Name: "errors", Words: "A destination answers errors, where they are asked", Usual: true},
	{Name: "first", Words: "The first scan of a place", Stays: true},
	{Name: "ending", Words: "A link is about to end"},
	{Name: "host", Words: "A host's registration, certificate or record is about to end"},
	{Name: "old", Words: "A code is in print for a year", Stays: true},
	{Name: Asks, Words: "Ask destinations and hosts once a day whether they answer"},
}

// Asks is the switch that lets others be asked.
const Asks = "asks"

// Outside asks web servers of others. It reaches public addresses alone.
type Outside interface {
	// Status is what an address is answered by in the end, after redirects.
	Status(ctx context.Context, address string) (int, error)
	// Certificate is when the certificate of a host ends.
	Certificate(ctx context.Context, host string) (time.Time, error)
}

// Store keeps notices.
type Store struct {
	DB      *db.DB
	Seal    *seal.Box
	Now     func() time.Time
	Links   *link.Store
	Scans   *scans.Store
	Outside Outside `optional:"nobody is asked"`
}

// Notice is something to know.
type Notice struct {
	Key, Kind, Code, Link, Words string
	At                           time.Time
}

// Choice is a kind with what holds in a workspace.
type Choice struct {
	Kind
	Told bool
}

// Choices are all kinds as they hold in a workspace.
func (s *Store) Choices(ctx context.Context, actor access.Actor) (out []Choice, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	told := map[string]bool{}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT kind, told FROM notice_kinds WHERE workspace = $1`, actor.Workspace).Query(func(rows pgx.Rows) error {
			var kind string
			var is bool
			_, err := pgx.ForEachRow(rows, []any{&kind, &is}, func() error {
				told[kind] = is
				return nil
			})
			return err
		})
	})
	for _, k := range kinds {
		is, chosen := told[k.Name]
		out = append(out, Choice{k, is || !chosen && k.Usual})
	}
	return out, err
}

// Choose says of which kinds a workspace is told.
func (s *Store) Choose(ctx context.Context, actor access.Actor, names []string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	for _, n := range names {
		if !slices.ContainsFunc(kinds, func(k Kind) bool { return k.Name == n }) {
			return problem.List{{Field: "/told", Code: "notice.kind", Message: fmt.Sprintf("%q is nothing that can be told", n)}}
		}
	}
	return s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		for _, k := range kinds {
			b.Queue(`INSERT INTO notice_kinds VALUES ($1, $2, $3)
				ON CONFLICT (workspace, kind) DO UPDATE SET told = excluded.told`, actor.Workspace, k.Name,
				slices.Contains(names, k.Name))
		}
	})
}

// mostShown is how many notices a page shows.
const mostShown = 12

// List gives the notices that hold and nobody has put away, the newest first.
func (s *Store) List(ctx context.Context, actor access.Actor) (out []Notice, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT key, kind, code, link, words, at FROM notices WHERE workspace = $1 AND gone_at IS NULL
			ORDER BY at DESC, key LIMIT $2`, actor.Workspace, mostShown).Query(func(rows pgx.Rows) (err error) {
			out, err = s.opened(actor.Workspace, rows)
			return err
		})
	})
	return out, err
}

func (s *Store) opened(workspace string, rows pgx.Rows) ([]Notice, error) {
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (n Notice, err error) {
		var words []byte
		if err := r.Scan(&n.Key, &n.Kind, &n.Code, &n.Link, &words, &n.At); err != nil {
			return n, err
		}
		words, err = s.Seal.Open(words, sealedAt(workspace, n.Key))
		n.Words = string(words)
		return n, err
	})
}

func sealedAt(workspace, key string) string { return workspace + "/" + key + "/notice" }

// PutAway has a notice seen: it is not shown again.
func (s *Store) PutAway(ctx context.Context, actor access.Actor, key string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	return s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`UPDATE notices SET gone_at = $3 WHERE workspace = $1 AND key = $2`, actor.Workspace, key, s.Now())
	})
}

// keep makes what is due the notices of the kinds that were looked at: new ones are added, those that hold no longer go, and stay
// names some that were not looked at.
func (s *Store) keep(ctx context.Context, workspace string, looked []string, due []Notice, stay []string) (n int64, err error) {
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		keys := append([]string{}, stay...)
		for _, d := range due {
			keys = append(keys, d.Key)
			tag, err := tx.Exec(ctx, `INSERT INTO notices (workspace, key, kind, code, link, words, at)
				VALUES ($1, $2, $3, $4, $5, $6, $7) ON CONFLICT DO NOTHING`, workspace, d.Key, d.Kind, d.Code, d.Link,
				s.Seal.Seal([]byte(d.Words), sealedAt(workspace, d.Key)), s.Now())
			if err != nil {
				return err
			}
			n += tag.RowsAffected()
		}
		goes := []string{}
		for _, k := range kinds {
			if !k.Stays && slices.Contains(looked, k.Name) {
				goes = append(goes, k.Name)
			}
		}
		tag, err := tx.Exec(ctx, `DELETE FROM notices WHERE workspace = $1 AND kind = ANY ($2) AND key <> ALL ($3)`, workspace,
			goes, keys)
		n += tag.RowsAffected()
		return err
	})
	return n, err
}

// Told tells what is new, workspace by workspace, in one mail each, and says how many notices that were. A mail that fails is
// tried again the next time.
func (s *Store) Told(ctx context.Context, base string,
	tell func(ctx context.Context, workspace, subject, body string) error) (n int64, err error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT DISTINCT workspace FROM notices WHERE mailed_at IS NULL AND gone_at IS NULL`)
	if err != nil {
		return 0, err
	}
	workspaces, err := pgx.CollectRows(rows, pgx.RowTo[string])
	for _, w := range workspaces {
		if err != nil {
			return n, err
		}
		var list []Notice
		rows, err := s.DB.Pool.Query(ctx, `SELECT key, kind, code, link, words, at FROM notices
			WHERE workspace = $1 AND mailed_at IS NULL AND gone_at IS NULL ORDER BY at, key`, w)
		if err == nil {
			list, err = s.opened(w, rows)
		}
		if err != nil {
			return n, err
		}
		subject, body := letter(base, list)
		if err := tell(ctx, w, subject, body); err != nil {
			return n, err
		}
		keys := make([]string, len(list))
		for i, l := range list {
			keys[i] = l.Key
		}
		if _, err := s.DB.Pool.Exec(ctx, `UPDATE notices SET mailed_at = $3 WHERE workspace = $1 AND key = ANY ($2)`, w, keys,
			s.Now()); err != nil {
			return n, err
		}
		n += int64(len(list))
	}
	return n, err
}

// letter is what a mail says of notices.
func letter(base string, list []Notice) (subject, body string) {
	subject = strings.TrimSuffix(list[0].Words, ".")
	if before, _, more := strings.Cut(list[0].Words, ". "); more {
		subject = before
	}
	if len(list) > 1 {
		subject = fmt.Sprintf("%d notices of your codes", len(list))
	}
	var b strings.Builder
	for _, n := range list {
		b.WriteString(n.Words + "\n")
		switch {
		case n.Kind == "silent":
			b.WriteString("Photograph it: " + base + "/codes/" + n.Code + "/print\n")
		case n.Code != "":
			b.WriteString("Its desk: " + base + "/codes/" + n.Code + "\n")
		}
		b.WriteString("\n")
	}
	b.WriteString("What you are told of is chosen at " + base + "/scans/settings\n")
	return subject, b.String()
}
