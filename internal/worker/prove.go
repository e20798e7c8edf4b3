package worker

import (
	"context"
	"errors"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"sodrik/internal/code"
	"sodrik/internal/proving"
)

const (
	queueProofs = "proofs"

	maxUnproved = 500 // are put down at once, the newest first; the others a minute later
)

// proveArgs name one place of a code as it stood: Key is the sealed key of its proof.
type proveArgs struct {
	Workspace string `json:"workspace"`
	Code      string `json:"code"`
	Index     int    `json:"index"`
	Key       string `json:"key"`
}

func (proveArgs) Kind() string { return "prove" }

// InsertOpts has one state of a place proved once, also where that failed for good.
func (proveArgs) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queueProofs, MaxAttempts: 5,
		UniqueOpts: river.UniqueOpts{ByArgs: true, ByState: append(rivertype.UniqueOptsByStateDefault(),
			rivertype.JobStateDiscarded)}}
}

// unproved puts a job down for each place of a code that the ledger knows no verdict of.
func unproved(ctx context.Context, codes *code.Store, put func(context.Context, []river.InsertManyParams) error) (int64, error) {
	list, err := codes.Upkeep().Unproved(ctx, maxUnproved)
	if err != nil {
		return 0, err
	}
	jobs := make([]river.InsertManyParams, len(list))
	for i, u := range list {
		jobs[i] = river.InsertManyParams{Args: proveArgs(u)}
	}
	return 0, put(ctx, jobs)
}

// prover proves places of codes.
type prover struct {
	river.WorkerDefaults[proveArgs]
	codes *code.Store
}

// Work proves a place, unless it has changed since.
func (w *prover) Work(ctx context.Context, job *river.Job[proveArgs]) error {
	err := w.codes.Upkeep().ProveUnproved(proving.Patiently(ctx), code.Unproved(job.Args))
	if errors.Is(err, code.ErrNotFound) { // taken away since
		return river.JobCancel(err)
	}
	return err
}
