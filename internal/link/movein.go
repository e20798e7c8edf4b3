package link

import (
	"context"
	"errors"
	"net/url"
	"path"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/caught"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/movein"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/shortlink"
)

// Asker asks an address of somebody else where it leads, one step; to is "" where it leads nowhere.
type Asker interface {
	Ask(ctx context.Context, address string) (to string, err error)
}

// Moving is a path that is to move in.
type Moving struct {
	movein.Row
	Here  bool   // it is one of the workspace's links already
	Asked bool   // the host was asked where it leads today
	Today string // where, "" for nowhere
	Fault string // why the host could not be asked
}

// Same says that the path leads today where it will.
func (m Moving) Same() bool { return m.Asked && m.Today == m.To }

const (
	askAtOnce = 8
	askEach   = 5 * time.Second
	askMost   = 300
	askAll    = 30 * time.Second
)

// Moves says what would become of paths of a host, and asks that host, as it answers today, where they lead.
func (s *Store) Moves(ctx context.Context, actor access.Actor, host string, rows []movein.Row) (out []Moving, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		h, err := s.hostNamed(ctx, tx, actor.Workspace, host)
		if err != nil {
			return err
		}
		if !h.Usable() {
			return hostProblem("host.unproved", "is %s, whose TXT record is not there yet", host)
		}
		b, err := s.bars(ctx, tx, actor.Workspace)
		if err != nil {
			return err
		}
		for _, r := range rows {
			m := Moving{Row: r}
			if r.Bad == "" {
				if l, problems := leadTo(r.To); len(problems) > 0 {
					m.Bad = "It " + problems[0].Message + "."
				} else if problems := b.Check(l); len(problems) > 0 {
					m.Bad = "It " + problems[0].Message + "."
				}
				if err := tx.QueryRow(ctx,
					`SELECT EXISTS (SELECT 1 FROM links WHERE host = $1 AND path = $2 AND workspace = $3)`, host,
					r.Key(), actor.Workspace).Scan(&m.Here); err != nil {
					return err
				}
			}
			out = append(out, m)
		}
		return nil
	})
	if err == nil {
		err = s.taken(ctx, actor.Workspace, host, out)
	}
	if err == nil {
		s.askWhere(ctx, host, out)
	}
	return out, err
}

// taken marks what another workspace has, or had: on the server's own host many may stand.
func (s *Store) taken(ctx context.Context, workspace, host string, list []Moving) error {
	keys := make([]string, len(list))
	for i, m := range list {
		keys[i] = m.Key()
	}
	rows, err := s.Codes.DB.Pool.Query(ctx, `SELECT path FROM links WHERE host = $1 AND path = ANY ($2) AND workspace <> $3`,
		host,
		keys, workspace)
	if err != nil {
		return err
	}
	theirs, err := pgx.CollectRows(rows, pgx.RowTo[string])
	for i := range list {
		if list[i].Bad == "" && slices.Contains(theirs, list[i].Key()) {
			list[i].Bad = "Another workspace of this server has this path, or had it."
		}
	}
	return err
}

// askWhere asks a host where its paths lead.
func (s *Store) askWhere(ctx context.Context, host string, list []Moving) {
	if s.Outside == nil {
		return
	}
	ctx, cancel := context.WithTimeout(ctx, askAll)
	defer cancel()
	var wait sync.WaitGroup
	free := make(chan struct{}, askAtOnce)
	for i := range list {
		m := &list[i]
		if m.Bad != "" || i >= askMost {
			continue
		}
		free <- struct{}{}
		wait.Go(func() {
			defer func() { <-free }()
			ctx, cancel := context.WithTimeout(ctx, askEach)
			defer cancel()
			to, err := caught.Made(func() (string, error) {
				return s.Outside.Ask(ctx, "https://"+host+"/"+(&url.URL{Path: m.Path}).EscapedPath())
			})
			if m.Asked, m.Today = err == nil, to; err != nil {
				m.Fault = "It did not answer."
			}
		})
	}
	wait.Wait()
}

// leadTo is a lead to an address as it stands.
func leadTo(address string) (*leads.Lead, problem.List) {
	c, problems := content.New(map[string]any{"kind": "url", "url": address})
	if len(problems) > 0 {
		return nil, problems
	}
	return leads.Of(c), nil
}

// MoveIn has paths of a host that are in print already answered here: each becomes a code, live at once. What is there
// already, and what cannot move, is left out; the same list again goes on where it stopped.
func (s *Store) MoveIn(ctx context.Context, actor access.Actor, host string, rows []movein.Row) (n int, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return 0, err
	}
	list, err := s.Moves(ctx, actor, host, rows)
	if err != nil {
		return 0, err
	}
	for _, m := range list {
		if m.Bad != "" || m.Here {
			continue
		}
		moved, err := s.moveIn(ctx, actor, host, m.Row)
		if err != nil {
			return n, err
		}
		if moved {
			n++
		}
	}
	if s.Soon != nil {
		s.Soon()
	}
	return n, nil
}

// moveIn moves one path in; false where another workspace has it.
func (s *Store) moveIn(ctx context.Context, actor access.Actor, host string, r movein.Row) (moved bool, err error) {
	a := shortlink.Address{Scheme: s.scheme(host), Host: host, Path: r.Key()}
	l, problems := leadTo(r.To)
	if len(problems) > 0 {
		return false, problems
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		moved = false
		own := a
		if _, err := shortlink.Parse(a.String()); err != nil { // a symbol of ours cannot hold it; what hangs does
			if own, err = s.drawLike(ctx, tx, actor.Workspace, "", shortlink.Address{Scheme: a.Scheme, Host: host,
				Path: strings.Repeat("X", shortlink.Length)}); err != nil {
				return err
			}
		}
		c, bad := content.New(map[string]any{"kind": "dynamic", "link": own.String()})
		if len(bad) > 0 {
			return bad
		}
		j := job.Default()
		j.Content = c
		if j.Name = r.Name; j.Name == "" {
			j.Name = path.Base(r.Path)
		}
		m, bad := compose.Make(&j, nil)
		if len(bad) > 0 {
			return bad
		}
		id, err := s.Codes.CreateIn(ctx, tx, actor, m, "Moved in, "+host)
		if err != nil {
			return err
		}
		if err := s.begin(ctx, tx, actor.Workspace, id, l); err != nil {
			return err
		}
		if moved, err = s.reserve(ctx, tx, actor.Workspace, id, a); err != nil {
			return err
		} else if !moved {
			return errTaken
		}
		if _, err := tx.Exec(ctx, `UPDATE links SET code = $3 WHERE host = $1 AND path = $2`, own.Host, own.Path,
			id); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `UPDATE links SET place = $3 WHERE host = $1 AND path = $2`, a.Host, a.Path,
			s.Codes.Seal.Seal(nil, place(actor.Workspace, a.Host+"/"+a.Path, "place"))); err != nil {
			return err
		}
		led, err := s.held(ctx, tx, actor.Workspace, id)
		if err != nil {
			return err
		}
		return s.publish(ctx, tx, actor, id, led, 0)
	})
	if errors.Is(err, errTaken) {
		return false, nil
	}
	return moved, err
}

// errTaken is that another workspace has a link.
var errTaken = errors.New("link: another workspace has it")
