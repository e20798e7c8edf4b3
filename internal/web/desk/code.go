package desk

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/web/ui"
)

// code gives the code that a request names, of the workspace of who asks; where there is none, it has answered so.
func (h *Handler) code(w http.ResponseWriter, r *http.Request) (c *code.Code, known bool) {
	c, err := h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return nil, false
	}
	return c, true
}
