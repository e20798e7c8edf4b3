package table

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"io"
	"strconv"
	"strings"
)

// Writer takes rows one after another, as long as there are any: the whole is never in memory. Cells are strings, whole numbers,
// lists of strings, and yes or no.
type Writer interface {
	Head(columns ...string)
	Row(cells ...any) error
	End() error  // nothing follows
	Begun() bool // something was written
}

// NewCSV writes rows as CSV (RFC 4180). What a spreadsheet would take for a formula begins with an apostrophe (Plain).
func NewCSV(w io.Writer) Writer { return &csvWriter{w: csv.NewWriter(w)} }

type csvWriter struct {
	w     *csv.Writer
	head  []string
	begun bool
}

func (r *csvWriter) Head(columns ...string) { r.head = columns }

func (r *csvWriter) Begun() bool { return r.begun }

// begin writes the head before the first row, or at the end: a failure before that can still be told.
func (r *csvWriter) begin() {
	if !r.begun {
		r.begun = true
		r.w.Write(r.head)
	}
}

func (r *csvWriter) Row(cells ...any) error {
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

func (r *csvWriter) End() error {
	r.begin()
	r.w.Flush()
	return r.w.Error()
}

// NewJSON writes rows as a JSON list of objects, one a line.
func NewJSON(w io.Writer) Writer { return &jsonWriter{w: w} }

type jsonWriter struct {
	w    io.Writer
	head []string
	n    int
}

func (r *jsonWriter) Head(columns ...string) { r.head = columns }

func (r *jsonWriter) Begun() bool { return r.n > 0 }

func (r *jsonWriter) Row(cells ...any) error {
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

func (r *jsonWriter) End() error {
	end := "\n]\n"
	if r.n == 0 {
		end = "[]\n"
	}
	_, err := io.WriteString(r.w, end)
	return err
}

// Plain keeps a spreadsheet from taking text for a formula.
func Plain(s string) string {
	if s != "" && bytes.IndexByte([]byte("=+-@\t\r"), s[0]) >= 0 {
		return "'" + s
	}
	return s
}
