package webhooks

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/webhook"
	"sodrik/internal/outside"
)

// States of a call.
const (
	Waiting = "waiting"
	Taken   = "taken"
	GivenUp = "given up"
)

// Call is a call of a webhook, with what came of it.
type Call struct {
	ID, Hook, Kind string
	At             time.Time
	State          string
	Tries          int
	Tried, Next    *time.Time
	Status         int // of the newest answer, 0 for none
	Took           time.Duration
	Trouble        string // in words
}

const (
	shown   = 50
	kept    = 30 * 24 * time.Hour
	sendFor = 15 * time.Second
)

// Calls are the newest of a workspace, those of one webhook where it is named.
func (s *Store) Calls(ctx context.Context, actor access.Actor, hook string) (out []Call, err error) {
	if err := actor.Need(access.Manage); err != nil {
		return nil, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT id, webhook, kind, at, state, tries, tried_at, next_at, status, took, trouble FROM webhook_calls
			WHERE workspace = $1 AND ($2 = '' OR webhook = $2) ORDER BY at DESC, id LIMIT $3`, actor.Workspace, hook, shown).Query(
			func(rows pgx.Rows) (err error) {
				out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (c Call, err error) {
					took := 0
					err = r.Scan(&c.ID, &c.Hook, &c.Kind, &c.At, &c.State, &c.Tries, &c.Tried, &c.Next, &c.Status, &took,
						&c.Trouble)
					c.Took = time.Duration(took) * time.Millisecond
					return c, err
				})
				return err
			})
	})
	return out, err
}

// Try has a webhook called with a message that tells nothing.
func (s *Store) Try(ctx context.Context, actor access.Actor, id string) error {
	return s.change(ctx, actor, id, func(tx pgx.Tx, h *Hook) error {
		return s.put(ctx, tx, actor.Workspace, []*Hook{h}, webhook.Test, webhook.Nothing{})
	})
}

// Again makes a call once more, under the same id, so that whoever took it already can tell.
func (s *Store) Again(ctx context.Context, actor access.Actor, call string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	return s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		id := ""
		err := tx.QueryRow(ctx, `SELECT webhook FROM webhook_calls WHERE workspace = $1 AND id = $2`, actor.Workspace, call).Scan(&id)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrNotFound
		}
		if err != nil {
			return err
		}
		h, err := s.one(ctx, tx, actor.Workspace, id)
		if err != nil {
			return err
		}
		if h.Paused != nil {
			return problem.List{{Field: "/call", Code: "webhook.paused", Message: "is of a webhook that is paused; resume it first"}}
		}
		tag, err := tx.Exec(ctx, `UPDATE webhook_calls SET state = 'waiting', tries = 0, next_at = NULL
			WHERE workspace = $1 AND id = $2 AND state <> 'waiting'`, actor.Workspace, call)
		if err != nil || tag.RowsAffected() == 0 {
			return err
		}
		return s.queue(ctx, tx, actor.Workspace, call)
	})
}

// put makes a call of some webhooks, with one message.
func (s *Store) put(ctx context.Context, tx pgx.Tx, workspace string, hooks []*Hook, kind string, data any) error {
	body, err := webhook.Message{Type: kind, Timestamp: s.Now().UTC().Truncate(time.Millisecond), Data: data}.Encode()
	if err != nil {
		return err
	}
	for _, h := range hooks {
		id := newID()
		if _, err := tx.Exec(ctx, `INSERT INTO webhook_calls (workspace, id, webhook, kind, body, at) VALUES ($1, $2, $3, $4, $5, $6)`,
			workspace, id, h.ID, kind, s.Seal.Seal(body, sealedAt(workspace, id, "call")), s.Now()); err != nil {
			return err
		}
		if err := s.queue(ctx, tx, workspace, id); err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) queue(ctx context.Context, tx pgx.Tx, workspace, call string) error {
	if s.Queue == nil {
		return nil
	}
	return s.Queue.Call(ctx, tx, workspace, call)
}

// ErrAgain says that a call was not taken and is to be made again.
var ErrAgain = errors.New("webhooks: not taken; tried again")

// Deliver makes a call once. ErrAgain says after what wait it is to be made again.
func (s *Store) Deliver(ctx context.Context, workspace, call string) (wait time.Duration, err error) {
	c, h, body, err := s.due(ctx, workspace, call)
	if err != nil || c.State != Waiting {
		return 0, err
	}
	began := s.Now()
	some, cancel := context.WithTimeout(ctx, sendFor)
	defer cancel()
	status, failed := s.Send.Send(some, h.Address, webhook.Sign(h.signing(began), call, began, body), body)
	if ctx.Err() != nil {
		return 0, ctx.Err()
	}
	c.Tries, c.Status, c.Took, c.Trouble = c.Tries+1, status, s.Now().Sub(began), said(status, failed)
	return s.came(ctx, workspace, c, h)
}

// due reads a call that is to be made. One whose webhook was paused since is given up.
func (s *Store) due(ctx context.Context, workspace, call string) (c Call, h *Hook, body []byte, err error) {
	c.ID = call
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		err := tx.QueryRow(ctx, `SELECT webhook, kind, at, state, tries, body FROM webhook_calls WHERE workspace = $1 AND id = $2`,
			workspace, call).Scan(&c.Hook, &c.Kind, &c.At, &c.State, &c.Tries, &body)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrNotFound
		}
		if err == nil {
			h, err = s.one(ctx, tx, workspace, c.Hook)
		}
		if err != nil || h.Paused == nil || c.Kind == webhook.Test || c.State != Waiting {
			return err
		}
		c.State = GivenUp
		_, err = tx.Exec(ctx, `UPDATE webhook_calls SET state = $3, next_at = NULL, trouble = 'was paused' WHERE workspace = $1
			AND id = $2`, workspace, call, c.State)
		return err
	})
	if err == nil {
		body, err = s.Seal.Open(body, sealedAt(workspace, call, "call"))
	}
	return c, h, body, err
}

// came notes what came of a call.
func (s *Store) came(ctx context.Context, workspace string, c Call, h *Hook) (wait time.Duration, err error) {
	outcome := webhook.Came(c.Status)
	wait, more := webhook.Wait(c.Tries)
	state, next := Taken, (*time.Time)(nil)
	switch {
	case outcome == webhook.Taken:
	case more && outcome == webhook.Failed && c.Kind != webhook.Test:
		at := s.Now().Add(wait)
		state, next = Waiting, &at
	default:
		state = GivenUp
	}
	why := ""
	err = s.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `UPDATE webhook_calls SET state = $3, tries = $4, tried_at = $5, next_at = $6, status = $7,
			took = $8, trouble = $9 WHERE workspace = $1 AND id = $2`, workspace, c.ID, state, c.Tries, s.Now(), next, c.Status,
			c.Took.Milliseconds(), c.Trouble); err != nil {
			return err
		}
		var since *time.Time
		if err := tx.QueryRow(ctx, `UPDATE webhooks SET failing_since = CASE WHEN $3 THEN NULL ELSE coalesce(failing_since, $4) END
			WHERE workspace = $1 AND id = $2 RETURNING failing_since`, workspace, h.ID, outcome == webhook.Taken, s.Now()).
			Scan(&since); err != nil || h.Paused != nil {
			return err
		}
		switch {
		case outcome == webhook.Unwanted:
			why = "It answers 410: it wants no more calls."
		case state == GivenUp && c.Kind != webhook.Test && !since.After(c.At.Add(sendFor)): // nothing was taken since
			why = fmt.Sprintf("It took no call for three days. The last time it %s.", c.Trouble)
		default:
			return nil
		}
		_, err := tx.Exec(ctx, `UPDATE webhooks SET paused_at = $3, paused_why = $4 WHERE workspace = $1 AND id = $2`, workspace, h.ID,
			s.Now(), why)
		return err
	})
	if err == nil && why != "" && s.Tell != nil {
		err = s.Tell(ctx, workspace, "A webhook is paused", h.Address+"\n\n"+why+
			"\n\nWhat happens from now on is not told there until an owner resumes it.\n")
	}
	if err == nil && state == Waiting {
		err = ErrAgain
	}
	return wait, err
}

// said is what is wrong with an answer, "" where nothing is.
func said(status int, err error) string {
	switch {
	case errors.Is(err, outside.ErrPrivate):
		return "lies in a private network"
	case errors.Is(err, context.DeadlineExceeded):
		return "did not answer within 15 seconds"
	case err != nil:
		return "did not answer"
	case webhook.Came(status) == webhook.Taken:
		return ""
	case status >= 300 && status < 400:
		return fmt.Sprintf("answered %d, a redirect, which is not followed", status)
	}
	return fmt.Sprintf("answered %d", status)
}

// Sweep takes calls out of the log that are kept long enough.
func (s *Store) Sweep(ctx context.Context) (int64, error) {
	tag, err := s.DB.Pool.Exec(ctx, `DELETE FROM webhook_calls WHERE at < $1`, s.Now().Add(-kept))
	return tag.RowsAffected(), err
}
