package desk

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/web/desk/says"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// link makes a code's address of a pattern of the house. What is wrong with a blank stands at it.
func (h *Handler) link(w http.ResponseWriter, r *http.Request) {
	c, err := h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	p, ok := c.House.Link(r.FormValue("pattern"))
	if !ok {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	values := map[string]string{}
	for _, b := range p.Blanks() {
		values[b.Key] = r.FormValue(b.Key)
	}
	address, problems := p.Fill(values)
	switch {
	case len(problems) == 0:
		by := changeOf(r)
		c, err := h.Store.Edit(
			r.Context(),
			ui.Actor(r),
			c.ID,
			code.Edit{Path: "/content/url", Text: address, Tab: by.Tab, Seq: by.Seq, Base: by.Base},
		)
		h.answerWith(w, r, c, err, func(v *View) { v.Linked = true })
	case r.Header.Get("HX-Request") == "":
		ui.Fail(w, r, problems)
	default:
		var out []refusal
		for _, b := range p.Blanks() {
			one := refusal{ID: says.BlankID(p, b)}
			for _, x := range problems {
				if x.Field == "/"+b.Key {
					one.Words = forms.Sentence(x)
				}
			}
			out = append(out, one)
		}
		refuse(w, out)
	}
}

// refusal is what is wrong with a field, at whose id it stands; without words it is taken away.
type refusal struct{ ID, Words string }

// refuse tells what is wrong with fields that are not the job's, each where it stands. Nothing was changed.
func refuse(w http.ResponseWriter, of []refusal) {
	w.Header().Set("Sodrik-Slots", "1")
	ui.Render(w, http.StatusOK, pages, "refused", of)
}
