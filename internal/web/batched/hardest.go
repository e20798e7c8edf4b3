package batched

import (
	"html/template"
	"net/http"

	"sodrik/internal/batches"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/web/ui"
)

// Hardest is the label of a batch by which the others stand or fall.
type Hardest struct {
	Picture
	Said string // what its verdict rests on
}

// hardest draws the hardest label, to be seen beside the rows; nothing while there is none.
func (h *Handler) hardest(w http.ResponseWriter, r *http.Request, b *batches.Batch) error {
	o, ok := b.Worst()
	if !ok {
		return nil
	}
	drawn, err := h.Batches.Drawn(r.Context(), ui.Actor(r), b.ID, batches.Filter{After: o.Row - 1, Limit: 1})
	if err != nil || len(drawn) == 0 || drawn[0].Scene == nil {
		return err
	}
	d := drawn[0]
	ui.Render(w, http.StatusOK, pages, "batch-hardest", Hardest{Picture{N: d.N, Name: d.Name,
		Drawing: template.HTML(svg.Inline(d.Scene, "QR code of "+d.Says, `class="symbol"`)), Verdict: o.Verdict,
		Words: Words(o.Verdict)}, o.Said()})
	return nil
}
