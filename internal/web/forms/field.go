// Package forms is the form of each kind of content: which fields, in which order, under which words. The desk and the page
// for a new code show the same forms.
package forms

import (
	"embed"
	"html/template"
	"strings"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Templates are those of a field and of a form.
//
//go:embed *.html
var Templates embed.FS

// Field is one field with its label, its text and what is wrong with it.
type Field struct {
	Path, ID, Label string
	Grouped         []ChoiceGroup
	Kind            string // "text", "area", "colour", "choice", "flag", "secret", "range", "pick"
	Value, Error    string
	Choices         []Choice
	Swatches        []Swatch
	Hex             string // for the colour chooser
	Locked          bool   // of a colour: no other than the swatches
	Hint            string
	CodeID          string // of the code that the field edits at once, "" in a plain form
	Below           string // "/lead" where it is not the code that it edits but what belongs to it
	At              string // id of the placement that it belongs to, "" for none
	Mode            string // inputmode, for keyboards on glass
	Complete        string // id of a datalist
	Picker          string // "date" or "datetime-local": the browser's own stands beside it
	Sample          string // shown while the field is empty
	Least, Most     string // of a range, whose steps are Step wide
	Step            string
	Unit            string // behind the figure of a range
}

// Choice is one option of a field.
type Choice struct {
	Value, Words string
	On           bool
	Picture      template.HTML // of a pick
}

// ChoiceGroup is options under a heading.
type ChoiceGroup struct {
	Name    string
	Choices []Choice
}

// Swatch is a colour at hand.
type Swatch struct{ Value, Name, Fill string }

// Shown is what a field holds, as it is read: of a choice its words.
func (f Field) Shown() string {
	for _, c := range f.Choices {
		if c.On {
			return c.Words
		}
	}
	return f.Value
}

// Choices makes options of value and words in turn, the one with the value chosen.
func Choices(value string, pairs ...string) (out []Choice) {
	for i := 0; i < len(pairs); i += 2 {
		out = append(out, Choice{Value: pairs[i], Words: pairs[i+1], On: pairs[i] == value})
	}
	return out
}

// ID makes a pointer fit for an id.
func ID(path string) string { return "f" + strings.ReplaceAll(path, "/", "-") }

// Sentence makes a problem, which starts after its field's name, a sentence of its own.
func Sentence(p problem.Problem) string {
	m := p.Message
	for _, start := range []string{"is ", "has ", "have ", "holds ", "carries ", "needs ", "must ", "does ", "leaves ", "makes ",
		"covers ", "begins ", "names ", "are ", "comes", "draws ", "lies ", "the "} {
		if strings.HasPrefix(m, start) {
			m = strings.ToUpper(m[:1]) + m[1:]
			break
		}
	}
	return m + "."
}

// Source is what a form shows: the text of a field, by its pointer, and the problems.
type Source interface {
	Text(path string) string
	Faults() problem.List
}

// Of makes the field of a declared one, at a path of a source.
func Of(src Source, codeID, path string, f *schema.Field) Field {
	out := New(src, codeID, path, control(f), f.Label)
	out.Hint, out.Sample, out.Mode, out.Complete, out.Unit = f.Hint, f.Example, f.Mode, f.Lookup, f.Unit
	if f.Type == schema.Moment || f.Type == schema.ShortDate {
		out.Picker = "date"
	}
	if options := f.Options(); len(options) > 0 && out.Kind == "choice" {
		if out.Value == "" {
			out.Value = options[0].Value
		}
		for _, c := range options {
			out.Choices = append(out.Choices, Choice{Value: c.Value, Words: c.Words, On: c.Value == out.Value})
		}
	}
	return out
}

// Slide makes the field of a declared number that slides between its bounds, at the value it has now.
func Slide(src Source, codeID, path string, f *schema.Field, value float64) Field {
	out, scale := Of(src, codeID, path, f), 1.0
	if f.Type == schema.Share {
		scale = 100
	}
	if out.Error == "" { // what could not be taken is shown as typed
		out.Value = measure.Number(value*scale, 2)
	}
	out.Least, out.Most, out.Step = measure.Number(f.Least*scale, 2), measure.Number(f.Most*scale, 2),
		measure.Number(f.Step*scale, 2)
	return out
}

// control is what a field is typed or chosen with.
func control(f *schema.Field) string {
	switch {
	case f.Control == "position":
		return "text"
	case f.Control != "":
		return f.Control
	case f.Secret:
		return "secret"
	case f.Type == schema.Flag:
		return "flag"
	case f.Type == schema.Lines:
		return "area"
	case f.Type == schema.Colour || f.Type == schema.Ink:
		return "colour"
	case len(f.Options()) > 0:
		return "choice"
	}
	return "text"
}

// New makes a field of a source.
func New(src Source, codeID, path, kind, label string) Field {
	f := Field{Path: path, ID: ID(path), Label: label, Kind: kind, Value: src.Text(path), CodeID: codeID}
	for _, p := range src.Faults() {
		if p.Field == path {
			f.Error = Sentence(p)
			break
		}
	}
	return f
}
