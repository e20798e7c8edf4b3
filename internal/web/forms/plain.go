package forms

import (
	"encoding/json"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
)

// Plain is what a form holds that belongs to no code yet: the draft of a job, and text that it cannot hold, by pointer. It is a
// Source.
type Plain struct {
	Draft    any
	Unparsed map[string]string
	Made     *compose.Rendition // nil where there are problems
	Problems problem.List
	Shown    problem.List // those that are told
}

// Filled is a form that holds a draft.
func Filled(draft any, unparsed map[string]string) *Plain {
	f := &Plain{Draft: draft, Unparsed: unparsed}
	f.assess()
	return f
}

func (f *Plain) assess() {
	if f.Made, f.Problems = compose.Typed(f.Draft, f.Unparsed, nil); len(f.Problems) > 0 {
		f.Made = nil
	}
}

// Text is what stands in a field.
func (f *Plain) Text(path string) string {
	if t, ok := f.Unparsed[path]; ok {
		return t
	}
	return job.Text(f.Draft, path)
}

// Faults are the problems that are told.
func (f *Plain) Faults() problem.List { return f.Shown }

// Tell tells the problems of fields in which something stands, or all of them; those of empty ones wait until the form is sent.
func (f *Plain) Tell(all bool) {
	for _, p := range f.Problems {
		if all || f.Text(p.Field) != "" {
			f.Shown = append(f.Shown, p)
		}
	}
}

// Step takes a step that a page offered, a patch in its text, or takes it back. What does not fit changes nothing, and gives no
// inverse.
func (f *Plain) Step(text string) (inverse patch.Patch) {
	var p patch.Patch
	if json.Unmarshal([]byte(text), &p) != nil {
		return nil
	}
	draft, inverse, err := job.Complete(f.Draft, p).Apply(f.Draft)
	if err != nil {
		return nil
	}
	f.Draft = draft
	f.assess()
	return inverse
}
