package batches

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/table"
)

// ToDesk gives a row a desk of its own, and the id of the code there; the same one when it has one already. From then on the row
// is what its desk makes of it.
func (s *Store) ToDesk(ctx context.Context, actor access.Actor, id string, n int) (codeID string, err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	if codeID, err = s.toDesk(ctx, actor, id, n, false); err != nil {
		return "", err
	}
	return codeID, s.checkSoon(ctx, actor, id)
}

// toDesk makes the code of a row; hidden ones stand in the ledger by their batch alone.
func (s *Store) toDesk(ctx context.Context, actor access.Actor, id string, n int, hidden bool) (codeID string, err error) {
	var b *Batch
	var m *batch.Maker
	var row Row
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		var problems problem.List
		if b, m, problems, err = s.made(ctx, tx, actor.Workspace, id); err != nil {
			return err
		}
		if len(problems) > 0 {
			return problems
		}
		rows, err := s.rowsIn(ctx, tx, actor.Workspace, id, Filter{After: n - 1, Limit: 1})
		if err != nil {
			return err
		}
		if len(rows) == 0 || rows[0].N != n {
			return ErrNotFound
		}
		row = rows[0]
		return nil
	})
	if err != nil || row.Code != "" {
		return row.Code, err
	}
	if b.Least > 0 {
		m = m.AtLeast(b.Least)
	}
	r := m.Make(row.source(), s.find(ctx, actor.Workspace))
	if !r.Good() {
		return "", r.Problems
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		if err := hold(ctx, tx, actor.Workspace, id); err != nil {
			return err
		}
		var there *string
		if err := tx.QueryRow(ctx, `SELECT code FROM batch_rows WHERE workspace = $1 AND batch = $2 AND n = $3`,
			actor.Workspace, id, n).Scan(&there); err != nil {
			return err
		}
		if there != nil { // somebody was faster
			codeID = *there
			return nil
		}
		if codeID, err = s.Codes.CreateIn(ctx, tx, actor, r.Rendition, b.Campaign); err != nil {
			return err
		}
		if hidden {
			if _, err := tx.Exec(ctx, `UPDATE codes SET batch = $3 WHERE workspace = $1 AND id = $2`, actor.Workspace, codeID,
				id); err != nil {
				return err
			}
		}
		if _, err = tx.Exec(ctx, `UPDATE batch_rows SET code = $4, rev = 0 WHERE workspace = $1 AND batch = $2 AND n = $3`,
			actor.Workspace, id, n, codeID); err != nil {
			return err
		}
		return s.touch(ctx, tx, actor.Workspace, id)
	})
	return codeID, err
}

// Updated says what a newer table changed.
type Updated struct {
	New, Changed, Same int
	Bad                int      // rows without a key, or with one that came before: left out
	Gone               []string // keys that the table has no more; their rows stay
}

// String says it in words.
func (u Updated) String() string {
	out := fmt.Sprintf(
		"%s new, %s changed, %s as before",
		measure.Count(u.New),
		measure.Count(u.Changed),
		measure.Count(u.Same),
	)
	if u.Bad > 0 {
		out += fmt.Sprintf("; %s without a key of its own left out", measure.Plural(u.Bad, "row"))
	}
	if n := len(u.Gone); n > 0 {
		const most = 5
		out += fmt.Sprintf(
			"; %s no longer there, and left alone: %s",
			measure.Plural(n, "row"),
			strings.Join(u.Gone[:min(n, most)], ", "),
		)
		if n > most {
			out += fmt.Sprintf(" and %s more", measure.Count(n-most))
		}
	}
	return out
}

// Update takes the same table in again, changed: rows are known by their keys. What was written by hand stays.
func (s *Store) Update(ctx context.Context, actor access.Actor, id string, rows *table.Rows) (u Updated, err error) {
	if err := actor.Need(access.Change); err != nil {
		return u, err
	}
	if rows == nil {
		return u, problem.List{{Field: "/rows", Code: "rows.none", Message: "are missing; paste them, or choose a file"}}
	}
	err = s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err := s.getIn(ctx, tx, actor.Workspace, id, "FOR UPDATE OF b")
		if err != nil {
			return err
		}
		u, err = s.update(ctx, tx, actor, b, rows)
		return err
	})
	if err != nil {
		return u, err
	}
	return u, s.checkSoon(ctx, actor, id)
}

func (s *Store) update(ctx context.Context, tx pgx.Tx, actor access.Actor, b *Batch, rows *table.Rows) (u Updated, err error) {
	m, problems := b.Plan.Compile(b.Columns)
	switch {
	case len(problems) > 0:
		return u, problems
	case m.Key < 0:
		return u, problem.List{
			{Field: "/key", Code: "batch.key", Message: "is none, so rows are not known again; choose a column first"},
		}
	}
	to, err := mapped(b, m, rows.Columns)
	if err != nil {
		return u, err
	}
	undo, err := s.before(ctx, tx, actor, b.ID, "the same table once more")
	if err != nil {
		return u, err
	}
	old, err := s.rowsIn(ctx, tx, actor.Workspace, b.ID, Filter{})
	if err != nil {
		return u, err
	}
	byKey, last := map[string]*Row{}, 0
	for i := range old {
		key := strings.ToLower(m.KeyOf(old[i].source()))
		if byKey[key] == nil {
			byKey[key] = &old[i]
		}
		last = max(last, old[i].N)
	}
	seen := map[string]bool{}
	var added []table.Row
	for n := 0; ; n++ {
		row, err := rows.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return u, err
		}
		if len(old)+len(added) > MaxRows {
			return u, problem.List{
				{Field: "/rows", Code: "rows.many", Message: fmt.Sprintf("are more than %d; take them in several files",
					MaxRows)},
			}
		}
		row.Cells = arranged(row.Cells, to, len(b.Columns))
		key := strings.ToLower(m.KeyOf(batch.Source{Cells: row.Cells}))
		if key == "" || seen[key] {
			u.Bad++
			continue
		}
		seen[key] = true
		was := byKey[key]
		switch {
		case was == nil:
			u.New++
			added = append(added, row)
		case slices.Equal(was.Cells, row.Cells) && was.Bad == row.Bad:
			u.Same++
		default:
			u.Changed++
			if err := keepRows(ctx, tx, actor.Workspace, b.ID, undo, []int{was.N}); err != nil {
				return u, err
			}
			sealed, err := s.seal(
				actor.Workspace,
				rowID(b.ID, was.N),
				"cells",
				cells{Cells: row.Cells, Bad: row.Bad, Line: row.Line,
					Own: was.Own},
			)
			if err != nil {
				return u, err
			}
			if _, err := tx.Exec(ctx, `UPDATE batch_rows SET cells = $4, rev = 0 WHERE workspace = $1 AND batch = $2 AND n = $3`,
				actor.Workspace, b.ID, was.N, sealed); err != nil {
				return u, err
			}
		}
	}
	for i := range old {
		if key := m.KeyOf(old[i].source()); key != "" && !seen[strings.ToLower(key)] {
			u.Gone = append(u.Gone, key)
		}
	}
	if err := s.put(ctx, tx, actor.Workspace, b.ID, last+1, added); err != nil {
		return u, err
	}
	return u, s.store(ctx, tx, actor.Workspace, b)
}

// mapped says for each column of a newer table which column of the batch it is; those that are new come at the end.
func mapped(b *Batch, m *batch.Maker, columns []string) ([]int, error) {
	to := make([]int, len(columns))
	there := map[int]bool{}
	for i, c := range columns {
		to[i] = slices.IndexFunc(b.Columns, func(old string) bool { return strings.EqualFold(old, c) })
		if to[i] < 0 {
			b.Columns = append(b.Columns, c)
			to[i] = len(b.Columns) - 1
		}
		there[to[i]] = true
	}
	for _, i := range m.Used() {
		if !there[i] {
			return nil, problem.List{{Field: "/rows", Code: "rows.column", Message: fmt.Sprintf(
				"have no column %s any more, which this batch uses; give it that name, or choose another one first",
				b.Columns[i],
			)}}
		}
	}
	return to, nil
}

// arranged puts cells under the columns of the batch.
func arranged(cells []string, to []int, n int) []string {
	out := make([]string, n)
	for i, c := range cells {
		out[to[i]] = c
	}
	return out
}
