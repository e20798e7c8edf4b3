package batched

import (
	"io"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/batches"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

// of answers about a batch.
func (h *Handler) of(answer func(http.ResponseWriter, *http.Request, *batches.Batch) error) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		b, err := h.Batches.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
		if err == nil {
			err = answer(w, r, b)
		}
		if err != nil {
			ui.Fail(w, r, err)
		}
	}
}

// state answers how far the batch is; once nothing is under way, the table is read again.
func (h *Handler) state(w http.ResponseWriter, r *http.Request, b *batches.Batch) error {
	runs, err := h.Batches.Runs(r.Context(), ui.Actor(r), b.ID)
	if err != nil {
		return err
	}
	waiting, err := h.Batches.Waiting(r.Context(), ui.Actor(r), b.ID)
	if err != nil {
		return err
	}
	s := NewState(b, runs, len(waiting), ui.May(r, people.Change), h.Codes.Now())
	if !s.Busy {
		w.Header().Set("HX-Trigger", "batch-made")
	}
	ui.Render(w, http.StatusOK, pages, "batch-state", s)
	return nil
}

// rows answers a stretch of the table.
func (h *Handler) rows(w http.ResponseWriter, r *http.Request, b *batches.Batch) error {
	t, err := h.table(r, b)
	if err != nil {
		return err
	}
	ui.Render(w, http.StatusOK, pages, "batch-table", t)
	return nil
}

// outlines is a sheet with the edges of its labels, to be held against the real one.
func (h *Handler) outlines(w http.ResponseWriter, r *http.Request, b *batches.Batch) error {
	ui.Attachment(w, export.Slug(b.Name)+"-outlines.pdf", pdf.Encode(b.Setting().Outlines(),
		export.Meta{Title: b.Name + ", outlines"}))
	return nil
}

// take hands the files of a run over.
func (h *Handler) take(w http.ResponseWriter, r *http.Request) {
	http.NewResponseController(w).SetWriteDeadline(time.Now().Add(takeFor))
	begun := false
	ctx, cancel := ui.Longer(r, takeFor)
	defer cancel()
	err := h.Batches.Take(ctx, ui.Actor(r), chi.URLParam(r, "run"), r.FormValue("insist") != "",
		func(_ *batches.Run, name string) io.Writer {
			begun = true
			ui.Attached(w, name)
			return w
		})
	switch {
	case err == nil:
	case begun: // too late to say so: what came must not be taken for all
		panic(http.ErrAbortHandler)
	default:
		ui.Fail(w, r, err)
	}
}
