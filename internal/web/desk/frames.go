package desk

import (
	"bytes"
	"image/png"
	"net/http"

	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/ui"
)

// frames answers the code in every frame, as one picture.
func (h *Handler) frames(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	picture, err := drawn.Frames(c.Rendition)
	var b bytes.Buffer
	if err == nil {
		err = png.Encode(&b, picture)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "image/png")
	w.Header().Set("Cache-Control", "private, max-age=3600")
	w.Write(b.Bytes())
}
