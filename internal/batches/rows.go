package batches

import (
	"context"
	"fmt"
	"strconv"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/table"
)

// cells are a row as it came in, and what somebody wrote into it by hand.
type cells struct {
	Cells []string          `json:"cells"`
	Bad   string            `json:"bad,omitempty"`
	Line  int               `json:"line,omitempty"`
	Own   map[string]string `json:"own,omitempty"`
	Led   string            `json:"led,omitempty"` // where its short link was last led by the rows, as JSON
}

// Line is what is kept of a row that was made.
type Line struct {
	Key      string            `json:"key"`
	Name     string            `json:"name"`
	Says     string            `json:"says"`
	Leads    string            `json:"leads,omitempty"` // where its short link is to lead, in words
	Texts    map[string]string `json:"texts"`           // of the fields that differ, by pointer; secrets are left out
	Under    string            `json:"under,omitempty"`
	Level    string            `json:"level,omitempty"`
	Size     int               `json:"size,omitempty"`
	Natural  int               `json:"natural,omitempty"` // the version that it would have by itself
	Reserve  float64           `json:"reserve"`
	Problems problem.List      `json:"problems,omitempty"`
	Doubles  string            `json:"doubles,omitempty"` // what it has in common with an earlier row, in words
}

// Row is a row as a table shows it.
type Row struct {
	Line
	N       int
	Cells   []string
	Bad     string
	Own     map[string]string
	State   string // "" while it is still to be made, "good" or "bad"
	Version int
	Code    string // whose desk it went to, "" for none
	Linked  bool   // it leads through a short link

	led    string // where, by the rows
	sealed []byte // its cells, as they are kept
}

// States of a row.
const (
	Good = "good"
	Bad  = "bad"
)

func rowID(id string, n int) string { return id + "/" + strconv.Itoa(n) }

// put writes rows, from row first on. COPY does not pass the walls of a workspace.
func (s *Store) put(ctx context.Context, tx pgx.Tx, workspace, id string, first int, all []table.Row) error {
	for at := 0; at < len(all); at += written {
		var ns []int
		var kept [][]byte
		for i, row := range all[at:min(at+written, len(all))] {
			n := first + at + i
			sealed, err := s.seal(workspace, rowID(id, n), "cells", cells{Cells: row.Cells, Bad: row.Bad, Line: row.Line})
			if err != nil {
				return err
			}
			ns, kept = append(ns, n), append(kept, sealed)
		}
		if _, err := tx.Exec(ctx, `INSERT INTO batch_rows (workspace, batch, n, cells)
			SELECT $1, $2, u.n, u.cells FROM unnest($3::int[], $4::bytea[]) AS u (n, cells)`, workspace, id, ns, kept); err != nil {
			return err
		}
	}
	return nil
}

// Filter is which rows are asked for.
type Filter struct {
	State   string // "", "good", "bad", "desk": on a desk of its own, or "unlinked": good, and without a short link
	Version int    // 0 for any
	After   int    // rows after this one
	Limit   int
}

// Rows gives rows of a batch, from one on.
func (s *Store) Rows(ctx context.Context, actor access.Actor, id string, f Filter) (out []Row, err error) {
	if err := actor.Need(access.Look); err != nil {
		return nil, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		out, err = s.rowsIn(ctx, tx, actor.Workspace, id, f)
		return err
	})
	return out, err
}

func (s *Store) rowsIn(ctx context.Context, tx pgx.Tx, workspace, id string, f Filter) ([]Row, error) {
	if f.Limit <= 0 {
		f.Limit = MaxRows
	}
	rows, err := tx.Query(ctx, `SELECT r.n, r.cells, CASE WHEN r.rev = b.rev THEN r.state ELSE '' END, r.line, r.version,
		coalesce(r.code, ''), r.linked FROM batch_rows r JOIN batches b ON b.workspace = r.workspace AND b.id = r.batch
		WHERE r.workspace = $1 AND r.batch = $2 AND r.n > $3 AND ($4 = '' OR r.state = $4 OR $4 = 'desk' AND r.code IS NOT NULL AND NOT r.linked
			OR $4 = 'unlinked' AND r.state = 'good' AND NOT r.linked)
			AND ($5 = 0 OR r.version = $5) ORDER BY r.n LIMIT $6`, workspace, id, f.After, f.State, f.Version, f.Limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Row, error) { return s.scanRow(r, workspace, id) })
}

func (s *Store) scanRow(r pgx.CollectableRow, workspace, id string) (out Row, err error) {
	var line []byte
	if err := r.Scan(&out.N, &out.sealed, &out.State, &line, &out.Version, &out.Code, &out.Linked); err != nil {
		return out, err
	}
	var c cells
	if err := s.open(out.sealed, workspace, rowID(id, out.N), "cells", &c); err != nil {
		return out, err
	}
	out.Cells, out.Bad, out.Own, out.led = c.Cells, c.Bad, c.Own, c.Led
	if line != nil {
		err = s.open(line, workspace, rowID(id, out.N), "line", &out.Line)
	}
	return out, err
}

// cells are what is kept of a row as it came in.
func (r Row) cells() cells { return cells{Cells: r.Cells, Bad: r.Bad, Own: r.Own, Led: r.led} }

// source is a row as it goes into a maker.
func (r Row) source() batch.Source {
	return batch.Source{N: r.N, Cells: r.Cells, Bad: r.Bad, Own: r.Own}
}

// Row gives one row.
func (s *Store) Row(ctx context.Context, actor access.Actor, id string, n int) (Row, error) {
	rows, err := s.Rows(ctx, actor, id, Filter{After: n - 1, Limit: 1})
	if err != nil {
		return Row{}, err
	}
	if len(rows) == 0 || rows[0].N != n {
		return Row{}, ErrNotFound
	}
	return rows[0], nil
}

// Mend writes into a field of one row by hand, in place of what the plan puts there; the same text as the plan's takes that
// back. What a field cannot hold is kept as it was written, and is a problem of the row.
func (s *Store) Mend(ctx context.Context, actor access.Actor, id string, n int, path, text string) error {
	if err := actor.Need(access.Change); err != nil {
		return err
	}
	if len(text) > batch.MaxText {
		return problem.List{{Field: path, Code: "batch.text", Message: fmt.Sprintf("is longer than %d bytes", batch.MaxText)}}
	}
	err := s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err := s.getIn(ctx, tx, actor.Workspace, id, "FOR UPDATE OF b")
		if err != nil {
			return err
		}
		rows, err := s.rowsIn(ctx, tx, actor.Workspace, id, Filter{After: n - 1, Limit: 1})
		if err != nil {
			return err
		}
		if len(rows) == 0 || rows[0].N != n {
			return ErrNotFound
		}
		r := rows[0]
		m, problems := b.Plan.Compile(b.Columns)
		if len(problems) > 0 {
			return problems
		}
		if !has(m.Fields(), path) {
			return problem.List{{Field: path, Code: "batch.field", Message: "is the same in every row; let it differ first"}}
		}
		if r.Own == nil {
			r.Own = map[string]string{}
		}
		delete(r.Own, path)
		if plain := m.Make(batch.Source{N: r.N, Cells: r.Cells}, nil).Texts[path]; plain != text {
			r.Own[path] = text
		}
		sealed, err := s.seal(actor.Workspace, rowID(id, n), "cells", r.cells())
		if err != nil {
			return err
		}
		undo, err := s.before(ctx, tx, actor, id, fmt.Sprintf("%s of row %d", called(b, path), n))
		if err == nil {
			err = keepRows(ctx, tx, actor.Workspace, id, undo, []int{n})
		}
		if err != nil {
			return err
		}
		if _, err = tx.Exec(ctx, `UPDATE batch_rows SET cells = $4, rev = 0 WHERE workspace = $1 AND batch = $2 AND n = $3`,
			actor.Workspace, id, n, sealed); err != nil {
			return err
		}
		return s.touch(ctx, tx, actor.Workspace, id)
	})
	if err != nil {
		return err
	}
	return s.checkSoon(ctx, actor, id)
}

// hold has whoever writes several rows of a batch, or rows and the batch, wait for a turn: all take the batch first, so that no
// two wait for each other. Keys that refer to the batch do not wait.
func hold(ctx context.Context, tx pgx.Tx, workspace, id string) error {
	_, err := tx.Exec(ctx, `SELECT 1 FROM batches WHERE workspace = $1 AND id = $2 FOR NO KEY UPDATE`, workspace, id)
	return err
}

// touch says that a batch has changed, whose plan has not.
func (s *Store) touch(ctx context.Context, tx pgx.Tx, workspace, id string) error {
	_, err := tx.Exec(ctx, `UPDATE batches SET changed_at = $3, settled = false WHERE workspace = $1 AND id = $2`, workspace, id, s.Codes.Now())
	return err
}

// Drop takes rows out of a batch, or all that cannot be made where none are named, and says how many. A row on a desk of its
// own stays there.
func (s *Store) Drop(ctx context.Context, actor access.Actor, id string, rows []int) (n int, err error) {
	if err := actor.Need(access.Change); err != nil {
		return 0, err
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err := s.getIn(ctx, tx, actor.Workspace, id, "FOR UPDATE OF b")
		if err != nil {
			return err
		}
		list, err := tx.Query(ctx, `SELECT n FROM batch_rows WHERE workspace = $1 AND batch = $2
			AND (n = ANY ($3) OR cardinality($3::int[]) = 0 AND state = 'bad' AND rev = $4)`, actor.Workspace, id, append([]int{}, rows...),
			b.Rev)
		if err != nil {
			return err
		}
		out, err := pgx.CollectRows(list, pgx.RowTo[int])
		if n = len(out); err != nil || n == 0 {
			return err
		}
		undo, err := s.before(ctx, tx, actor, id, measure.Plural(n, "row")+" taken out")
		if err == nil {
			err = keepRows(ctx, tx, actor.Workspace, id, undo, out)
		}
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `DELETE FROM batch_rows WHERE workspace = $1 AND batch = $2 AND n = ANY ($3)`, actor.Workspace, id,
			out); err != nil {
			return err
		}
		// What occurs is counted anew, and what was a double of a row that is gone is none any more.
		if _, err := tx.Exec(ctx, `UPDATE batch_rows SET rev = 0 WHERE workspace = $1 AND batch = $2`, actor.Workspace, id); err != nil {
			return err
		}
		return s.touch(ctx, tx, actor.Workspace, id)
	})
	if err != nil {
		return 0, err
	}
	return n, s.checkSoon(ctx, actor, id)
}
