package paste

import (
	"fmt"
	"html/template"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/recognise"
	"sodrik/internal/web/ui"
)

// Taken is a paste that was understood.
type Taken struct {
	Cautions  []string
	Alike     string // that the address passes for another, "" where it does not
	Took      string
	Text      string // as pasted, for the buttons
	Reading   int    // which of its readings this is
	Kind      string
	Rendition *compose.Rendition // nil where its fields have problems
	Problems  []string
	ID, Name  string // of a code that says the same
	Price     string
	Clean     *Clean        // of a picture: what the symbol is
	Same      bool          // making it clean gives the very same modules
	Entries   []Other       // of a file or picture with several
	Others    []Other       // further ways to read it
	Outlined  template.HTML // the picture it came in
}

// Other is another reading.
type Other struct {
	Text    string
	Reading int
	Took    string
	Says    string
	On      bool
	Clean   *Clean
}

// maxOthers is how many further readings are offered.
const maxOthers = 3

// Take takes a paste for one of its readings.
func Take(p Pasted, reading recognise.Reading) *Taken {
	t := &Taken{Outlined: p.Outlined, Took: reading.Took, Text: p.Text, Reading: max(0, p.Asked)}
	t.Kind, _ = reading.Values["kind"].(string)
	if p.Picture && !reading.Entry {
		t.Took = "Read from the picture: " + within(t.Took)
	}
	if reading.Text != "" { // one code of several in a picture
		t.Text, t.Reading = reading.Text, 0
	}
	problems := reading.Problems
	if reading.Content != nil {
		t.Rendition, problems = compose.Make(jobFor(reading.Content), nil)
	}
	for _, x := range problems {
		t.Problems = append(t.Problems, FieldWords(t.Kind, x.Field)+" "+x.Message+".")
	}
	if t.Rendition != nil && p.Clean != nil {
		t.Clean = p.Clean
		if same, problems := compose.Make(p.Clean.job(reading.Content), nil); len(problems) == 0 {
			t.Same = same.Symbol.Digest() == p.Clean.Modules
		} else {
			t.Clean = nil
		}
	}
	if u, is := reading.Content.(*content.URL); is && t.Rendition != nil {
		t.Alike = content.Lookalike(u.Host())
	}
	if c, ok := reading.Content.(content.Careful); ok && t.Rendition != nil {
		for _, caution := range c.Cautions() {
			t.Cautions = append(t.Cautions, caution.Message)
		}
	}
	if t.Rendition != nil {
		t.Price = fmt.Sprintf(
			"%d bytes make %d × %d modules, level %v",
			len(t.Rendition.Payload),
			t.Rendition.Symbol.Size,
			t.Rendition.Symbol.Size,
			t.Rendition.Symbol.Level,
		)
	}
	for i, r := range p.Readings {
		o := Other{Text: p.Text, Reading: i, Took: within(r.Took), On: i == max(0, p.Asked)}
		if r.Text != "" {
			o.Text, o.Reading = r.Text, 0
			if i < len(p.Cleans) {
				o.Clean = p.Cleans[i]
			}
		} else {
			o.Clean = p.Clean
		}
		if o.Says = r.Took; r.Content != nil {
			o.Says = r.Content.Summary().String()
		}
		switch {
		case r.Entry:
			t.Entries = append(t.Entries, o)
		case !o.On && len(t.Others) < maxOthers:
			t.Others = append(t.Others, o)
		}
	}
	return t
}

// within makes the beginning of a sentence fit for its middle.
func within(s string) string {
	if strings.HasPrefix(s, "A ") || strings.HasPrefix(s, "An ") || strings.HasPrefix(s, "The ") ||
		strings.HasPrefix(s, "Plain ") {
		return strings.ToLower(s[:1]) + s[1:]
	}
	return s
}

// FieldWords begins a sentence about a field.
func FieldWords(kind, path string) string {
	if f := job.Field(kind, path); f != nil && f.Called != "" {
		return "The " + f.Called
	}
	return "“" + path[strings.LastIndexByte(path, '/')+1:] + "”"
}

// Step is the change of the content that saves most, nil where none does.
func (t *Taken) Step() *compose.Step {
	for _, s := range t.Rendition.Price().Steps {
		if s.Then != nil {
			return &s
		}
	}
	return nil
}

// Symbol draws the code.
func (t *Taken) Symbol() template.HTML { return ui.Picture(t.Rendition) }

// Says sums up what the code does.
func (t *Taken) Says() ui.Says { return ui.SaysOf(t.Rendition.Job.Content) }
