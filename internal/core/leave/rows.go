package leave

import (
	"encoding/csv"
	"encoding/json"
	"io"
	"strconv"
	"strings"
)

// Rows are written one after another, as long as there are any: the whole is never in memory. Cells are strings, whole numbers,
// lists of strings, and yes or no.
type Rows interface {
	Head(columns ...string)
	Row(cells ...any) error
	End() error  // nothing follows
	Begun() bool // something was written
}

// NewCSV writes rows as CSV (RFC 4180). What a spreadsheet would take for a formula begins with an apostrophe (Plain).
func NewCSV(w io.Writer) Rows { return &csvRows{w: csv.NewWriter(w)} }

type csvRows struct {
	w     *csv.Writer
	head  []string
	begun bool
}

func (r *csvRows) Head(columns ...string) { r.head = columns }

func (r *csvRows) Begun() bool { return r.begun }

// begin writes the head before the first row, or at the end: a failure before that can still be told.
func (r *csvRows) begin() {
	if !r.begun {
		r.begun = true
		r.w.Write(r.head)
	}
}

func (r *csvRows) Row(cells ...any) error {
	r.begin()
	row := make([]string, len(cells))
	for i, c := range cells {
		switch c := c.(type) {
		case int:
			row[i] = strconv.Itoa(c)
		case bool:
			row[i] = strconv.FormatBool(c)
		case []string:
			row[i] = Plain(strings.Join(c, " "))
		case string:
			row[i] = Plain(c)
		}
	}
	return r.w.Write(row)
}

func (r *csvRows) End() error {
	r.begin()
	r.w.Flush()
	return r.w.Error()
}

// NewJSON writes rows as a JSON list of objects, one a line.
func NewJSON(w io.Writer) Rows { return &jsonRows{w: w} }

type jsonRows struct {
	w    io.Writer
	head []string
	n    int
}

func (r *jsonRows) Head(columns ...string) { r.head = columns }

func (r *jsonRows) Begun() bool { return r.n > 0 }

func (r *jsonRows) Row(cells ...any) error {
	line := []byte(",\n{")
	if r.n == 0 {
		line[0] = '['
	}
	for i, c := range cells {
		if i > 0 {
			line = append(line, ',')
		}
		name, _ := json.Marshal(r.head[i])
		value, err := json.Marshal(c)
		if err != nil {
			return err
		}
		line = append(append(append(line, name...), ':'), value...)
	}
	r.n++
	_, err := r.w.Write(append(line, '}'))
	return err
}

func (r *jsonRows) End() error {
	end := "\n]\n"
	if r.n == 0 {
		end = "[]\n"
	}
	_, err := io.WriteString(r.w, end)
	return err
}
