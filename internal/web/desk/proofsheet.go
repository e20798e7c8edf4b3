package desk

import (
	"net/http"

	"sodrik/internal/core/export"
	"sodrik/internal/handover"
	"sodrik/internal/web/ui"
)

// proofSheet answers the page that a colleague or client signs. It waits for every set of every place.
func (h *Handler) proofSheet(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	version := 0
	if c.AsIssued() {
		version = c.Issued.N
	}
	file, _, err := h.Door.Sheet(r.Context(), ui.Actor(r), handover.SheetOf{Code: c.ID, Rendition: c.Rendition, Name: c.Name(),
		Version: version, Names: c.House.FileNames()})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attachment(w, export.FileName(c.Name()+" proof sheet", 0, version, "pdf"), file)
}
