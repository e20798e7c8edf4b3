// Package scans brings what the log keeps of scans into the database, and counts there. It owns the tables of scans.
package scans

import (
	"context"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/core/scan"
	"sodrik/internal/db"
	"sodrik/internal/eventlog"
)

// Ingest copies scans from the log into the database. Any number may run at once: a scan that comes twice is kept once.
type Ingest struct {
	DB  *db.DB
	Log *eventlog.Log
	Now func() time.Time
}

const (
	// atOnce is how many messages are taken at once; each holds up to 64 scans.
	atOnce = 200
	// kept is for how long messages stay in the log once they are in the database.
	kept = 7 * 24 * time.Hour
	// tidies is how often partitions are made ahead and old messages taken away.
	tidies = time.Hour
	rest   = 2 * time.Second // after something went wrong
)

// Run ingests until ctx ends. What goes wrong is logged, and tried again.
func (i *Ingest) Run(ctx context.Context) {
	tidied := time.Time{}
	for ctx.Err() == nil {
		err := error(nil)
		if i.Now().Sub(tidied) >= tidies {
			if err = i.tidy(ctx); err == nil {
				tidied = i.Now()
			}
		}
		if err == nil {
			some, cancel := context.WithTimeout(ctx, tidies)
			err = i.Log.Ingest(some, atOnce, func(batch []eventlog.Event) error { return i.take(ctx, batch) })
			cancel()
		}
		if err != nil && ctx.Err() == nil && some(err) {
			slog.Error("scans do not reach the database; tried again", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(rest):
			}
		}
	}
}

// some says that an error is more than that a while is over.
func some(err error) bool { return err != context.DeadlineExceeded }

// take keeps a batch, once. A message that cannot be read is left out, and said: it would stand in the way for ever.
func (i *Ingest) take(ctx context.Context, batch []eventlog.Event) error {
	var events []scan.Event
	for _, m := range batch {
		list, err := scan.Decode(m.Data)
		if err != nil {
			slog.Error("a message of the log cannot be read and is left out", "sequence", m.Sequence, "error", err)
		}
		events = append(events, list...)
	}
	by := map[string]scan.Event{}
	for _, e := range events {
		by[e.Workspace+" "+strings.ToLower(e.ID)] = e
	}
	return pgx.BeginFunc(ctx, i.DB.Pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `CREATE TEMP TABLE arriving (LIKE scans) ON COMMIT DROP`); err != nil {
			return err
		}
		_, err := tx.CopyFrom(ctx, pgx.Identifier{"arriving"}, []string{"workspace", "id", "at", "kind", "link", "code", "place",
			"does", "bare", "device", "system", "languages", "country", "part", "town", "accuracy", "route", "draw",
			"phone", "words", "goal", "signed"},
			pgx.CopyFromSlice(len(events), func(k int) ([]any, error) {
				e := events[k]
				return []any{e.Workspace, e.ID, time.UnixMilli(e.At), string(e.Kind), e.Link, e.Code, e.Place, e.Does, e.Bare,
					e.Device, e.System, append([]string{}, e.Languages...), e.Country, e.Part, e.Town, e.Accuracy, e.Route,
					e.Draw, e.Phone, e.Words, e.Goal, e.Signed}, nil
			}))
		if err != nil {
			return fmt.Errorf("scans: %w", err)
		}
		rows, err := tx.Query(ctx, `INSERT INTO scans SELECT * FROM arriving ON CONFLICT DO NOTHING RETURNING workspace, id::text`)
		if err != nil {
			return err
		}
		// Counted is what came for the first time.
		var workspace, id string
		sums := newBatch()
		if _, err := pgx.ForEachRow(rows, []any{&workspace, &id}, func() error {
			sums.add(by[workspace+" "+id])
			return nil
		}); err != nil {
			return err
		}
		return sums.keep(ctx, tx)
	})
}

// tidy makes the partitions of this month and the next two, and takes out of the log what is a week behind.
func (i *Ingest) tidy(ctx context.Context) error {
	month := time.Date(i.Now().UTC().Year(), i.Now().UTC().Month(), 1, 0, 0, 0, 0, time.UTC)
	for range 3 {
		next := month.AddDate(0, 1, 0)
		if err := i.partition(ctx, "scans_"+month.Format("2006_01"), firstID(month), firstID(next)); err != nil {
			return err
		}
		month = next
	}
	_, err := i.Log.Trim(ctx, i.Now().Add(-kept))
	return err
}

// partition makes one of the ids from one to before another, unless it is there. What came before it was made lies in the one
// for all others, and goes along.
func (i *Ingest) partition(ctx context.Context, name, from, to string) error {
	return pgx.BeginFunc(ctx, i.DB.Pool, func(tx pgx.Tx) error {
		var there bool
		if err := tx.QueryRow(ctx, `SELECT pg_advisory_xact_lock(hashtextextended('sodrik scans', 0)) IS NULL
			OR to_regclass($1) IS NOT NULL`, name).Scan(&there); err != nil || there {
			return err
		}
		for _, sql := range []string{
			`CREATE TABLE ` + name + ` (LIKE scans INCLUDING ALL)`,
			`LOCK TABLE scans_other IN ACCESS EXCLUSIVE MODE`,
			`WITH moved AS (DELETE FROM scans_other WHERE id >= '` + from + `' AND id < '` + to + `' RETURNING *)
				INSERT INTO ` + name + ` SELECT * FROM moved`,
			`ALTER TABLE scans ATTACH PARTITION ` + name + ` FOR VALUES FROM ('` + from + `') TO ('` + to + `')`,
		} {
			if _, err := tx.Exec(ctx, sql); err != nil {
				return fmt.Errorf("scans: the partition %s: %w", name, err)
			}
		}
		return nil
	})
}

// firstID is the smallest UUIDv7 of a time (RFC 9562, 5.7): 48 bits of milliseconds, and nothing after them but zeros.
func firstID(t time.Time) string {
	var b [16]byte
	binary.BigEndian.PutUint64(b[:8], uint64(t.UnixMilli())<<16)
	s := hex.EncodeToString(b[:])
	return s[:8] + "-" + s[8:12] + "-" + s[12:16] + "-" + s[16:20] + "-" + s[20:]
}
