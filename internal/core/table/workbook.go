package table

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
)

// Bounds of a workbook. They are checked while it is unpacked, before any row is given.
const (
	maxWorkbook = 32 << 20  // bytes of the file
	maxUnzipped = 64 << 20  // bytes of a sheet, or of its shared strings, unpacked
	maxText     = 64 << 20  // bytes of the text of all cells; a shared string counts in each
	maxElements = 2_000_000 // XML elements of a sheet, or of its shared strings
	maxSlots    = 4_000_000 // cells, with those left empty before the last of each row
	maxMerged   = 1_000_000 // cells that merged ranges fill
	maxRow      = 1_048_576 // the last row of a sheet (ECMA-376 as spreadsheets have it)
	maxColumn   = 16_384    // and its last column, XFD
)

// Problems of a workbook that more than one place finds.
var (
	errUnread = bad("rows.xlsx", "are a workbook that cannot be read; save it again, or as CSV")
	errBomb   = bad("rows.bomb", "are a workbook that unpacks to more than %d MB; save the sheet as CSV", maxUnzipped>>20)
	errCells  = bad("rows.cells", "are a workbook of more than %d million cells; take it in several files", maxSlots/1_000_000)
)

// workbook reads the first sheet of an XLSX that holds anything (ECMA-376, part 1, clause 18). The value of a cell counts, not
// the way in which it is shown: dates and times come as ISO 8601, numbers in full. What is merged stands in each of its cells; a
// formula gives what it last gave.
func workbook(ctx context.Context, in io.Reader, o Options) (*Rows, error) {
	file, err := io.ReadAll(io.LimitReader(in, maxWorkbook+1))
	if err != nil {
		return nil, err
	}
	if len(file) > maxWorkbook {
		return nil, bad("rows.large", "are a workbook of more than %d MB; save the sheet as CSV", maxWorkbook>>20)
	}
	b, err := openBook(ctx, file)
	if err != nil {
		return nil, err
	}
	var names []string
	for _, s := range b.sheets {
		names = append(names, s.name)
		if o.Sheet == "" && s.hidden || o.Sheet != "" && s.name != o.Sheet || s.chart {
			continue
		}
		rows, err := b.read(ctx, s.part)
		if err != nil {
			return nil, err
		}
		if slices.ContainsFunc(rows, func(r Row) bool { return filled(r.Cells) > 0 }) {
			return headed(rows, s.name, o)
		}
	}
	if o.Sheet != "" {
		return nil, bad("rows.sheet", "have no sheet %q with anything in it; there are %s", o.Sheet, strings.Join(names, ", "))
	}
	return nil, bad("rows.none", "are missing: no sheet of the workbook holds any")
}

// headed finds the heads of a sheet's rows. Lines above the heads that hold one cell are a title.
func headed(rows []Row, sheet string, o Options) (*Rows, error) {
	out := &Rows{Said: []string{"sheet " + sheet}}
	next := func() (Row, bool) {
		for len(rows) > 0 {
			row := rows[0]
			rows = rows[1:]
			if filled(row.Cells) > 0 {
				return row, true
			}
		}
		return Row{}, false
	}
	first, _ := next()
	second, there := next()
	for there && filled(first.Cells) == 1 && filled(second.Cells) > 1 {
		out.Said = append(out.Said, fmt.Sprintf("heads in row %d", second.Line))
		first = second
		second, there = next()
	}
	var held []Row
	if there {
		held = []Row{second}
	}
	heads := o.Heads == HeadsThere || o.Heads == HeadsAuto && heading(first.Cells, second.Cells)
	if !heads {
		held = append([]Row{first}, held...)
		out.Said = append(out.Said, "no heads, so columns are named by their place")
	}
	var err error
	if out.Columns, err = columns(first.Cells, second.Cells, heads); err != nil {
		return nil, err
	}
	rows = append(held, rows...)
	out.next = func() (Row, error) {
		if len(rows) == 0 {
			return Row{}, io.EOF
		}
		row := rows[0]
		rows = rows[1:]
		return row, nil
	}
	return out, nil
}

func filled(cells []string) (n int) {
	for _, c := range cells {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return n
}

// isFault says that a cell shows that its formula failed (ECMA-376, 18.18.11).
func isFault(cell string) bool {
	switch cell {
	case "#NULL!", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#N/A", "#SPILL!", "#CALC!":
		return true
	}
	return false
}

// asProblem leaves a problem, and the end of a context, as they are; anything else is a workbook that cannot be read.
func asProblem(err error) error {
	if isProblem(err) || errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return errUnread
}
