package desk

import (
	"net/http"
	"strconv"

	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/wears"
	"sodrik/internal/web/ui"
)

// eyes is the part of the look that is of the eyes: a third of all fields of a desk, which comes without it until it
// is opened.
func (h *Handler) eyes(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	w.Header().Set("Sodrik-Revision", strconv.FormatInt(c.Rev, 10))
	ui.Render(w, http.StatusOK, pages, "eyes-part", wears.Of(bound.Code{C: c, Place: placeOf(c, r.URL.Query().Get("place"))}))
}
