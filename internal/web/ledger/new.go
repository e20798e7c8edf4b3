package ledger

import (
	"cmp"
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// NewPage is the form of a kind for a code that does not exist yet.
type NewPage struct {
	ui.Frame
	Outcome forms.Outcome
	Form    forms.Form
	Zones   []string
	Symbol  template.HTML // "" until there is one
	Says    ui.Says
	Price   string
	Steps   []Rung
	Undo    string   // the patch that takes a step back, "" where none was taken
	Missing []string // what is wrong, in sentences
	Tried   bool     // they have been told before
	Fixed   string   // what static means here
	Choices []forms.Outcome
}

// Rung is one step of the ladder: a smaller code for something said shorter.
type Rung struct{ Label, Patch, Saves, Size string }

// filled is what a plain form holds: the draft of a job, and text that it cannot hold.
type filled struct {
	draft    any
	unparsed map[string]string
	made     *compose.Rendition
	problems problem.List
	shown    problem.List // of fields that were touched
}

// Text and Faults make it a source of forms.
func (f *filled) Text(path string) string {
	if t, ok := f.unparsed[path]; ok {
		return t
	}
	return job.Text(f.draft, path)
}
func (f *filled) Faults() problem.List { return f.shown }

func (f *filled) assess() {
	if f.made, f.problems = compose.Typed(f.draft, f.unparsed, nil); len(f.problems) > 0 {
		f.made = nil
	}
}

// step takes a step of the ladder, or takes it back: a patch as the page offered it. What does not fit changes nothing.
func (f *filled) step(text string) (inverse patch.Patch) {
	var p patch.Patch
	if json.Unmarshal([]byte(text), &p) != nil {
		return nil
	}
	draft, inverse, err := job.Complete(f.draft, p).Apply(f.draft)
	if err != nil {
		return nil
	}
	f.draft = draft
	f.assess()
	return inverse
}

// filledOf reads the form of a request. Switches come last, as they change other fields.
func filledOf(r *http.Request, kind string) *filled {
	r.ParseForm()
	var paths []string
	for path := range r.PostForm {
		if strings.HasPrefix(path, "/content/") {
			paths = append(paths, path)
		}
	}
	last := func(path string) int {
		if f := job.Field(kind, path); f != nil && f.Along != nil {
			return 1
		}
		return 0
	}
	slices.SortFunc(paths, func(a, b string) int { return cmp.Or(cmp.Compare(last(a), last(b)), cmp.Compare(a, b)) })
	f := &filled{}
	f.draft, f.unparsed = forms.Draft(kind, r.PostFormValue, paths)
	f.assess()
	return f
}

// told keeps the problems of fields in which something stands; those of empty ones wait until the form is sent.
func (f *filled) told(all bool) {
	for _, p := range f.problems {
		if all || f.Text(p.Field) != "" {
			f.shown = append(f.shown, p)
		}
	}
}

func newPage(r *http.Request, kind string, f *filled, tried bool) NewPage {
	f.told(tried)
	v := NewPage{Tried: tried, Fixed: forms.FixedWords(kind)}
	v.Outcome, _ = forms.OutcomeOf(kind)
	v.Frame = ui.FrameOf(r, v.Outcome.Words, "codes")
	cost := func(string) string { return "" }
	if f.made != nil {
		adding := f.made.Adding()
		cost = func(path string) string { return forms.Cost(adding[path]) }
		price := f.made.Price()
		v.Symbol, v.Says, v.Price = ui.Picture(f.made), ui.SaysOf(f.made.Job.Content), forms.PriceWords(price)
		for _, s := range price.Steps {
			if s.Then != nil { // the rest is for the desk
				v.Steps = append(v.Steps, Rung{s.Label, forms.PatchText(s.Patch), fmt.Sprintf("−%d", s.Saves), fmt.Sprintf("%d × %d", s.Size, s.Size)})
			}
		}
	}
	v.Form = forms.Build(kind, f, "", cost)
	if v.Form.Zones() {
		v.Zones = content.Zones()
	}
	fields := v.Form.Fields()
	for _, p := range f.shown { // those that no field shows
		if !slices.ContainsFunc(fields, func(x forms.Field) bool { return x.Path == p.Field && (x.Error != "" || x.Path == content.Position) }) {
			v.Missing = append(v.Missing, fieldWords(kind, p.Field)+" "+p.Message+".")
		}
	}
	return v
}

func kindOf(w http.ResponseWriter, r *http.Request) (string, bool) {
	kind := chi.URLParam(r, "kind")
	if _, ok := forms.OutcomeOf(kind); !ok {
		ui.Fail(w, r, code.ErrNotFound)
		return "", false
	}
	return kind, true
}

// newForm is the empty form, with what the browser tells: the country of numbers.
func (h *Handler) newForm(w http.ResponseWriter, r *http.Request) {
	kind, ok := kindOf(w, r)
	if !ok {
		return
	}
	if kind == "pay" {
		v := NewPage{Choices: forms.Payments()}
		v.Outcome, _ = forms.OutcomeOf(kind)
		v.Frame = ui.FrameOf(r, v.Outcome.Words, "codes")
		ui.Render(w, http.StatusOK, pages, "choose", v)
		return
	}
	values := map[string]any{"kind": kind}
	for _, f := range content.KindOf(kind).Fields.Fields {
		switch options := f.Options(); {
		case f.Key == content.RegionKey:
			values[f.Key] = regionOf(r.Header.Get("Accept-Language"))
		case f.Required && len(options) > 0: // what the form shows as chosen is chosen
			values[f.Key] = options[0].Value
		}
	}
	f := &filled{draft: map[string]any{"content": values}}
	f.assess()
	ui.Render(w, http.StatusOK, pages, "new", newPage(r, kind, f, false))
}

// fillForm answers the form while it is typed in, slot by slot; takes a step of the ladder; or opens on what was
// pasted and could not be made.
func (h *Handler) fillForm(w http.ResponseWriter, r *http.Request) {
	kind, ok := kindOf(w, r)
	if !ok {
		return
	}
	if r.Header.Get("HX-Request") != "" {
		w.Header().Set("Sodrik-Slots", "1")
		ui.Render(w, http.StatusOK, pages, "filled", newPage(r, kind, filledOf(r, kind), r.PostFormValue("tried") != ""))
		return
	}
	f := filledOf(r, kind)
	if p := pastedOf(r); p.text != "" {
		if reading, ok := p.chosen(); ok && reading.Values["kind"] == kind {
			f = &filled{draft: map[string]any{"content": reading.Values}}
			f.assess()
		}
	}
	tried, undo := true, patch.Patch(nil)
	if step := cmp.Or(r.PostFormValue("step"), r.PostFormValue("undo")); step != "" {
		tried, undo = r.PostFormValue("tried") != "", f.step(step)
	}
	v := newPage(r, kind, f, tried)
	if undo != nil && r.PostFormValue("step") != "" {
		v.Undo = forms.PatchText(undo)
	}
	ui.Render(w, http.StatusOK, pages, "new", v)
}

// openForm stores what the form says and opens it on the desk; a form with problems comes back as it was typed.
func (h *Handler) openForm(w http.ResponseWriter, r *http.Request) {
	kind, ok := kindOf(w, r)
	if !ok {
		return
	}
	f := filledOf(r, kind)
	if f.made == nil {
		ui.Render(w, http.StatusUnprocessableEntity, pages, "new", newPage(r, kind, f, true))
		return
	}
	h.open(w, r, f.made)
}

func (h *Handler) formPNG(w http.ResponseWriter, r *http.Request) {
	kind, ok := kindOf(w, r)
	if !ok {
		return
	}
	f := filledOf(r, kind)
	if f.made == nil && r.Header.Get("Sec-Fetch-Mode") != "cors" {
		ui.Render(w, http.StatusUnprocessableEntity, pages, "new", newPage(r, kind, f, true))
		return
	}
	h.handPNG(w, r, f.made, f.problems)
}
