// Package bench is the page for strangers: anybody pastes, sees, proves and takes away static codes without an account. Nothing
// is stored, no artwork is taken, and what it costs is bounded for each network.
package bench

import (
	"context"
	"embed"
	"errors"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/problem"
	"sodrik/internal/handover"
	"sodrik/internal/heavy"
	"sodrik/internal/proving"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files, forms.Templates)

// Handler serves the page.
type Handler struct {
	Proofs *proving.Prover
	slot   chan struct{} // taken by the one stranger whose code is proved or drawn
}

// New makes a Handler.
func New(proofs *proving.Prover) *Handler {
	return &Handler{Proofs: proofs, slot: make(chan struct{}, 1)}
}

// Routes mounts the page; its front is at /, where members never come to.
func (h *Handler) Routes(r chi.Router, rates Rates) {
	r.Get("/bench", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/", http.StatusSeeOther) })
	r.With(rates.limit(rates.Edits)).Post("/bench", h.edit)
	r.With(rates.limit(rates.Proofs)).Post("/bench/proof", h.prove)
	r.With(rates.limit(rates.Files)).Post("/bench/file", h.file)
}

// Front is the page with nothing on it.
func (h *Handler) Front(w http.ResponseWriter, r *http.Request) {
	ui.Render(w, http.StatusOK, pages, "bench", newView(r, &work{reading: -1, plain: forms.Filled(map[string]any{}, nil)}))
}

// edit answers what is typed, part by part, or the whole page to whom no script runs for, and to a step that is taken.
func (h *Handler) edit(w http.ResponseWriter, r *http.Request) {
	v := newView(r, workOf(r))
	if r.Header.Get("HX-Request") != "" {
		w.Header().Set("Sodrik-Slots", "1")
		ui.RenderSlots(w, pages, "worked", v, ui.ShownBy(r))
		return
	}
	ui.Render(w, http.StatusOK, pages, "bench", v)
}

// maxQueue is how long a stranger waits for the others.
const maxQueue = 20 * time.Second

// errQueue says that others are before one.
var errQueue = errors.New("others are before you")

// turn waits for the slot that strangers share.
func (h *Handler) turn(ctx context.Context) (inside context.Context, leave func(), err error) {
	wait, cancel := context.WithTimeout(ctx, maxQueue)
	defer cancel()
	select {
	case h.slot <- struct{}{}:
		return heavy.For(ctx, "strangers"), func() { <-h.slot }, nil
	case <-wait.Done():
		if ctx.Err() != nil {
			return ctx, nil, ctx.Err()
		}
		return ctx, nil, errQueue
	}
}

func (h *Handler) prove(w http.ResponseWriter, r *http.Request) {
	k := workOf(r)
	v := newView(r, k)
	if k.plain.Made == nil { // said beside the fields
		h.answer(w, r, v)
		return
	}
	ctx, leave, err := h.turn(r.Context())
	if errors.Is(err, errQueue) {
		v.Waiting = "Others are before you. Your code is checked as soon as theirs are."
		h.answer(w, r, v)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	defer leave()
	p, err := h.Proofs.ProveUnkept(ctx, k.plain.Made, k.place())
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Proved = provedOf(k, p)
	h.answer(w, r, v)
}

func (h *Handler) answer(w http.ResponseWriter, r *http.Request, v View) {
	name := "bench"
	if r.Header.Get("HX-Request") != "" {
		name = "proof"
	}
	ui.Render(w, http.StatusOK, pages, name, v)
}

// fileKinds are the formats that strangers take away.
var fileKinds = []fileKind{
	{"png", "PNG", "for pages, messages and documents"},
	{"svg", "SVG", "lines, for the web and for drawing programs"},
	{"pdf", "PDF", "lines, for print"},
	{"eps", "EPS", "lines, for older layout programs"},
}

func (h *Handler) file(w http.ResponseWriter, r *http.Request) {
	k := workOf(r)
	if k.plain.Made == nil {
		k.tried = true
		v := newView(r, k)
		ui.Render(w, http.StatusUnprocessableEntity, pages, "bench", v)
		return
	}
	f, problems := compose.ParseFormat(r.PostFormValue("format"))
	if len(problems) == 0 && !offered(f) {
		problems = problem.List{
			{Field: "/format", Code: "output.format", Message: "is none that is handed out here; choose PNG, SVG, PDF or EPS"},
		}
	}
	if len(problems) > 0 {
		ui.Fail(w, r, problems)
		return
	}
	ctx, leave, err := h.turn(r.Context())
	if errors.Is(err, errQueue) {
		w.Header().Set("Retry-After", "5")
		v := newView(r, k)
		v.Waiting = "Others are before you. Take the file again in a moment."
		ui.Render(w, http.StatusServiceUnavailable, pages, "bench", v)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	defer leave()
	file, reads, err := h.Proofs.FileUnkept(ctx, k.plain.Made, k.place(), f)
	name := export.FileName(k.plain.Made.Job.Content.Summary().Object, k.width(), 0, f.Kind)
	if err == nil && !reads {
		err = (&handover.Unread{Names: []string{name}}).Problem()
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attachment(w, name, file)
}

func offered(f compose.Format) bool {
	for _, k := range fileKinds {
		if f.Kind == k.Format && f.Key() == k.Format {
			return true
		}
	}
	return false
}
