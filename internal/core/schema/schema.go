// Package schema is how a part of the job file declares its fields: once, in a table beside the part's rules. From the table
// follow reading and canonical writing (read.go, write.go), what people type and are shown (typed.go), the JSON Schema that
// is published (publish.go), and the columns of a table of many rows (columns.go). Rules between fields stay code of the
// part. It knows no field by name.
package schema

import (
	"regexp"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
)

// Type is what a field holds.
type Type int

// Types, with the JSON that holds them.
const (
	Text      Type = iota // a string as it is typed
	Line                  // a string of one line; blanks at its ends are left out
	Lines                 // a string of several lines
	Flag                  // true or false
	Whole                 // a whole number
	Number                // a number
	Share                 // a number from 0 to 1, typed and shown in percent
	Length                // a number of millimetres
	Colour                // a colour (package ink)
	Ink                   // a colour, or a gradient, which is the field's Part
	Amount                // a decimal amount of money, as a string
	Moment                // an ISO 8601 date, or date and time, as a string
	ShortDate             // a date of six digits, year, month, day, as GS1 writes it
	Object                // an object, which is the field's Part
	List                  // a list of Part or of Item
	Map                   // an object whose keys are data: Keys says which, Entry what each holds
)

// Choice is one of the values of a field.
type Choice struct{ Value, Words string }

// Part is an object of the job: its fields in the order in which people fill them in.
type Part struct {
	Fields []Field
	New    func() any // a part with its defaults, as a pointer
	Name   string     // under which the published schema keeps it, "" where it stands in its place
	About  string     // for the published schema
	Rules  string     // the rules between fields, as members of a JSON Schema; they restate what the part's code checks
}

// Field is one value of a part, or one of its parts.
type Field struct {
	Key  string
	Type Type
	// a pointer to the value in a part; nil where Read and Write do it
	At    func(part any) any
	Read  func(o Reader, part any)                                            // in place of At
	Write func(part any) any                                                  // in place of At; nil leaves the key out
	Part  *Part                                                               // of an Object, an Ink, or of each entry of a List
	Item  *Field                                                              // of each entry of a List of plain values
	Keys  *regexp.Regexp                                                      // of a Map
	Entry func(key string) *Field                                             // of a Map
	Typed bool                                                                // only a way of typing: no key of the file
	Put   func(draft any, path, typed string) (patch.Patch, *problem.Problem) // what typing does, in place of the type's way
	Show  func(draft any, path string) string                                 // what is shown, in place of the type's way
	// what changes along, so that a draft does not contradict itself
	Along func(draft any, path, typed string) patch.Patch

	Fixed    bool   // nobody types it: another field or the program sets it
	Required bool   // has to be there; it is always written
	Always   bool   // is always written
	Keep     bool   // empty text stays, instead of taking the key away
	Bears    bool   // the object is nothing without it: taken away, the object goes
	Secret   bool   // never shown in words
	Search   bool   // what a code may be found by
	Code     string // of the problem where a number lies outside its bounds, or a required choice is missing

	Least, Most float64 // of a number in its unit; Most of text in characters, of a list in entries
	Step        float64 // of a control that slides
	Usual       string  // a usual value, for the sentence where one lies outside
	Unit        string  // behind a figure: "mm", "%", "modules"
	Digits      int     // decimals that are shown; 0 is 4, −1 as many as there are
	Pixels      bool    // a length may be typed in pixels
	Flat        bool    // of a length: no text is 0, whatever is usual
	Choices     []Choice
	ChoicesOf   func() []Choice // where making them takes long
	Open        bool            // other values than the Choices are taken too
	Pattern     string          // of text
	Schema      string          // in the published schema, as JSON, in place of what follows from the rest
	Def         string          // under which the published schema keeps it

	Called  string                                                 // in a sentence, without an article: "bar width reduction"
	Label   string                                                 // on a form
	Hint    string                                                 // under the field on a form
	Note    func(value string, get func(key string) string) string // a hint that follows what is there
	Sample  func(get func(key string) string) string               // an example that follows what is there
	Example string                                                 // shown while it is empty
	About   string                                                 // for the published schema
	// on a form, where the type has several: "pick", "choice", "range", "source"
	Control string
	Mode    string                                 // of a keyboard on glass: "url", "tel", "email", "decimal"
	Hours   func(get func(key string) string) bool // of a Moment: it has an hour then
	Lookup  string                                 // a list to complete from
	Heads   string                                 // other heads of a column that holds it, commas between them
	Off     bool                                   // on no form; it is changed elsewhere
	Again   string                                 // on a form, before a further entry of a list
	// of a Map: keys that a form shows though they are not there yet
	Offer  []string
	Folded string // on a form behind these words until it holds something
	// on a form in the row of the field before it, of which it takes so many percent: 30 or 45
	Beside int
	When   func(get func(key string) string) bool // on a form only then
	Say    func(value string) string              // a value in a sentence, where it is not as typed
}

// In binds an accessor to the type of its part.
func In[T any](at func(*T) any) func(any) any {
	return func(part any) any { return at(part.(*T)) }
}

// Values are what a choice takes.
func (f *Field) Values() []string { return Values(f.Options()) }

// Options are the choices.
func (f *Field) Options() []Choice {
	if f.ChoicesOf != nil {
		return f.ChoicesOf()
	}
	return f.Choices
}

// Name is what a field is called in a sentence; its key where it has no name of its own.
func (f *Field) Name() string {
	if f.Called != "" {
		return f.Called
	}
	return f.Key
}

// Choices makes choices of values that are words themselves.
func Choices(values ...string) (out []Choice) {
	for _, v := range values {
		out = append(out, Choice{v, v})
	}
	return out
}

// Words makes choices of values and their words, in turn.
func Words(pairs ...string) (out []Choice) {
	for i := 0; i+1 < len(pairs); i += 2 {
		out = append(out, Choice{pairs[i], pairs[i+1]})
	}
	return out
}

// Values are the values of choices.
func Values(choices []Choice) (out []string) {
	for _, c := range choices {
		out = append(out, c.Value)
	}
	return out
}

// WordsOf is what a value of choices is called, "" where it is none of them.
func WordsOf(choices []Choice, value string) string {
	for _, c := range choices {
		if c.Value == value {
			return c.Words
		}
	}
	return ""
}

// Field finds a field by its key, nil where there is none.
func (p *Part) Field(key string) *Field {
	if i := slices.IndexFunc(p.Fields, func(f Field) bool { return f.Key == key }); i >= 0 {
		return &p.Fields[i]
	}
	return nil
}

// Find is the field at a JSON Pointer below a part, nil where there is none. Steps into a list are whole numbers.
func (p *Part) Find(pointer string) *Field {
	steps, err := patch.Split(pointer)
	if err != nil || len(steps) == 0 {
		return nil
	}
	if strings.Count(pointer, "/") > 1 { // a key of a way of typing may be longer than a step: "ink/kind"
		if f := p.Field(pointer[1:]); f != nil {
			return f
		}
	}
	return p.Field(steps[0]).below(steps[1:])
}

func (f *Field) below(steps []string) *Field {
	if f == nil || len(steps) == 0 {
		return f
	}
	switch f.Type {
	case Object, Ink:
		return f.Part.Find("/" + strings.Join(escaped(steps), "/"))
	case List:
		n, err := strconv.Atoi(steps[0])
		if err != nil || n < 0 || steps[0] != strconv.Itoa(n) || f.Most > 0 && n >= int(f.Most) {
			return nil
		}
		if f.Item != nil {
			return f.Item.below(steps[1:])
		}
		if len(steps) == 1 {
			return nil // a whole entry is no field
		}
		return f.Part.Find("/" + strings.Join(escaped(steps[1:]), "/"))
	case Map:
		if f.Keys.MatchString(steps[0]) {
			return f.Entry(steps[0]).below(steps[1:])
		}
	}
	return nil
}

func escaped(steps []string) (out []string) {
	for _, s := range steps {
		out = append(out, problem.Escape(s))
	}
	return out
}

// Headed is the field with other heads of a column that holds it.
func (f Field) Headed(heads string) Field {
	f.Heads = heads
	return f
}

// Leaf says that a field holds one value, so that it can be typed.
func (f *Field) Leaf() bool {
	return f.Type != Object && f.Type != List && f.Type != Map
}
