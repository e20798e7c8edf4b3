package desk

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// setCampaign keeps campaign, labels and note, which stand beside a code. What is wrong with one of them stands at it, and what
// was typed stays.
func (h *Handler) setCampaign(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}})
		return
	}
	var was *string
	if r.PostForm.Has("was") {
		shown := r.PostFormValue("was")
		was = &shown
	}
	remark, problems := code.ReadRemark(r.PostFormValue("note"), r.PostFormValue("labels"))
	err := problems.Err()
	if err == nil {
		err = h.Store.SetCampaign(r.Context(), ui.Actor(r), id, r.PostFormValue("campaign"), was)
	}
	if err == nil && r.PostForm.Has("note") {
		err = h.Store.SetRemark(r.Context(), ui.Actor(r), id, remark)
	}
	list, isProblem := code.IsProblem(err)
	htmx := r.Header.Get("HX-Request") != ""
	switch {
	case isProblem && htmx:
		refuseRemark(w, list)
	case err != nil:
		ui.Fail(w, r, err)
	case htmx:
		w.Header().Set("HX-Redirect", "/codes/"+id)
	default:
		http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
	}
}

func refuseRemark(w http.ResponseWriter, problems problem.List) {
	var out []refusal
	for _, field := range []string{"campaign", "labels", "note"} {
		one := refusal{ID: field}
		for _, p := range problems {
			if p.Field == "/"+field || p.Field == "" && field == "note" {
				one.Words = forms.Sentence(p)
			}
		}
		out = append(out, one)
	}
	refuse(w, out)
}
