package wears

import (
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/style"
	"sodrik/internal/web/desk/bound/boundtest"
)

// TestLine: the ticket says what is worn in a line.
func TestLine(t *testing.T) {
	for look, want := range map[string]string{
		``:                               "black on white",
		`"ink":"#1f3a5a","paper":"none"`: "cornflower on no paper",
		`"ink":{"kind":"linear","stops":[{"at":0,"colour":"#000"},{"at":1,"colour":"#1f3a5a"}]}`: "linear #000000 to #1f3a5a",
		`"modules":{"join":"rows","corner":0.5}`:                                                 "in rows, corners 0.5 · black on white",
		`"modules":{"join":"none","corner":0.95}`:                                                "each a dot · black on white",
		`"modules":{"join":"none","corner":0.9}`:                                                 "each a square, corners 0.9 · black on white",
		`"mark":{"source":"icon:leaf","width":0.225},"outline":"round"`:                          "black on white · mark 22.5 % · in a disc",
		`"backdrop":{"source":"icon:leaf","mode":"halftone"}`:                                    "black on white · a halftone",
	} {
		t.Run(want, func(t *testing.T) {
			if v := Of(boundtest.Of(t, `{"content":{"kind":"url","url":"marrowby.example/fair"},"look":{`+look+`}}`,
				nil)); v.Line != want {
				t.Errorf("%s", v.Line)
			}
		})
	}
}

// TestFields: no two fields of the stub share an id, by which answers find them.
func TestFields(t *testing.T) {
	v := Of(
		boundtest.Of(
			t,
			`{"content":{"kind":"url","url":"marrowby.example/fair"},"look":{"ink":{"kind":"linear","angle":40,"stops":[{"at":0,"colour":"#12352b"},{"at":0.5,"colour":"#1f3a5a"},{"at":1,"colour":"#000000"}]},"modules":{"join":"none","motif":"disc"},"frame":{"shape":"rule","text":"Sow"},"mark":{"source":"icon:leaf"},"backdrop":{"source":"icon:sun","mode":"under"}}}`,
			nil,
		),
	)
	seen := map[string]bool{}
	for _, f := range v.Fields() {
		if f.ID == "" || seen[f.ID] {
			t.Errorf("%q is there twice, or has no id (%s)", f.ID, f.Path)
		}
		seen[f.ID] = true
	}
	if len(seen) < 40 {
		t.Errorf("%d fields", len(seen))
	}
	if len(v.Stops) != 2 || len(v.Inks) != 8 { // one more colour, the middle one away; kind, three colours, three places, angle
		t.Errorf("%d acts and %d fields of the gradient", len(v.Stops), len(v.Inks))
	}
}

// TestMarksLocked: a locked house offers its own marks alone, once it has any.
func TestMarksLocked(t *testing.T) {
	v := Of(
		boundtest.Of(
			t,
			`{"content":{"kind":"url","url":"marrowby.example"}}`,
			&style.Style{Locked: true, Colours: []style.Colour{{Key: "ink", Name: "Ink", Value: ink.Black}}},
		),
	)
	if v.MarksLocked() {
		t.Error("locked without a mark to choose")
	}
	if v.HouseMarks = Drawings("leaf")[:1]; !v.MarksLocked() {
		t.Error("not locked")
	}
}
