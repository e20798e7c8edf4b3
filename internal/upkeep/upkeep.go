// Package upkeep is what a running service does by itself: it takes away what nobody needs any more, and brings up to date what was written by older
// rules. Of many instances, one does each job when it is due.
package upkeep

import (
	"context"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/caught"
	"sodrik/internal/people"
)

// Job is one thing that is done now and then.
type Job struct {
	Name  string
	Every time.Duration
	Do    func(ctx context.Context) (n int64, err error) // n is how many things it took away or mended
}

// Jobs are those of the service.
func Jobs(codes *code.Store, who *people.Store) []Job {
	return []Job{
		{"what can be found", time.Hour, func(ctx context.Context) (int64, error) { n, err := codes.Reindex(ctx); return int64(n), err }},
		{"people", time.Hour, who.Sweep},
		{"uploads", 6 * time.Hour, codes.SweepUploads},
		{"proofs", 24 * time.Hour, codes.SweepProofs},
	}
}

// tick is how often the timetable is looked at.
const tick = 5 * time.Second

// Run does what is due until ctx ends. A job that fails, or panics, is told in the log and tried again when it is due next.
func Run(ctx context.Context, codes *code.Store, jobs []Job) {
	clearTemporary()
	for {
		if err := codes.FollowKeyring(ctx); err != nil && ctx.Err() == nil {
			slog.Error("upkeep: keyring", "error", err)
		}
		for _, j := range jobs {
			due, err := take(ctx, codes, j)
			if due && err == nil {
				err = Once(ctx, j)
			}
			if err != nil && ctx.Err() == nil {
				slog.Error("upkeep", "job", j.Name, "error", err)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(tick):
		}
	}
}

// Once does a job.
func Once(ctx context.Context, j Job) (err error) {
	defer caught.To(&err)
	n, err := j.Do(ctx)
	if n > 0 {
		slog.Info("upkeep", "job", j.Name, "n", n)
	}
	return err
}

// take says whether a job is due, and takes it so that no other instance does.
func take(ctx context.Context, codes *code.Store, j Job) (bool, error) {
	now := codes.Now()
	tag, err := codes.DB.Pool.Exec(ctx, `INSERT INTO timetable (job, at) VALUES ($1, $2) ON CONFLICT (job) DO UPDATE SET at = excluded.at WHERE timetable.at < $3`, j.Name, now, now.Add(-j.Every))
	return err == nil && tag.RowsAffected() == 1, err
}

// temporaryFor is how long a folder for pictures that readers look at may be in use.
const temporaryFor = time.Hour

// clearTemporary takes away folders that a process left behind that was ended.
func clearTemporary() {
	found, err := filepath.Glob(filepath.Join(os.TempDir(), "sodrik-*"))
	if err != nil {
		return
	}
	for _, dir := range found {
		if info, err := os.Stat(dir); err == nil && info.IsDir() && time.Since(info.ModTime()) > temporaryFor && onlyPictures(dir) {
			os.RemoveAll(dir)
		}
	}
}

// onlyPictures says that a folder holds what readers were shown and nothing else.
func onlyPictures(dir string) bool {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return false
	}
	for _, e := range entries {
		if e.IsDir() || filepath.Ext(e.Name()) != ".pgm" {
			return false
		}
	}
	return true
}
