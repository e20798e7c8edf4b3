package batch

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
)

// Row is what came of one row.
type Row struct {
	N         int    // from 1
	Key       string // by which it is known again
	Name      string // of the code
	Line      string // printed under it
	File      string // what its files are called, without an ending
	Texts     map[string]string
	Rendition *compose.Rendition // nil where there are problems
	Problems  problem.List       // at fields of the job
	Draft     any                // the job as far as it could be filled
	Leads     content.Content    // where it is to lead, of a code that says a short link; nil of others
}

// Good says that a code could be made of the row.
func (r *Row) Good() bool { return r.Rendition != nil }

// Source is a row of the table as it goes in.
type Source struct {
	N     int // from 1
	Cells []string
	Bad   string            // why it cannot be used, "" for nothing
	Own   map[string]string // by pointer: what somebody wrote into a field of this row in place of the plan's text
}

// texts are what stands in the fields of a row, by their pointers.
func (m *Maker) texts(s Source) map[string]string {
	out := make(map[string]string, len(m.sets))
	for _, set := range m.sets {
		out[set.Path] = set.text.Fill(s.N, s.Cells, set.address)
	}
	for path, text := range s.Own {
		out[path] = text
	}
	return out
}

// Draft fills the pattern for a row. What a field cannot hold is a problem of it.
func (m *Maker) Draft(s Source) (draft any, problems problem.List) {
	draft = m.base
	if s.Bad != "" {
		problems.Add("", "batch.row", "%s", s.Bad)
	}
	texts := m.texts(s)
	fill := func(path, text string) {
		p, bad := job.Edit(draft, path, text)
		if bad != nil {
			problems = append(problems, *bad)
			return
		}
		out, _, err := p.Apply(draft)
		if err != nil {
			problems.Add(path, "batch.field", "cannot be filled in this pattern")
			return
		}
		draft = out
	}
	for _, set := range m.sets {
		// an empty cell empties what a code says, so that nothing of another is left in it; all else stays as in the pattern
		if text := texts[set.Path]; text != "" || strings.HasPrefix(set.Path, "/content/") {
			fill(set.Path, text)
		}
		delete(texts, set.Path)
	}
	for _, path := range slices.Sorted(maps.Keys(texts)) {
		text := texts[path] // of this row alone
		fill(path, text)
	}
	if m.least > 0 {
		fill("/symbol/min_version", fmt.Sprint(m.least))
	}
	return draft, problems
}

// Make makes the code of a row.
func (m *Maker) Make(s Source, find compose.Assets) *Row {
	r := &Row{N: s.N, Key: m.KeyOf(s), Line: m.line.Fill(s.N, s.Cells, false), Texts: m.texts(s)}
	r.Draft, r.Problems = m.Draft(s)
	made, j, problems := compose.Read(r.Draft, find)
	r.Problems = append(r.Problems, problems...).Unique()
	if j != nil {
		r.Name = j.Name
	}
	if r.Name == "" && made != nil {
		r.Name = made.Job.Content.Summary().Object
	}
	if r.Name == "" {
		r.Name = r.Key
	}
	r.File = m.FileName(s, r.Name)
	if len(r.Problems) == 0 {
		r.Rendition = made
	}
	return r
}

// KeyOf is the key of a row: the cell of the key's column, else its number.
func (m *Maker) KeyOf(s Source) string {
	if m.Key >= 0 && m.Key < len(s.Cells) {
		return strings.TrimSpace(s.Cells[m.Key])
	}
	return fmt.Sprint(s.N)
}

// FileName is what the files of a row are called, without an ending: by the plan's text, else by the name of the code.
func (m *Maker) FileName(s Source, name string) string {
	if file := m.file.Fill(s.N, s.Cells, false); file != "" {
		name = file
	}
	return export.Slug(name)
}

// Used are the columns that the plan uses.
func (m *Maker) Used() (out []int) {
	take := func(columns []int) {
		for _, i := range columns {
			if !slices.Contains(out, i) {
				out = append(out, i)
			}
		}
	}
	for _, set := range m.sets {
		take(set.text.Columns())
	}
	take(m.line.Columns())
	take(m.file.Columns())
	if m.Key >= 0 {
		take([]int{m.Key})
	}
	return out
}

// AtLeast is a maker whose codes have at least a version.
func (m *Maker) AtLeast(version int) *Maker {
	out := *m
	out.least = version
	return &out
}

// Keys tells rows apart by their keys.
type Keys map[string]int

// Check gives the problem of a row whose key is missing or was there before.
func (k Keys) Check(key string, n int) *problem.Problem {
	folded := strings.ToLower(key)
	switch first, there := k[folded]; {
	case key == "":
		return &problem.Problem{Field: "/key", Code: "batch.key", Message: "is missing; without one the row is not known again"}
	case there:
		return &problem.Problem{Field: "/key", Code: "batch.double", Message: fmt.Sprintf(
			"is %q, as in row %s; keys tell rows apart", key, measure.Count(first))}
	}
	k[folded] = n
	return nil
}

// Names makes names of files that are the same in letters without regard to case different by a number.
type Names map[string]int

// Once is a name that was not given before.
func (n Names) Once(name string) string {
	for {
		n[name]++
		if n[name] == 1 {
			return name
		}
		next := fmt.Sprintf("%s-%d", name, n[name])
		if n[next] == 0 {
			n[next] = 1
			return next
		}
	}
}
