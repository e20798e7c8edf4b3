// Package webhooks tells addresses of others what happens in a workspace: each thing is put down within the transaction in which
// it happens, becomes a signed call for every webhook that wants it, and is tried until it is taken or given up.
package webhooks

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/webhook"
	"sodrik/internal/db"
	"sodrik/internal/scans"
	"sodrik/internal/seal"
)

// Sender posts to addresses of others.
type Sender interface {
	// Send posts a body and gives the status of the answer. It follows nothing, and an address in a network that is not
	// everybody's is an error.
	Send(ctx context.Context, address string, header map[string]string, body []byte) (status int, err error)
}

// Queue has calls made by a worker.
type Queue interface {
	Call(ctx context.Context, tx pgx.Tx, workspace, id string) error
}

// Store keeps webhooks.
type Store struct {
	DB    *db.DB
	Seal  *seal.Box
	Now   func() time.Time
	Scans *scans.Store
	Queue Queue  // nil where nobody makes calls
	Send  Sender // nil where this process sends nothing
	// Plain allows addresses over http, which are for networks that whoever runs the server has named.
	Plain bool
	// Tell tells the owners of a workspace that a webhook was paused; nil tells nobody.
	Tell func(ctx context.Context, workspace, subject, body string) error
}

// ErrNotFound says that there is no such webhook or call here.
var ErrNotFound = errors.New("webhooks: not found")

// most is how many webhooks a workspace may have.
const most = 20

// overlap is for how long an older key signs beside a new one.
const overlap = 24 * time.Hour

// Hook is a webhook.
type Hook struct {
	ID, Address string
	Kinds       []string
	At          time.Time
	Who         string
	Paused      *time.Time
	PausedWhy   string // in words, "" where somebody paused it
	Failing     *time.Time
	Lost        bool // address or keys do not open with the key of this server: it is told nothing, and can be taken away
	keys        []key
}

// key signs until its time is over, the newest without end.
type key struct {
	Key   []byte     `json:"key"`
	Until *time.Time `json:"until,omitempty"`
}

// Secret is its newest key as whoever checks signatures is given it.
func (h *Hook) Secret() string { return webhook.Secret(h.keys[0].Key) }

// signing are the keys that sign at a time.
func (h *Hook) signing(now time.Time) (out [][]byte) {
	for _, k := range h.keys {
		if k.Until == nil || now.Before(*k.Until) {
			out = append(out, k.Key)
		}
	}
	return out
}

func newID() string { return strings.ToLower(rand.Text()[:16]) }

func newKey() []byte {
	b := make([]byte, webhook.KeySize)
	rand.Read(b)
	return b
}

func sealedAt(workspace, id, what string) string { return workspace + "/" + id + "/" + what }

// LostWords say of a webhook that is lost what that means, and what to do.
const LostWords = "does not open with the key of this server, and is told nothing; take it away, and add the address anew"

const hookColumns = `id, address, keys, kinds, at, who, paused_at, paused_why, failing_since`

func (s *Store) scan(workspace string, row pgx.CollectableRow) (*Hook, error) {
	h := &Hook{}
	var address, keys []byte
	err := row.Scan(&h.ID, &address, &keys, &h.Kinds, &h.At, &h.Who, &h.Paused, &h.PausedWhy, &h.Failing)
	if err == nil {
		address, err = s.Seal.Open(address, sealedAt(workspace, h.ID, "address"))
		h.Address = string(address)
	}
	if err == nil {
		keys, err = s.Seal.Open(keys, sealedAt(workspace, h.ID, "keys"))
	}
	if err == nil {
		err = json.Unmarshal(keys, &h.keys)
	}
	return h, err
}

// List are the webhooks of a workspace, the oldest first.
func (s *Store) List(ctx context.Context, actor access.Actor) (out []*Hook, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT `+hookColumns+` FROM webhooks WHERE workspace = $1 ORDER BY at, id`, actor.Workspace).Query(
			func(rows pgx.Rows) (err error) {
				out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (*Hook, error) {
					h, err := s.scan(actor.Workspace, r)
					if h.Lost = err != nil && h.ID != ""; h.Lost {
						err = nil
					}
					return h, err
				})
				return err
			})
	})
	return out, err
}

// Add makes a webhook: an address that is told of some kinds.
func (s *Store) Add(ctx context.Context, actor access.Actor, address string, kinds []string) (id string, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return "", err
	}
	address, problems := webhook.Address(address, s.Plain)
	if len(kinds) == 0 {
		problems.Add("/kinds", "webhook.kinds", "none is chosen; choose what is told")
	}
	for _, k := range kinds {
		if !webhook.Chosen(k) {
			problems.Add("/kinds", "webhook.kinds", "%q is nothing that can be told", k)
		}
	}
	if len(problems) > 0 {
		return "", problems
	}
	id = newID()
	keys, err := s.sealKeys(actor.Workspace, id, []key{{Key: newKey()}})
	if err != nil {
		return "", err
	}
	err = s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		n := 0
		if err := tx.QueryRow(ctx, `SELECT count(*) FROM webhooks WHERE workspace = $1`, actor.Workspace).Scan(&n); err != nil {
			return err
		}
		if n >= most {
			return problem.List{{Field: "/address", Code: "webhook.most",
				Message: "is one more than 20; take away one that nobody needs"}}
		}
		_, err := tx.Exec(ctx, `INSERT INTO webhooks (workspace, id, address, keys, kinds, at, who) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
			actor.Workspace, id, s.Seal.Seal([]byte(address), sealedAt(actor.Workspace, id, "address")), keys,
			slices.Compact(slices.Sorted(slices.Values(kinds))), s.Now(), actor.Name)
		return err
	})
	return id, err
}

func (s *Store) sealKeys(workspace, id string, keys []key) ([]byte, error) {
	text, err := json.Marshal(keys)
	return s.Seal.Seal(text, sealedAt(workspace, id, "keys")), err
}

// change does something with one webhook.
func (s *Store) change(ctx context.Context, actor access.Actor, id string, do func(tx pgx.Tx, h *Hook) error) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	return s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		h, err := s.one(ctx, tx, actor.Workspace, id)
		if err != nil {
			return err
		}
		return do(tx, h)
	})
}

// one is a webhook that is to be changed, or a problem where it is lost.
func (s *Store) one(ctx context.Context, tx pgx.Tx, workspace, id string) (*Hook, error) {
	rows, err := tx.Query(ctx, `SELECT `+hookColumns+` FROM webhooks WHERE workspace = $1 AND id = $2 FOR UPDATE`, workspace, id)
	if err != nil {
		return nil, err
	}
	h, err := pgx.CollectExactlyOneRow(rows, func(r pgx.CollectableRow) (*Hook, error) {
		h, err := s.scan(workspace, r)
		if err != nil && h.ID != "" {
			err = problem.List{{Field: "/webhook", Code: "webhook.lost", Message: LostWords}}
		}
		return h, err
	})
	if errors.Is(err, pgx.ErrNoRows) {
		err = ErrNotFound
	}
	return h, err
}

// Remove takes a webhook away, with its log, one that is lost too.
func (s *Store) Remove(ctx context.Context, actor access.Actor, id string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	return s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		gone, err := tx.Exec(ctx, `DELETE FROM webhooks WHERE workspace = $1 AND id = $2`, actor.Workspace, id)
		if err == nil && gone.RowsAffected() == 0 {
			err = ErrNotFound
		}
		return err
	})
}

// Pause has nothing sent, nor kept for later, until Resume.
func (s *Store) Pause(ctx context.Context, actor access.Actor, id string) error {
	return s.change(ctx, actor, id, func(tx pgx.Tx, h *Hook) error {
		_, err := tx.Exec(ctx, `UPDATE webhooks SET paused_at = $3, paused_why = '' WHERE workspace = $1 AND id = $2
			AND paused_at IS NULL`, actor.Workspace, id, s.Now())
		return err
	})
}

// Resume sends again what happens from now on.
func (s *Store) Resume(ctx context.Context, actor access.Actor, id string) error {
	return s.change(ctx, actor, id, func(tx pgx.Tx, h *Hook) error {
		_, err := tx.Exec(ctx, `UPDATE webhooks SET paused_at = NULL, paused_why = '', failing_since = NULL
			WHERE workspace = $1 AND id = $2`, actor.Workspace, id)
		return err
	})
}

// Renew makes a new key. The one before signs beside it for a day.
func (s *Store) Renew(ctx context.Context, actor access.Actor, id string) error {
	return s.change(ctx, actor, id, func(tx pgx.Tx, h *Hook) error {
		until := s.Now().Add(overlap)
		h.keys[0].Until = &until
		keys, err := s.sealKeys(actor.Workspace, id, []key{{Key: newKey()}, h.keys[0]})
		if err != nil {
			return err
		}
		_, err = tx.Exec(ctx, `UPDATE webhooks SET keys = $3 WHERE workspace = $1 AND id = $2`, actor.Workspace, id, keys)
		return err
	})
}
