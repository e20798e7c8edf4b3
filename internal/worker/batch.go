package worker

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"sodrik/internal/batches"
	"sodrik/internal/db"
	"sodrik/internal/proving"
)

const queueBatches = "batches"

// checkArgs name a batch whose rows are to be made, and what occurs in it proved.
type checkArgs struct {
	Workspace string `json:"workspace"`
	Batch     string `json:"batch"`
}

func (checkArgs) Kind() string { return "batch" }

// InsertOpts has a batch checked as often as it changes: what is made already takes no time.
func (checkArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueBatches, MaxAttempts: 5}
}

// partArgs name a part of the files of a batch.
type partArgs struct {
	Workspace string `json:"workspace"`
	Run       string `json:"run"`
	Part      int    `json:"part"`
}

func (partArgs) Kind() string { return "batch-part" }

// InsertOpts has a part tried again where a machine did not do its share.
func (partArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueBatches, MaxAttempts: 8}
}

// Batches puts the work of batches down.
type Batches struct{ client *river.Client[pgx.Tx] }

// NewBatches is one whose jobs stand in a database.
func NewBatches(d *db.DB) (*Batches, error) {
	client, err := inserting(d)
	return &Batches{client}, err
}

// put inserts as the program: the role of a workspace sees none of the jobs.
func put(ctx context.Context, tx pgx.Tx, client *river.Client[pgx.Tx], args river.JobArgs) error {
	var role string
	if err := tx.QueryRow(ctx, `SELECT current_setting('role')`).Scan(&role); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `RESET ROLE`); err != nil {
		return err
	}
	if _, err := client.InsertTx(ctx, tx, args, nil); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `SELECT set_config('role', $1, true)`, role)
	return err
}

// Check puts down that a batch is to be checked.
func (b *Batches) Check(ctx context.Context, tx pgx.Tx, workspace, id string) error {
	return put(ctx, tx, b.client, checkArgs{workspace, id})
}

// Part puts down that a part of a run is to be made.
func (b *Batches) Part(ctx context.Context, tx pgx.Tx, workspace, run string, part int) error {
	return put(ctx, tx, b.client, partArgs{workspace, run, part})
}

// maxUnfinished is how many batches are put down at once.
const maxUnfinished = 50

// unfinished puts a job down for each batch of which something is still to be made or proved, whatever became of the job that
// was to do it.
func (w *Worker) unfinished(ctx context.Context, put func(context.Context, []river.InsertManyParams) error) (int64, error) {
	list, err := w.Batches.Unfinished(ctx, maxUnfinished)
	if err != nil {
		return 0, err
	}
	jobs := make([]river.InsertManyParams, len(list))
	for i, u := range list {
		jobs[i] = river.InsertManyParams{Args: checkArgs{u.Workspace, u.Batch}}
	}
	return 0, put(ctx, jobs)
}

// checker makes the rows of batches and proves what occurs in them.
type checker struct {
	river.WorkerDefaults[checkArgs]
	batches *batches.Store
}

// Work makes what is to be made of a batch. Its proofs are jobs of their own kind of time: where it does not suffice, the rest
// comes a moment later.
func (w *checker) Work(ctx context.Context, job *river.Job[checkArgs]) error {
	start, more := time.Now(), true
	err := w.batches.Check(ctx, job.Args.Workspace, job.Args.Batch)
	for linked := false; err == nil && more; linked = true {
		if time.Since(start) > jobTimeout/2 {
			return river.JobSnooze(0)
		}
		if more, err = w.batches.Link(ctx, job.Args.Workspace, job.Args.Batch); err == nil && !more && linked {
			err = w.batches.Check(ctx, job.Args.Workspace, job.Args.Batch)
		}
	}
	for err == nil {
		if time.Since(start) > jobTimeout/2 {
			return river.JobSnooze(0)
		}
		if more, err = w.batches.Prove(proving.Patiently(ctx), job.Args.Workspace, job.Args.Batch); err == nil && !more {
			return nil
		}
	}
	if errors.Is(err, batches.ErrNotFound) {
		return river.JobCancel(err)
	}
	return err
}

// maker makes parts of the files of batches.
type maker struct {
	river.WorkerDefaults[partArgs]
	batches *batches.Store
}

// Work makes a part.
func (w *maker) Work(ctx context.Context, job *river.Job[partArgs]) error {
	err := w.batches.Part(ctx, job.Args.Workspace, job.Args.Run, job.Args.Part)
	if errors.Is(err, batches.ErrNotFound) { // taken away since
		return river.JobCancel(err)
	}
	return err
}
