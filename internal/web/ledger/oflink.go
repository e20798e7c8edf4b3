package ledger

import (
	"html/template"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/pattern"
	"sodrik/internal/core/problem"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// OfPage is a link pattern of the house, filled in for a code that does not exist yet.
type OfPage struct {
	ui.Frame
	Pattern pattern.Pattern
	Fields  []forms.Field
	Symbol  template.HTML // "" until there is one
	Says    ui.Says
	Price   string
	Missing []string
	Tried   bool
	Fixed   string
}

// links are the link patterns of the house that have every word that is looked for in their names.
func (h *Handler) links(r *http.Request, query string) (out []pattern.Pattern, err error) {
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		return nil, err
	}
	for _, p := range house.Links {
		found := true
		for _, w := range strings.Fields(strings.ToLower(query)) {
			found = found && strings.Contains(strings.ToLower(p.Name), w)
		}
		if found {
			out = append(out, p)
		}
	}
	return out, nil
}

// of reads the pattern and what stands in its blanks. Problems of blanks in which nothing stands are told once the form was sent.
func (h *Handler) of(w http.ResponseWriter, r *http.Request, tried bool) (v OfPage, made *compose.Rendition, ok bool) {
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return v, nil, false
	}
	p, ok := house.Link(chi.URLParam(r, "pattern"))
	if !ok {
		ui.Fail(w, r, code.ErrNotFound)
		return v, nil, false
	}
	values := map[string]string{}
	for _, b := range p.Blanks() {
		values[b.Key] = r.PostFormValue(b.Key)
	}
	address, problems := p.Fill(values)
	var bad problem.List
	if len(problems) == 0 {
		var c content.Content
		if c, bad = content.New(map[string]any{"kind": "url", "url": address}); len(bad) == 0 {
			j := job.Default()
			j.Name, j.Content = p.Name, c
			made, bad = compose.Make(&j, nil)
		}
	}
	v = OfPage{Frame: ui.FrameOf(r, p.Name, "codes"), Pattern: p, Tried: tried, Fixed: forms.FixedWords("url")}
	for _, b := range p.Blanks() {
		f := forms.Field{Path: b.Key, ID: "f-" + b.Key, Label: b.Label, Kind: "text", Value: values[b.Key], Sample: b.Sample}
		for _, x := range problems {
			if x.Field == "/"+b.Key && (tried || f.Value != "") {
				f.Error = forms.Sentence(x)
			}
		}
		v.Fields = append(v.Fields, f)
	}
	for _, x := range bad {
		v.Missing = append(v.Missing, "The address "+x.Message+".")
	}
	if made != nil {
		v.Symbol, v.Says, v.Price = ui.Picture(made), ui.SaysOf(made.Job.Content), forms.PriceWords(made.Price())
	}
	return v, made, true
}

func (h *Handler) newOf(w http.ResponseWriter, r *http.Request) {
	if v, _, ok := h.of(w, r, false); ok {
		ui.Render(w, http.StatusOK, pages, "of-house", v)
	}
}

// fillOf answers while it is typed.
func (h *Handler) fillOf(w http.ResponseWriter, r *http.Request) {
	v, _, ok := h.of(w, r, r.PostFormValue("tried") != "")
	switch {
	case !ok:
	case r.Header.Get("HX-Request") == "":
		ui.Render(w, http.StatusOK, pages, "of-house", v)
	default:
		w.Header().Set("Sodrik-Slots", "1")
		ui.Render(w, http.StatusOK, pages, "of-filled", v)
	}
}

// openOf stores the code and opens it on the desk; a form with problems comes back as it was typed.
func (h *Handler) openOf(w http.ResponseWriter, r *http.Request) {
	v, made, ok := h.of(w, r, true)
	switch {
	case !ok:
	case made == nil:
		ui.Render(w, http.StatusUnprocessableEntity, pages, "of-house", v)
	default:
		h.open(w, r, made)
	}
}
