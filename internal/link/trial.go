package link

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/shortlink"
)

// Trial is a link under which a code is tried on a phone: as long as the one that is printed, so that the symbol is as large, not
// counted, and gone the next day.
type Trial struct {
	Address shortlink.Address
	Ends    time.Time
}

// trialFor is for how long a link of a trial works, trialLeft how long it has to go on where it is given out again.
const (
	trialFor  = 24 * time.Hour
	trialLeft = 4 * time.Hour
)

// Trial gives a link under which a placement of a code is tried, which leads where the draft says; place is its index. It is
// nil for a code that leads through no link. as is somebody as whom it is tried, nil for whoever tries it.
func (s *Store) Trial(ctx context.Context, actor access.Actor, c *code.Code, i int, as *leads.As) (t *Trial, err error) {
	if err := actor.Need(access.Change); err != nil {
		return nil, err
	}
	p := c.Rendition.Place(i)
	d, dynamic := c.Rendition.For(p).Job.Content.(*content.Dynamic)
	if !dynamic {
		return nil, nil
	}
	printed, name := d.Address(), ""
	if p != nil {
		name = p.Name
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		l, err := s.read(ctx, tx, actor.Workspace, c.ID)
		if err != nil || l == nil {
			return err
		}
		now := s.Codes.Now()
		t = &Trial{Address: shortlink.Address{Scheme: printed.Scheme}}
		err = tx.QueryRow(ctx, `SELECT host, path, ends FROM link_trials WHERE workspace = $1 AND code = $2 AND link = $3 AND ends > $4
			ORDER BY ends DESC LIMIT 1`, actor.Workspace, c.ID, printed.String(), now.Add(trialLeft)).
			Scan(&t.Address.Host, &t.Address.Path, &t.Ends)
		if errors.Is(err, pgx.ErrNoRows) {
			t.Ends = now.Add(trialFor).Truncate(time.Minute)
			t.Address, err = s.drawLike(ctx, tx, actor.Workspace, c.ID, printed)
			if err == nil {
				_, err = tx.Exec(ctx, `INSERT INTO link_trials (workspace, code, link, host, path, ends)
					VALUES ($1, $2, $3, $4, $5, $6)`,
					actor.Workspace, c.ID, printed.String(), t.Address.Host, t.Address.Path, t.Ends)
			}
		}
		if err != nil {
			return err
		}
		v := l.Draft.Try(name, t.Address.Path, t.Ends)
		v.Code, v.Workspace, v.As = c.ID, actor.Workspace, as
		return s.bring(ctx, tx, actor.Workspace, t.Address.Host+"/"+t.Address.Path, v.Encode())
	})
	if err == nil && s.Soon != nil {
		s.Soon()
	}
	return t, err
}

// drawLike reserves a link on the host of another, and as long.
func (s *Store) drawLike(ctx context.Context, tx pgx.Tx, workspace, id string, like shortlink.Address) (a shortlink.Address,
	err error) {
	for range drawTries {
		a = like
		for a.Path = ""; len(a.Path) < len(like.Path); {
			part, err := s.drawPath()
			if err != nil {
				return a, err
			}
			a.Path += part
		}
		if a.Path = a.Path[:len(like.Path)]; shortlink.Rude(a.Path) {
			continue
		}
		if ok, err := s.reserve(ctx, tx, workspace, id, a); ok || err != nil {
			return a, err
		}
	}
	return a, fmt.Errorf("link: %s has no short links left that are as long as %s", like.Host, like.Path)
}
