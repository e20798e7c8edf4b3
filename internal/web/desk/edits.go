package desk

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/web/ui"
)

// changeOf is what a request says of its tab: which one, the how manieth change of it, and what it had seen. A form without a
// revision is not held against others.
func changeOf(r *http.Request) code.Change {
	seq, _ := strconv.ParseInt(r.FormValue("seq"), 10, 64)
	base, err := strconv.ParseInt(r.FormValue("base"), 10, 64)
	if err != nil {
		base = -1
	}
	return code.Change{Tab: tabOf(r), Seq: seq, Base: base}
}

// maxTab bounds the name that a browser gives a tab.
const maxTab = 40

func tabOf(r *http.Request) string {
	tab := r.FormValue("tab")
	return tab[:min(len(tab), maxTab)]
}

func (h *Handler) edit(w http.ResponseWriter, r *http.Request) {
	by := changeOf(r)
	since, _ := strconv.ParseInt(r.FormValue("since"), 10, 64)
	c, err := h.Store.Edit(r.Context(), ui.Actor(r), chi.URLParam(r, "id"),
		code.Edit{Path: r.FormValue("path"), Place: r.FormValue("at"), Text: r.FormValue("text"), Tab: by.Tab, Seq: by.Seq,
			Base: by.Base, Since: since})
	h.answer(w, r, c, err)
}

func (h *Handler) fix(w http.ResponseWriter, r *http.Request) {
	var p patch.Patch
	if err := json.Unmarshal([]byte(r.FormValue("patch")), &p); err != nil {
		ui.Fail(w, r, problem.List{{Code: "patch", Message: "the change was cut off on its way; try again"}})
		return
	}
	c, err := h.Store.Patch(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), p, changeOf(r).As(lowerFirst(r.FormValue("label"))))
	h.answer(w, r, c, err)
}

func lowerFirst(s string) string {
	if s == "" {
		return "a change"
	}
	return strings.ToLower(s[:1]) + s[1:]
}

func (h *Handler) turn(redo bool) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		do := h.Store.Undo
		if redo {
			do = h.Store.Redo
		}
		by := changeOf(r)
		rev, _ := strconv.ParseInt(r.FormValue("rev"), 10, 64)
		c, err := do(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), code.Turn{Rev: rev, Tab: by.Tab, Seq: by.Seq})
		if errors.Is(err, code.ErrNothing) {
			c, err = h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
		}
		if err == nil && elsewhere(c, r.FormValue("place")) && r.Header.Get("HX-Request") != "" {
			w.Header().Set("HX-Redirect", fmt.Sprintf("/codes/%s?place=%d", c.ID, placeOf(c, "")))
			return
		}
		h.answer(w, r, c, err)
	}
}

// elsewhere says that the place which a page shows is there no more, or that there is one where the page shows none: it has to
// come anew.
func elsewhere(c *code.Code, shown string) bool {
	n, err := strconv.Atoi(shown)
	if err != nil {
		return shown != "" && job.PlacementAt(c.Draft, shown) < 0
	}
	return n < 0 && len(c.Rendition.Job.Placements) > 0
}

// TurnView is an edit of somebody else that can be undone, with what that would change.
type TurnView struct {
	ID, By, Words string
	Rev           int64
	Differences   []job.Difference
	Unmade        bool // what is left then cannot be made
}

// askTurn shows what taking back an edit of somebody else would change, before it is done.
func (h *Handler) askTurn(w http.ResponseWriter, r *http.Request) {
	rev, _ := strconv.ParseInt(r.FormValue("rev"), 10, 64)
	c, without, err := h.Store.Before(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), rev)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := TurnView{ID: c.ID, By: c.UndoBy, Words: c.Undo, Rev: rev, Unmade: without == nil}
	if without != nil {
		v.Differences = job.Differences(c.Rendition.Job, without.Job)
	}
	ui.Render(w, http.StatusOK, pages, "ask-turn", v)
}
