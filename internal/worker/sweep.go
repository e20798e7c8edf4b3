package worker

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"sodrik/internal/core/caught"
	"sodrik/internal/scans"
)

// sweep is one thing that is done now and then.
type sweep struct {
	name  string
	every time.Duration
	// do says how many things it took away or mended. Where its time does not suffice, it is called again as long as it gets
	// on. put puts jobs down.
	do func(ctx context.Context, put func(context.Context, []river.InsertManyParams) error) (n int64, err error)
}

// alone is a sweep that puts no jobs down.
func alone(do func(context.Context) (int64, error)) func(context.Context,
	func(context.Context, []river.InsertManyParams) error) (int64, error) {
	return func(ctx context.Context, _ func(context.Context, []river.InsertManyParams) error) (int64, error) {
		return do(ctx)
	}
}

// sweepsOf are those of the service.
func sweepsOf(w *Worker) []sweep {
	codes, links, who, counts, told := w.Codes, w.Links, w.People, w.Scans, w.Notices
	out := []sweep{
		{"what can be found", time.Hour, alone(func(ctx context.Context) (int64, error) {
			n, err := codes.Upkeep().Reindex(ctx)
			return int64(n), err
		})},
		{"addresses kept in the clear", time.Hour, alone(codes.Upkeep().SealTokens)},
		{"people", time.Hour, alone(who.Sweep)},
		{"uploads", 6 * time.Hour, alone(codes.Upkeep().SweepUploads)},
		{"proofs", 24 * time.Hour, alone(codes.Upkeep().SweepProofs)},
		{"days of scans", 5 * time.Minute, alone(counts.Fold)},
		{"events that are kept long enough", 24 * time.Hour, alone(counts.Forget)},
		{"the ledger", time.Minute,
			func(ctx context.Context, put func(context.Context, []river.InsertManyParams) error) (int64, error) {
				return unproved(ctx, codes, put)
			}},
	}
	if who.Mail != nil {
		out = append(out, sweep{"reports of links", time.Minute, alone(func(ctx context.Context) (int64, error) {
			return counts.Tell(ctx, func(ctx context.Context, t scans.Told) error {
				subject, body := t.Letter(who.Base)
				return who.TellOwners(ctx, t.Workspace, subject, body)
			})
		})})
	}
	if links != nil {
		out = append(out, sweep{"notices", time.Hour, alone(told.Look)},
			sweep{"notices of what others answer", time.Hour, alone(told.Ask)})
		if who.Mail != nil {
			out = append(out, sweep{"notices by mail", time.Minute, alone(func(ctx context.Context) (int64, error) {
				return told.Told(ctx, who.Base, who.TellOwners)
			})})
		}
		out = append(out, sweep{"hosts of short links", 24 * time.Hour, alone(links.AskAll)},
			sweep{"where codes lead", time.Hour, alone(links.Reindex)})
	}
	return out
}

// sweepArgs say which sweep is due.
type sweepArgs struct {
	Name string `json:"name"`
}

func (sweepArgs) Kind() string { return "sweep" }

// periodic puts a sweep down when it is due, once however many processes there are, and however often they start.
func (s sweep) periodic() *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(s.every), func() (river.JobArgs, *river.InsertOpts) {
		return sweepArgs{s.name}, &river.InsertOpts{MaxAttempts: 3, UniqueOpts: river.UniqueOpts{ByArgs: true, ByPeriod: s.every}}
	}, &river.PeriodicJobOpts{RunOnStart: true})
}

// sweeper carries out sweeps.
type sweeper struct {
	river.WorkerDefaults[sweepArgs]
	all    map[string]sweep
	client *river.Client[pgx.Tx]
}

// Work carries out the sweep that is due.
func (w *sweeper) Work(ctx context.Context, job *river.Job[sweepArgs]) error {
	s, ok := w.all[job.Args.Name]
	if !ok { // put down by another release
		return river.JobCancel(errors.New("there is no such sweep"))
	}
	n, err := once(ctx, s, w.put)
	if n > 0 {
		slog.Info("upkeep", "job", s.name, "n", n)
	}
	if err != nil && n > 0 && errors.Is(ctx.Err(), context.DeadlineExceeded) { // there was more to do than time
		return river.JobSnooze(0)
	}
	if err != nil && ctx.Err() == nil {
		slog.Error("upkeep", "job", s.name, "error", err)
	}
	return err
}

func once(ctx context.Context, s sweep, put func(context.Context, []river.InsertManyParams) error) (n int64, err error) {
	defer caught.To(&err)
	return s.do(ctx, put)
}

func (w *sweeper) put(ctx context.Context, jobs []river.InsertManyParams) error {
	if len(jobs) == 0 {
		return nil
	}
	_, err := w.client.InsertMany(ctx, jobs)
	return err
}
