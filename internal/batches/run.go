package batches

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/problem"
)

// What a run makes.
const (
	AsSheets = "sheets" // one PDF of imposed sheets
	AsPages  = "pages"  // one PDF, a page for each code
	AsZip    = "zip"    // files of each code
	AsTable  = "table"  // a CSV of what each row says
)

// States of a run, and of its parts.
const (
	Working = "working"
	Done    = "done"
	Stopped = "stopped"
	Failed  = "failed"
	Unread  = "unread" // labels do not read back from the file
)

// How many rows are in one part, so that each is made within a minute.
var partOf = map[string]int{AsSheets: 10_000, AsPages: 5_000, AsZip: 200, AsTable: MaxRows}

// Asked is what a run makes, as it was when somebody asked for it.
type Asked struct {
	As      string   `json:"as"`
	Formats []string `json:"formats,omitempty"`
	Name    string   `json:"name"`
	Doc     Doc      `json:"doc"`
	Least   int      `json:"least,omitempty"`
	Insist  bool     `json:"insist,omitempty"`
}

// Run is the making of files of a batch.
type Run struct {
	ID, Batch   string
	Rev         int64
	State       string
	Labels      int // in all
	Made        int // so far
	Parts       int
	Bytes       int64
	Note        string // what was read back, or why it failed, in words
	At          time.Time
	Finished    *time.Time
	Taken       *time.Time // when its file left the first time
	Who         string
	Asked       Asked
	Began       *time.Time
	PartsOfNote []string
}

// Ending is that of the file.
func (r *Run) Ending() string {
	switch {
	case r.Asked.As == AsTable:
		return "csv"
	case r.Asked.As == AsZip || r.Parts > 1:
		return "zip"
	}
	return "pdf"
}

// Start begins to make files of all rows that can be made, as the batch is now.
func (s *Store) Start(ctx context.Context, actor access.Actor, id, as string) (run string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	size, ok := partOf[as]
	if !ok {
		return "", problem.List{{Field: "/as", Code: "batch.as", Message: "is one of sheets, pages, zip and table"}}
	}
	if as == AsSheets {
		if err := s.fits(ctx, actor.Workspace, id); err != nil {
			return "", err
		}
	}
	run = newID()
	parts := 0
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, _, problems, err := s.made(ctx, tx, actor.Workspace, id)
		if err != nil {
			return err
		}
		if len(problems) > 0 {
			return problems
		}
		if b.Stale > 0 {
			return problem.List{{Field: "/rows", Code: "batch.stale", Message: fmt.Sprintf(
				"are still being made: %d of %d; wait a moment, then start again", b.Stale, b.Rows)}}
		}
		ns, err := goodRows(ctx, tx, actor.Workspace, id, b.Rev)
		if err != nil {
			return err
		}
		if len(ns) == 0 {
			return problem.List{{Field: "/rows", Code: "batch.none", Message: "have none that can be made; mend one first"}}
		}
		asked, err := s.seal(
			actor.Workspace,
			run,
			"asked",
			Asked{As: as, Formats: b.Formats, Name: b.Name, Doc: b.Doc, Least: b.Least},
		)
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `INSERT INTO batch_runs (workspace, batch, id, rev, asked, state, labels, at, who, who_id)
			VALUES ($1, $2, $3, $4, $5, 'working', $6, $7, $8, $9)`, actor.Workspace, id, run, b.Rev, asked, len(ns), s.Codes.Now(),
			actor.Name, actor.ID); err != nil {
			return err
		}
		if as == AsSheets {
			if err := s.keepSheet(ctx, tx, actor.Workspace, b.Setting()); err != nil {
				return err
			}
		}
		for first := 0; first < len(ns); first += size {
			of := ns[first:min(first+size, len(ns))]
			if err := s.part(ctx, tx, actor.Workspace, run, parts, of); err != nil {
				return err
			}
			parts++
		}
		if as == AsZip { // what goes with the files
			err = s.part(ctx, tx, actor.Workspace, run, parts, []int{ns[0], ns[len(ns)-1]})
			parts++
		}
		return err
	})
	if err != nil || s.Queue != nil {
		return run, err
	}
	for part := range parts {
		if err := s.Part(ctx, actor.Workspace, run, part); err != nil {
			return run, err
		}
	}
	return run, nil
}

// part puts a part down.
func (s *Store) part(ctx context.Context, tx pgx.Tx, workspace, run string, part int, rows []int) error {
	if _, err := tx.Exec(ctx, `INSERT INTO batch_parts (workspace, run, part, first_row, last_row, labels) VALUES ($1, $2, $3, $4, $5, $6)`,
		workspace, run, part, rows[0], rows[len(rows)-1], len(rows)); err != nil ||
		s.Queue == nil {
		return err
	}
	return s.Queue.Part(ctx, tx, workspace, run, part)
}

func goodRows(ctx context.Context, tx pgx.Tx, workspace, id string, rev int64) ([]int, error) {
	rows, err := tx.Query(
		ctx,
		`SELECT n FROM batch_rows WHERE workspace = $1 AND batch = $2 AND rev = $3 AND state = 'good' ORDER BY n`,
		workspace,
		id,
		rev,
	)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[int])
}

// fits says whether the labels of every version fit on their sheet: the hardest of each stands for all.
func (s *Store) fits(ctx context.Context, workspace, id string) error {
	a, m, broken, err := s.hardest(ctx, workspace, id)
	if err != nil || len(broken) > 0 {
		return err
	}
	for i := range a.rows {
		made, _, err := a.produce(ctx, m, &a.rows[i])
		if err != nil {
			return err
		}
		if made.Good() && a.rows[i].Code == "" {
			if _, problems := batch.Label(made, a.batch.Setting()); len(problems) > 0 {
				return problems
			}
		}
	}
	return nil
}

// Fit is the width at which the codes of a batch are as large as a label of its sheet allows, in mm; ok is false where nothing
// can be said.
func (s *Store) Fit(ctx context.Context, actor access.Actor, id string) (width float64, ok bool, err error) {
	if err := actor.Need(access.Look); err != nil {
		return 0, false, err
	}
	a, m, broken, err := s.hardest(ctx, actor.Workspace, id)
	if err != nil || len(broken) > 0 || len(a.rows) == 0 {
		return 0, false, err
	}
	made, _, err := a.produce(ctx, m, &a.rows[len(a.rows)-1])
	if err != nil || !made.Good() {
		return 0, false, err
	}
	width, ok = batch.Fit(made, a.batch.Setting())
	return width, ok, nil
}

// Stop has a run make nothing more; Continue has it go on where it stopped or failed.
func (s *Store) Stop(ctx context.Context, actor access.Actor, run string) error {
	return s.turn(ctx, actor, run, Stopped)
}

// Continue goes on with a run.
func (s *Store) Continue(ctx context.Context, actor access.Actor, run string) error {
	return s.turn(ctx, actor, run, Working)
}

func (s *Store) turn(ctx context.Context, actor access.Actor, run, state string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	var left []int
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `UPDATE batch_runs SET state = $3, note = '' WHERE workspace = $1 AND id = $2
			AND (state = 'working' OR $3 = 'working' AND state IN ('stopped', 'failed'))`, actor.Workspace, run, state)
		if err != nil || tag.RowsAffected() == 0 || state != Working {
			return err
		}
		rows, err := tx.Query(
			ctx,
			`SELECT part FROM batch_parts WHERE workspace = $1 AND run = $2 AND state <> 'done' ORDER BY part`,
			actor.Workspace,
			run,
		)
		if err != nil {
			return err
		}
		if left, err = pgx.CollectRows(rows, pgx.RowTo[int]); err != nil || s.Queue == nil {
			return err
		}
		for _, part := range left {
			if err := s.Queue.Part(ctx, tx, actor.Workspace, run, part); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil || s.Queue != nil {
		return err
	}
	for _, part := range left {
		if err := s.Part(ctx, actor.Workspace, run, part); err != nil {
			return err
		}
	}
	return nil
}

const runQuery = `SELECT r.id, r.batch, r.rev, r.state, r.labels, r.bytes, r.note, r.at, r.done_at, r.taken_at, r.who, r.asked,
	(SELECT count(*) FROM batch_parts p WHERE p.workspace = r.workspace AND p.run = r.id),
	(SELECT coalesce(sum(p.done), 0) FROM batch_parts p WHERE p.workspace = r.workspace AND p.run = r.id),
	(SELECT min(p.began) FROM batch_parts p WHERE p.workspace = r.workspace AND p.run = r.id)
	FROM batch_runs r WHERE r.workspace = $1 `

func (s *Store) scanRun(row pgx.CollectableRow, workspace string) (*Run, error) {
	r := &Run{}
	var asked []byte
	if err := row.Scan(&r.ID, &r.Batch, &r.Rev, &r.State, &r.Labels, &r.Bytes, &r.Note, &r.At, &r.Finished, &r.Taken,
		&r.Who, &asked,
		&r.Parts, &r.Made, &r.Began); err != nil {
		return nil, err
	}
	r.Made = min(r.Made, r.Labels)
	return r, s.open(asked, workspace, r.ID, "asked", &r.Asked)
}

// Runs are those of a batch, the newest first.
func (s *Store) Runs(ctx context.Context, actor access.Actor, id string) (out []*Run, err error) {
	if err := actor.Need(access.Files); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, runQuery+`AND r.batch = $2 ORDER BY r.at DESC LIMIT 20`, actor.Workspace, id)
		if err != nil {
			return err
		}
		out, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (*Run, error) { return s.scanRun(r, actor.Workspace) })
		return err
	})
	return out, err
}

// Run is one of them.
func (s *Store) Run(ctx context.Context, actor access.Actor, run string) (r *Run, err error) {
	if err := actor.Need(access.Files); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		r, err = s.runIn(ctx, tx, actor.Workspace, run)
		return err
	})
	return r, err
}

func (s *Store) runIn(ctx context.Context, tx pgx.Tx, workspace, run string) (*Run, error) {
	rows, err := tx.Query(ctx, runQuery+`AND r.id = $2`, workspace, run)
	if err != nil {
		return nil, err
	}
	r, err := pgx.CollectExactlyOneRow(rows, func(r pgx.CollectableRow) (*Run, error) { return s.scanRun(r, workspace) })
	if errors.Is(err, pgx.ErrNoRows) {
		err = ErrNotFound
	}
	return r, err
}

// formatsOf reads formats that were asked for.
func formatsOf(keys []string) (out []compose.Format) {
	for _, key := range keys {
		if f, ok := compose.FormatOf(key); ok && !slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	return out
}

// settingOf is the setting of sheets that was asked for.
func (a Asked) settingOf() impose.Setting {
	s, _ := impose.Read(a.Doc.Sheet)
	return s
}
