package notices

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/measure"
)

// uncounted is the kind of a notice that scans are not counted. Nobody can choose not to be told.
const uncounted = "uncounted"

const (
	gapLooked = 2 * time.Second  // how often a gap is looked for
	gapLeast  = 10 * time.Second // how long one lasts at least that is told while nothing is lost
)

// Gap is a time in which the service that answers kept no scans; Until is zero while it lasts.
type Gap struct {
	Since, Until time.Time
	Lost         int64 // scans that will never be counted
}

// words says a gap.
func (g Gap) words() string {
	lost := "Nothing is lost so far: scans wait until the log has room."
	switch {
	case g.Lost == 1:
		lost = "1 scan is lost."
	case g.Lost > 1:
		lost = fmt.Sprintf("%s scans are lost.", measure.Count(int(g.Lost)))
	case !g.Until.IsZero():
		lost = "All of them were counted since."
	}
	const at = "2 January 2006, 15:04 UTC"
	if g.Until.IsZero() {
		return fmt.Sprintf("Scans are not counted since %s. %s Everybody is led on as before. Whoever runs the server finds the "+
			"reason in its log; most often its disk is full.", g.Since.UTC().Format(at), lost)
	}
	return fmt.Sprintf("Scans could not be counted from %s to %s. %s", g.Since.UTC().Format(at),
		g.Until.UTC().Format("15:04 UTC"), lost)
}

// FollowGaps tells every workspace that has live links of gaps, until ctx ends: once while a gap lasts, and what came of it
// after.
func (s *Store) FollowGaps(ctx context.Context, newest func() Gap) {
	var told Gap
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(gapLooked):
		}
		g := newest()
		if g.Since.IsZero() || g == told || g.Lost == 0 && g.Until.IsZero() && time.Since(g.Since) < gapLeast ||
			g.Lost == 0 && !g.Until.IsZero() && !told.Since.Equal(g.Since) {
			continue
		}
		if err := s.Uncounted(ctx, g); err != nil {
			if ctx.Err() == nil {
				slog.Error("workspaces are not told that scans are not counted; tried again", "error", err)
			}
			continue
		}
		told = g
	}
}

// Uncounted keeps a gap as one notice of each workspace that has live links, with what is known of it now. It is mailed once.
func (s *Store) Uncounted(ctx context.Context, g Gap) error {
	rows, err := s.DB.Pool.Query(ctx, `SELECT DISTINCT workspace FROM live_links ORDER BY workspace`)
	if err != nil {
		return err
	}
	workspaces, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return err
	}
	key := uncounted + "/" + g.Since.UTC().Format(time.RFC3339Nano)
	for _, w := range workspaces {
		actor := access.OfProgram(w, "")
		err := s.DB.Trip(ctx, actor.Workspace, func(b *pgx.Batch) {
			b.Queue(`INSERT INTO notices (workspace, key, kind, code, link, words, at) VALUES ($1, $2, $3, '', '', $4, $5)
				ON CONFLICT (workspace, key) DO UPDATE SET words = excluded.words`, w, key, uncounted,
				s.Seal.Seal([]byte(g.words()), sealedAt(w, key)), s.Now())
		})
		if err != nil {
			return err
		}
	}
	return nil
}
