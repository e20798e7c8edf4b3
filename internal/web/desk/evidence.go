package desk

import (
	"fmt"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/proof"
	"sodrik/internal/proving"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/desk/reads"
	"sodrik/internal/web/ui"
)

// evidence answers every condition as the camera saw it; it waits for the readers.
func (h *Handler) evidence(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	p, err := h.Store.Prove(proving.Hurry(r.Context()), ui.Actor(r), c.Rendition, i, proof.Abuse)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	album, err := h.Store.Album(r.Context(), c.Rendition, i)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v, err := reads.EvidenceOf(c, p, album, i)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "evidence", v)
}

// witness answers one picture at large, with what each reader makes of it.
func (h *Handler) witness(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	draw, _ := strconv.Atoi(r.URL.Query().Get("draw"))
	seen, condition, ok, err := h.Store.Witness(r.Context(), c.Rendition, i, chi.URLParam(r, "condition"), draw)
	if err == nil && !ok {
		err = code.ErrNotFound
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := reads.Witness{CodeID: c.ID, Key: condition.Key, Title: reads.UpperFirst(condition.Words), Place: i}
	if v.Picture, err = drawn.PNG(seen.Image); err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Words = fmt.Sprintf("Picture %d of %d.", draw+1, condition.Draws)
	if condition.Draws > 1 {
		v.Words = fmt.Sprintf("Picture %d of %d, %s pixels a module in the camera.", draw+1, condition.Draws,
			measure.Number(seen.PerModule, 1))
		for n := range condition.Draws {
			v.Draws = append(v.Draws, reads.WitnessDraw{Index: n, Name: strconv.Itoa(n + 1), Current: n == draw})
		}
	}
	for _, x := range seen.Readings {
		v.Answers = append(v.Answers, reads.AnswerOf(x))
	}
	ui.Render(w, http.StatusOK, pages, "witness", v)
}
