package scans

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/seal"
)

// Shared is an overview that people without an account may see for a while.
type Shared struct {
	Token, Workspace, House, Title, Query, Who string
	At, Until                                  time.Time
}

// SharedFor are the numbers of days for which an overview can be shown.
var SharedFor = []int{7, 30, 90, 365}

// maxShared is how many overviews of a workspace may be shown at a time.
const maxShared = 100

// Share shows an overview to whoever has its address, for so many days as somebody typed.
func (s *Store) Share(ctx context.Context, actor access.Actor, title, query, days string) (token string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	n, err := strconv.Atoi(days)
	if err != nil || !slices.Contains(SharedFor, n) {
		return "", problem.List{{Field: "/for", Code: "overview.days",
			Message: fmt.Sprintf("%q is no number of days that can be chosen; 7, 30, 90 and 365 are", days)}}
	}
	token = strings.ToLower(rand.Text())
	hash, sealed := s.Seal.Token(actor.Workspace, token)
	return token, s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		var there int
		if err := tx.QueryRow(ctx, `SELECT count(*) FROM shared_overviews WHERE workspace = $1 AND until > $2`, actor.Workspace,
			s.Now()).Scan(&there); err != nil {
			return err
		}
		if there >= maxShared {
			return problem.List{{Field: "/for", Code: "overview.many",
				Message: fmt.Sprintf("would be the overview number %d; withdraw one first", there+1)}}
		}
		_, err := tx.Exec(ctx, `INSERT INTO shared_overviews (token, workspace, title, query, who, at, until, sealed)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`, hash, actor.Workspace, title, query, actor.Name, s.Now(),
			s.Now().AddDate(0, 0, n), sealed)
		return err
	})
}

// Shares are the overviews of a workspace that are shown, the newest first.
func (s *Store) Shares(ctx context.Context, actor access.Actor) (out []Shared, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT token, workspace, '', title, query, who, at, until, sealed FROM shared_overviews
			WHERE workspace = $1 AND until > $2 ORDER BY at DESC`, actor.Workspace, s.Now()).Query(func(rows pgx.Rows) (err error) {
			out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (o Shared, err error) {
				var sealed []byte
				if err := r.Scan(&o.Token, &o.Workspace, &o.House, &o.Title, &o.Query, &o.Who, &o.At, &o.Until,
					&sealed); err != nil {
					return o, err
				}
				o.Token, err = s.Seal.OpenToken(o.Workspace, o.Token, sealed)
				return o, err
			})
			return err
		})
	})
	return out, err
}

// Withdraw has an overview shown no longer; one that is not there is withdrawn already.
func (s *Store) Withdraw(ctx context.Context, actor access.Actor, token string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	return s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`DELETE FROM shared_overviews WHERE workspace = $1 AND (token = $2 OR token = $3 AND sealed IS NULL)`,
			actor.Workspace, seal.Hash(token), token)
	})
}

// ErrNotShared is that an address shows nothing, or nothing any more.
var ErrNotShared = errors.New("scans: the overview is not shown")

// SharedBy is the overview of an address, for anybody who has it.
func (s *Store) SharedBy(ctx context.Context, token string) (o Shared, err error) {
	err = s.DB.Pool.QueryRow(ctx, `SELECT o.workspace, w.name, o.title, o.query, o.who, o.at, o.until FROM shared_overviews o
		JOIN workspaces w ON w.id = o.workspace WHERE (o.token = $1 OR o.token = $3 AND o.sealed IS NULL) AND o.until > $2`,
		seal.Hash(token), s.Now(), token).
		Scan(&o.Workspace, &o.House, &o.Title, &o.Query, &o.Who, &o.At, &o.Until)
	if errors.Is(err, pgx.ErrNoRows) {
		err = ErrNotShared
	}
	o.Token = token
	return o, err
}

// Viewer reads what an overview shows, and nothing else.
func (o Shared) Viewer() access.Actor {
	return access.Actor{Kind: access.Program, Name: "overview", Workspace: o.Workspace, Role: access.Viewer}
}
