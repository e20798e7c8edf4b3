package batches

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/gob"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/caught"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/table"
	"sodrik/internal/heavy"
)

// Back reads sheets back from a file.
type Back struct {
	Sheet func(ctx context.Context, path string, page int, dpi float64) (image.Image, error) // draws a page, from 1
	Texts func(ctx context.Context, pictures []*image.Gray) ([][]string, error)
}

const (
	pieceSize = 4 << 20
	telling   = 500 * time.Millisecond // between two words on how far it is
)

// ErrStopped is that somebody has stopped a run.
var ErrStopped = errors.New("the run was stopped")

// Part makes one part of a run, unless it is made. The program does so by itself; done twice, it is there once.
func (s *Store) Part(ctx context.Context, workspace, run string, part int) error {
	j := &partJob{store: s, workspace: workspace, part: part}
	if err := j.load(ctx, run); err != nil || j.done {
		return err
	}
	note, err := "", j.wrong.Err()
	if err == nil {
		note, err = j.make(heavy.For(ctx, workspace))
	}
	switch {
	case errors.Is(err, ErrStopped):
		return nil
	case err != nil && ctx.Err() != nil:
		return err
	case err != nil:
		var l problem.List
		if !errors.As(err, &l) {
			return err // tried again
		}
		note = err.Error()
	}
	return j.finish(ctx, note, err)
}

// partJob is a part while it is made.
type partJob struct {
	store     *Store
	workspace string
	run       *Run
	part      int
	first     int
	last      int
	labels    int
	done      bool
	wrong     problem.List // why it cannot be made any more
	list      bool         // it is the listing that goes with files
	maker     *batch.Maker
	rows      []Row // of the part
	all       []Row // all good rows, for names that tell them apart
	find      compose.Assets
	told      time.Time
}

func (j *partJob) load(ctx context.Context, run string) error {
	s := j.store
	return s.Codes.DB.InWorkspace(ctx, j.workspace, func(tx pgx.Tx) (err error) {
		if j.run, err = s.runIn(ctx, tx, j.workspace, run); err != nil {
			return err
		}
		state := ""
		if err := tx.QueryRow(ctx, `UPDATE batch_parts SET began = coalesce(began, $4) WHERE workspace = $1 AND run = $2 AND part = $3
			RETURNING first_row, last_row, labels, state`, j.workspace, run, j.part, s.Codes.Now()).
			Scan(&j.first, &j.last, &j.labels, &state); err != nil {
			return err
		}
		if j.done = state == Done || j.run.State != Working; j.done {
			return nil
		}
		j.list = j.run.Asked.As == AsZip && j.part == j.run.Parts-1
		b, m, problems, err := s.made(ctx, tx, j.workspace, j.run.Batch)
		if err != nil {
			return err
		}
		if len(problems) > 0 || b.Rev != j.run.Rev {
			j.wrong = problem.List{{Field: "/rows", Code: "batch.changed",
				Message: "were changed after this was started; start it again"}}
			return nil
		}
		j.maker = m
		if j.run.Asked.Least > 0 {
			j.maker = m.AtLeast(j.run.Asked.Least)
		}
		j.find = s.find(ctx, j.workspace)
		rows, err := s.rowsIn(ctx, tx, j.workspace, j.run.Batch, Filter{})
		for _, r := range rows {
			if r.State == Good || j.run.Asked.As == AsTable || j.list {
				j.all = append(j.all, r)
			}
			if r.State == Good && r.N >= j.first && r.N <= j.last {
				j.rows = append(j.rows, r)
			}
		}
		return err
	})
}

// row makes a row of the part, once there is room for it: a batch stands back behind those who wait for a page.
func (j *partJob) row(ctx context.Context, r *Row) (made *batch.Row, err error) {
	err = heavy.Do(ctx, func(ctx context.Context) error {
		made, err = j.produce(ctx, r)
		return err
	})
	return made, err
}

func (j *partJob) produce(ctx context.Context, r *Row) (*batch.Row, error) {
	a := Rows{store: j.store, find: j.find, workspace: j.workspace}
	made := j.maker.Make(r.source(), j.find)
	if r.Code == "" {
		return made, nil
	}
	says := made.Rendition
	var err error
	if made.Rendition, err = a.desk(ctx, r); err != nil {
		return nil, err
	}
	made.Problems = nil
	if r.Linked && says != nil {
		made.Leads = says.Job.Content
	}
	if j.run.Asked.As == AsTable || j.list {
		return made, nil
	}
	// a file freezes a version, and has its link lead somewhere
	c, err := j.store.Codes.Issue(ctx, access.OfProgram(j.workspace, j.run.Who), r.Code)
	if err != nil {
		return nil, err
	}
	made.Rendition = c.Rendition
	return made, nil
}

// tell notes how many labels are made, now and then, and whether the run is still wanted.
func (j *partJob) tell(ctx context.Context, n int) error {
	if time.Since(j.told) < telling {
		return nil
	}
	j.told = time.Now()
	state := ""
	err := j.store.Codes.DB.InWorkspace(ctx, j.workspace, func(tx pgx.Tx) error {
		return tx.QueryRow(ctx, `UPDATE batch_parts p SET done = $4 FROM batch_runs r WHERE p.workspace = $1 AND p.run = $2 AND p.part = $3
			AND r.workspace = p.workspace AND r.id = p.run RETURNING r.state`, j.workspace, j.run.ID, j.part, n).
			Scan(&state)
	})
	if err == nil && state != Working {
		err = ErrStopped
	}
	return err
}

// make makes the part and keeps it in pieces.
func (j *partJob) make(ctx context.Context) (note string, err error) {
	if _, err := j.store.exec(ctx, j.workspace, `DELETE FROM batch_pieces WHERE workspace = $1 AND run = $2 AND part = $3`,
		j.workspace, j.run.ID, j.part); err != nil {
		return "", err
	}
	w := &pieces{job: j, ctx: ctx}
	switch {
	case j.run.Asked.As == AsTable || j.list:
		err = j.table(ctx, w)
	case j.run.Asked.As == AsZip:
		err = j.files(ctx, w)
	default:
		note, err = j.pdf(ctx, w)
	}
	if err == nil {
		err = w.flush()
	}
	return note, err
}

func (s *Store) exec(ctx context.Context, workspace, sql string, args ...any) (n int64, err error) {
	err = s.Codes.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, sql, args...)
		n = tag.RowsAffected()
		return err
	})
	return n, err
}

// files packs the files of the part's rows, each as gob.
func (j *partJob) files(ctx context.Context, w io.Writer) error {
	names := map[int]string{}
	once := batch.Names{}
	for _, r := range j.all {
		names[r.N] = once.Once(j.maker.FileName(r.source(), r.Name))
	}
	formats := formatsOf(j.run.Asked.Formats)
	e := gob.NewEncoder(w)
	return batch.InOrder(ctx, len(j.rows), func(i int) ([]batch.Entry, error) {
		r, err := j.row(ctx, &j.rows[i])
		if err != nil {
			return nil, err
		}
		if !r.Good() {
			return nil, r.Problems
		}
		entries, problems := batch.Files(r, names[r.N], formats, j.run.At)
		return entries, problems.Err()
	}, func(i int, entries []batch.Entry) error {
		for _, one := range entries {
			if err := e.Encode(one); err != nil {
				return err
			}
		}
		return j.tell(ctx, i+1)
	})
}

// table writes the listing of all rows.
func (j *partJob) table(ctx context.Context, w io.Writer) error {
	verdicts := map[int]string{}
	b, err := j.store.Get(ctx, access.OfProgram(j.workspace, "batches"), j.run.Batch)
	if err != nil {
		return err
	}
	for _, sort := range b.Sorts {
		verdicts[sort.Version] = sort.Verdict
	}
	ending := ""
	if j.list {
		if f := formatsOf(j.run.Asked.Formats); len(f) > 0 {
			ending = f[0].Ending()
		}
	}
	once := batch.Names{}
	var out io.Writer = w
	var text bytes.Buffer
	if j.list {
		out = &text
	}
	list := table.NewCSV(out)
	list.Head(batch.Listing...)
	err = batch.InOrder(
		ctx,
		len(j.all),
		func(i int) (*batch.Row, error) { return j.row(ctx, &j.all[i]) },
		func(i int, r *batch.Row) error {
			file := ""
			if r.Good() && ending != "" {
				file = once.Once(j.maker.FileName(j.all[i].source(), j.all[i].Name)) + "." + ending
			}
			if j.all[i].State == Bad { // as it was judged among the others
				r.Rendition, r.Problems = nil, j.all[i].Problems
			}
			link := ""
			if r.Leads != nil && r.Rendition != nil {
				link = r.Rendition.For(r.Rendition.Place(min(0, len(r.Rendition.Job.Placements)-1))).Payload
			}
			if err := batch.List(list, r, link, file, verdicts[j.all[i].Version]); err != nil {
				return err
			}
			return j.tell(ctx, min(i+1, j.labels))
		},
	)
	if err == nil {
		err = list.End()
	}
	if err == nil && j.list {
		err = gob.NewEncoder(w).Encode(batch.EntryOf("rows.csv", text.Bytes()))
	}
	return err
}

// pdf writes the labels of the part as one PDF and reads them back from it.
func (j *partJob) pdf(ctx context.Context, w io.Writer) (note string, err error) {
	sheets := &batch.Sheets{
		N:       len(j.rows),
		Pages:   j.run.Asked.As == AsPages,
		Setting: j.run.Asked.settingOf(),
		Paper:   &ink.White,
	}
	if j.part > 0 {
		sheets.Setting.Start = 1
	}
	first, err := j.row(ctx, &j.rows[0])
	if err != nil {
		return "", err
	}
	if first.Rendition != nil && first.Rendition.Pressed() {
		sheets.Press = first.Rendition.Condition(first.Rendition.Place(min(0, len(first.Rendition.Job.Placements)-1)))
		sheets.Over = first.Rendition.Job.Output.Overprint
	}
	sheets.Label = func(i int) (impose.Label, error) {
		r, err := j.row(ctx, &j.rows[i])
		if err != nil {
			return impose.Label{}, err
		}
		if !r.Good() {
			return impose.Label{}, r.Problems
		}
		if sheets.Pages {
			return batch.Loose(r), nil
		}
		l, problems := batch.Label(r, sheets.Setting)
		if len(problems) > 0 {
			problems[0].Message = fmt.Sprintf("(row %d) %s", r.N, problems[0].Message)
		}
		return l, problems.Err()
	}
	stopped := false
	inside, cancel := context.WithCancel(ctx)
	defer cancel()
	sheets.Done = func(n int) {
		if err := j.tell(ctx, n); errors.Is(err, ErrStopped) {
			stopped = true
			cancel()
		}
	}
	file, err := os.CreateTemp("", "sodrik-sheets-*.pdf")
	if err != nil {
		return "", err
	}
	defer os.Remove(file.Name())
	defer file.Close()
	start := time.Now()
	if err := sheets.Write(inside, file, export.Meta{Title: j.run.Asked.Name, Created: j.run.At}); stopped {
		return "", ErrStopped
	} else if err != nil {
		return "", err
	}
	if note, err = j.readBack(ctx, sheets, file.Name(), time.Since(start)); err != nil {
		return "", err
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return "", err
	}
	_, err = io.Copy(w, file)
	return note, err
}

// readBack says what was read back of a file of labels. What could not be looked at is said too.
func (j *partJob) readBack(ctx context.Context, w *batch.Sheets, path string, took time.Duration) (string, error) {
	back := j.store.Back
	if back.Sheet == nil {
		return "Not read back: nothing here can draw a PDF", nil
	}
	got, err := batch.Reading{Setting: w.Setting, Pages: w.Pages, N: w.N, Took: took,
		Draw: func(ctx context.Context, sheet int, dpi float64) (image.Image, error) {
			return back.Sheet(ctx, path, sheet+1, dpi)
		},
		Read: back.Texts,
		Says: func(i int) batch.Said {
			r, err := j.row(ctx, &j.rows[i])
			if err != nil || !r.Good() {
				return batch.Said{Modules: 21, Side: 1}
			}
			return batch.Says(r, w.Room())
		}}.ReadBack(ctx)
	if err != nil {
		return "", err
	}
	if len(got.Unread) > 0 {
		return unread + got.String() + fmt.Sprintf(": row %d first", j.rows[got.Unread[0]].N), nil
	}
	return got.String(), nil
}

// unread begins the note of a part whose labels do not read back.
const unread = "! "

// pieces keeps what is written, sealed, in pieces.
type pieces struct {
	job  *partJob
	ctx  context.Context
	held []byte
	n    int
}

func (p *pieces) Write(b []byte) (int, error) {
	p.held = append(p.held, b...)
	for len(p.held) >= pieceSize {
		if err := p.keep(p.held[:pieceSize]); err != nil {
			return 0, err
		}
		p.held = append(p.held[:0], p.held[pieceSize:]...)
	}
	return len(b), nil
}

func (p *pieces) flush() error {
	if len(p.held) == 0 {
		return nil
	}
	return p.keep(p.held)
}

func (p *pieces) keep(b []byte) error {
	j := p.job
	id := j.run.ID + "/" + strconv.Itoa(j.part) + "/" + strconv.Itoa(p.n)
	_, err := j.store.exec(
		p.ctx,
		j.workspace,
		`INSERT INTO batch_pieces (workspace, run, part, piece, data) VALUES ($1, $2, $3, $4, $5)`,
		j.workspace,
		j.run.ID,
		j.part,
		p.n,
		j.store.Codes.Seal.Seal(b, place(j.workspace, id, "piece")),
	)
	p.n++
	return err
}

// finish notes that a part is made, or failed for good, and of the last what became of the run.
func (j *partJob) finish(ctx context.Context, note string, failed error) error {
	s := j.store
	return s.Codes.DB.InWorkspace(ctx, j.workspace, func(tx pgx.Tx) error {
		state := Done
		if failed != nil {
			state = Failed
		}
		// one after the other, so that the last one sees all
		if _, err := tx.Exec(ctx, `SELECT 1 FROM batch_runs WHERE workspace = $1 AND id = $2 FOR UPDATE`, j.workspace,
			j.run.ID); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `UPDATE batch_parts SET state = $4, done = CASE WHEN $4 = 'done' THEN labels ELSE done END, note = $5
			WHERE workspace = $1 AND run = $2 AND part = $3`, j.workspace, j.run.ID, j.part, state, note); err != nil {
			return err
		}
		if failed != nil {
			_, err := tx.Exec(
				ctx,
				`UPDATE batch_runs SET state = 'failed', note = $3 WHERE workspace = $1 AND id = $2`,
				j.workspace,
				j.run.ID,
				note,
			)
			return err
		}
		_, err := tx.Exec(
			ctx,
			`UPDATE batch_runs r SET state = CASE WHEN x.unread THEN 'unread' ELSE 'done' END, note = x.note, done_at = $3,
			bytes = x.bytes FROM (SELECT coalesce(bool_or(p.note LIKE '! %'), false) AS unread,
				coalesce(string_agg(ltrim(p.note, '! '), '; ' ORDER BY p.part) FILTER (WHERE p.note <> ''), '') AS note,
				bool_and(p.state = 'done') AS whole,
				(SELECT coalesce(sum(length(d.data)), 0) FROM batch_pieces d WHERE d.workspace = $1 AND d.run = $2) AS bytes
				FROM batch_parts p WHERE p.workspace = $1 AND p.run = $2) x
			WHERE r.workspace = $1 AND r.id = $2 AND r.state = 'working' AND x.whole`,
			j.workspace,
			j.run.ID,
			s.Codes.Now(),
		)
		return err
	})
}

// Take writes the file of a run that is done: of one PDF as it is, else a zip. insist takes one whose labels do not read back.
// The first time is noted.
func (s *Store) Take(
	ctx context.Context,
	actor access.Actor,
	run string,
	insist bool,
	begin func(r *Run, name string) io.Writer,
) error {
	if err := actor.Need(access.Files); err != nil {
		return err
	}
	r, err := s.Run(ctx, actor, run)
	if err != nil {
		return err
	}
	if r.State != Done && !(r.State == Unread && insist) {
		return problem.List{{Field: "/run", Code: "batch.run", Message: "is not done; its files cannot be taken yet"}}
	}
	if _, err := s.exec(ctx, actor.Workspace,
		`UPDATE batch_runs SET taken_at = coalesce(taken_at, $3) WHERE workspace = $1 AND id = $2`,
		actor.Workspace, run, s.Codes.Now()); err != nil {
		return err
	}
	if err := s.noteTaken(ctx, actor, r); err != nil {
		return err
	}
	name := export.Slug(r.Asked.Name)
	out := begin(r, name+"."+r.Ending())
	if r.Ending() != "zip" {
		return s.eachPiece(ctx, actor.Workspace, run, 0, out)
	}
	z := zip.NewWriter(out)
	for part := range r.Parts {
		if r.Asked.As != AsZip {
			f, err := z.CreateHeader(
				&zip.FileHeader{Name: fmt.Sprintf("%s-%d.pdf", name, part+1), Method: zip.Store, Modified: r.At.UTC()},
			)
			if err == nil {
				err = s.eachPiece(ctx, actor.Workspace, run, part, f)
			}
			if err != nil {
				return err
			}
			continue
		}
		in, feed := io.Pipe()
		go func() {
			feed.CloseWithError(caught.Safe(func() error { return s.eachPiece(ctx, actor.Workspace, run, part, feed) })())
		}()
		d := gob.NewDecoder(in)
		for {
			var e batch.Entry
			err := d.Decode(&e)
			if errors.Is(err, io.EOF) {
				break
			}
			if err == nil {
				err = e.Put(z, r.At)
			}
			if err != nil {
				in.CloseWithError(err)
				return err
			}
		}
	}
	return z.Close()
}

// eachPiece writes the pieces of a part, one after the other.
func (s *Store) eachPiece(ctx context.Context, workspace, run string, part int, out io.Writer) error {
	for piece := 0; ; piece++ {
		var sealed []byte
		err := s.Codes.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
			err := tx.QueryRow(ctx,
				`SELECT data FROM batch_pieces WHERE workspace = $1 AND run = $2 AND part = $3 AND piece = $4`, workspace,
				run, part, piece).
				Scan(&sealed)
			if errors.Is(err, pgx.ErrNoRows) {
				return nil
			}
			return err
		})
		if err != nil || sealed == nil {
			return err
		}
		data, err := s.Codes.Seal.Open(sealed, place(workspace, fmt.Sprintf("%s/%d/%d", run, part, piece), "piece"))
		if err == nil {
			_, err = out.Write(data)
		}
		if err != nil {
			return err
		}
	}
}

// keptFor is how long files of a run are kept; they can be made again.
const keptFor = 7 * 24 * time.Hour

// Sweep takes away the files of runs that nobody needs any more, and says of how many.
func (s *Store) Sweep(ctx context.Context) (n int64, err error) {
	tag, err := s.Codes.DB.Pool.Exec(ctx, `DELETE FROM batch_runs WHERE at < $1`, s.Codes.Now().Add(-keptFor))
	return tag.RowsAffected(), err
}
