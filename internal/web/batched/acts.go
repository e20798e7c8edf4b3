package batched

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/table"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// acted answers what came of an act; problems stand at their field, and what was typed stays.
func (h *Handler) acted(w http.ResponseWriter, r *http.Request, err error, at, text, done string) {
	t := typed{}
	if problems, is := code.IsProblem(err); is {
		t = typed{at, text, about(problems[0])}
		if at == "" {
			t.path = problems[0].Field
		}
		err = nil
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if r.Header.Get("HX-Request") == "" && t.wrong == "" {
		http.Redirect(w, r, "/batches/"+chi.URLParam(r, "id"), http.StatusSeeOther)
		return
	}
	name := "batch-body"
	if r.Header.Get("HX-Request") == "" {
		name = "batch"
	}
	h.show(w, r, name, t, func(v *View) {
		if t.wrong == "" {
			v.Done = done
		}
	})
}

func (h *Handler) set(w http.ResponseWriter, r *http.Request) {
	at, text := r.PostFormValue("path"), r.PostFormValue("text")
	if at == "/formats" {
		text = strings.Join(r.PostForm["format"], " ")
	}
	h.acted(w, r, h.Batches.Set(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), at, text), at, text, "")
}

// fit makes the codes as large as their labels allow.
func (h *Handler) fit(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	width, ok, err := h.Batches.Fit(r.Context(), ui.Actor(r), id)
	if err == nil && ok {
		err = h.Batches.Set(r.Context(), ui.Actor(r), id, "/job/placements/0/width_mm", strconv.FormatFloat(width, 'f', -1, 64))
	}
	h.acted(w, r, err, "", "", "")
}

func number(r *http.Request) int {
	n, _ := strconv.Atoi(chi.URLParam(r, "n"))
	return n
}

// mend writes into a cell.
func (h *Handler) mend(w http.ResponseWriter, r *http.Request) {
	h.acted(w, r, h.Batches.Mend(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), number(r), r.PostFormValue("path"),
		r.PostFormValue("text")), "", "", "")
}

// desk gives a row a desk of its own and goes there.
func (h *Handler) desk(w http.ResponseWriter, r *http.Request) {
	id, err := h.Batches.ToDesk(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), number(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
}

func (h *Handler) drop(w http.ResponseWriter, r *http.Request) {
	n, err := h.Batches.Drop(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), nil)
	h.acted(w, r, err, "", "", rowsOut(n))
}

// undo takes back what was done last.
func (h *Handler) undo(w http.ResponseWriter, r *http.Request) {
	words, err := h.Batches.Undo(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	h.acted(w, r, err, "", "", "Taken back: "+words+".")
}

func rowsOut(n int) string {
	if n == 1 {
		return "1 row taken out."
	}
	return fmt.Sprintf("%d rows taken out.", n)
}

// again takes the same table in again.
func (h *Handler) again(w http.ResponseWriter, r *http.Request) {
	var rows *table.Rows
	var u batches.Updated
	b, err := h.Batches.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err == nil {
		rows, _, err = h.rowsOf(r, b.Read)
	}
	if err == nil {
		u, err = h.Batches.Update(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), rows)
	}
	h.acted(w, r, err, "", "", u.String()+".")
}

// opens has each row open its own file of a zip.
func (h *Handler) opens(w http.ResponseWriter, r *http.Request) {
	_, data, err := forms.File(r, MaxFile)
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large) || len(data) > MaxFile:
		err = problem.List{{Field: "/file", Code: "file.large", Message: fmt.Sprintf("is more than %d MB; take the files in several zips", MaxFile>>20)}}
	case errors.Is(err, http.ErrMissingFile), errors.Is(err, http.ErrNotMultipart):
		err = problem.List{{Field: "/file", Code: "file.none", Message: "is missing; choose one"}}
	}
	var o batches.Opened
	if err == nil {
		o, err = h.Batches.Open(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), data)
	}
	h.acted(w, r, err, "", "", o.String()+".")
}

func (h *Handler) retire(w http.ResponseWriter, r *http.Request) {
	if err := h.Batches.Retire(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), r.PostFormValue("back") == ""); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/batches", http.StatusSeeOther)
}

// links has every row lead through a short link of its own.
func (h *Handler) links(w http.ResponseWriter, r *http.Request) {
	h.acted(w, r, h.Batches.Lead(r.Context(), ui.Actor(r), chi.URLParam(r, "id")), "", "", "")
}

// live has all links lead where the rows say.
func (h *Handler) live(w http.ResponseWriter, r *http.Request) {
	n, err := h.Batches.MakeLive(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	h.acted(w, r, err, "", "", measure.Plural(n, "destination")+" made live.")
}

func (h *Handler) start(w http.ResponseWriter, r *http.Request) {
	_, err := h.Batches.Start(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), r.PostFormValue("as"))
	h.acted(w, r, err, "", "", "")
}

func (h *Handler) turn(w http.ResponseWriter, r *http.Request) {
	run, err := chi.URLParam(r, "run"), error(nil)
	switch chi.URLParam(r, "act") {
	case "stop":
		err = h.Batches.Stop(r.Context(), ui.Actor(r), run)
	case "go":
		err = h.Batches.Continue(r.Context(), ui.Actor(r), run)
	default:
		err = code.ErrNotFound
	}
	h.acted(w, r, err, "", "", "")
}
