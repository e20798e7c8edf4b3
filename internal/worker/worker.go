// Package worker does what no request waits for: it takes away what nobody needs any more, brings up to date what was written
// by older rules, proves codes of the ledger, sends mails. The jobs stand in the database (river, in a schema of its own),
// where any process takes them up; one that dies in the middle of a job leaves it to another.
package worker

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"runtime"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/db"
	"sodrik/internal/link"
	"sodrik/internal/notices"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/webhooks"
)

const (
	schema = "river"

	// Of a process that died, its jobs are given to others once they have run for rescueAfter. river looks for such jobs
	// every 30 s, and chooses which process looks within 15 s: all of it takes less than two minutes. A job that runs for
	// longer than jobTimeout is stopped, so that none is done twice at once.
	jobTimeout  = time.Minute
	rescueAfter = 70 * time.Second

	stopping = 5 * time.Second // how long jobs may go on when the process is to end
)

// Migrate makes the tables of the jobs, or brings them up to date.
func Migrate(ctx context.Context, d *db.DB) error {
	conn, err := d.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	const one = `hashtextextended('sodrik jobs', 0)` // of several instances that start at once, one does it
	if _, err := conn.Exec(ctx, `SELECT pg_advisory_lock(`+one+`)`); err != nil {
		return err
	}
	defer conn.Exec(context.WithoutCancel(ctx), `SELECT pg_advisory_unlock(`+one+`)`)
	if _, err := conn.Exec(ctx, `CREATE SCHEMA IF NOT EXISTS `+schema); err != nil {
		return err
	}
	m, err := rivermigrate.New(riverpgxv5.New(d.Pool), &rivermigrate.Config{Schema: schema, Logger: quiet()})
	if err == nil {
		_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
	}
	if err != nil {
		return fmt.Errorf("the tables of the jobs: %w", err)
	}
	return nil
}

// quiet logs what is a warning or worse.
func quiet() *slog.Logger { return slog.New(warnings{slog.Default().Handler()}) }

type warnings struct{ slog.Handler }

func (w warnings) Enabled(ctx context.Context, l slog.Level) bool {
	return l >= slog.LevelWarn && w.Handler.Enabled(ctx, l)
}

// Worker carries out jobs.
type Worker struct {
	Codes *code.Store
	Links *link.Store // nil where there are no short links
	// Batches are nil where there are none.
	Batches *batches.Store
	// Webhooks are nil where nothing is told to others.
	Webhooks *webhooks.Store
	People   *people.Store
	Scans    *scans.Store
	Notices  *notices.Store // nil where there are none
	Post     Post           `optional:"this process sends no mails"` // how mails leave

	sweeps  []sweep       // in place of those of the service, for tests
	timeout time.Duration // in place of jobTimeout, for tests; rescue too
	rescue  time.Duration
}

// Run takes up jobs until ctx ends; those that run then may finish, or are left to others.
func (w *Worker) Run(ctx context.Context) error {
	clearTemporary()
	workers := river.NewWorkers()
	sweeps := w.sweeps
	if sweeps == nil {
		sweeps = sweepsOf(w)
		if w.Batches != nil {
			sweeps = append(sweeps, sweep{"files of batches", time.Hour, alone(w.Batches.Sweep)},
				sweep{"batches", time.Minute, w.unfinished})
		}
		if w.Webhooks != nil {
			sweeps = append(sweeps, sweep{"log of webhooks", 24 * time.Hour, alone(w.Webhooks.Sweep)})
		}
	}
	var periodic []*river.PeriodicJob
	s := &sweeper{all: map[string]sweep{}}
	for _, one := range sweeps {
		s.all[one.name] = one
		periodic = append(periodic, one.periodic())
	}
	river.AddWorker(workers, s)
	river.AddWorker(workers, &prover{codes: w.Codes})
	queues := map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 4},
		queueProofs: {MaxWorkers: max(1, runtime.NumCPU()-1)}}
	if w.Post != nil {
		river.AddWorker(workers, &sender{seal: w.Codes.Seal, post: w.Post})
		queues[queueMails] = river.QueueConfig{MaxWorkers: 4}
	}
	if w.Batches != nil {
		river.AddWorker(workers, &checker{batches: w.Batches})
		river.AddWorker(workers, &maker{batches: w.Batches})
		queues[queueBatches] = river.QueueConfig{MaxWorkers: max(1, runtime.NumCPU()-1)}
	}
	if w.Webhooks != nil {
		river.AddWorker(workers, &caller{webhooks: w.Webhooks})
		queues[queueWebhooks] = river.QueueConfig{MaxWorkers: 16} // they wait for others most of the time
	}
	config := &river.Config{Schema: schema, Workers: workers, Queues: queues, PeriodicJobs: periodic, Logger: quiet(),
		JobTimeout: jobTimeout, RescueStuckJobsAfter: rescueAfter}
	if w.timeout > 0 {
		config.JobTimeout, config.RescueStuckJobsAfter = w.timeout, w.rescue
	}
	client, err := river.NewClient(riverpgxv5.New(w.Codes.DB.Pool), config)
	if err != nil {
		return err
	}
	s.client = client
	if err := client.Start(context.WithoutCancel(ctx)); err != nil {
		return err
	}
	if w.Webhooks != nil {
		go w.relay(ctx)
	}
	w.follow(ctx)
	end, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopping)
	defer cancel()
	if err := client.Stop(end); err == nil || !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	now, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopping)
	defer cancel()
	return client.StopAndCancel(now)
}

// Start runs w beside whoever calls; what goes wrong is for the log. done is closed when it has stopped.
func (w *Worker) Start(ctx context.Context) (done <-chan struct{}) {
	ended := make(chan struct{})
	go func() {
		defer close(ended)
		if err := w.Run(ctx); err != nil && ctx.Err() == nil {
			slog.Error("worker", "error", err)
		}
	}()
	return ended
}

// following is how often the database is asked which key digests depend on.
const following = 5 * time.Second

// follow keeps the keys as the database says, until ctx ends.
func (w *Worker) follow(ctx context.Context) {
	for {
		if err := w.Codes.Upkeep().FollowKeyring(ctx); err != nil && ctx.Err() == nil {
			slog.Error("worker: keyring", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(following):
		}
	}
}

// inserting is a client that puts jobs down and does none.
func inserting(d *db.DB) (*river.Client[pgx.Tx], error) {
	return river.NewClient(riverpgxv5.New(d.Pool), &river.Config{Schema: schema, Logger: quiet()})
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
		if info, err := os.Stat(dir); err == nil && info.IsDir() && time.Since(info.ModTime()) > temporaryFor &&
			onlyPictures(dir) {
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
