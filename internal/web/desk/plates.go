package desk

import (
	"net/http"
	"strconv"

	"sodrik/internal/web/desk/ships"
	"sodrik/internal/web/ui"
)

// plates answers the view.
func (h *Handler) plates(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	v, err := ships.PlatesOf(c.Rendition, i)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Sodrik-Revision", strconv.FormatInt(c.Rev, 10))
	ui.Render(w, http.StatusOK, pages, "plates", v)
}
