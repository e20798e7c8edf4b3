// Package batched is the screens of many codes made of rows: taking rows in, the batch with its ticket above a table of rows,
// its pictures and its sheets.
package batched

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"net/url"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/core/table"
	"sodrik/internal/housestyle"
	"sodrik/internal/people"
	"sodrik/internal/web/forms"
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
	look.Get("/batches/{id}/state", h.state)
	look.Get("/batches/{id}/rows", h.rows)
	look.Get("/batches/{id}/outlines.pdf", h.outlines)
	look.Get("/batches/{id}/runs/{run}", h.take)
	change := r.With(may(people.Change))
	change.Get("/batches/new", h.newPage)
	change.Post("/batches", h.create)
	change.Post("/batches/{id}/set", h.set)
	change.Post("/batches/{id}/fit", h.fit)
	change.Post("/batches/{id}/rows/{n}", h.mend)
	change.Post("/batches/{id}/rows/{n}/desk", h.desk)
	change.Post("/batches/{id}/drop", h.drop)
	change.Post("/batches/{id}/again", h.again)
	change.Post("/batches/{id}/opens", h.opens)
	change.Post("/batches/{id}/retire", h.retire)
	change.Post("/batches/{id}/runs", h.start)
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

// New is the form that takes rows in.
type New struct {
	ui.Frame
	Name, Campaign, Text, From, To string
	Likes, Looks                   []forms.Choice
	Campaigns                      []string
	Errors                         map[string]string
}

func (h *Handler) newPage(w http.ResponseWriter, r *http.Request) {
	h.form(w, r, http.StatusOK, New{Errors: map[string]string{}})
}

// maxLikes is how many codes are offered as a pattern.
const maxLikes = 60

func (h *Handler) form(w http.ResponseWriter, r *http.Request, status int, v New) {
	v.Frame = ui.FrameOf(r, "New batch", "batches")
	codes, _, err := h.Codes.Listed(r.Context(), ui.Actor(r), code.Active, "", code.Cursor{}, maxLikes)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	like := r.FormValue("like")
	for _, c := range codes {
		if c.Rendition != nil && c.Rendition.Job.Content.Kind() != "dynamic" {
			v.Likes = append(v.Likes, forms.Choice{Value: "code:" + c.ID, Words: c.Name(), On: like == "code:"+c.ID})
		}
	}
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	for _, l := range append(append([]style.Look{}, house.Looks...), style.Shipped...) {
		v.Looks = append(v.Looks, forms.Choice{Value: "look:" + l.Key, Words: l.Name, On: like == "look:"+l.Key})
	}
	if v.Campaigns, err = h.Codes.Campaigns(r.Context(), ui.Actor(r)); err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, status, pages, "batch-new", v)
}

// rowsOf reads the rows of a form: a file, what was pasted, or a range of numbers.
func rowsOf(r *http.Request) (rows *table.Rows, source string, err error) {
	name, data, err := forms.File(r, MaxFile)
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large) || len(data) > MaxFile:
		return nil, "", problem.List{{Field: "/rows", Code: "rows.large", Message: fmt.Sprintf(
			"are more than %d MB; split the file, or make the batch on the command line", MaxFile>>20)}}
	case err != nil && !errors.Is(err, http.ErrMissingFile) && !errors.Is(err, http.ErrNotMultipart):
		return nil, "", problem.List{{Field: "/rows", Code: "rows.cut", Message: "were cut off on their way; send them again"}}
	case len(data) > 0:
		rows, err = table.Open(bytes.NewReader(data), table.Options{})
		return rows, path.Base(name), err
	}
	if from, to := strings.TrimSpace(r.PostFormValue("from")), strings.TrimSpace(r.PostFormValue("to")); from != "" || to != "" {
		rows, err = table.Numbers(from, to)
		return rows, "", err
	}
	rows, err = table.Open(strings.NewReader(r.PostFormValue("text")), table.Options{})
	return rows, "", err
}

// create makes a batch of rows. What was typed stays where something is wrong.
func (h *Handler) create(w http.ResponseWriter, r *http.Request) {
	rows, source, err := rowsOf(r)
	v := New{Name: r.PostFormValue("name"), Campaign: r.PostFormValue("campaign"), Text: r.PostFormValue("text"),
		From: r.PostFormValue("from"), To: r.PostFormValue("to"), Errors: map[string]string{}}
	id := ""
	if err == nil {
		a := batches.Ask{Name: v.Name, Campaign: v.Campaign, Rows: rows, Source: source}
		if a.Name == "" {
			if a.Name = strings.TrimSuffix(source, path.Ext(source)); a.Name == "" {
				a.Name = "Batch of " + h.Codes.Now().Format("2 January 15:04")
			}
		}
		what, key, _ := strings.Cut(r.PostFormValue("like"), ":")
		switch what {
		case "code":
			a.Like = key
		case "look":
			a.Look = key
		}
		id, err = h.Batches.Create(r.Context(), ui.Actor(r), a)
	}
	if problems, is := code.IsProblem(err); is {
		for _, p := range problems {
			v.Errors[strings.TrimPrefix(p.Field, "/")] = about(p)
		}
		h.form(w, r, http.StatusUnprocessableEntity, v)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/batches/"+id, http.StatusSeeOther)
}

// about is a problem of rows as a sentence.
func about(p problem.Problem) string {
	subject := map[string]string{"/rows": "The rows ", "/from": "The first number ", "/to": "The last number ",
		"/name": "The name ",
		"/like": "The pattern ", "/campaign": "The campaign ", "/key": "The key ",
		"/links": "Short links ", "/file": "The zip "}[p.Field]
	if subject == "" {
		return forms.Sentence(p)
	}
	return subject + p.Message + "."
}

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

// acted answers what came of an act; problems stand at their field, and what was typed stays.
func (h *Handler) acted(w http.ResponseWriter, r *http.Request, err error, at, text, done string) {
	t := typed{}
	if problems, is := code.IsProblem(err); is {
		t = typed{at, text, about(problems[0])}
		if at == "" {
			t.path = problems[0].Field
		}
		err = nil
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if r.Header.Get("HX-Request") == "" && t.wrong == "" {
		http.Redirect(w, r, "/batches/"+chi.URLParam(r, "id"), http.StatusSeeOther)
		return
	}
	name := "batch-body"
	if r.Header.Get("HX-Request") == "" {
		name = "batch"
	}
	h.show(w, r, name, t, func(v *View) {
		if t.wrong == "" {
			v.Done = done
		}
	})
}

func (h *Handler) set(w http.ResponseWriter, r *http.Request) {
	at, text := r.PostFormValue("path"), r.PostFormValue("text")
	if at == "/formats" {
		text = strings.Join(r.PostForm["format"], " ")
	}
	h.acted(w, r, h.Batches.Set(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), at, text), at, text, "")
}

// fit makes the codes as large as their labels allow.
func (h *Handler) fit(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	width, ok, err := h.Batches.Fit(r.Context(), ui.Actor(r), id)
	if err == nil && ok {
		err = h.Batches.Set(r.Context(), ui.Actor(r), id, "/job/placements/0/width_mm", strconv.FormatFloat(width, 'f', -1, 64))
	}
	h.acted(w, r, err, "", "", "")
}

func number(r *http.Request) int {
	n, _ := strconv.Atoi(chi.URLParam(r, "n"))
	return n
}

// mend writes into a cell.
func (h *Handler) mend(w http.ResponseWriter, r *http.Request) {
	h.acted(w, r, h.Batches.Mend(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), number(r), r.PostFormValue("path"),
		r.PostFormValue("text")), "", "", "")
}

// desk gives a row a desk of its own and goes there.
func (h *Handler) desk(w http.ResponseWriter, r *http.Request) {
	id, err := h.Batches.ToDesk(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), number(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
}

func (h *Handler) drop(w http.ResponseWriter, r *http.Request) {
	n, err := h.Batches.Drop(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), nil)
	h.acted(w, r, err, "", "", rowsOut(n))
}

func rowsOut(n int) string {
	if n == 1 {
		return "1 row taken out."
	}
	return fmt.Sprintf("%d rows taken out.", n)
}

// again takes the same table in again.
func (h *Handler) again(w http.ResponseWriter, r *http.Request) {
	rows, _, err := rowsOf(r)
	var u batches.Updated
	if err == nil {
		u, err = h.Batches.Update(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), rows)
	}
	h.acted(w, r, err, "", "", u.String()+".")
}

// opens has each row open its own file of a zip.
func (h *Handler) opens(w http.ResponseWriter, r *http.Request) {
	_, data, err := forms.File(r, MaxFile)
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large) || len(data) > MaxFile:
		err = problem.List{{Field: "/file", Code: "file.large", Message: fmt.Sprintf("is more than %d MB; take the files in several zips", MaxFile>>20)}}
	case errors.Is(err, http.ErrMissingFile), errors.Is(err, http.ErrNotMultipart):
		err = problem.List{{Field: "/file", Code: "file.none", Message: "is missing; choose one"}}
	}
	var o batches.Opened
	if err == nil {
		o, err = h.Batches.Open(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), data)
	}
	h.acted(w, r, err, "", "", o.String()+".")
}

func (h *Handler) retire(w http.ResponseWriter, r *http.Request) {
	if err := h.Batches.Retire(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), r.PostFormValue("back") == ""); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/batches", http.StatusSeeOther)
}

// links has every row lead through a short link of its own.
func (h *Handler) links(w http.ResponseWriter, r *http.Request) {
	h.acted(w, r, h.Batches.Lead(r.Context(), ui.Actor(r), chi.URLParam(r, "id")), "", "", "")
}

// live has all links lead where the rows say.
func (h *Handler) live(w http.ResponseWriter, r *http.Request) {
	n, err := h.Batches.MakeLive(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	h.acted(w, r, err, "", "", measure.Plural(n, "destination")+" made live.")
}

func (h *Handler) start(w http.ResponseWriter, r *http.Request) {
	_, err := h.Batches.Start(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), r.PostFormValue("as"))
	h.acted(w, r, err, "", "", "")
}

func (h *Handler) turn(w http.ResponseWriter, r *http.Request) {
	run, err := chi.URLParam(r, "run"), error(nil)
	switch chi.URLParam(r, "act") {
	case "stop":
		err = h.Batches.Stop(r.Context(), ui.Actor(r), run)
	case "go":
		err = h.Batches.Continue(r.Context(), ui.Actor(r), run)
	default:
		err = code.ErrNotFound
	}
	h.acted(w, r, err, "", "", "")
}

// state answers how far the batch is; once nothing is under way, the table is read again.
func (h *Handler) state(w http.ResponseWriter, r *http.Request) {
	b, err := h.Batches.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	runs, err := h.Batches.Runs(r.Context(), ui.Actor(r), b.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	waiting, err := h.Batches.Waiting(r.Context(), ui.Actor(r), b.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	s := NewState(b, runs, len(waiting), ui.May(r, people.Change), h.Codes.Now())
	if !s.Busy {
		w.Header().Set("HX-Trigger", "batch-made")
	}
	ui.Render(w, http.StatusOK, pages, "batch-state", s)
}

// rows answers a stretch of the table.
func (h *Handler) rows(w http.ResponseWriter, r *http.Request) {
	b, err := h.Batches.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	t, err := h.table(r, b)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "batch-table", t)
}

// outlines is a sheet with the edges of its labels, to be held against the real one.
func (h *Handler) outlines(w http.ResponseWriter, r *http.Request) {
	b, err := h.Batches.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attachment(w, export.Slug(b.Name)+"-outlines.pdf", pdf.Encode(b.Setting().Outlines(),
		export.Meta{Title: b.Name + ", outlines"}))
}

// takeFor is how long a download may go on.
const takeFor = 30 * time.Minute

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
