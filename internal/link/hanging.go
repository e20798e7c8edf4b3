package link

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/leave"
)

// Hangings are what a workspace notes of its printed places, by their short links.
func (s *Store) Hangings(ctx context.Context, actor access.Actor) (out map[string]*leads.Hanging, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		out, err = s.hangings(ctx, tx, actor.Workspace, `SELECT link, noted FROM hangings WHERE workspace = $1`, actor.Workspace)
		return err
	})
	return out, err
}

// HangingsOf are those of a code.
func (s *Store) HangingsOf(ctx context.Context, actor access.Actor, id string) (out map[string]*leads.Hanging, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		out, err = s.hangings(ctx, tx, actor.Workspace, `SELECT h.link, h.noted FROM hangings h JOIN links k ON k.workspace = h.workspace
			AND k.host || '/' || k.path = h.link WHERE h.workspace = $1 AND k.code = $2`, actor.Workspace, id)
		return err
	})
	return out, err
}

func (s *Store) hangings(ctx context.Context, tx pgx.Tx, workspace, sql string, args ...any) (map[string]*leads.Hanging, error) {
	rows, err := tx.Query(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	out := map[string]*leads.Hanging{}
	var link string
	var sealed []byte
	_, err = pgx.ForEachRow(rows, []any{&link, &sealed}, func() error {
		text, err := s.Codes.Seal.Open(sealed, place(workspace, link, "hanging"))
		if err != nil {
			return err
		}
		v, err := fields.Decode(text)
		if err != nil {
			return err
		}
		h, problems := leads.ReadHanging(v)
		if len(problems) > 0 {
			return problems
		}
		out[link] = h
		return nil
	})
	return out, err
}

// Hang notes of a printed place what is typed, by the key of its field; link is one of the code.
func (s *Store) Hang(ctx context.Context, actor access.Actor, id, link string, edits map[string]string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		host, path, _ := strings.Cut(link, "/")
		var mine bool
		err := tx.QueryRow(ctx, `SELECT true FROM links WHERE host = $1 AND path = $2 AND workspace = $3 AND code = $4`, host, path,
			actor.Workspace, id).Scan(&mine)
		if errors.Is(err, pgx.ErrNoRows) {
			return code.ErrNotFound
		} else if err != nil {
			return err
		}
		was, err := s.hangings(ctx, tx, actor.Workspace, `SELECT link, noted FROM hangings WHERE workspace = $1 AND link = $2 FOR UPDATE`,
			actor.Workspace, link)
		if err != nil {
			return err
		}
		h := was[link]
		if h == nil {
			h = &leads.Hanging{}
		}
		h, problems := h.WithTyped(edits)
		if len(problems) > 0 {
			return problems
		}
		text, err := json.Marshal(leads.Hangings.Write(h, nil).Map())
		if err != nil {
			return err
		}
		_, err = tx.Exec(ctx, `INSERT INTO hangings (workspace, link, noted) VALUES ($1, $2, $3)
			ON CONFLICT (workspace, link) DO UPDATE SET noted = excluded.noted`, actor.Workspace, link,
			s.Codes.Seal.Seal(text, place(actor.Workspace, link, "hanging")))
		return err
	})
}

// Placed is a printed place: a link that hangs, since when its code leads somewhere, and what the house notes of it.
type Placed struct {
	leave.Link
	Address string // host and path
	Since   time.Time
	Noted   leads.Hanging
}

// Placed are all printed places of a workspace, by their addresses.
func (s *Store) Placed(ctx context.Context, actor access.Actor) ([]Placed, error) {
	live, err := s.Live(ctx, actor)
	if err != nil {
		return nil, err
	}
	since, err := s.Since(ctx, actor)
	if err != nil {
		return nil, err
	}
	noted, err := s.Hangings(ctx, actor)
	if err != nil {
		return nil, err
	}
	out := make([]Placed, len(live))
	for i, l := range live {
		out[i] = Placed{Link: l, Address: l.Host + "/" + l.Path, Since: since[l.Live.Code]}
		if n := noted[out[i].Address]; n != nil {
			out[i].Noted = *n
		}
	}
	return out, nil
}

// Hung says on which of so many days from one on a place hung, the first and the one after the last, by their index: as it is
// noted, else since its code first led somewhere.
func (p Placed) Hung(from time.Time, days int) (first, after int) {
	first, after = p.Noted.Within(from, days)
	if p.Noted.From == "" {
		date := func(t time.Time) time.Time {
			y, m, d := t.In(from.Location()).Date()
			return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
		}
		first = min(after, max(0, int(date(p.Since).Sub(date(from))/(24*time.Hour))))
	}
	return first, after
}
