package batches

import (
	"context"
	"fmt"
	"runtime"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/caught"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/housestyle"
	"sodrik/internal/proving"
)

// atOnce is how many rows a request makes by itself; more are made by the worker.
const atOnce = 300

// checkSoon makes what is to be made: at once where it is little, else by the worker.
func (s *Store) checkSoon(ctx context.Context, actor access.Actor, id string) error {
	stale := 0
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		err := tx.QueryRow(ctx, `SELECT count(*) FROM batch_rows r JOIN batches b ON b.workspace = r.workspace AND b.id = r.batch
			WHERE r.workspace = $1 AND r.batch = $2 AND r.rev < b.rev`, actor.Workspace, id).
			Scan(&stale)
		if err != nil || s.Queue == nil {
			return err
		}
		return s.Queue.Check(ctx, tx, actor.Workspace, id) // proofs too
	})
	if err != nil || s.Queue != nil && stale > atOnce {
		return err
	}
	if err := s.Check(ctx, actor.Workspace, id); err != nil || s.Queue != nil {
		return err
	}
	for more := true; more; {
		if more, err = s.Link(ctx, actor.Workspace, id); err != nil {
			return err
		}
	}
	return s.Check(ctx, actor.Workspace, id)
}

// made is a batch with its maker.
func (s *Store) made(ctx context.Context, tx pgx.Tx, workspace, id string) (*Batch, *batch.Maker, problem.List, error) {
	b, err := s.getIn(ctx, tx, workspace, id, "")
	if err != nil {
		return nil, nil, nil, err
	}
	house, _, err := housestyle.Read(ctx, tx, workspace)
	if err != nil {
		return nil, nil, nil, err
	}
	inHouse := *b.Plan // in the colours of the house
	inHouse.Job = house.Job(b.Plan.Job)
	m, problems := inHouse.Compile(b.Columns)
	return b, m, problems, nil
}

// find finds the uploads that rows wear.
func (s *Store) find(ctx context.Context, workspace string) compose.Assets {
	return s.Codes.Assets(ctx, access.OfProgram(workspace, "batches"))
}

// hardest reads the hardest rows of a batch's versions, with what makes them.
func (s *Store) hardest(ctx context.Context, workspace, id string) (a *Rows, m *batch.Maker, broken problem.List, err error) {
	a = &Rows{store: s, workspace: workspace}
	err = s.Codes.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) (err error) {
		if a.batch, m, broken, err = s.made(ctx, tx, workspace, id); err != nil || len(broken) > 0 {
			return err
		}
		for _, sort := range a.batch.Sorts {
			rows, err := s.rowsIn(ctx, tx, workspace, id, Filter{After: sort.Row - 1, Limit: 1})
			if err != nil {
				return err
			}
			if len(rows) == 1 && rows[0].N == sort.Row {
				a.rows = append(a.rows, rows[0])
			}
		}
		return nil
	})
	if err != nil || len(broken) > 0 {
		return a, m, broken, err
	}
	if a.batch.Least > 0 {
		m = m.AtLeast(a.batch.Least)
	}
	a.find, a.keys = s.find(ctx, workspace), map[string]int{}
	return a, m, nil, nil
}

// written is how many rows are written at once.
const written = 1000

// Check makes the rows that are still to be made, reads each back from its drawing, and finds the hardest of each version. It
// is done by the program, for nobody, and may be done twice.
func (s *Store) Check(ctx context.Context, workspace, id string) error {
	var b *Batch
	var m *batch.Maker
	var rows []Row
	var broken problem.List
	err := s.Codes.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) (err error) {
		if b, m, broken, err = s.made(ctx, tx, workspace, id); err != nil {
			return err
		}
		rows, err = s.rowsIn(ctx, tx, workspace, id, Filter{})
		return err
	})
	if err != nil || len(broken) > 0 {
		return err // a plan that cannot be carried out is said where it stands
	}
	find := s.find(ctx, workspace)
	all := Rows{store: s, batch: b, rows: rows, find: find, workspace: workspace}
	var stale []int
	for i, r := range rows {
		if r.State == "" {
			stale = append(stale, i)
		}
	}
	for first := 0; first < len(stale); first += written {
		if err := all.write(ctx, m, stale[first:min(first+written, len(stale))]); err != nil {
			return err
		}
	}
	if err := all.same(ctx, m); err != nil {
		return err
	}
	return all.sorts(ctx)
}

// Rows are all rows of a batch while they are made.
type Rows struct {
	store     *Store
	batch     *Batch
	rows      []Row
	find      compose.Assets
	workspace string
	keys      map[string]int // the first row of each key
}

// doubles notes keys that occur twice.
func (a *Rows) doubles(m *batch.Maker) batch.Keys {
	if m.Key < 0 || a.keys != nil {
		return a.keys
	}
	a.keys = map[string]int{}
	for _, r := range a.rows {
		if key := strings.ToLower(m.KeyOf(r.source())); a.keys[key] == 0 {
			a.keys[key] = r.N
		}
	}
	return a.keys
}

// desk is a row's code where it went to a desk of its own.
func (a *Rows) desk(ctx context.Context, r *Row) (*compose.Rendition, error) {
	c, err := a.store.Codes.Get(ctx, access.OfProgram(a.workspace, "batches"), r.Code)
	if err != nil {
		return nil, err
	}
	return c.Rendition, nil
}

// produce makes one row.
func (a *Rows) produce(ctx context.Context, m *batch.Maker, r *Row) (made *batch.Row, reserve float64, err error) {
	made = m.Make(r.source(), a.find)
	switch says := made.Rendition; {
	case r.Linked && says == nil: // where it is to lead is to be mended
	case r.Code != "":
		if made.Rendition, err = a.desk(ctx, r); err != nil {
			return nil, 0, err
		}
		if made.Problems, made.Name = nil, code.NameOf(made.Rendition.Job); r.Linked {
			made.Leads = says.Job.Content
		}
	}
	if keys := a.doubles(m); keys != nil {
		if first := keys[strings.ToLower(made.Key)]; made.Key == "" || first != 0 && first != r.N {
			if bad := (batch.Keys{strings.ToLower(made.Key): first}).Check(made.Key, r.N); bad != nil {
				made.Problems, made.Rendition = append(made.Problems, *bad), nil
			}
		}
	}
	if !made.Good() {
		return made, 0, nil
	}
	reserve, reads := made.Rendition.Drawn(min(0, len(made.Rendition.Job.Placements)-1))
	if !reads {
		made.Problems.Add(
			"/look",
			"batch.unread",
			"takes so much of this code that it cannot be read; take a simpler look, or shorten what it says",
		)
		made.Rendition = nil
	}
	return made, reserve, nil
}

// write makes rows by several at once and keeps what came of them.
func (a *Rows) write(ctx context.Context, m *batch.Maker, which []int) error {
	type result struct {
		made    *batch.Row
		reserve float64
		err     error
	}
	a.doubles(m)
	out := make([]result, len(which))
	jobs := make(chan int)
	done := make(chan struct{})
	for range runtime.GOMAXPROCS(0) {
		go func() {
			for k := range jobs {
				r := &out[k]
				r.err = caught.Safe(func() (err error) { // one batch fails, not the process
					r.made, r.reserve, err = a.produce(ctx, m, &a.rows[which[k]])
					return err
				})()
			}
			done <- struct{}{}
		}()
	}
	for k := range which {
		jobs <- k
	}
	close(jobs)
	for range runtime.GOMAXPROCS(0) {
		<-done
	}
	var ns, versions []int
	var states []string
	var lines, was [][]byte
	var hards []float64
	for k, i := range which {
		r := &a.rows[i]
		if out[k].err != nil {
			return out[k].err
		}
		keep(r, out[k].made, out[k].reserve, a.batch.Plan.Kind())
		if says := out[k].made.Leads; says != nil && r.State == Good {
			if err := a.store.lead(ctx, a.workspace, a.batch.ID, r, says); err != nil {
				return err
			}
			r.Leads = says.Summary().Object
		}
		sealed, err := a.store.seal(a.workspace, rowID(a.batch.ID, r.N), "line", r.Line)
		if err != nil {
			return err
		}
		ns, versions, states, lines, hards = append(ns, r.N), append(versions, r.Version), append(states, r.State),
			append(lines, sealed), append(hards, 1-r.Reserve)
		was = append(was, r.sealed)
	}
	return a.store.Codes.DB.InWorkspace(ctx, a.workspace, func(tx pgx.Tx) error {
		if err := hold(ctx, tx, a.workspace, a.batch.ID); err != nil {
			return err
		}
		_, err := tx.Exec(
			ctx,
			`UPDATE batch_rows r SET rev = $3, state = u.state, line = u.line, version = u.version, hard = u.hard
			FROM unnest($4::int[], $5::text[], $6::bytea[], $7::int[], $8::float8[], $9::bytea[])
				AS u (n, state, line, version, hard, cells), batches b
			WHERE r.workspace = $1 AND r.batch = $2 AND r.n = u.n AND r.cells = u.cells AND b.workspace = $1 AND b.id = $2 AND b.rev = $3`,
			a.workspace,
			a.batch.ID,
			a.batch.Rev,
			ns,
			states,
			lines,
			versions,
			hards,
			was,
		) // what changed meanwhile is made again
		return err
	})
}

// keep notes what came of a row.
func keep(r *Row, made *batch.Row, reserve float64, kind string) {
	natural := r.Natural
	r.Line = Line{Key: made.Key, Name: made.Name, Under: made.Line, Texts: map[string]string{}, Problems: made.Problems}
	for path, text := range made.Texts {
		if f := job.Field(kind, path); f == nil || !f.Secret {
			r.Texts[path] = text
		}
	}
	r.State, r.Version = Bad, 0
	if !made.Good() {
		return
	}
	m := made.Rendition
	at := m.For(m.Place(min(0, len(m.Job.Placements)-1)))
	r.State, r.Version = Good, at.Symbol.Version
	r.Says, r.Level, r.Size, r.Reserve = content.Shown(at.Job.Content), at.Symbol.Level.String(), at.Symbol.Size, reserve
	if r.Natural = natural; natural == 0 {
		r.Natural = r.Version
	}
}

// same gives all codes the version of the largest, where the plan asks for it.
func (a *Rows) same(ctx context.Context, m *batch.Maker) error {
	least := 0
	if a.batch.Plan.Same {
		for _, r := range a.rows {
			if r.State == Good && r.Code == "" {
				least = max(least, r.Natural)
			}
		}
		var other []int
		for i, r := range a.rows {
			if r.State == Good && r.Code == "" && r.Version != least {
				other = append(other, i)
			}
		}
		for first := 0; first < len(other); first += written {
			if err := a.write(ctx, m.AtLeast(least), other[first:min(first+written, len(other))]); err != nil {
				return err
			}
		}
	}
	if least == a.batch.Least {
		return nil
	}
	return a.store.Codes.DB.InWorkspace(ctx, a.workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(
			ctx,
			`UPDATE batches SET least = $4 WHERE workspace = $1 AND id = $2 AND rev = $3`,
			a.workspace,
			a.batch.ID,
			a.batch.Rev,
			least,
		)
		return err
	})
}

// sorts notes the versions that occur, each with its hardest row: that with the least reserve, the first of several.
func (a *Rows) sorts(ctx context.Context) error {
	type sort struct {
		codes, n int
		reserve  float64
	}
	found := map[int]*sort{}
	for _, r := range a.rows {
		if r.State != Good {
			continue
		}
		one := found[r.Version]
		if one == nil {
			one = &sort{n: r.N, reserve: r.Reserve}
			found[r.Version] = one
		}
		if one.codes++; r.Reserve < one.reserve {
			one.n, one.reserve = r.N, r.Reserve
		}
	}
	return a.store.Codes.DB.InWorkspace(ctx, a.workspace, func(tx pgx.Tx) error {
		if err := hold(ctx, tx, a.workspace, a.batch.ID); err != nil {
			return err
		}
		var versions []int
		for v, one := range found {
			versions = append(versions, v)
			// a verdict stays while the plan does, and the row that it is about
			if _, err := tx.Exec(ctx, `INSERT INTO batch_proofs (workspace, batch, version, n, rev, verdict, codes)
				SELECT $1, $2, $3, $4, $5, '', $6 FROM batches WHERE workspace = $1 AND id = $2 AND rev = $5
				ON CONFLICT (workspace, batch, version) DO UPDATE SET codes = excluded.codes, n = excluded.n, rev = excluded.rev,
				verdict = CASE WHEN batch_proofs.n = excluded.n AND batch_proofs.rev = excluded.rev THEN batch_proofs.verdict ELSE '' END`,
				a.workspace, a.batch.ID, v, one.n, a.batch.Rev, one.codes); err != nil {
				return err
			}
		}
		if _, err := tx.Exec(ctx, `DELETE FROM batch_proofs WHERE workspace = $1 AND batch = $2 AND NOT version = ANY ($3)`,
			a.workspace, a.batch.ID, append([]int{}, versions...)); err != nil {
			return err
		}
		// what is changed meanwhile is not settled
		_, err := tx.Exec(ctx, `UPDATE batches b SET total = c.total, bad = c.bad, settled = c.stale = 0 FROM (
			SELECT count(*) AS total, count(*) FILTER (WHERE r.state = 'bad') AS bad, count(*) FILTER (WHERE r.rev < $3) AS stale
			FROM batch_rows r WHERE r.workspace = $1 AND r.batch = $2) c
			WHERE b.workspace = $1 AND b.id = $2 AND b.rev = $3`, a.workspace, a.batch.ID, a.batch.Rev)
		return err
	})
}

// Prove proves the hardest row of one version that has no verdict, and says whether there was one. The program does so by
// itself.
func (s *Store) Prove(ctx context.Context, workspace, id string) (bool, error) {
	a, m, broken, err := s.hardest(ctx, workspace, id)
	if err != nil || len(broken) > 0 {
		return false, err
	}
	b := a.batch
	at := slices.IndexFunc(b.Sorts, func(o Sort) bool { return o.Verdict == "" })
	if at < 0 {
		return false, nil
	}
	version := b.Sorts[at].Version
	of := slices.IndexFunc(a.rows, func(r Row) bool { return r.N == b.Sorts[at].Row })
	if of < 0 {
		return false, nil
	}
	row := a.rows[of]
	made, _, err := a.produce(ctx, m, &row)
	if err != nil || !made.Good() {
		return false, err
	}
	p, err := s.Codes.Prove(proving.Patiently(ctx), access.OfProgram(workspace, "batches"), made.Rendition,
		min(0, len(made.Rendition.Job.Placements)-1), proof.Ordinary)
	if err != nil {
		return false, err
	}
	if !p.Has(proof.Ordinary) || len(p.Broken) > 0 {
		return false, code.ErrUnreliable
	}
	return true, s.Codes.DB.InWorkspace(ctx, workspace, func(tx pgx.Tx) error {
		_, err := tx.Exec(
			ctx,
			`UPDATE batch_proofs SET verdict = $6 WHERE workspace = $1 AND batch = $2 AND version = $3 AND n = $4
			AND rev = $5`,
			workspace,
			id,
			version,
			row.N,
			b.Rev,
			string(p.Verdict),
		)
		return err
	})
}

// Worst is the sort of a batch with the worst verdict; of several alike that with the smallest modules. ok is false for none.
func (b *Batch) Worst() (one Sort, ok bool) {
	for _, o := range b.Sorts {
		v, worst := proof.Verdict(o.Verdict), proof.Verdict(one.Verdict)
		if !ok || v.Worse(worst) || v == worst && o.Version > one.Version {
			one, ok = o, true
		}
	}
	return one, ok
}

// Said says of a sort in a sentence what its verdict rests on.
func (o Sort) Said() string {
	if o.Codes == 1 {
		return fmt.Sprintf("row %s", measure.Count(o.Row))
	}
	return fmt.Sprintf("row %s, the hardest of %s", measure.Count(o.Row), measure.Count(o.Codes))
}

// Unfinished is a batch with rows that are still to be made, or with what is still to be proved.
type Unfinished struct{ Workspace, Batch string }

// Unfinished lists such batches of all workspaces, at most limit, those changed last first.
func (s *Store) Unfinished(ctx context.Context, limit int) ([]Unfinished, error) {
	rows, err := s.Codes.DB.Pool.Query(ctx, `SELECT b.workspace, b.id FROM batches b WHERE NOT b.retired
		AND (NOT b.settled OR EXISTS (SELECT 1 FROM batch_proofs p WHERE p.workspace = b.workspace AND p.batch = b.id AND p.verdict = ''))
		ORDER BY b.changed_at DESC LIMIT $1`, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Unfinished])
}
