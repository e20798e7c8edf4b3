// Package bound makes the fields and the colours on offer of one code at one of its places, for the stubs of the desk.
package bound

import (
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
	"sodrik/internal/web/forms"
)

// Code is a code at a place, a source of fields.
type Code struct {
	C     *code.Code
	Place int // the current placement, −1 for none
}

// Text and Faults make a code a source of forms.
func (b Code) Text(path string) string { return b.C.Text(path) }

func (b Code) Faults() problem.List { return b.C.Problems }

// placed binds a field to its place and its house.
func (b Code) placed(f forms.Field) forms.Field {
	if strings.HasPrefix(f.Path, "/placements/") {
		f.At = job.PlacementID(b.C.Draft, b.Place)
	}
	if f.Kind == "colour" {
		f.Value = b.C.House.Called(f.Value)
	}
	f.Locked = f.Kind == "colour" && strings.HasPrefix(f.Path, "/look/") && b.Locked() && len(b.C.House.Colours) > 0
	return f
}

// At makes the field of a path as the job declares it.
func (b Code) At(path string) forms.Field {
	return b.placed(forms.Of(b, b.C.ID, path, b.Declared(path)))
}

// Declared is what the job declares at a path, where it has a field.
func (b Code) Declared(path string) *schema.Field {
	if f := job.Field(b.C.Rendition.Job.Content.Kind(), path); f != nil {
		return f
	}
	panic("desk: no field is declared at " + path)
}

// Chosen is At, with the value that holds where the draft has none.
func (b Code) Chosen(path, value string) forms.Field {
	f := b.At(path)
	f.Value = value
	for i := range f.Choices {
		f.Choices[i].On = f.Choices[i].Value == value
	}
	return f
}

// Slide is At, of a number between its bounds.
func (b Code) Slide(path string, value float64) forms.Field {
	return b.placed(forms.Slide(b, b.C.ID, path, b.Declared(path), value))
}

// Act is a change that one button makes.
type Act struct{ CodeID, Label, Patch string }

// Act is a button that changes the code by p.
func (b Code) Act(label string, p patch.Patch) Act {
	return Act{CodeID: b.C.ID, Label: label, Patch: forms.PatchText(p)}
}
