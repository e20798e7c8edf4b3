// Package ledger is the screen of all codes, with the field that takes a paste.
package ledger

import (
	"embed"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/recognise"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/handover"
	"sodrik/internal/housestyle"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/paste"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files, forms.Templates)

// Handler serves the screen.
type Handler struct {
	Store *code.Store
	House *housestyle.Store
	Links *link.Store
	Scans *scans.Store
	Door  *handover.Door
	// Batches are nil where there are none.
	Batches *batches.Store
}

// Routes mounts the screen.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Files)).Get("/codes", h.page)
	look := r.With(may(people.Look))
	look.Post("/find", h.find)
	look.Post("/paste/png", h.pastePNG)
	look.Get("/codes/{id}/peek", h.peek)
	look.Get("/batches/{id}/few", h.unfold)
	look.Get("/towns", h.towns)
	look.Get("/identifiers", h.identifiers)
	look.Post("/identifiers", h.identifiers)
	change := r.With(may(people.Change))
	change.Post("/codes", h.create)
	change.Post("/codes/file", h.openFile)
	change.Get("/codes/many", h.manyChoices)
	change.Post("/codes/many", h.many)
	change.Post("/codes/many/undo", h.takeBack)
	change.Post("/codes/many/files", h.manyFiles)
	change.Get("/new/of/{pattern}", h.newOf)
	change.Post("/new/of/{pattern}", h.fillOf)
	change.Post("/new/of/{pattern}/open", h.openOf)
	change.Get("/new/{kind}", h.newForm)
	change.Post("/new/{kind}", h.fillForm)
	change.Post("/new/{kind}/png", h.formPNG)
	change.Post("/new/{kind}/open", h.openForm)
	change.Post("/codes/{id}/duplicate", h.duplicate)
	change.Post("/codes/{id}/retire", h.setState(code.Retired))
	change.Post("/codes/{id}/restore", h.setState(code.Active))
}

// voucherLike is a word that may be a voucher rather than the name of a code: capitals and figures, with a figure among them.
var voucherLike = regexp.MustCompile(`^[A-Z0-9-]{0,20}[A-Z][A-Z0-9-]*\d[A-Z0-9-]{0,20}$`)

// view reads what the page shows for what was pasted or typed.
func (h *Handler) view(r *http.Request, p paste.Pasted, state string) (View, error) {
	var taken *paste.Taken
	var err error
	query, retired := p.Text, 0
	reading, read := p.Chosen()
	many := ui.May(r, people.Change) && state == code.Active && p.Asked < 0
	var table *Table
	if many && !(read && reading.Said) {
		if table = tableIn(r.Context(), p.Text); table == nil && read && p.Readings[0].Rows != "" {
			if table = tableIn(r.Context(), p.Readings[0].Rows); table != nil {
				table.Cards = true
			}
		}
		if table != nil { // the usual is in the look of the house
			house, _, err := h.House.Get(r.Context(), ui.Actor(r))
			if err != nil {
				return View{}, err
			}
			if len(house.Looks) > 0 {
				table.Look = house.Looks[0].Key
			}
		}
	}
	if read && !(reading.Weak && p.Asked < 0) || len(p.Bad) > 0 || table != nil {
		query = ""
	}
	after, err := markOf[code.Mark](r.FormValue("after"))
	if err != nil {
		return View{}, err
	}
	page, err := h.Store.Ledger(r.Context(), ui.Actor(r), state, query, after, pageRows)
	if err != nil {
		return View{}, err
	}
	// Words that find nothing may be meant as text.
	if read && (table == nil || table.Cards) && (query == "" || page.Codes == 0 &&
		(strings.ContainsAny(strings.TrimSpace(query), " \n") || voucherLike.MatchString(strings.TrimSpace(query)))) {
		if taken, err = h.taken(r, p, reading); err != nil {
			return View{}, err
		}
	}
	if state == code.Active && query == "" && after == nil {
		if retired, err = h.Store.CountOf(r.Context(), ui.Actor(r), code.Retired); err != nil {
			return View{}, err
		}
	}
	v := NewView(page, state, query, h.Store.Now())
	if err := h.heading(r, &v); err != nil {
		return View{}, err
	}
	v.Further = after != nil
	v.Continued = page.Continues && r.Header.Get("HX-Request") != ""
	v.Frame = ui.FrameOf(r, "Codes", "codes")
	v.Find, v.Live, v.MayChange = p.Text, true, ui.May(r, people.Change)
	v.Taken, v.Bad, v.RetiredCount, v.Table = taken, p.Bad, retired, table
	if err := h.batches(r, &v, query, state, after != nil); err != nil {
		return View{}, err
	}
	if p.Opens != "" && ui.May(r, people.Change) {
		base, err := h.Links.Base(r.Context(), ui.Actor(r))
		if err != nil {
			return v, err
		}
		if base != "" {
			v.Opens = p.Opens
		}
	}
	// A few words may be a text of their own, and the name of a beginning too.
	words := taken == nil || taken.Kind == "text" && query != ""
	if words && table == nil && v.MayChange && state == code.Active && len(p.Bad) == 0 {
		v.Outcomes = forms.Matching(query)
		if v.Links, err = h.links(r, query); err != nil {
			return View{}, err
		}
	}
	return v, nil
}

// heading says of rows that lead through short links where they lead.
func (h *Handler) heading(r *http.Request, v *View) error {
	var ids []string
	for _, g := range v.Groups {
		for _, row := range g.Rows {
			if row.Dynamic {
				ids = append(ids, row.ID)
			}
		}
	}
	if len(ids) == 0 {
		return nil
	}
	heads, err := h.Links.Heading(r.Context(), ui.Actor(r), ids)
	if err != nil {
		return err
	}
	counts, err := h.Scans.OfCodes(r.Context(), ui.Actor(r), ids)
	if err != nil {
		return err
	}
	for _, g := range v.Groups {
		for i := range g.Rows {
			row := &g.Rows[i]
			if row.Dynamic {
				row.Scans = measure.Count(int(counts[row.ID].All))
			}
			head, ok := heads[row.ID]
			if !ok {
				continue
			}
			row.Says = ui.Says(head.To)
			switch {
			case head.Resting:
				row.State += " · paused"
			case head.Changed:
				row.State += " · destination changed"
			}
			row.Soon = head.Soon
		}
	}
	return nil
}

// taken formats what a paste was taken for, and looks for a code that says the same.
func (h *Handler) taken(r *http.Request, p paste.Pasted, reading recognise.Reading) (t *paste.Taken, err error) {
	if t = paste.Take(p, reading); t.Rendition != nil {
		if t.ID, t.Name, _, err = h.Store.ByPayload(r.Context(), ui.Actor(r), t.Rendition.Payload); err != nil || t.ID != "" {
			return t, err
		}
		t.ID, t.Name, err = h.ofLink(r, t.Rendition.Payload)
	}
	return t, err
}

// ofLink finds the code whose short link an address is, or was; "" for none.
func (h *Handler) ofLink(r *http.Request, address string) (id, name string, err error) {
	a, bad := shortlink.Parse(address)
	if bad != nil {
		return "", "", nil
	}
	id, ok, err := h.Links.ByAddress(r.Context(), ui.Actor(r), a)
	if err != nil || !ok {
		return "", "", err
	}
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	if err != nil {
		return "", "", err
	}
	return id, c.Name(), nil
}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	if !ui.May(r, people.Look) {
		h.issued(w, r)
		return
	}
	state := code.Active
	if r.URL.Query().Get("state") == code.Retired {
		state = code.Retired
	}
	v, err := h.view(r, paste.Pasted{Asked: -1}, state)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if r.Header.Get("HX-Request") != "" { // further rows of the list
		ui.Render(w, http.StatusOK, pages, "groups", v)
		return
	}
	ui.Render(w, http.StatusOK, pages, "ledger", v)
}

// pageRows is how many rows the ledger shows at once; the next come as one scrolls to them.
const pageRows = 60

// markOf reads where a page of a list begins, nil for the beginning.
func markOf[T any](text string) (*T, error) {
	if text == "" {
		return nil, nil
	}
	var m T
	b, err := base64.RawURLEncoding.DecodeString(text)
	if err == nil {
		err = json.Unmarshal(b, &m)
	}
	if err != nil {
		return nil, problem.List{{Field: "/after", Code: "mark", Message: "is no place in the list; begin it again"}}
	}
	return &m, nil
}

// markText writes a place in a list for an address, "" for none.
func markText[T any](m *T) string {
	if m == nil {
		return ""
	}
	b, err := json.Marshal(m)
	if err != nil {
		panic(err) // made of texts and times
	}
	return base64.RawURLEncoding.EncodeToString(b)
}

// issued is what printers see: the newest issued version of each code, and nothing that has not been handed over.
func (h *Handler) issued(w http.ResponseWriter, r *http.Request) {
	after, err := markOf[code.IssuedMark](r.FormValue("after"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	rows, next, err := h.Store.IssuedList(r.Context(), ui.Actor(r), after, pageRows)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := NewIssuedView(ui.FrameOf(r, "Handed over", "codes"), rows, h.Store.Now())
	v.Next = markText(next)
	if r.Header.Get("HX-Request") != "" {
		ui.Render(w, http.StatusOK, pages, "issued-rows", v)
		return
	}
	ui.Render(w, http.StatusOK, pages, "issued-list", v)
}

// find answers what is pasted or typed: what it was taken for, and the codes that match. It takes a POST, since contents
// may hold a secret; nothing is created.
func (h *Handler) find(w http.ResponseWriter, r *http.Request) {
	v, err := h.view(r, paste.Of(r), code.Active)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	name := "ledger"
	switch htmx := r.Header.Get("HX-Request") != ""; {
	case htmx && v.Further:
		name = "groups"
	case htmx:
		name = "find"
	}
	ui.Render(w, http.StatusOK, pages, name, v)
}

func (h *Handler) pastePNG(w http.ResponseWriter, r *http.Request) {
	made, problems := paste.Of(r).Make()
	h.handPNG(w, r, made, problems)
}

// handPNG hands over the bare PNG of something that is no code of the workspace yet.
func (h *Handler) handPNG(w http.ResponseWriter, r *http.Request, made *compose.Rendition, problems problem.List) {
	if len(problems) > 0 {
		ui.Fail(w, r, problems)
		return
	}
	object := made.Job.Content.Summary().Object
	file, err := h.Store.File(r.Context(), made, compose.Format{Kind: "png"}, nil, export.Meta{Title: object})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attachment(w, export.FileName(object, 0, 0, "png"), file)
}

// create stores what was pasted and opens it on the desk.
func (h *Handler) create(w http.ResponseWriter, r *http.Request) {
	made, problems := paste.Of(r).Make()
	if len(problems) > 0 {
		ui.Fail(w, r, problems)
		return
	}
	h.open(w, r, made)
}

// openFile makes a code that opens a file.
func (h *Handler) openFile(w http.ResponseWriter, r *http.Request) {
	name, data, err := forms.File(r, leads.MaxServed)
	if err != nil {
		ui.Fail(w, r, problem.List{{Field: "/file", Code: "file",
			Message: fmt.Sprintf("was cut off on its way, or is larger than %d MB", leads.MaxServed>>20)}})
		return
	}
	id, err := h.Links.Open(r.Context(), ui.Actor(r), name, data)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
}

func (h *Handler) open(w http.ResponseWriter, r *http.Request, made *compose.Rendition) {
	id, err := h.Store.Create(r.Context(), ui.Actor(r), made, "")
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
}

func (h *Handler) peek(w http.ResponseWriter, r *http.Request) {
	c, err := h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	base, err := h.Links.Base(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "peek", NewPeek(c, base, ui.May(r, people.Change)))
}

func (h *Handler) duplicate(w http.ResponseWriter, r *http.Request) {
	id, err := h.Links.Duplicate(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
}

func (h *Handler) setState(state string) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if _, err := h.Store.SetStates(r.Context(), ui.Actor(r), []string{chi.URLParam(r, "id")}, state); err != nil {
			ui.Fail(w, r, err)
			return
		}
		http.Redirect(w, r, "/codes", http.StatusSeeOther)
	}
}
