package batches

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
)

// Bounds of a zip of files that rows open.
const (
	maxOpened      = 1000
	maxOpenedBytes = 256 << 20 // of all of them, unpacked
)

// AddressColumn is the column into which the addresses of files come.
const AddressColumn = "File address"

// Opened says what became of a zip.
type Opened struct {
	Rows    int      // that open a file now
	Column  string   // that named the files
	Missing []string // names that the column has and the zip has not
	Unused  []string // files that no row names
}

// String says it in words.
func (o Opened) String() string {
	some := func(list []string) string {
		const most = 5
		out := strings.Join(list[:min(most, len(list))], ", ")
		if n := len(list) - most; n > 0 {
			out += fmt.Sprintf(" and %s more", measure.Count(n))
		}
		return out
	}
	out := fmt.Sprintf("%s of the column %s open a file of their own", measure.Plural(o.Rows, "row"), o.Column)
	if o.Rows == 1 {
		out = fmt.Sprintf("1 row of the column %s opens a file of its own", o.Column)
	}
	if len(o.Missing) > 0 {
		out += "; not in the zip: " + some(o.Missing)
	}
	if len(o.Unused) > 0 {
		out += "; named by no row: " + some(o.Unused)
	}
	return out
}

// Open has each row open its own file of a zip: the column whose cells name most of its files says which. The files stand on
// the host of short links, at addresses that cannot be guessed.
func (s *Store) Open(ctx context.Context, actor access.Actor, id string, data []byte) (o Opened, err error) {
	if err := actor.Need(access.Change); err != nil {
		return o, err
	}
	b, err := s.Get(ctx, actor, id)
	if err != nil {
		return o, err
	}
	if s.Links == nil {
		return o, problem.List{{Field: "/file", Code: "link.host",
			Message: "cannot be opened by codes: this server has no host for short links"}}
	}
	files, err := filesIn(data)
	if err != nil {
		return o, err
	}
	rows, err := s.Rows(ctx, actor, id, Filter{})
	if err != nil {
		return o, err
	}
	column, named := columnOf(b.Columns, rows, files)
	if column < 0 {
		return o, problem.List{{Field: "/file", Code: "batch.files",
			Message: "holds no file that a row names; write the names of the files " +
				"into a column"}}
	}
	o.Column = b.Columns[column]
	addresses := map[string]string{} // by the folded name in the cells
	for name, f := range named {
		content, err := read(f)
		if err == nil {
			addresses[name], err = s.Links.Keep(ctx, actor, path.Base(f.Name), content)
		}
		if problems, is := code.IsProblem(err); is {
			problems[0].Field, problems[0].Message = "/file", fmt.Sprintf("(%s) %s", path.Base(f.Name), problems[0].Message)
			return o, problems
		}
		if err != nil {
			return o, err
		}
	}
	used := map[*zip.File]bool{}
	for _, f := range named {
		used[f] = true
	}
	for _, f := range files {
		if !used[f] {
			o.Unused = append(o.Unused, path.Base(f.Name))
		}
	}
	if err := s.openAt(ctx, actor, id, addresses, &o); err != nil {
		return o, err
	}
	return o, s.checkSoon(ctx, actor, id)
}

// openAt has rows open the addresses of what their cells of the column name, and says in o what came of it. What the batch was
// when the column was chosen may have changed since.
func (s *Store) openAt(ctx context.Context, actor access.Actor, id string, addresses map[string]string, o *Opened) error {
	return s.Codes.DB.InWorkspace(ctx, actor.Workspace, func(tx pgx.Tx) error {
		b, err := s.getIn(ctx, tx, actor.Workspace, id, "FOR UPDATE OF b")
		if err != nil {
			return err
		}
		undo, err := s.before(ctx, tx, actor, id, "the files of the zip")
		if err == nil {
			err = keepRows(ctx, tx, actor.Workspace, id, undo, nil)
		}
		if err != nil {
			return err
		}
		column := slices.Index(b.Columns, o.Column)
		if column < 0 {
			return problem.List{{Field: "/file", Code: "batch.files",
				Message: fmt.Sprintf("were named in the column %q, which another change "+
					"has just taken away; choose the zip again", o.Column)}}
		}
		at := slices.Index(b.Columns, AddressColumn)
		if at < 0 {
			b.Columns = append(b.Columns, AddressColumn)
			at = len(b.Columns) - 1
		}
		if b.Plan.Kind() != "url" {
			if err := b.setKind("url"); err != nil {
				return err
			}
		}
		b.Plan.Put("/content/url", batch.Blank(AddressColumn))
		b.Rev++
		rows, err := s.rowsIn(ctx, tx, actor.Workspace, id, Filter{})
		if err != nil {
			return err
		}
		for _, r := range rows {
			for len(r.Cells) <= max(at, column) {
				r.Cells = append(r.Cells, "")
			}
			cell := r.Cells[column]
			address, ok := addresses[strings.ToLower(cell)]
			switch {
			case ok:
				r.Cells[at] = address
				o.Rows++
			case cell != "" && r.Cells[at] == "":
				o.Missing = append(o.Missing, cell)
			}
			sealed, err := s.seal(actor.Workspace, rowID(id, r.N), "cells", r.cells())
			if err != nil {
				return err
			}
			if _, err := tx.Exec(ctx, `UPDATE batch_rows SET cells = $4 WHERE workspace = $1 AND batch = $2 AND n = $3`,
				actor.Workspace, id,
				r.N, sealed); err != nil {
				return err
			}
		}
		return s.store(ctx, tx, actor.Workspace, b)
	})
}

// filesIn are the files of a zip, folders and what systems add left out.
func filesIn(data []byte) (out []*zip.File, err error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, problem.List{{Field: "/file", Code: "batch.zip", Message: "is no zip that can be read; pack the files again"}}
	}
	all := uint64(0)
	for _, f := range z.File {
		base := path.Base(f.Name)
		if strings.HasSuffix(f.Name, "/") || strings.HasPrefix(base, ".") || strings.HasPrefix(f.Name, "__MACOSX/") {
			continue
		}
		if all += f.UncompressedSize64; len(out) == maxOpened || all > maxOpenedBytes {
			return nil, problem.List{{Field: "/file", Code: "batch.zip", Message: fmt.Sprintf(
				"holds more than %d files, or %d MB of them; take them in several zips", maxOpened, maxOpenedBytes>>20)}}
		}
		out = append(out, f)
	}
	return out, nil
}

// read unpacks a file, and no more than a code may open, whatever the zip says of its size.
func read(f *zip.File) ([]byte, error) {
	in, err := f.Open()
	if err != nil {
		return nil, problem.List{{Code: "batch.zip", Message: "cannot be unpacked; pack the files again without a password"}}
	}
	defer in.Close()
	data, err := io.ReadAll(io.LimitReader(in, leads.MaxServed+1))
	if err != nil {
		return nil, problem.List{{Code: "batch.zip", Message: "is damaged; pack the files again"}}
	}
	return data, nil
}

// columnOf is the column whose cells name most files, by their whole name or without its ending, and the files by the folded
// cells; −1 where none names any.
func columnOf(columns []string, rows []Row, files []*zip.File) (column int, named map[string]*zip.File) {
	byName := map[string]*zip.File{}
	for _, f := range files {
		base := strings.ToLower(path.Base(f.Name))
		byName[base] = f
		if bare := strings.TrimSuffix(base, path.Ext(base)); byName[bare] == nil {
			byName[bare] = f
		}
	}
	column = -1
	for i, name := range columns {
		if name == AddressColumn {
			continue
		}
		found := map[string]*zip.File{}
		for _, r := range rows {
			if i < len(r.Cells) {
				if f := byName[strings.ToLower(r.Cells[i])]; f != nil {
					found[strings.ToLower(r.Cells[i])] = f
				}
			}
		}
		if len(found) > len(named) {
			column, named = i, found
		}
	}
	return column, named
}
