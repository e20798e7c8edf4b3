// Package batch makes many codes of the rows of a table: one job as the pattern, and texts with blanks that its columns fill,
// each in a field of the job. Every row is a job of its own, judged by the job's own rules; what is wrong with one is said of
// its field and keeps no other from being made.
package batch

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Set is a field that differs from row to row.
type Set struct {
	Path string `json:"path"` // JSON Pointer into the job
	Text string `json:"text"` // with blanks
}

// Plan says how rows become codes.
type Plan struct {
	Job  any    `json:"job"` // the pattern: a decoded job
	Set  []Set  `json:"set"`
	Key  string `json:"key,omitempty"`  // the column by which a row is known again; "" is its number
	Line string `json:"line,omitempty"` // printed under each label, with blanks; "" for nothing
	File string `json:"file,omitempty"` // names of files, with blanks; "" is the name of the code
	Same bool   `json:"same,omitempty"` // all codes get the same version, so that they look alike
}

// MaxSets bounds the fields that differ.
const MaxSets = 60

// Pattern is the job of rows that nobody gave a pattern for: a plain code on a label.
func Pattern(kind string) map[string]any {
	return map[string]any{"version": json.Number("1"), "content": map[string]any{"kind": kind}, "placements": []any{
		map[string]any{"id": "label", "name": "label", "medium": "plant-tag", "width_mm": json.Number("25")}}}
}

// Kind is that of the pattern's content, "" where it has none.
func (p *Plan) Kind() string {
	v, _ := patch.Get(p.Job, "/content/kind")
	kind, _ := v.(string)
	return kind
}

// At is the text of a field, "" where it is the same in every row.
func (p *Plan) At(path string) string {
	if i := slices.IndexFunc(p.Set, func(s Set) bool { return s.Path == path }); i >= 0 {
		return p.Set[i].Text
	}
	return ""
}

// Put sets the text of a field; "" has it be as in the pattern.
func (p *Plan) Put(path, text string) {
	i := slices.IndexFunc(p.Set, func(s Set) bool { return s.Path == path })
	switch {
	case i >= 0 && text == "":
		p.Set = slices.Delete(p.Set, i, i+1)
	case i >= 0:
		p.Set[i].Text = text
	case text != "":
		p.Set = append(p.Set, Set{path, text})
	}
	order := map[string]int{}
	for i, c := range job.Columns(p.Kind()) {
		order[c.Path] = i + 1
	}
	slices.SortStableFunc(p.Set, func(a, b Set) int { return order[first(a.Path)] - order[first(b.Path)] })
}

// first is the pointer of the first entry of the list that a pointer names an entry of.
func first(path string) string {
	parts := strings.Split(path, "/")
	for i, p := range parts {
		if len(p) == 1 && p[0] > '0' && p[0] <= '9' {
			parts[i] = "0"
		}
	}
	return strings.Join(parts, "/")
}

// Maker makes the codes of a plan's rows. It is safe for concurrent use.
type Maker struct {
	Plan    *Plan
	Columns []string
	Key     int // the column, −1 where the number of the row is the key

	sets       []set
	line, file Text
	base       any
	least      int
}

// set is a field with its text, read.
type set struct {
	Set
	text    Text
	field   *schema.Field
	address bool
}

// Compile reads a plan for a table of some columns. Problems are at /set/ and the field's pointer, /key, /line and /file.
func (p *Plan) Compile(columns []string) (*Maker, problem.List) {
	var problems problem.List
	m := &Maker{Plan: p, Columns: columns, Key: -1, base: p.Job}
	if len(p.Set) > MaxSets {
		problems.Add("/set", "batch.sets", "has more than %d fields; leave some as they are in the pattern", MaxSets)
		return nil, problems
	}
	seen := map[string]bool{}
	for _, s := range p.Set {
		at := "/set" + s.Path
		f := job.Field(p.Kind(), s.Path)
		switch {
		case f == nil || !f.Leaf() || f.Fixed:
			problems.Add(at, "batch.field", "is not a field of such a code that can be filled")
			continue
		case seen[s.Path]:
			problems.Add(at, "batch.twice", "is filled twice; keep one")
			continue
		}
		seen[s.Path] = true
		t, wrong := ReadText(s.Text, columns)
		if wrong != "" {
			problems.Add(at, "batch.text", "%s", wrong)
			continue
		}
		m.sets = append(m.sets, set{s, t, f, f.Mode == "url"})
	}
	if p.Key != "" {
		if m.Key = slices.IndexFunc(columns, func(c string) bool { return strings.EqualFold(c, p.Key) }); m.Key < 0 {
			problems.Add("/key", "batch.key", "is %q, which is no column; there are %s", p.Key, listed(columns))
		}
	}
	var wrong string
	if m.line, wrong = ReadText(p.Line, columns); wrong != "" {
		problems.Add("/line", "batch.text", "%s", wrong)
	}
	if m.file, wrong = ReadText(p.File, columns); wrong != "" {
		problems.Add("/file", "batch.text", "%s", wrong)
	}
	if len(problems) > 0 {
		return nil, problems
	}
	return m, nil
}

// Fields are the pointers of the fields that differ, in their order.
func (m *Maker) Fields() (out []string) {
	for _, s := range m.sets {
		out = append(out, s.Path)
	}
	return out
}

// Called is what a field is called above its column.
func Called(kind, path string) string {
	f := job.Field(kind, path)
	if f == nil {
		return path
	}
	name := f.Label
	if name == "" {
		name = f.Name()
	}
	name = strings.ReplaceAll(name, "\u00ad", "")
	switch {
	case path == "/name":
		return "Name of the code"
	case strings.HasPrefix(path, "/placements/"), strings.HasPrefix(path, "/look/"), strings.HasPrefix(path, "/output/"):
		if f.Called != "" {
			name = strings.ToUpper(f.Called[:1]) + f.Called[1:]
		}
	}
	return name
}

// Encode writes a plan as JSON.
func (p *Plan) Encode() ([]byte, error) { return json.Marshal(p) }

// Decode reads what Encode wrote.
func Decode(text []byte) (*Plan, error) {
	p := &Plan{}
	if err := json.Unmarshal(text, p); err != nil {
		return nil, fmt.Errorf("a plan of a batch: %w", err)
	}
	return p, nil
}

// OfJob is a plan whose pattern is a job in which texts have blanks themselves: what names a column is filled.
func OfJob(draft any, columns []string) *Plan {
	p := &Plan{Job: draft}
	for _, c := range job.Columns(p.Kind()) {
		v, ok := patch.Get(draft, c.Path)
		text, isText := v.(string)
		if !ok || !isText || !strings.Contains(text, "{") {
			continue
		}
		if t, wrong := ReadText(text, columns); wrong == "" && len(t.parts) > 0 && slices.ContainsFunc(t.parts,
			func(p part) bool { return p.column != -1 }) {
			p.Set = append(p.Set, Set{c.Path, text})
		}
	}
	return p
}
