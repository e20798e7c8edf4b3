package link

import (
	"bytes"
	"context"
	"fmt"
	"log/slog"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/leads"
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
	// compareEvery is how often all of the bucket is held against the database; at the start too
	compareEvery = 24 * time.Hour
)

// Run relays until ctx ends. What goes wrong is logged, and tried again.
func (r *Relay) Run(ctx context.Context) {
	failing, compared := false, time.Time{}
	for ctx.Err() == nil {
		n, err := r.step(ctx)
		if err == nil && n < relayAtOnce && time.Since(compared) >= compareEvery {
			if _, err = r.Compare(ctx); err == nil {
				compared = time.Now()
			}
		}
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

// owned says of a row of live_links, l, that what it is about is its workspace's: a link, a file or a host that another one has
// not proved, the page of its house. What scans get is asked of whom it belongs to here, whatever put the row there.
const owned = `CASE
	WHEN left(l.link, 1) = '/' THEN l.link = '/' || l.workspace
	WHEN right(l.link, 1) = '/' THEN NOT EXISTS (SELECT 1 FROM link_hosts h
		WHERE h.host = left(l.link, -1) AND h.proved_at IS NOT NULL AND h.workspace <> l.workspace)
	WHEN position('` + leads.FilesBelow + `' in l.link) > 0 THEN EXISTS (SELECT 1 FROM files f WHERE f.workspace = l.workspace
		AND f.id = split_part(l.link, '` + leads.FilesBelow + `', 2) AND f.host = split_part(l.link, '/', 1))
	ELSE EXISTS (SELECT 1 FROM links k WHERE k.workspace = l.workspace AND k.host = split_part(l.link, '/', 1)
			AND k.path = substr(l.link, length(split_part(l.link, '/', 1)) + 2))
		OR EXISTS (SELECT 1 FROM link_trials t WHERE t.workspace = l.workspace AND t.host = split_part(l.link, '/', 1)
			AND t.path = substr(l.link, length(split_part(l.link, '/', 1)) + 2))
	END`

// step relays what came next, and says how many links that were.
func (r *Relay) step(ctx context.Context) (n int, err error) {
	at, err := r.position(ctx)
	if err != nil {
		return 0, err
	}
	rows, err := r.DB.Pool.Query(ctx, `SELECT workspace, link, seq, value, `+owned+` FROM live_links l WHERE seq > $1
		ORDER BY seq LIMIT $2`, at, relayAtOnce)
	if err != nil {
		return 0, err
	}
	type row struct {
		Workspace, Link string
		Seq             int64
		Value           []byte
		Owned           bool
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	if err != nil {
		return 0, err
	}
	for _, one := range list {
		if !one.Owned {
			slog.Error("what is live of a link is not its workspace's, and goes nowhere", "link", one.Link, "workspace",
				one.Workspace)
			n, at = n+1, one.Seq
			continue
		}
		v := livelink.Value{Seq: uint64(one.Seq), Workspace: one.Workspace, Sealed: one.Value}
		if err := r.file(ctx, one.Workspace, one.Link); err != nil {
			return n, err
		}
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

// file brings a file before those who answer scans learn of it; of a link there is none.
func (r *Relay) file(ctx context.Context, workspace, link string) error {
	_, id, is := strings.Cut(link, leads.FilesBelow)
	if !is {
		return nil
	}
	var data []byte
	if err := r.DB.Pool.QueryRow(ctx, `SELECT data FROM files WHERE workspace = $1 AND id = $2`, workspace, id).
		Scan(&data); err != nil {
		return fmt.Errorf("link: the file %s: %w", id, err)
	}
	return r.Log.PutFile(ctx, id, data)
}

// Compare holds the bucket against the database, mends what differs, and gives how many links that were. A link that the bucket
// alone knows goes on leading, since it may hang, and is said. Where the bucket holds something newer than the database, that is
// an older one that was read back: what it says counts again.
func (r *Relay) Compare(ctx context.Context) (mended int, err error) {
	there, err := r.Log.All(ctx)
	if err != nil {
		return 0, err
	}
	newest := uint64(0)
	for _, packed := range there {
		if v, err := livelink.Unpack(packed); err == nil {
			newest = max(newest, v.Seq)
		}
	}
	rows, err := r.DB.Pool.Query(ctx, `SELECT workspace, link, seq, value FROM live_links l WHERE `+owned+` ORDER BY seq`)
	if err != nil {
		return 0, err
	}
	var v livelink.Value
	var link string
	var seq int64
	stale, back := map[string]livelink.Value{}, []string(nil)
	_, err = pgx.ForEachRow(rows, []any{&v.Workspace, &link, &seq, &v.Sealed}, func() error {
		v.Seq = uint64(seq)
		key := livelink.Key(link)
		packed, known := there[key]
		delete(there, key)
		// The bucket was read before the database, whose numbers only grow.
		if was, err := livelink.Unpack(packed); known && err == nil && was.Seq > v.Seq {
			back = append(back, link)
		} else if !bytes.Equal(packed, v.Pack()) {
			stale[key] = livelink.Value{Seq: v.Seq, Workspace: v.Workspace, Sealed: bytes.Clone(v.Sealed)}
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	for key, v := range stale {
		if link, ok := livelink.Link(key); ok {
			if err := r.file(ctx, v.Workspace, link); err != nil {
				return mended, err
			}
		}
		if err := r.Log.PutNewer(ctx, key, v.Pack(), func(now []byte) bool { return v.Newer(now) || v.Beside(now) }); err != nil {
			return mended, err
		}
		mended++
	}
	if len(back) > 0 { // they come by themselves, with numbers of their own
		if _, err := r.DB.Pool.Exec(ctx,
			`SELECT setval('live_links_order', greatest($1, (SELECT last_value FROM live_links_order)))`,
			int64(newest)); err != nil {
			return mended, err
		}
		if _, err := r.DB.Pool.Exec(ctx, `UPDATE live_links SET seq = 0 WHERE link = ANY ($1)`, back); err != nil {
			return mended, err
		}
		mended += len(back)
	}
	alone := 0
	for key := range there {
		if _, ok := livelink.Link(key); ok {
			alone++
		}
	}
	if mended+alone > 0 {
		slog.Warn("live links differed between the database and those who answer scans", "mended", mended,
			"unknown to the database",
			alone)
	}
	return mended, nil
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
