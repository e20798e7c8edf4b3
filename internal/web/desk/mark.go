package desk

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/web/desk/wears"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// icons answers a search for icons.
func (h *Handler) icons(w http.ResponseWriter, r *http.Request) {
	v := View{Wears: wears.Wears{Icons: wears.Drawings(r.FormValue("q"))}}
	ui.Render(w, http.StatusOK, pages, "icons", v)
}

// upload takes in a file and lays it into the code.
func (h *Handler) upload(w http.ResponseWriter, r *http.Request) {
	id, actor := chi.URLParam(r, "id"), ui.Actor(r)
	if _, err := h.Store.Get(r.Context(), actor, id); err != nil { // before a file is taken in for nothing
		ui.Fail(w, r, err)
		return
	}
	forms.Bound(w, r, artwork.MaxBytes)
	name, data, err := forms.File(r, artwork.MaxBytes)
	if err != nil {
		h.refuseUpload(w, r, problem.List{{Field: "/file", Code: "file",
			Message: fmt.Sprintf("was cut off on its way; choose an SVG, PNG, JPEG or WebP of at most %d MB",
				artwork.MaxBytes>>20)}})
		return
	}
	a, err := h.Store.Upload(r.Context(), actor, name, data)
	if err != nil {
		h.refuseUpload(w, r, err)
		return
	}
	part := partOf(r)
	ops := patch.Patch{{Op: "add", Path: "/look/" + part + "/source", Value: a.Source}}
	if art, drawn := a.Is.(*artwork.Art); drawn && part == "mark" {
		if _, ok := art.Ground(); ok {
			a.Left = append(a.Left, "It stands on one colour, which can be cut out.")
		}
	}
	c, err := h.Store.Patch(r.Context(), actor, id, ops, changeOf(r).As(part+" "+a.Name))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	list, err := h.Store.Uploads(r.Context(), actor)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	h.answerWith(w, r, c, nil, func(v *View) {
		v.Uploads, v.Uploaded, v.Left = wears.UploadsOf(list), part, strings.Join(a.Left, " ")
	})
}

// refuseUpload says at the field what is wrong with a file; nothing else changes.
func (h *Handler) refuseUpload(w http.ResponseWriter, r *http.Request, err error) {
	list, ok := code.IsProblem(err)
	if !ok || r.Header.Get("HX-Request") == "" {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Sodrik-Slots", "1")
	ui.Render(w, http.StatusOK, pages, "upload-refused", struct{ Part, Words string }{partOf(r), forms.Sentence(list[0])})
}

// try draws what an edit would make, and changes nothing.
func (h *Handler) try(w http.ResponseWriter, r *http.Request) {
	c, err := h.Store.Try(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), r.FormValue("path"), r.FormValue("text"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := NewView(c, placeOf(c, r.FormValue("place")))
	w.Header().Set("Sodrik-Contrast", strings.ReplaceAll(v.Contrast, "\u00a0", " "))
	ui.Render(w, http.StatusOK, pages, "tried", v)
}
