package ledger

import (
	"cmp"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/paste"
	"sodrik/internal/web/ui"
)

// NewPage is the form of a kind for a code that does not exist yet.
type NewPage struct {
	ui.Frame
	Outcome forms.Outcome
	Form    forms.Form
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

// filledOf reads the form of a request. What is typed for several fields at once comes first, so that each may say otherwise;
// switches come last, as they change other fields.
func filledOf(r *http.Request, kind string) *forms.Plain {
	r.ParseForm()
	var paths []string
	for path := range r.PostForm {
		if strings.HasPrefix(path, "/content/") {
			paths = append(paths, path)
		}
	}
	last := func(path string) int {
		switch f := job.Field(kind, path); {
		case f != nil && f.Typed:
			return -1
		case f != nil && f.Along != nil:
			return 1
		}
		return 0
	}
	slices.SortFunc(paths, func(a, b string) int { return cmp.Or(cmp.Compare(last(a), last(b)), cmp.Compare(a, b)) })
	return forms.Filled(forms.Draft(kind, r.PostFormValue, paths))
}

func newPage(r *http.Request, kind string, f *forms.Plain, tried bool) NewPage {
	f.Tell(tried)
	v := NewPage{Tried: tried, Fixed: forms.FixedWords(kind)}
	v.Outcome, _ = forms.OutcomeOf(kind)
	v.Frame = ui.FrameOf(r, v.Outcome.Words, "codes")
	cost := func(string) string { return "" }
	if f.Made != nil {
		adding := f.Made.Adding()
		cost = func(path string) string { return forms.Cost(adding[path]) }
		price := f.Made.Price()
		v.Symbol, v.Says, v.Price = ui.Picture(f.Made), ui.SaysOf(f.Made.Job.Content), forms.PriceWords(price)
		for _, s := range price.Steps {
			if s.Then != nil { // the rest is for the desk
				v.Steps = append(v.Steps, Rung{s.Label, forms.PatchText(s.Patch), fmt.Sprintf("−%d", s.Saves),
					fmt.Sprintf("%d × %d", s.Size, s.Size)})
			}
		}
	}
	v.Form = forms.Build(kind, f, "", cost)
	fields := v.Form.Fields()
	for _, p := range f.Shown { // those that no field shows
		if !slices.ContainsFunc(fields, func(x forms.Field) bool {
			return x.Path == p.Field && (x.Error != "" || x.Path == content.Position)
		}) {
			v.Missing = append(v.Missing, paste.FieldWords(kind, p.Field)+" "+p.Message+".")
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
			values[f.Key] = ui.RegionOf(r.Header.Get("Accept-Language"))
		case f.Required && len(options) > 0: // what the form shows as chosen is chosen
			values[f.Key] = options[0].Value
		}
	}
	f := forms.Filled(map[string]any{"content": values}, nil)
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
	if p := paste.Of(r); p.Text != "" {
		if reading, ok := p.Chosen(); ok && reading.Values["kind"] == kind {
			f = forms.Filled(map[string]any{"content": reading.Values}, nil)
		}
	}
	tried, undo := true, patch.Patch(nil)
	if step := cmp.Or(r.PostFormValue("step"), r.PostFormValue("undo")); step != "" {
		tried, undo = r.PostFormValue("tried") != "", f.Step(step)
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
	if f.Made == nil {
		ui.Render(w, http.StatusUnprocessableEntity, pages, "new", newPage(r, kind, f, true))
		return
	}
	h.open(w, r, f.Made)
}

func (h *Handler) formPNG(w http.ResponseWriter, r *http.Request) {
	kind, ok := kindOf(w, r)
	if !ok {
		return
	}
	f := filledOf(r, kind)
	if f.Made == nil && r.Header.Get("Sec-Fetch-Mode") != "cors" {
		ui.Render(w, http.StatusUnprocessableEntity, pages, "new", newPage(r, kind, f, true))
		return
	}
	h.handPNG(w, r, f.Made, f.Problems)
}
