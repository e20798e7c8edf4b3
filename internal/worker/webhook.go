package worker

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"sodrik/internal/core/webhook"
	"sodrik/internal/db"
	"sodrik/internal/webhooks"
)

const queueWebhooks = "webhooks"

// callArgs name a call of a webhook.
type callArgs struct {
	Workspace string `json:"workspace"`
	Call      string `json:"call"`
}

func (callArgs) Kind() string { return "webhook" }

// InsertOpts has a call tried as often as the log says that it is, and more often where a machine did not do its share.
func (callArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueWebhooks, MaxAttempts: 2 * webhook.Tries}
}

// Webhooks puts calls of webhooks down.
type Webhooks struct{ client *river.Client[pgx.Tx] }

// NewWebhooks is one whose jobs stand in a database.
func NewWebhooks(d *db.DB) (*Webhooks, error) {
	client, err := inserting(d)
	return &Webhooks{client}, err
}

// Call puts down that a call is to be made.
func (q *Webhooks) Call(ctx context.Context, tx pgx.Tx, workspace, id string) error {
	return put(ctx, tx, q.client, callArgs{workspace, id})
}

// caller makes calls.
type caller struct {
	river.WorkerDefaults[callArgs]
	webhooks *webhooks.Store
}

// Work makes a call once. One that was not taken waits for its next time.
func (w *caller) Work(ctx context.Context, job *river.Job[callArgs]) error {
	wait, err := w.webhooks.Deliver(ctx, job.Args.Workspace, job.Args.Call)
	switch {
	case errors.Is(err, webhooks.ErrAgain):
		return river.JobSnooze(wait)
	case errors.Is(err, webhooks.ErrNotFound): // taken away since
		return river.JobCancel(err)
	}
	return err
}

// relaying is how often it is asked whether something happened that webhooks are told of.
const relaying = time.Second

// relay makes calls of what happened, until ctx ends.
func (w *Worker) relay(ctx context.Context) {
	for ctx.Err() == nil {
		if _, err := w.Webhooks.Relay(ctx); err != nil && ctx.Err() == nil {
			slog.Error("worker: webhooks", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(relaying):
		}
	}
}
