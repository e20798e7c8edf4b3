package link

import (
	"context"
	"crypto/rand"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/movein"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/shortlink"
)

// Arrived takes the links, hosts, destinations and files of an archive through the doors that those of people pass, within the
// transaction that brought their rows. Hosts have to be proved again, under a token of this server; what scans get is compiled
// of the destinations, never taken from the archive. What is wrong is a problem.
func (s *Store) Arrived(ctx context.Context, tx pgx.Tx, workspace string) error {
	if err := s.arrivedHosts(ctx, tx, workspace); err != nil {
		return err
	}
	if err := s.arrivedLinks(ctx, tx, workspace); err != nil {
		return err
	}
	if err := s.arrivedFiles(ctx, tx, workspace); err != nil {
		return err
	}
	if err := s.arrivedLeads(ctx, tx, workspace); err != nil {
		return err
	}
	return s.Dress(ctx, tx, workspace)
}

// unfit is a problem of an archive.
func unfit(format string, args ...any) error {
	return problem.List{{Field: "/file", Code: "archive.links", Message: fmt.Sprintf(format, args...)}}
}

// collected are the rows of a question, as structs by place.
func collected[T any](ctx context.Context, tx pgx.Tx, sql string, args ...any) ([]T, error) {
	rows, err := tx.Query(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[T])
}

func (s *Store) arrivedHosts(ctx context.Context, tx pgx.Tx, workspace string) error {
	list, err := collected[struct{ Host string }](ctx, tx, `SELECT host FROM link_hosts WHERE workspace = $1`, workspace)
	if err != nil {
		return err
	}
	if len(list) > maxHosts {
		return unfit("has %d hosts; a workspace has room for %d", len(list), maxHosts)
	}
	for _, h := range list {
		if name, err := shortlink.Host(h.Host); err != nil || name != h.Host || strings.Contains(name, ":") {
			return unfit("has a host %.100q that is none", h.Host)
		}
	}
	if _, err := tx.Exec(ctx, `UPDATE link_hosts SET token = $2, proved_at = NULL, asked_at = NULL, missing_since = NULL, chosen = false,
		trouble = '' WHERE workspace = $1`, workspace, rand.Text()); err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `DELETE FROM link_hosts WHERE workspace = $1 AND host = $2`, workspace, s.server())
	return err
}

func (s *Store) arrivedLinks(ctx context.Context, tx pgx.Tx, workspace string) error {
	list, err := collected[struct{ Host, Path, Code string }](ctx, tx,
		`SELECT host, path, code FROM links WHERE workspace = $1`, workspace)
	if err != nil {
		return err
	}
	for _, l := range list {
		name, err := shortlink.Host(l.Host)
		if err != nil || name != l.Host || l.Path != strings.ToUpper(l.Path) || l.Path != strings.Trim(l.Path, "/ ") ||
			movein.Unfit(l.Path) != "" {
			return unfit("has a short link %.100q that is none", l.Host+"/"+l.Path)
		}
	}
	var taken string
	err = tx.QueryRow(ctx, `SELECT coalesce(min(l.host || '/' || l.path), '') FROM links l JOIN link_hosts h ON h.host = l.host
		WHERE l.workspace = $1 AND h.workspace <> $1 AND h.proved_at IS NOT NULL`, workspace).Scan(&taken)
	if err == nil && taken != "" {
		err = unfit("holds short links on a host that another workspace of this server has proved, such as %s", taken)
	}
	return err
}

func (s *Store) arrivedFiles(ctx context.Context, tx pgx.Tx, workspace string) error {
	list, err := collected[struct{ ID, Host, Name string }](ctx, tx,
		`SELECT id, host, name FROM files WHERE workspace = $1 ORDER BY id`,
		workspace)
	if err != nil {
		return err
	}
	all := 0
	for _, f := range list { // one after the other: together they may be large
		var data []byte
		if err := tx.QueryRow(ctx, `SELECT data FROM files WHERE workspace = $1 AND id = $2`, workspace,
			f.ID).Scan(&data); err != nil {
			return err
		}
		if data, err = s.Codes.Seal.Open(data, place(workspace, f.ID, "file")); err != nil {
			return err
		}
		served, bad := leads.ServedOf(f.Name, data)
		name, err := shortlink.Host(f.Host)
		switch {
		case bad != nil:
			return unfit("has a file %.100q that %s", f.Name, bad.Message)
		case err != nil || name != f.Host || strings.Trim(f.ID, "abcdefghijklmnopqrstuvwxyz234567") != "" || f.ID == "" ||
			served.Name != f.Name:
			return unfit("has a file %.100q at an address that is none", f.Name)
		}
		if all += len(data); all > maxFiles {
			return unfit("has more than a gigabyte of files")
		}
		served.Digest, served.ID = digestOf(data), f.ID
		if err := s.bring(ctx, tx, workspace, f.Host+leads.FilesBelow+f.ID, served.Encode()); err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) arrivedLeads(ctx context.Context, tx pgx.Tx, workspace string) error {
	read := func(code string, sealed []byte, what string) (*leads.Lead, error) {
		text, err := s.Codes.Seal.Open(sealed, place(workspace, code, what))
		if err != nil {
			return nil, err
		}
		v, err := fields.Decode(text)
		if err != nil {
			return nil, unfit("has a destination of the code %q that is none", code)
		}
		l, problems := leads.Read(v)
		if len(problems) > 0 {
			return nil, unfit("has a destination of the code %q that is refused here: %v", code, problems)
		}
		return l, nil
	}
	if _, err := tx.Exec(ctx, `UPDATE leads SET refused = NULL WHERE workspace = $1`, workspace); err != nil {
		return err
	}
	versions, err := collected[struct {
		Code string
		N    int
		Lead []byte
	}](ctx, tx, `SELECT code, n, lead FROM lead_versions WHERE workspace = $1 ORDER BY code, n`, workspace)
	if err != nil {
		return err
	}
	type key struct {
		code string
		n    int
	}
	was := map[key]*leads.Lead{}
	for _, v := range versions {
		if was[key{v.Code, v.N}], err = read(v.Code, v.Lead, "live"); err != nil {
			return err
		}
	}
	bars, err := s.bars(ctx, tx, workspace)
	if err != nil {
		return err
	}
	bars.Allowed = nil // an owner's list holds for what goes live after it; what was live stays so
	drafts, err := collected[struct {
		Code  string
		Draft []byte
		Live  int
	}](ctx, tx, `SELECT code, draft, live FROM leads WHERE workspace = $1 ORDER BY code`, workspace)
	if err != nil {
		return err
	}
	for _, d := range drafts {
		if _, err := read(d.Code, d.Draft, "lead"); err != nil {
			return err
		}
		if d.Live == 0 {
			continue
		}
		live := was[key{d.Code, d.Live}]
		if live == nil {
			return unfit("lacks version %d of where the code %q leads, which is live", d.Live, d.Code)
		}
		if problems := bars.Check(live); len(problems) > 0 && !live.Paused {
			return unfit("has a code %q that leads where this server lets none lead: %v", d.Code, problems)
		}
		if err := s.answer(ctx, tx, workspace, d.Code, live); err != nil {
			return err
		}
	}
	return nil
}
