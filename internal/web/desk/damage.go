package desk

import (
	"net/http"

	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/ui"
)

func (h *Handler) damage(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	ui.Render(w, http.StatusOK, pages, "damaged",
		drawn.DamageOf(c.Rendition.For(c.Rendition.Place(placeOf(c, r.URL.Query().Get("place"))))))
}
