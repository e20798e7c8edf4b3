package link

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/shortlink"
)

// Resolver asks for TXT records, as *net.Resolver does.
type Resolver interface {
	LookupTXT(ctx context.Context, name string) ([]string, error)
}

// Host is one on which short links stand.
type Host struct {
	Name       string
	Server     bool // the server's own, which needs no proof
	Chosen     bool // new links are drawn here
	Links      int  // of this workspace, drawn at any time
	Hang       int  // of those, that were handed over or moved in
	Proved     *time.Time
	Asked      *time.Time
	Missing    *time.Time // since when the record of one that was proved is gone
	Registered *time.Time // until when, as an owner notes it
	Trouble    string     // why the record could not be asked for; "" where it could
}

// Usable says that new links may stand on a host.
func (h Host) Usable() bool { return h.Server || h.Proved != nil && h.Missing == nil }

// maxHosts is how many hosts a workspace may have.
const maxHosts = 20

// askWait is how long a question may take.
const askWait = 10 * time.Second

// server is the name of the server's own host, "" for none.
func (s *Store) server() string {
	_, name, _ := strings.Cut(s.Host, "://")
	return strings.ToLower(name)
}

// OnServer says that a link stands on the server's own host: it leads as long as that name leads here.
func (s *Store) OnServer(host string) bool { return host != "" && host == s.server() }

// Hosts are those of a workspace, the server's own first, and the token that proves others.
func (s *Store) Hosts(ctx context.Context, actor access.Actor) (list []Host, token string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, "", err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		list, token, err = s.hosts(ctx, tx, actor.Workspace)
		return err
	})
	return list, token, err
}

func (s *Store) hosts(ctx context.Context, tx pgx.Tx, workspace string) (list []Host, token string, err error) {
	rows, err := tx.Query(ctx, `SELECT host, token, proved_at, asked_at, missing_since, registered_until, trouble, chosen,
			(SELECT count(*) FROM links k WHERE k.workspace = h.workspace AND k.host = h.host),
			(SELECT count(*) FROM links k WHERE k.workspace = h.workspace AND k.host = h.host AND k.place IS NOT NULL)
		FROM link_hosts h WHERE workspace = $1 ORDER BY added_at, host`, workspace)
	if err != nil {
		return nil, "", err
	}
	if name := s.server(); name != "" {
		list = []Host{{Name: name, Server: true, Chosen: true}}
	}
	var h Host
	row := []any{&h.Name, &token, &h.Proved, &h.Asked, &h.Missing, &h.Registered, &h.Trouble, &h.Chosen, &h.Links, &h.Hang}
	_, err = pgx.ForEachRow(rows, row, func() error {
		if h.Chosen && len(list) > 0 && list[0].Server {
			list[0].Chosen = false
		}
		list = append(list, h)
		h = Host{}
		return nil
	})
	if err == nil && len(list) > 0 && list[0].Server {
		err = tx.QueryRow(ctx, `SELECT count(*), count(place) FROM links WHERE workspace = $1 AND host = $2`, workspace,
			list[0].Name).Scan(&list[0].Links, &list[0].Hang)
	}
	return list, token, err
}

func hostProblem(code, message string, args ...any) problem.List {
	return problem.List{{Field: "/host", Code: code, Message: fmt.Sprintf(message, args...)}}
}

// AddHost begins to prove a host: the TXT record is asked for at once, and as often as somebody wants.
func (s *Store) AddHost(ctx context.Context, actor access.Actor, text string) (name string, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return "", err
	}
	if _, rest, ok := strings.Cut(text, "://"); ok {
		text = rest
	}
	name, err = shortlink.Host(strings.TrimSuffix(strings.TrimSpace(text), "/"))
	switch {
	case err != nil:
		return "", hostProblem("host", "is %q; write the whole name, such as go.marrowby.example", strings.TrimSpace(text))
	case strings.Contains(name, ":"):
		return "", hostProblem("host.port", "is %q; write it without a port", name)
	case name == s.server():
		return "", hostProblem("host.server", "is %s, which is this server's own and needs no proof", name)
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		list, token, err := s.hosts(ctx, tx, actor.Workspace)
		if err != nil {
			return err
		}
		if len(list) >= maxHosts {
			return hostProblem("host.many", "is one too many; a workspace has room for %d", maxHosts)
		}
		if token == "" {
			token = rand.Text()
		}
		tag, err := tx.Exec(ctx, `INSERT INTO link_hosts (workspace, host, token, added_at) VALUES ($1, $2, $3, $4)
			ON CONFLICT DO NOTHING`, actor.Workspace, name, token, s.Codes.Now())
		if err == nil && tag.RowsAffected() == 0 {
			err = hostProblem("host.twice", "is %s, which is in the list already", name)
		}
		return err
	})
	if err != nil {
		return "", err
	}
	return name, s.AskHost(ctx, actor, name)
}

// AskHost asks for the TXT record of a host, and keeps what the answer says.
func (s *Store) AskHost(ctx context.Context, actor access.Actor, name string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	var token string
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `SELECT token FROM link_hosts WHERE workspace = $1 AND host = $2`, actor.Workspace, name).
			Scan(&token)
	})
	if errors.Is(err, pgx.ErrNoRows) {
		return code.ErrNotFound
	} else if err != nil {
		return err
	}
	return s.ask(ctx, actor.Workspace, name, token)
}

// ask asks for one record. A resolver that does not answer proves nothing and takes nothing away.
func (s *Store) ask(ctx context.Context, workspace, name, token string) error {
	resolver := s.Resolver
	if resolver == nil {
		resolver = net.DefaultResolver
	}
	within, cancel := context.WithTimeout(ctx, askWait)
	records, failed := resolver.LookupTXT(within, shortlink.Record(name))
	cancel()
	var answer *net.DNSError
	if errors.As(failed, &answer) && answer.IsNotFound {
		failed = nil
	}
	proved, trouble := shortlink.Proved(records, token), ""
	if failed != nil {
		slog.Warn("a TXT record could not be asked for", "host", name, "error", failed)
		trouble = "The name server did not answer."
	}
	err := s.Codes.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `UPDATE link_hosts SET asked_at = $3, trouble = $4,
			proved_at = CASE WHEN $5 THEN coalesce(proved_at, $3) ELSE proved_at END,
			missing_since = CASE WHEN $5 THEN NULL WHEN $4 <> '' OR proved_at IS NULL THEN missing_since
				ELSE coalesce(missing_since, $3) END
			WHERE workspace = $1 AND host = $2`, workspace, name, s.Codes.Now(), trouble, proved)
		if err != nil || !proved {
			return err
		}
		return s.answers(ctx, tx, workspace, name, true)
	})
	var clash *pgconn.PgError
	if errors.As(err, &clash) && clash.ConstraintName == "link_hosts_proved" {
		return hostProblem("host.taken", "is %s, which another workspace of this server has proved", name)
	}
	s.hostChanged(workspace)
	return err
}

// answers has those who answer scans take a host for ours, or not any more.
func (s *Store) answers(ctx context.Context, tx pgx.Tx, workspace, name string, ours bool) error {
	return s.bring(ctx, tx, workspace, name+"/", leads.Standing{Ours: ours}.Encode())
}

// bring writes, sealed, what a relay brings to those who answer scans.
func (s *Store) bring(ctx context.Context, tx pgx.Tx, workspace, link string, value []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO live_links (workspace, link, seq, value) VALUES ($1, $2, 0, $3)
		ON CONFLICT (workspace, link) DO UPDATE SET value = excluded.value`, workspace, link,
		s.Codes.Seal.Seal(value, place(workspace, link, "answer")))
	return err
}

// ChooseHost has new links drawn on a host; those that are drawn stay where they are.
func (s *Store) ChooseHost(ctx context.Context, actor access.Actor, name string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		h, err := s.hostNamed(ctx, tx, actor.Workspace, name)
		if err != nil {
			return err
		}
		if !h.Usable() {
			return hostProblem("host.unproved", "is %s, whose TXT record is not there yet", name)
		}
		if _, err := tx.Exec(ctx, `UPDATE link_hosts SET chosen = false WHERE workspace = $1 AND chosen`, actor.Workspace); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, `UPDATE link_hosts SET chosen = true WHERE workspace = $1 AND host = $2`, actor.Workspace, name)
		return err
	})
	s.hostChanged(actor.Workspace)
	return err
}

// Registered notes until when a host's name is registered, as somebody typed the day; "" for not known.
func (s *Store) Registered(ctx context.Context, actor access.Actor, name, day string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	var until *time.Time
	if day != "" {
		at, err := time.Parse(time.DateOnly, day)
		if err != nil {
			return problem.List{{Field: "/registered", Code: "host.registered",
				Message: fmt.Sprintf("%q is no date; write such as 2027-03-28", day)}}
		}
		until = &at
	}
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		if _, err := s.hostNamed(ctx, tx, actor.Workspace, name); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `UPDATE link_hosts SET registered_until = $3 WHERE workspace = $1 AND host = $2`, actor.Workspace,
			name, until)
		return err
	})
}

func (s *Store) hostNamed(ctx context.Context, tx pgx.Tx, workspace, name string) (Host, error) {
	list, _, err := s.hosts(ctx, tx, workspace)
	for _, h := range list {
		if h.Name == name {
			return h, err
		}
	}
	if err == nil {
		err = code.ErrNotFound
	}
	return Host{}, err
}

// RemoveHost takes away a host on which no link was ever drawn.
func (s *Store) RemoveHost(ctx context.Context, actor access.Actor, name string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		h, err := s.hostNamed(ctx, tx, actor.Workspace, name)
		switch {
		case err != nil:
			return err
		case h.Server:
			return code.ErrNotFound
		case h.Links > 0:
			return hostProblem("host.links", "is %s, on which short links of yours stand; they would lead nowhere", name)
		}
		if _, err := tx.Exec(ctx, `DELETE FROM link_hosts WHERE workspace = $1 AND host = $2`, actor.Workspace, name); err != nil {
			return err
		}
		if h.Proved == nil {
			return nil
		}
		return s.answers(ctx, tx, actor.Workspace, name, false)
	})
	s.hostChanged(actor.Workspace)
	return err
}

// AskAll asks again for the records of all hosts that were proved, and of others for two weeks. It gives how many are missing.
func (s *Store) AskAll(ctx context.Context) (missing int64, err error) {
	rows, err := s.Codes.DB.Pool.Query(ctx, `SELECT workspace, host, token FROM link_hosts
		WHERE proved_at IS NOT NULL OR added_at > $1 ORDER BY workspace, host`, s.Codes.Now().AddDate(0, 0, -14))
	if err != nil {
		return 0, err
	}
	type row struct{ Workspace, Host, Token string }
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	if err != nil {
		return 0, err
	}
	for _, one := range all {
		if err := s.ask(ctx, one.Workspace, one.Host, one.Token); err != nil {
			slog.Warn("a host of short links", "host", one.Host, "error", err)
		}
	}
	err = s.Codes.DB.Pool.QueryRow(ctx, `SELECT count(*) FROM link_hosts WHERE missing_since IS NOT NULL`).Scan(&missing)
	return missing, err
}

// chosen is what is remembered of where a workspace draws new links.
type chosen struct {
	base  string
	until time.Time
}

// chosenFor is for how long another process may show the host that was chosen before.
const chosenFor = 5 * time.Second

// Base is scheme and host of links that a workspace draws, "" where it can draw none.
func (s *Store) Base(ctx context.Context, actor access.Actor) (base string, err error) {
	if err := actor.Need(access.Look); err != nil {
		return "", err
	}
	if c, ok := s.bases.Load(actor.Workspace); ok && time.Now().Before(c.(chosen).until) {
		return c.(chosen).base, nil
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		base, err = s.base(ctx, tx, actor.Workspace)
		return err
	})
	if err == nil {
		s.bases.Store(actor.Workspace, chosen{base, time.Now().Add(chosenFor)})
	}
	return base, err
}

func (s *Store) base(ctx context.Context, tx pgx.Tx, workspace string) (string, error) {
	var name string
	err := tx.QueryRow(ctx, `SELECT host FROM link_hosts WHERE workspace = $1 AND chosen AND missing_since IS NULL`, workspace).
		Scan(&name)
	if errors.Is(err, pgx.ErrNoRows) {
		return s.Host, nil
	}
	return "https://" + name, err
}

// hostChanged forgets what was remembered, and has a relay look at once.
func (s *Store) hostChanged(workspace string) {
	s.bases.Delete(workspace)
	if s.Soon != nil {
		s.Soon()
	}
}
