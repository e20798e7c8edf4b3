package table

import "io"

// List gives rows that are there already. Columns are called as they are told, none twice.
func List(columns []string, cells [][]string) *Rows {
	at := 0
	return &Rows{Columns: columns, next: func() (Row, error) {
		if at == len(cells) {
			return Row{}, io.EOF
		}
		at++
		return Row{Line: at, Cells: cells[at-1]}, nil
	}}
}
