// Package batched is the screens of many codes made of rows: taking rows in, the batch with its ticket above a table of rows,
// its pictures and its sheets.
package batched

import (
	"embed"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/housestyle"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Handler serves the screens.
type Handler struct {
	Batches *batches.Store
	Codes   *code.Store
	House   *housestyle.Store
}

// MaxFile bounds a file of rows.
const MaxFile = 32 << 20

// Routes mounts the screens.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	look := r.With(may(people.Look))
	look.Get("/batches", h.list)
	look.Get("/batches/{id}", h.page)
	look.Get("/batches/{id}/state", h.of(h.state))
	look.Get("/batches/{id}/rows", h.of(h.rows))
	look.Get("/batches/{id}/hardest", h.of(h.hardest))
	look.Get("/batches/{id}/outlines.pdf", h.of(h.outlines))
	look.Get("/batches/{id}/runs/{run}", h.take)
	look.Get("/batches/{id}/taken", h.of(h.taken))
	change := r.With(may(people.Change))
	change.Get("/batches/new", h.newPage)
	change.Post("/batches", h.create)
	change.Post("/batches/{id}/set", h.set)
	change.Post("/batches/{id}/fit", h.fit)
	change.Post("/batches/{id}/rows/{n}", h.mend)
	change.Post("/batches/{id}/rows/{n}/desk", h.desk)
	change.Post("/batches/{id}/drop", h.drop)
	change.Post("/batches/{id}/again", h.again)
	change.Post("/batches/{id}/undo", h.undo)
	change.Post("/batches/{id}/opens", h.opens)
	change.Post("/batches/{id}/retire", h.retire)
	change.Post("/batches/{id}/runs", h.start)
	change.Post("/batches/{id}/printed", h.of(h.printed))
	change.Post("/batches/{id}/links", h.links)
	change.Post("/batches/{id}/live", h.live)
	change.Post("/batches/{id}/runs/{run}/{act}", h.turn)
}

// List is the page of all batches.
type List struct {
	ui.Frame
	Batches   []Listed
	MayChange bool
}

// Listed is one of them.
type Listed struct {
	ID, Name, Kind, Campaign, Facts, Changed string
	Sorts                                    []Sort
}

// ListOf makes the lines of batches.
func ListOf(all []*batches.Batch, now time.Time) (out []Listed) {
	for _, b := range all {
		s := NewState(b, nil, 0, false, now)
		out = append(out, Listed{ID: b.ID, Name: b.Name, Kind: kindName(b.Plan.Kind()), Campaign: b.Campaign,
			Facts: s.Facts, Sorts: s.Sorts,
			Changed: ui.Ago(now, b.Changed)})
	}
	return out
}

func kindName(key string) string {
	if k := content.KindOf(key); k != nil {
		return k.Name
	}
	return ""
}

func (h *Handler) list(w http.ResponseWriter, r *http.Request) {
	all, err := h.Batches.List(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "batches", List{ui.FrameOf(r, "Batches", "batches"), ListOf(all, h.Codes.Now()),
		ui.May(r, people.Change)})
}

// maxLikes is how many codes are offered as a pattern.
const maxLikes = 60

// perPage is how many rows, and pictures, a page shows.
const perPage = 50

// asked is what the page shows: the request's own query, or that of the page from which something was done.
func asked(r *http.Request) url.Values {
	q := r.URL.Query()
	if at, err := url.Parse(r.Header.Get("HX-Current-URL")); err == nil && len(q) == 0 {
		q = at.Query()
	}
	return q
}

func filterOf(r *http.Request) batches.Filter {
	q := asked(r)
	after, _ := strconv.Atoi(q.Get("after"))
	version, _ := strconv.Atoi(q.Get("version"))
	return batches.Filter{State: q.Get("state"), Version: version, After: max(0, after), Limit: perPage + 1}
}

// view reads what the page shows.
func (h *Handler) view(r *http.Request, t typed) (v View, err error) {
	id, actor := chi.URLParam(r, "id"), ui.Actor(r)
	b, err := h.Batches.Get(r.Context(), actor, id)
	if err != nil {
		return v, err
	}
	first, err := h.Batches.Rows(r.Context(), actor, id, batches.Filter{Limit: 1})
	if err != nil {
		return v, err
	}
	house, _, err := h.House.Get(r.Context(), actor)
	if err != nil {
		return v, err
	}
	var one *batches.Row
	if len(first) > 0 {
		one = &first[0]
	}
	v = NewView(b, one, house, t)
	v.Frame = ui.FrameOf(r, b.Name, "batches")
	v.MayChange = ui.May(r, people.Change)
	own, printers, err := h.Batches.Sheets(r.Context(), actor)
	if err != nil {
		return v, err
	}
	v.keep(b, own, printers)
	if v.Campaigns, err = h.Codes.Campaigns(r.Context(), actor); err != nil {
		return v, err
	}
	waiting, err := h.Batches.Waiting(r.Context(), actor, id)
	if err != nil {
		return v, err
	}
	runs, err := h.Batches.Runs(r.Context(), actor, id)
	if err != nil {
		return v, err
	}
	v.State = NewState(b, runs, len(waiting), v.MayChange, h.Codes.Now())
	if v.Taken, err = h.takenOf(r, b.ID, Said{}); err != nil {
		return v, err
	}
	if width, ok, err := h.Batches.Fit(r.Context(), actor, id); err != nil {
		return v, err
	} else if ok {
		v.FitTo = strconv.FormatFloat(width, 'f', -1, 64) + " mm"
		if v.FitTo == v.Width.Text {
			v.FitTo = ""
		}
	}
	switch v.Show = asked(r).Get("show"); v.Show {
	case "pictures":
		err = h.pictures(r, &v, b)
	case "sheet":
		err = h.sheet(r, &v, b)
	default:
		v.Show = "rows"
	}
	if err == nil && v.Show != "sheet" {
		v.Table, err = h.table(r, b)
	}
	return v, err
}

// table reads a stretch of rows.
func (h *Handler) table(r *http.Request, b *batches.Batch) (t Table, err error) {
	f := filterOf(r)
	rows, err := h.Batches.Rows(r.Context(), ui.Actor(r), b.ID, f)
	if err != nil {
		return t, err
	}
	more := len(rows) > perPage
	rows = rows[:min(len(rows), perPage)]
	t = NewTable(b, rows, f, ui.May(r, people.Change))
	if more {
		t.Next = fmt.Sprintf("?state=%s&version=%d&after=%d", f.State, f.Version, rows[len(rows)-1].N)
	}
	if f.After > 0 {
		t.Prev = fmt.Sprintf("?state=%s&version=%d&after=%d", f.State, f.Version, max(0, f.After-perPage))
	}
	return t, nil
}

// pictures draws the codes of a stretch of rows.
func (h *Handler) pictures(r *http.Request, v *View, b *batches.Batch) error {
	f := filterOf(r)
	f.Limit = perPage
	drawn, err := h.Batches.Drawn(r.Context(), ui.Actor(r), b.ID, f)
	if err != nil {
		return err
	}
	verdicts := map[int]string{}
	for _, o := range b.Sorts {
		verdicts[o.Version] = o.Verdict
	}
	for _, d := range drawn {
		p := Picture{N: d.N, Name: d.Name, Verdict: verdicts[d.Version], Words: Words(verdicts[d.Version])}
		if d.Scene != nil {
			p.Drawing = template.HTML(svg.Inline(d.Scene, "QR code of "+d.Says, `class="symbol"`))
		}
		v.Pictures = append(v.Pictures, p)
	}
	return nil
}

// sheet draws one sheet as it prints.
func (h *Handler) sheet(r *http.Request, v *View, b *batches.Batch) error {
	n, _ := strconv.Atoi(asked(r).Get("n"))
	s, of, err := h.Batches.Sheet(r.Context(), ui.Actor(r), b.ID, max(0, n-1))
	if problems, is := code.IsProblem(err); is {
		v.Page = Page{Wrong: about(problems[0])}
		return nil
	}
	if err != nil {
		return err
	}
	n = min(max(1, n), max(1, of))
	v.Page = Page{N: n, Of: of, Words: fmt.Sprintf("Sheet %d of %d", n, of)}
	if s != nil {
		v.Page.Drawing = template.HTML(svg.Inline(s, v.Page.Words, `class="sheet-page"`))
	}
	if n > 1 {
		v.Page.Prev = n - 1
	}
	if n < of {
		v.Page.Next = n + 1
	}
	return nil
}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	h.show(w, r, "batch", typed{}, nil)
}

// show answers the page, or for an act what of it changes.
func (h *Handler) show(w http.ResponseWriter, r *http.Request, name string, t typed, with func(*View)) {
	v, err := h.view(r, t)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if with != nil {
		with(&v)
	}
	ui.Render(w, http.StatusOK, pages, name, v)
}

// takeFor is how long a download may go on.
const takeFor = 30 * time.Minute
