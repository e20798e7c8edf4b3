package scans

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/problem"
)

// Bounds of how long events are kept, in months.
const (
	leastKept = 1
	mostKept  = 120
)

// Deletion is one of events.
type Deletion struct {
	Before time.Time // day of UTC
	N      int64
	At     time.Time
}

// Keeping is for how long a workspace keeps events, and what became of those before.
type Keeping struct {
	Months    int // 0 for ever
	Deletions []Deletion
	Oldest    time.Time // event that is there; zero for none
	Unfolded  int       // days that wait to be folded
}

// Keeping says how a workspace keeps events.
func (s *Store) Keeping(ctx context.Context, actor access.Actor) (k Keeping, err error) {
	if err := actor.Need(access.Look); err != nil {
		return k, err
	}
	err = s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
		b.Queue(`SELECT coalesce(max(months), 0) FROM scan_keeping WHERE workspace = $1`, actor.Workspace).
			QueryRow(func(r pgx.Row) error { return r.Scan(&k.Months) })
		b.Queue(`SELECT before, n, at FROM scan_deletions WHERE workspace = $1 ORDER BY at DESC LIMIT 12`, actor.Workspace).
			Query(func(rows pgx.Rows) (err error) {
				k.Deletions, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Deletion])
				return err
			})
		b.Queue(`SELECT at FROM scans WHERE workspace = $1 ORDER BY id LIMIT 1`, actor.Workspace).
			Query(func(rows pgx.Rows) error {
				_, err := pgx.ForEachRow(rows, []any{&k.Oldest}, func() error { return nil })
				return err
			})
		b.Queue(`SELECT count(*) FROM scan_unfolded WHERE workspace = $1 AND day < $2`, actor.Workspace, s.today()).
			QueryRow(func(r pgx.Row) error { return r.Scan(&k.Unfolded) })
	})
	return k, err
}

// Keep sets for how many months events are kept, as somebody typed it; "" is for ever.
func (s *Store) Keep(ctx context.Context, actor access.Actor, typed string) error {
	if err := actor.Need(access.Manage); err != nil {
		return err
	}
	months := 0
	if typed != "" {
		n, err := strconv.Atoi(typed)
		if err != nil || n < leastKept || n > mostKept {
			return problem.List{{Field: "/months", Code: "scans.months",
				Message: fmt.Sprintf("%q is no number of months; write %d to %d, or nothing to keep events for ever", typed, leastKept,
					mostKept)}}
		}
		months = n
	}
	return s.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		if months == 0 {
			_, err := tx.Exec(ctx, `DELETE FROM scan_keeping WHERE workspace = $1`, actor.Workspace)
			return err
		}
		_, err := tx.Exec(ctx, `INSERT INTO scan_keeping VALUES ($1, $2)
			ON CONFLICT (workspace) DO UPDATE SET months = excluded.months`, actor.Workspace, months)
		return err
	})
}

// deletedAtOnce is how many events one statement deletes.
const deletedAtOnce = 50_000

// errUnfolded says that days are not folded yet.
var errUnfolded = errors.New("days before it are not folded yet")

// Forget deletes events of workspaces that keep them for so many months, whole months of UTC, and says how many that were.
// Counts stay, as does what was folded; until all before it is, nothing is deleted.
func (s *Store) Forget(ctx context.Context) (n int64, err error) {
	rows, err := s.DB.Pool.Query(ctx, `SELECT workspace, months FROM scan_keeping ORDER BY workspace`)
	if err != nil {
		return 0, err
	}
	type keeps struct {
		Workspace string
		Months    int
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[keeps])
	for _, k := range list {
		if err != nil {
			break
		}
		today := s.today()
		before := time.Date(today.Year(), today.Month(), 1, 0, 0, 0, 0, time.UTC).AddDate(0, -k.Months, 0)
		var some int64
		if some, err = s.forget(ctx, k.Workspace, before); errors.Is(err, errUnfolded) {
			err = nil // the next time
		}
		n += some
	}
	return n, err
}

func (s *Store) forget(ctx context.Context, workspace string, before time.Time) (n int64, err error) {
	var waits, any bool
	if err := s.DB.Pool.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM scan_unfolded WHERE workspace = $1 AND day < $2),
		EXISTS (SELECT 1 FROM scans WHERE workspace = $1 AND id < $3::uuid)`, workspace, before, firstID(before)).
		Scan(&waits, &any); err != nil || !any {
		return 0, err
	}
	if waits {
		return 0, errUnfolded
	}
	// Said first, so that figures no longer ask for what goes.
	at := s.Now()
	if _, err := s.DB.Pool.Exec(ctx, `INSERT INTO scan_deletions VALUES ($1, $2, 0, $3)`, workspace, before, at); err != nil {
		return 0, err
	}
	for {
		tag, err := s.DB.Pool.Exec(ctx, `WITH gone AS (DELETE FROM scans WHERE workspace = $1 AND id IN
				(SELECT id FROM scans WHERE workspace = $1 AND id < $2::uuid LIMIT $3) AND id < $2::uuid RETURNING 1)
			UPDATE scan_deletions SET n = n + (SELECT count(*) FROM gone) WHERE workspace = $1 AND at = $4
			AND EXISTS (SELECT 1 FROM gone)`, workspace, firstID(before), deletedAtOnce, at)
		if err != nil {
			return n, err
		}
		if tag.RowsAffected() == 0 {
			return n, s.DB.Pool.QueryRow(ctx, `SELECT n FROM scan_deletions WHERE workspace = $1 AND at = $2`, workspace, at).Scan(&n)
		}
	}
}
