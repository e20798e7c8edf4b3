// Package table reads rows from what people have: pasted text, CSV with any usual delimiter and encoding (RFC 4180 and what
// spreadsheets make of it), XLSX (ECMA-376), vCards, calendar files, a range of numbers. CSV and text are read as a stream, in
// flat memory. It knows no field of a job; cards and dates say by themselves which of theirs a column holds.
package table

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode"
	"unicode/utf8"

	"sodrik/internal/core/problem"
)

// Bounds of what is read.
const (
	MaxColumns = 200
	MaxCell    = 32_767  // characters of one cell, as many as XLSX has
	maxRecord  = 1 << 20 // bytes of one row
)

// Row is one row of a table: a cell for each column.
type Row struct {
	Line  int // in the text, or the row of the sheet, from 1
	Cells []string
	Bad   string // why it cannot be used, as the rest of a sentence that begins with the row; "" for nothing
}

// Rows gives the rows of a table one after the other.
type Rows struct {
	Columns []string // what they are called, none twice
	Paths   []string // of cards and dates: the field that each column holds, as a JSON Pointer; else nil
	Kind    string   // of cards and dates: their kind of content, else ""
	Said    []string // what was taken for granted, in words: "semicolons between cells", "sheet Labels"
	Read    Options  // as it was told to be read

	next func() (Row, error)
}

// Next is the next row. The error is io.EOF at the end, and a problem.List where the rest cannot be read.
func (r *Rows) Next() (Row, error) {
	for {
		row, err := r.next()
		if err != nil {
			return row, err
		}
		if strings.TrimSpace(strings.Join(row.Cells, "")) == "" && row.Bad == "" {
			continue
		}
		if extra := len(row.Cells) - len(r.Columns); extra > 0 {
			for _, cell := range row.Cells[len(r.Columns):] {
				if cell != "" && row.Bad == "" {
					row.Bad = fmt.Sprintf("has %d cells, and there are %d columns; put a cell with a delimiter in it into quotes",
						len(row.Cells), len(r.Columns))
				}
			}
			row.Cells = row.Cells[:len(r.Columns)]
		}
		for len(row.Cells) < len(r.Columns) {
			row.Cells = append(row.Cells, "")
		}
		for i, cell := range row.Cells {
			row.Cells[i] = strings.TrimSpace(cell)
			if len(cell) > MaxCell && utf8.RuneCountInString(cell) > MaxCell && row.Bad == "" {
				row.Bad = fmt.Sprintf("has more than %d characters under %s; shorten it", MaxCell, r.Columns[i])
			}
		}
		return row, nil
	}
}

// All reads at most so many rows; more are a problem.
func (r *Rows) All(most int) (out []Row, err error) {
	for {
		row, err := r.Next()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		if len(out) == most {
			return out, bad("rows.many", "are more than %d; take them in several files", most)
		}
		out = append(out, row)
	}
}

// bad is a problem of the rows as a whole.
func bad(code, format string, args ...any) problem.List {
	var l problem.List
	l.Add("/rows", code, format, args...)
	return l
}

// Open reads what a file is and its columns, by its content. What is read of it must stay open while rows are asked for. Where
// the context ends, reading stops with its error, now and at any later row.
func Open(ctx context.Context, in io.Reader, o Options) (*Rows, error) {
	rows, err := opened(ctx, in, o)
	if err != nil {
		return nil, err
	}
	next := rows.next
	rows.Read, rows.next = o, func() (Row, error) {
		if err := ctx.Err(); err != nil {
			return Row{}, err
		}
		return next()
	}
	return rows, nil
}

func opened(ctx context.Context, in io.Reader, o Options) (*Rows, error) {
	b := bufio.NewReaderSize(in, sampled)
	start, err := b.Peek(sampled)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, bufio.ErrBufferFull) {
		return nil, err
	}
	lower := bytes.ToLower(bytes.TrimLeft(bytes.TrimPrefix(start, []byte("\ufeff")), " \t\r\n"))
	switch {
	case len(start) == 0:
		return nil, bad("rows.none", "are missing; paste them, or choose a file")
	case bytes.HasPrefix(start, []byte("PK\x03\x04")):
		return workbook(ctx, b, o)
	case bytes.HasPrefix(start, []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")):
		return nil, bad("rows.xls", "are an old workbook, or one with a password; save it as XLSX or CSV without one")
	case bytes.HasPrefix(start, []byte("%PDF-")), bytes.HasPrefix(start, []byte("\x89PNG")),
		bytes.HasPrefix(start, []byte("\xff\xd8\xff")):
		return nil, bad("rows.kind", "are a picture or a PDF; give them as CSV, XLSX, vCards or a calendar file")
	case bytes.HasPrefix(lower, []byte("begin:vcard")), bytes.HasPrefix(lower, []byte("begin:vcalendar")),
		bytes.HasPrefix(lower, []byte("begin:vevent")):
		return entries(ctx, b, o)
	}
	return delimited(b, o)
}

// columns are the names of columns by the first two rows; without heads they are named by their place.
func columns(first, second []string, heads bool) ([]string, error) {
	names := append([]string{}, first...)
	for !heads && len(names) < len(second) {
		names = append(names, "")
	}
	blank := func(cells []string, i int) bool { return i >= len(cells) || strings.TrimSpace(cells[i]) == "" }
	for n := len(names); n > 0 && blank(first, n-1) && blank(second, n-1); n-- {
		names = names[:n-1]
	}
	if !heads {
		clear(names)
	}
	return named(names)
}

// named are the names of columns: the cells of a row, those without a name by their place, none twice.
func named(cells []string) ([]string, error) {
	if len(cells) > MaxColumns {
		return nil, bad("rows.columns", "have more than %d columns; leave some out", MaxColumns)
	}
	seen := map[string]bool{}
	var out []string
	for i, cell := range cells {
		name := strings.Join(strings.FieldsFunc(cell, func(r rune) bool {
			return unicode.IsSpace(r) || unicode.IsControl(r) || r == '{' || r == '}'
		}), " ")
		if name == "" {
			name = fmt.Sprintf("Column %d", i+1)
		}
		if r := []rune(name); len(r) > 60 {
			name = string(r[:60])
		}
		once := name
		for n := 2; seen[strings.ToLower(once)]; n++ { // at most MaxColumns times
			once = fmt.Sprintf("%s %d", name, n)
		}
		seen[strings.ToLower(once)] = true
		out = append(out, once)
	}
	return out, nil
}

// heading says whether a first row names the columns: all of its cells are words, and none is something that a code would hold.
// after is the row that follows it, nil where there is none.
func heading(cells, after []string) bool {
	if len(after) == 0 {
		return false
	}
	some := false
	for i, cell := range cells {
		cell = strings.TrimSpace(cell)
		if cell == "" {
			if i < len(after) && strings.TrimSpace(after[i]) != "" && len(cells) == 1 {
				return false
			}
			continue
		}
		if isValue(cell) {
			return false
		}
		some = true
	}
	if !some {
		return false
	}
	if len(cells) == 1 { // one column of words: only where what follows looks otherwise
		return isValue(strings.TrimSpace(after[0]))
	}
	return true
}

// isValue says that a cell is rather a value than the name of a column.
func isValue(cell string) bool {
	digits := strings.ContainsFunc(cell, unicode.IsDigit)
	letters := strings.ContainsFunc(cell, unicode.IsLetter)
	return digits && !letters || strings.Contains(cell, "://") || strings.Contains(cell, "@") ||
		!strings.Contains(cell, " ") && strings.Contains(strings.Trim(cell, "."), ".") &&
			strings.Contains(cell, "/") || len(cell) > 80
}

// Ahead reads some rows ahead, to find out what columns hold, and gives rows that begin with them.
func (r *Rows) Ahead(n int) (again *Rows, sample [][]string, err error) {
	var held []Row
	for len(held) < n {
		row, err := r.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, err
		}
		held, sample = append(held, row), append(sample, row.Cells)
	}
	out := *r
	out.next = func() (Row, error) {
		if len(held) > 0 {
			row := held[0]
			held = held[1:]
			return row, nil
		}
		return r.next()
	}
	return &out, sample, nil
}
