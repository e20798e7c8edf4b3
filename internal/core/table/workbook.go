package table

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"
)

// Bounds of a workbook.
const (
	maxWorkbook = 32 << 20 // bytes of the file
	maxUnzipped = 64 << 20 // bytes of all that is in it
	maxMerged   = 100_000  // cells of merged ranges that are filled
)

// workbook reads the first sheet of an XLSX that holds anything. Cells are read as they are shown, dates as ISO 8601, long
// numbers in full; what is merged stands in each of its cells; a formula gives what it last gave.
func workbook(in io.Reader, o Options) (*Rows, error) {
	file, err := io.ReadAll(io.LimitReader(in, maxWorkbook+1))
	if err != nil {
		return nil, err
	}
	if len(file) > maxWorkbook {
		return nil, bad("rows.large", "are a workbook of more than %d MB; save the sheet as CSV", maxWorkbook>>20)
	}
	f, err := excelize.OpenReader(bytes.NewReader(file), excelize.Options{UnzipSizeLimit: maxUnzipped,
		UnzipXMLSizeLimit: maxUnzipped, ShortDatePattern: "yyyy-mm-dd"})
	switch {
	case errors.Is(err, excelize.ErrWorkbookFileFormat):
		return nil, bad("rows.zip", "are a zip that is no workbook; give them as CSV, XLSX, vCards or a calendar file")
	case err != nil && strings.Contains(err.Error(), "unzip size"):
		return nil, bad("rows.bomb", "are a workbook that unpacks to more than %d MB; save the sheet as CSV", maxUnzipped>>20)
	case err != nil:
		return nil, bad("rows.xlsx", "are a workbook that cannot be read; save it again, or as CSV")
	}
	w := &book{file: f}
	if err := w.choose(o.Sheet); err != nil {
		f.Close()
		return nil, err
	}
	return w.rows(o)
}

type book struct {
	file       *excelize.File
	sheet      string
	shown, raw *excelize.Rows
	line       int
	spread     map[[2]int]string // by row and column from 1: the value of the merged range that the cell is in
}

// choose opens the sheet of a name, or the first that holds anything.
func (w *book) choose(name string) error {
	for _, s := range w.file.GetSheetList() {
		if visible, err := w.file.GetSheetVisible(s); name == "" && (err != nil || !visible) || name != "" && s != name {
			continue
		}
		rows, err := w.file.Rows(s)
		if err != nil {
			continue // a sheet of charts
		}
		some := false
		for rows.Next() && !some {
			cells, err := rows.Columns()
			if err != nil {
				return bad("rows.xlsx", "are a workbook that cannot be read; save it again, or as CSV")
			}
			some = strings.TrimSpace(strings.Join(cells, "")) != ""
		}
		rows.Close()
		if some {
			w.sheet = s
			return nil
		}
	}
	if name != "" {
		return bad("rows.sheet", "have no sheet %q with anything in it; there are %s", name,
			strings.Join(w.file.GetSheetList(), ", "))
	}
	return bad("rows.none", "are missing: no sheet of the workbook holds any")
}

func (w *book) rows(o Options) (*Rows, error) {
	unread := bad("rows.xlsx", "are a workbook that cannot be read; save it again, or as CSV")
	merged, err := w.file.GetMergeCells(w.sheet)
	if err != nil {
		return nil, unread
	}
	w.spread = map[[2]int]string{}
	for _, m := range merged {
		x0, y0, err := excelize.CellNameToCoordinates(m.GetStartAxis())
		x1, y1, err2 := excelize.CellNameToCoordinates(m.GetEndAxis())
		if err != nil || err2 != nil {
			return nil, unread
		}
		for y := y0; y <= y1 && len(w.spread) < maxMerged; y++ {
			for x := x0; x <= x1 && len(w.spread) < maxMerged; x++ {
				w.spread[[2]int{y, x}] = m.GetCellValue()
			}
		}
	}
	if w.shown, err = w.file.Rows(w.sheet); err != nil {
		return nil, unread
	}
	if w.raw, err = w.file.Rows(w.sheet); err != nil {
		return nil, unread
	}
	out := &Rows{Said: []string{"sheet " + w.sheet}}
	var first Row
	for { // lines above the heads that hold one cell are a title
		if first, err = w.read(); err != nil {
			return nil, err
		}
		if filled(first.Cells) > 0 {
			break
		}
	}
	second, err := w.read()
	for err == nil && filled(first.Cells) == 1 && (filled(second.Cells) == 0 || filled(second.Cells) > 1) {
		if filled(second.Cells) > 1 {
			out.Said = append(out.Said, fmt.Sprintf("heads in row %d", second.Line))
			first = second
		}
		second, err = w.read()
	}
	held := []Row{second}
	if errors.Is(err, io.EOF) {
		held = nil
	} else if err != nil {
		return nil, err
	}
	heads := o.Heads == HeadsThere || o.Heads == HeadsAuto && heading(first.Cells, second.Cells)
	if !heads {
		held = append([]Row{first}, held...)
		out.Said = append(out.Said, "no heads, so columns are named by their place")
	}
	if out.Columns, err = columns(first.Cells, second.Cells, heads); err != nil {
		return nil, err
	}
	out.next = func() (Row, error) {
		if len(held) > 0 {
			row := held[0]
			held = held[1:]
			return row, nil
		}
		row, err := w.read()
		if err != nil {
			w.file.Close()
		}
		return row, err
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

// read is the next row of the sheet.
func (w *book) read() (Row, error) {
	if !w.shown.Next() || !w.raw.Next() {
		return Row{}, io.EOF
	}
	w.line++
	unread := bad("rows.xlsx", "are a workbook that cannot be read from row %d on; save it again, or as CSV", w.line)
	cells, err := w.shown.Columns()
	if err != nil {
		return Row{}, unread
	}
	raw, err := w.raw.Columns(excelize.Options{RawCellValue: true})
	if err != nil {
		return Row{}, unread
	}
	row := Row{Line: w.line}
	for x := range max(len(cells), len(raw)) {
		var cell, value string
		if x < len(cells) {
			cell = cells[x]
		}
		if x < len(raw) {
			value = raw[x]
		}
		if whole := strings.Trim(value, "0123456789") == "" && value != ""; whole && strings.Contains(cell, "E+") {
			cell = value // a long number that is only shown short
		}
		switch {
		case strings.TrimSpace(cell) == "" && value == "":
			if v, ok := w.spread[[2]int{w.line, x + 1}]; ok {
				cell = v
				break
			}
			if bad := w.formula(x + 1); bad != "" {
				row.Bad = bad
			}
		case isFault(value):
			name, _ := excelize.CoordinatesToCellName(x+1, w.line)
			row.Bad = fmt.Sprintf("shows the fault %s in %s; mend it in the workbook", value, name)
		}
		row.Cells = append(row.Cells, cell)
	}
	return row, nil
}

// formula says that an empty cell holds a formula whose outcome was never saved. It is not worked out here: a stranger's
// formulas may take for ever.
func (w *book) formula(x int) (bad string) {
	name, _ := excelize.CoordinatesToCellName(x, w.line)
	if formula, err := w.file.GetCellFormula(w.sheet, name); err == nil && formula != "" {
		return fmt.Sprintf("has a formula in %s whose outcome was not saved; open the workbook, save it, and take it again", name)
	}
	return ""
}

// isFault says that a cell shows that its formula failed (ECMA-376, 18.18.11).
func isFault(cell string) bool {
	switch cell {
	case "#NULL!", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#N/A", "#SPILL!", "#CALC!":
		return true
	}
	return false
}
