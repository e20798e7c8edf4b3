package e2e

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/batches"
	"sodrik/internal/webhooks"
)

// soon does the work of batches within the tests' own process, once what it is about can be seen.
type soon struct{ store *batches.Store }

func (q *soon) later(do func(ctx context.Context) error) {
	go func() {
		for range 20 { // until the transaction that put it down is through
			time.Sleep(50 * time.Millisecond)
			if err := do(context.Background()); err != nil {
				slog.Debug("batch", "error", err)
				continue
			}
			time.Sleep(200 * time.Millisecond)
			do(context.Background()) // what was not seen yet
			return
		}
	}()
}

func (q *soon) Check(_ context.Context, _ pgx.Tx, workspace, id string) error {
	q.later(func(ctx context.Context) error {
		err := q.store.Check(ctx, workspace, id)
		for more := true; more && err == nil; {
			more, err = q.store.Link(ctx, workspace, id)
		}
		if err == nil {
			err = q.store.Check(ctx, workspace, id)
		}
		for more := true; more && err == nil; {
			more, err = q.store.Prove(ctx, workspace, id)
		}
		return err
	})
	return nil
}

func (q *soon) Part(_ context.Context, _ pgx.Tx, workspace, run string, part int) error {
	q.later(func(ctx context.Context) error { return q.store.Part(ctx, workspace, run, part) })
	return nil
}

// calling makes calls of webhooks within this process, until they are taken, given up, or wait for longer than a test.
type calling struct{ store *webhooks.Store }

func (q *calling) Call(_ context.Context, _ pgx.Tx, workspace, id string) error {
	go func() {
		for range 100 { // until the transaction that put it down is through
			time.Sleep(50 * time.Millisecond)
			wait, err := q.store.Deliver(context.Background(), workspace, id)
			if err == nil || errors.Is(err, webhooks.ErrAgain) && wait > time.Minute {
				return
			}
			if errors.Is(err, webhooks.ErrAgain) {
				time.Sleep(wait)
			}
		}
	}()
	return nil
}

// relay makes calls of what happens, as the worker does.
func (q *calling) relay(ctx context.Context) {
	for ; ctx.Err() == nil; time.Sleep(500 * time.Millisecond) {
		if _, err := q.store.Relay(ctx); err != nil {
			slog.Warn("webhooks", "error", err)
			return
		}
	}
}
