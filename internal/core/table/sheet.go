package table

import (
	"context"
	"encoding/xml"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// read gives the rows of a sheet in which any cell stands, each up to its last.
func (b *book) read(ctx context.Context, part string) ([]Row, error) {
	s := &sheetReader{book: b}
	if err := b.walk(ctx, part, s.token); err != nil {
		return nil, err
	}
	slices.SortStableFunc(s.rows, func(a, b Row) int { return a.Line - b.Line })
	return s.rows, s.merge()
}

// sheetReader reads the XML of a sheet (ECMA-376, 18.3.1): rows of cells, then its merged ranges.
type sheetReader struct {
	book   *book
	rows   []Row
	merged []area

	row   Row
	x     int // of the cell, from 1
	kind  string
	shows shown

	within         string // the element whose text is read: v or f
	value          []byte
	text           xmlText
	valued, worked bool // the cell has a value; it has a formula
}

// area is a merged range, rows and columns from 1, both ends in it.
type area struct{ x0, y0, x1, y1 int }

func (s *sheetReader) token(t xml.Token) error {
	switch t := t.(type) {
	case xml.StartElement:
		return s.start(t)
	case xml.CharData:
		if s.within == "v" && len(s.value) <= 4*MaxCell {
			s.value = append(s.value, t...)
		}
		s.text.add(t)
	case xml.EndElement:
		s.text.end(t.Name.Local)
		switch t.Name.Local {
		case "v", "f":
			s.within = ""
		case "c":
			return s.cell()
		case "row":
			if filled(s.row.Cells) > 0 || s.row.Bad != "" {
				s.rows = append(s.rows, s.row)
			}
		}
	}
	return nil
}

func (s *sheetReader) start(e xml.StartElement) error {
	switch e.Name.Local {
	case "row":
		line := s.row.Line + 1
		if r := attr(e, "r"); r != "" {
			n, err := strconv.Atoi(r)
			if err != nil || n < 1 || n > maxRow {
				return errUnread
			}
			line = n
		}
		s.row, s.x = Row{Line: line}, 0
	case "c":
		s.x++
		s.kind, s.shows = "", asNumber
		for _, a := range e.Attr {
			switch a.Name.Local {
			case "r":
				x, _, ok := cellAt(a.Value)
				if !ok {
					return errUnread
				}
				s.x = x
			case "t":
				s.kind = a.Value
			case "s":
				if n, err := strconv.Atoi(a.Value); err == nil && n >= 0 && n < len(s.book.shows) {
					s.shows = s.book.shows[n]
				}
			}
		}
		s.value, s.valued, s.worked = s.value[:0], false, false
		s.text.take()
	case "v":
		s.within, s.valued = "v", true
	case "f":
		s.within, s.worked = "f", true
	case "mergeCell":
		from, to, ok := strings.Cut(attr(e, "ref"), ":")
		x0, y0, ok0 := cellAt(from)
		x1, y1, ok1 := cellAt(to)
		if ok && (!ok0 || !ok1) {
			return errUnread
		}
		if ok {
			s.merged = append(s.merged, area{min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)})
		}
	default:
		s.text.start(e.Name.Local)
	}
	return nil
}

// cell puts the cell that ends here into its row.
func (s *sheetReader) cell() error {
	text, err := s.given()
	if err != nil {
		return err
	}
	switch {
	case s.worked && text == "" && (!s.valued || s.kind != "str"):
		// It is not worked out here: a stranger's formulas may take for ever.
		s.row.Bad = fmt.Sprintf("has a formula in %s whose outcome was not saved; open the workbook, save it, and take it again",
			cellName(s.x, s.row.Line))
	case isFault(text):
		s.row.Bad = fmt.Sprintf("shows the fault %s in %s; mend it in the workbook", text, cellName(s.x, s.row.Line))
	}
	if strings.TrimSpace(text) == "" {
		return nil
	}
	if s.x > MaxColumns {
		return bad("rows.columns", "have a cell in %s, right of column %d; take out what lies there", cellName(s.x, s.row.Line),
			MaxColumns)
	}
	s.book.text += len(text)
	return s.put(&s.row, s.x, text)
}

// put sets a cell of a row, and counts what it takes.
func (s *sheetReader) put(row *Row, x int, text string) error {
	if more := x - len(row.Cells); more > 0 {
		s.book.slots += more
		row.Cells = append(row.Cells, make([]string, more)...)
	}
	row.Cells[x-1] = text
	switch {
	case s.book.slots > maxSlots:
		return errCells
	case s.book.text > maxText:
		return bad("rows.text", "are a workbook whose cells hold more than %d MB of text; take it in several files", maxText>>20)
	}
	return nil
}

// given is the value of a cell as text, by its type (ECMA-376, 18.18.11).
func (s *sheetReader) given() (string, error) {
	switch s.kind {
	case "s":
		if len(s.value) == 0 {
			return "", nil
		}
		n, err := strconv.Atoi(strings.TrimSpace(string(s.value)))
		if err != nil || n < 0 || n >= len(s.book.shared) {
			return "", errUnread
		}
		return s.book.shared[n], nil
	case "inlineStr":
		return s.text.take(), nil
	case "str":
		return unescaped(string(s.value)), nil
	case "b":
		return map[string]string{"1": "TRUE", "0": "FALSE"}[string(s.value)], nil
	case "e":
		return string(s.value), nil
	case "d":
		return strings.TrimSuffix(string(s.value), "T00:00:00"), nil
	}
	value := strings.TrimSpace(string(s.value))
	if text, ok := dateOf(value, s.shows, s.book.from04); ok {
		return text, nil
	}
	return numberOf(value), nil
}

// merge fills the cells of merged ranges with the value of their first, as far as there are rows.
func (s *sheetReader) merge() error {
	filled := 0
	for _, m := range s.merged {
		at, _ := slices.BinarySearchFunc(s.rows, m.y0, func(r Row, line int) int { return r.Line - line })
		if at == len(s.rows) || s.rows[at].Line != m.y0 || m.x0 > len(s.rows[at].Cells) {
			continue // an empty one
		}
		value := s.rows[at].Cells[m.x0-1]
		for ; value != "" && at < len(s.rows) && s.rows[at].Line <= m.y1; at++ {
			for x := m.x0; x <= min(m.x1, MaxColumns); x++ {
				if filled++; filled > maxMerged {
					return bad("rows.merged", "are a workbook whose merged ranges fill more than %d cells; take them apart",
						maxMerged)
				}
				if row := &s.rows[at]; x > len(row.Cells) || row.Cells[x-1] == "" {
					s.book.text += len(value)
					if err := s.put(row, x, value); err != nil {
						return err
					}
				}
			}
		}
	}
	return nil
}

// cellAt is the column and row of a name such as B12, from 1.
func cellAt(name string) (x, y int, ok bool) {
	name = strings.ReplaceAll(name, "$", "")
	letters := 0
	for letters < len(name) && name[letters]|0x20 >= 'a' && name[letters]|0x20 <= 'z' {
		if x = x*26 + int(name[letters]|0x20-'a') + 1; x > maxColumn {
			return 0, 0, false
		}
		letters++
	}
	y, err := strconv.Atoi(name[letters:])
	return x, y, letters > 0 && err == nil && y >= 1 && y <= maxRow
}

func cellName(x, y int) string {
	letters := ""
	for ; x > 0; x = (x - 1) / 26 {
		letters = string(rune('A'+(x-1)%26)) + letters
	}
	return letters + strconv.Itoa(y)
}
