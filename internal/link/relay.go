package link

import (
	"context"
	"fmt"
	"log/slog"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/db"
	"sodrik/internal/eventlog"
	"sodrik/internal/livelink"
)

// Relay brings what is live from the database to the bucket, in the order in which it was made so. How far it has come lies in
// the bucket, so that an empty one is filled again. Any number may run at once.
type Relay struct {
	DB  *db.DB
	Log *eventlog.Log

	soon chan struct{}
}

// NewRelay gives a relay that does not run yet.
func NewRelay(d *db.DB, log *eventlog.Log) *Relay {
	return &Relay{DB: d, Log: log, soon: make(chan struct{}, 1)}
}

// Soon has it look at once, in place of when it would.
func (r *Relay) Soon() {
	select {
	case r.soon <- struct{}{}:
	default:
	}
}

const (
	relayEvery  = 200 * time.Millisecond
	relayAtOnce = 500
	relayRest   = 2 * time.Second // after something went wrong
)

// Run relays until ctx ends. What goes wrong is logged, and tried again.
func (r *Relay) Run(ctx context.Context) {
	failing := false
	for ctx.Err() == nil {
		n, err := r.step(ctx)
		wait := relayEvery
		switch {
		case err != nil && ctx.Err() == nil:
			if !failing {
				slog.Error("live links do not reach those who answer scans; tried again", "error", err)
			}
			failing, wait = true, relayRest
		case n == relayAtOnce:
			wait = 0
		default:
			failing = false
		}
		select {
		case <-ctx.Done():
		case <-time.After(wait):
		case <-r.soon:
		}
	}
}

// step relays what came next, and says how many links that were.
func (r *Relay) step(ctx context.Context) (n int, err error) {
	at, err := r.position(ctx)
	if err != nil {
		return 0, err
	}
	rows, err := r.DB.Pool.Query(ctx, `SELECT workspace, link, seq, value FROM live_links WHERE seq > $1 ORDER BY seq LIMIT $2`, at,
		relayAtOnce)
	if err != nil {
		return 0, err
	}
	type row struct {
		Workspace, Link string
		Seq             int64
		Value           []byte
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	if err != nil {
		return 0, err
	}
	for _, one := range list {
		v := livelink.Value{Seq: uint64(one.Seq), Workspace: one.Workspace, Sealed: one.Value}
		if err := r.Log.PutNewer(ctx, livelink.Key(one.Link), v.Pack(), v.Newer); err != nil {
			return n, err
		}
		n, at = n+1, one.Seq
	}
	if n > 0 {
		_, err = r.Log.Put(ctx, livelink.Position, strconv.AppendInt(nil, at, 10))
	}
	return n, err
}

func (r *Relay) position(ctx context.Context) (int64, error) {
	text, err := r.Log.Get(ctx, livelink.Position)
	if err != nil || text == nil {
		return 0, err
	}
	at, err := strconv.ParseInt(string(text), 10, 64)
	if err != nil {
		return 0, fmt.Errorf("link: how far the relay has come cannot be read: %w", err)
	}
	return at, nil
}
