// Package archive writes everything of a workspace into one ZIP file of open formats, and reads it in again on another
// server: the same codes, versions, links and figures under the same ids. Sealed contents leave in the clear and are
// sealed anew where they arrive.
package archive

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"strings"
	"time"
	"unicode/utf8"

	"sodrik/internal/code"
	"sodrik/internal/core/measure"
	"sodrik/internal/link"
)

// Store writes and reads archives.
type Store struct {
	Codes *code.Store
	Links *link.Store // take what leads somewhere through their doors
}

// Names of what stands beside the tables.
const (
	aboutFile  = "workspace.json"
	readmeFile = "README.txt"
	rowsBelow  = "tables/"
	rowsEnding = ".jsonl"
)

// format is what an archive calls itself; version is that of its form.
const (
	format  = "sodrik workspace"
	version = 1
)

// About is what an archive says of itself.
type About struct {
	Format  string         `json:"format"`
	Version int            `json:"version"`
	Schema  int64          `json:"schema"` // of the database that it was written from
	ID      string         `json:"id"`
	Name    string         `json:"name"`
	At      time.Time      `json:"at"`
	People  []Member       `json:"people"` // who was there; they are invited anew
	Rows    map[string]int `json:"rows"`   // of each table
}

// Member is somebody of the workspace.
type Member struct {
	Name  string `json:"name"`
	Email string `json:"email"`
	Role  string `json:"role"`
}

// Words says what an archive holds.
func (a About) Words() string {
	var parts []string
	for _, one := range [][2]string{{"codes", "code"}, {"issued_versions", "version"}, {"links", "short link"}, {"scans", "scan"},
		{"batches", "batch"}} {
		n := a.Rows[one[0]]
		if one[1] == "batch" && n != 1 {
			one[1] = "batche"
		}
		parts = append(parts, measure.Plural(n, one[1]))
	}
	return strings.Join(parts, ", ")
}

const readme = `Everything of a workspace of Sodrik.

workspace.json  what this is, when it was written, who was there, and how many rows each table has
tables/         a table each, as JSON Lines: one JSON object a line. Times are RFC 3339. A job is a job file, as docs/job.schema.json
                of Sodrik describes it
uploads/        marks, artwork and typefaces, as they are used
files/          files that links lead to

A column that is not JSON is a string, or {"$base64": "…"} where it is no text; {"$file": "…"} names a file of this archive.
What codes say is in the clear here, Wi-Fi passwords too: keep this file as you would keep those.

Read it in on another server: sodrik import FILE
`

// Marks of values that JSON has no form for.
const (
	base64Mark = "$base64"
	rawMark    = "$raw" // bytes that were never sealed
	fileMark   = "$file"
)

// shown writes the contents of a sealed column.
func shown(text []byte) json.RawMessage {
	trimmed := bytes.TrimLeft(text, " \n\t\r")
	if len(trimmed) > 0 && (trimmed[0] == '{' || trimmed[0] == '[') && json.Valid(text) && utf8.Valid(text) &&
		!bytes.HasPrefix(trimmed, []byte(`{"$`)) {
		var b bytes.Buffer
		if json.Compact(&b, text) == nil {
			return b.Bytes()
		}
	}
	if utf8.Valid(text) {
		return marshal(string(text))
	}
	return marshal(map[string]string{base64Mark: base64.StdEncoding.EncodeToString(text)})
}

// read undoes shown: the contents of a sealed column.
func read(value json.RawMessage) (text []byte, raw bool, err error) {
	if len(value) > 0 && value[0] == '"' {
		var s string
		err := json.Unmarshal(value, &s)
		return []byte(s), false, err
	}
	if bytes.HasPrefix(value, []byte(`{"$`)) {
		var marked map[string]string
		if err := json.Unmarshal(value, &marked); err != nil {
			return nil, false, err
		}
		if s, is := marked[rawMark]; is {
			text, err = base64.StdEncoding.DecodeString(s)
			return text, true, err
		}
		text, err = base64.StdEncoding.DecodeString(marked[base64Mark])
		return text, false, err
	}
	return value, false, nil
}

// marshal writes JSON without escapes for HTML.
func marshal(v any) json.RawMessage {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	if err := e.Encode(v); err != nil {
		panic("archive: " + err.Error()) // plain values alone
	}
	return bytes.TrimSuffix(b.Bytes(), []byte("\n"))
}
