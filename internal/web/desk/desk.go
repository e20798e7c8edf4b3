// Package desk is the screen on which one code is worked on.
package desk

import (
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/handover"
	"sodrik/internal/housestyle"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/web/desk/reads"
	"sodrik/internal/web/desk/sits"
	"sodrik/internal/web/desk/wears"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files, forms.Templates)

// Handler serves the screen.
type Handler struct {
	Store *code.Store
	House *housestyle.Store
	Links *link.Store    // of dynamic codes
	Scans *scans.Store   // of their links
	Door  *handover.Door // through which files leave
	// LinksAt is where short links can be tried on this machine, in place of their host; nil for nowhere else.
	LinksAt func(shortlink.Address) string
	// Members are the people of a workspace
	Members func(ctx context.Context, workspace string) ([]people.Member, error)
	// Follow answers short links as a phone would have them answered; nil where nothing does.
	Follow Follower
	// Base is the address of this server, for pictures that other pages show.
	Base string
	// Asked keeps what goes beyond the verdict (hard conditions, abuse, the range) until somebody asks for it.
	Asked bool
}

// Routes mounts the screen.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	files, look, change := r.With(may(people.Files)), r.With(may(people.Look)), r.With(may(people.Change))
	look.Get("/codes/{id}", h.page)
	change.Patch("/codes/{id}", h.edit)
	change.Post("/codes/{id}/campaign", h.setCampaign)
	change.Post("/codes/{id}/fix", h.fix)
	change.Post("/codes/{id}/link", h.link)
	change.Post("/codes/{id}/undo", h.turn(false))
	change.Get("/codes/{id}/undo", h.askTurn)
	change.Post("/codes/{id}/redo", h.turn(true))
	change.Post("/codes/{id}/turn", h.turnWay)
	change.Patch("/codes/{id}/lead", h.leadTo)
	change.Post("/codes/{id}/lead", h.lead)
	change.Post("/codes/{id}/lead/{act}", h.leadAct)
	look.Get("/codes/{id}/routes", h.routes)
	look.Get("/codes/{id}/routes/if", h.whatIf)
	look.Get("/codes/{id}/routes/week", h.weekOf)
	change.Post("/codes/{id}/routes", h.routeEdit)
	change.Post("/codes/{id}/routes/{act}", h.routeAct)
	change.Post("/codes/{id}/word", h.word)
	change.Post("/codes/{id}/lead/file", h.leadFile)
	change.Post("/codes/{id}/keeper", h.keeper)
	change.Post("/codes/{id}/hanging", h.hang)
	change.Post("/codes/{id}/places", h.addPlace)
	change.Post("/codes/{id}/places/remove", h.removePlace)
	look.Get("/codes/{id}/proof", h.proof)
	look.Get("/codes/{id}/damage", h.damage)
	look.Get("/codes/{id}/frames", h.frames)
	look.Get("/icons", h.icons)
	look.Get("/codes/{id}/looks", h.looks)
	look.Get("/codes/{id}/looks/verdict", h.lookVerdict)
	change.Post("/codes/{id}/look", h.wear)
	change.Post("/codes/{id}/looks", h.keepLook)
	look.Get("/codes/{id}/variations", h.variations)
	look.Get("/codes/{id}/variations/{seed}/{k}", h.variation)
	change.Post("/codes/{id}/try", h.try)
	change.Post("/codes/{id}/mark", h.upload)
	look.Get("/codes/{id}/issued", h.issued)
	look.Get("/codes/{id}/changes", h.changes)
	look.Get("/codes/{id}/history", h.history)
	look.Get("/codes/{id}/compare", h.compare)
	change.Post("/codes/{id}/return", h.goBack)
	look.Get("/codes/{id}/camera", h.camera)
	look.Get("/codes/{id}/proof-sheet", h.proofSheet)
	look.Get("/codes/{id}/phone", h.tryOn)
	change.Post("/codes/{id}/phone", h.tried)
	look.Get("/codes/{id}/print", h.checks)
	change.Post("/codes/{id}/print", h.check)
	look.Get("/codes/{id}/evidence", h.evidence)
	look.Get("/codes/{id}/evidence/{condition}", h.witness)
	look.Get("/codes/{id}/picture/{name}", h.picture)
	change.Post("/codes/{id}/ship", h.ship)
	change.Post("/codes/{id}/mail", h.mail)
	change.Post("/codes/{id}/printed", h.printed)
	change.Post("/codes/{id}/address", h.giveAddress)
	change.Post("/codes/{id}/address/remove", h.takeAddress)
	change.Post("/codes/{id}/show/{how}", h.show)
	r.Get("/shown/{token}", h.shown)
	r.Get("/shown/{token}/{name}", h.shownFile)
	look.Get("/codes/{id}/in-place", h.inPlace)
	look.Get("/codes/{id}/plates", h.plates)
	look.Get("/codes/{id}/artwork/{place}", h.artwork)
	change.Post("/codes/{id}/artwork", h.uploadArtwork)
	change.Post("/codes/{id}/artwork/page", h.turnPage)
	change.Post("/codes/{id}/move", h.move)
	change.Post("/codes/{id}/medium", h.keepMedium)
	look.Get("/codes/{id}/least", h.minWidth)
	files.Get("/codes/{id}/versions/{n}/{place}/print", h.printPage)
	files.Get("/codes/{id}/versions/{n}/{place}/screen", h.screenPage)
	files.Get("/codes/{id}/versions/{n}", h.version)
	files.Get("/codes/{id}/versions/{n}/{place}/{name}", h.versionFile)
}

// placeOf reads the current placement: the asked one, by its id or its index, else the first, −1 where there is none.
func placeOf(c *code.Code, asked string) int {
	n := len(c.Rendition.Job.Placements)
	if i := job.PlacementAt(c.Draft, asked); i >= 0 && i < n {
		return i
	}
	i, err := strconv.Atoi(asked)
	if err != nil || i < 0 || i >= n {
		return min(0, n-1)
	}
	return i
}

// placed reads the placement that a change is for. One that was taken away since is a problem, not another place.
func placed(c *code.Code, asked string) (int, error) {
	if _, err := strconv.Atoi(asked); err != nil && asked != "" && job.PlacementAt(c.Draft, asked) < 0 {
		return -1, problem.List{{Code: "place.gone", Message: "Nothing was changed: " + job.ErrGone.Error()}}
	}
	return placeOf(c, asked), nil
}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	v := NewView(c, placeOf(c, r.URL.Query().Get("place")))
	v.Frame, v.ReadOnly = ui.FrameOf(r, c.Name(), "codes"), !ui.May(r, people.Change)
	if err := h.since(r, c, &v); err != nil {
		ui.Fail(w, r, err)
		return
	}
	if v.Form.Kind == "url" && v.Campaign != "" {
		rows, err := h.Store.InCampaign(r.Context(), ui.Actor(r), v.Campaign)
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		v.OfCampaign(v.Campaign, v.ID, rows)
	}
	uploads, err := h.Store.Uploads(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Uploads = wears.UploadsOf(uploads)
	arts, err := h.Store.Artworks(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Artworks = sits.ArtworksOf(arts)
	v.HouseMarks = wears.HouseMarksOf(c.House, h.Store.Assets(r.Context(), ui.Actor(r)))
	if v.Campaigns, err = h.Store.Campaigns(r.Context(), ui.Actor(r)); err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "desk", v)
}

// answer gives what an edit changed, slot by slot; a plain form is led back to the desk.
func (h *Handler) answer(w http.ResponseWriter, r *http.Request, c *code.Code, err error) {
	h.answerWith(w, r, c, err, func(*View) {})
}

// answerWith adds to the view what only this answer tells.
func (h *Handler) answerWith(w http.ResponseWriter, r *http.Request, c *code.Code, err error, add func(*View)) {
	var clash *code.Conflict
	if errors.As(err, &clash) {
		h.answerClash(w, clash)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	here := fmt.Sprintf("/codes/%s?place=%d", c.ID, placeOf(c, r.FormValue("place")))
	if r.Header.Get("HX-Request") == "" { // a plain form
		http.Redirect(w, r, here, http.StatusSeeOther)
		return
	}
	if kind := r.FormValue("kind"); kind != "" && (kind == "dynamic") != dynamic(c) { // the ticket has other stubs now
		w.Header().Set("HX-Redirect", here)
		return
	}
	w.Header().Set("Sodrik-Revision", strconv.FormatInt(c.Rev, 10))
	w.Header().Set("Sodrik-Slots", "1")
	v := NewView(c, placeOf(c, r.FormValue("place")))
	path := r.FormValue("path")
	if r.FormValue("chosen") != "" { // between two values: the field has to show the one taken
		path = ""
	}
	v.Again = v.fieldsTouchedBy(path)
	if err = h.since(r, c, &v); err != nil {
		ui.Fail(w, r, err)
		return
	}
	add(&v)
	v.Shown = ui.ShownBy(r)
	ui.RenderSlots(w, pages, "changed", v, v.Shown)
}

// since says how the code differs from what is in print.
func (h *Handler) since(r *http.Request, c *code.Code, v *View) error {
	if err := h.afterwards(r, c, v); err != nil {
		return err
	}
	if err := h.led(r, c, v); err != nil {
		return err
	}
	list, err := h.Store.SinceIssue(r.Context(), ui.Actor(r), c)
	if err != nil {
		return err
	}
	for _, d := range list {
		v.Since = append(v.Since, d.String())
	}
	if c.SaysOtherwise() {
		printed, err := h.Store.Printed(r.Context(), ui.Actor(r), c)
		if err != nil || printed == nil {
			return err
		}
		v.Another = fmt.Sprintf("Version %d, handed over, says something else: %s", c.Issued.N,
			content.Shown(printed.Job.Content))
	}
	return nil
}

// changeOf is what a request says of its tab: which one, the how manieth change of it, and what it had seen. A form without a
// revision is not held against others.
func changeOf(r *http.Request) code.Change {
	seq, _ := strconv.ParseInt(r.FormValue("seq"), 10, 64)
	base, err := strconv.ParseInt(r.FormValue("base"), 10, 64)
	if err != nil {
		base = -1
	}
	return code.Change{Tab: tabOf(r), Seq: seq, Base: base}
}

// maxTab bounds the name that a browser gives a tab.
const maxTab = 40

func tabOf(r *http.Request) string {
	tab := r.FormValue("tab")
	return tab[:min(len(tab), maxTab)]
}

func (h *Handler) edit(w http.ResponseWriter, r *http.Request) {
	by := changeOf(r)
	c, err := h.Store.Edit(r.Context(), ui.Actor(r), chi.URLParam(r, "id"),
		code.Edit{Path: r.FormValue("path"), Place: r.FormValue("at"), Text: r.FormValue("text"), Tab: by.Tab, Seq: by.Seq,
			Base: by.Base})
	h.answer(w, r, c, err)
}

func (h *Handler) fix(w http.ResponseWriter, r *http.Request) {
	var p patch.Patch
	if err := json.Unmarshal([]byte(r.FormValue("patch")), &p); err != nil {
		ui.Fail(w, r, problem.List{{Code: "patch", Message: "the change was cut off on its way; try again"}})
		return
	}
	c, err := h.Store.Patch(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), p, changeOf(r).As(lowerFirst(r.FormValue("label"))))
	h.answer(w, r, c, err)
}

func lowerFirst(s string) string {
	if s == "" {
		return "a change"
	}
	return strings.ToLower(s[:1]) + s[1:]
}

func (h *Handler) turn(redo bool) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		do := h.Store.Undo
		if redo {
			do = h.Store.Redo
		}
		by := changeOf(r)
		rev, _ := strconv.ParseInt(r.FormValue("rev"), 10, 64)
		c, err := do(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), code.Turn{Rev: rev, Tab: by.Tab, Seq: by.Seq})
		if errors.Is(err, code.ErrNothing) {
			c, err = h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
		}
		h.answer(w, r, c, err)
	}
}

// TurnView is an edit of somebody else that can be undone, with what that would change.
type TurnView struct {
	ID, By, Words string
	Rev           int64
	Differences   []job.Difference
	Unmade        bool // what is left then cannot be made
}

// askTurn shows what taking back an edit of somebody else would change, before it is done.
func (h *Handler) askTurn(w http.ResponseWriter, r *http.Request) {
	rev, _ := strconv.ParseInt(r.FormValue("rev"), 10, 64)
	c, without, err := h.Store.Before(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), rev)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := TurnView{ID: c.ID, By: c.UndoBy, Words: c.Undo, Rev: rev, Unmade: without == nil}
	if without != nil {
		v.Differences = job.Differences(c.Rendition.Job, without.Job)
	}
	ui.Render(w, http.StatusOK, pages, "ask-turn", v)
}

// addPlace adds a placement of a medium's usual size, named after it.
func (h *Handler) addPlace(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	m, ok := c.House.Medium(r.FormValue("medium"))
	if !ok {
		m = place.Media[0]
	}
	if len(c.Rendition.Job.Placements) >= job.MaxPlacements {
		ui.Fail(w, r, problem.List{{Field: "/placements", Code: "job.Placements",
			Message: fmt.Sprintf("hold %d places already; a code has %d at most", len(c.Rendition.Job.Placements),
				job.MaxPlacements)}})
		return
	}
	value := map[string]any{"name": freeName(c, m.Name)}
	for key, v := range m.Habits() {
		if v != nil {
			value[key] = v
		}
	}
	own, err := h.Links.Own(r.Context(), ui.Actor(r), c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if own != "" {
		value["link"] = own
	}
	ops := patch.Patch{{Op: "add", Path: "/placements/-", Value: value}}
	n := 0
	if list, ok := patch.Get(c.Draft, "/placements"); !ok {
		ops = patch.Patch{{Op: "add", Path: "/placements", Value: []any{value}}}
	} else if l, ok := list.([]any); ok {
		n = len(l)
	}
	if _, err = h.Store.Patch(r.Context(), ui.Actor(r), id, ops, changeOf(r).As(m.Name+" added")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, fmt.Sprintf("/codes/%s?place=%d", id, n), http.StatusSeeOther)
}

func freeName(c *code.Code, name string) string {
	for i := 1; ; i++ {
		try := name
		if i > 1 {
			try = fmt.Sprintf("%s %d", name, i)
		}
		if !slices.ContainsFunc(c.Rendition.Job.Placements, func(p place.Placement) bool { return p.Name == try }) {
			return try
		}
	}
}

func (h *Handler) removePlace(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	i, known := -1, false
	if err == nil {
		if i = job.PlacementAt(c.Draft, r.FormValue("remove")); i < 0 {
			i, err = strconv.Atoi(r.FormValue("remove"))
		}
		known = err == nil && i >= 0 && i < len(c.Rendition.Job.Placements)
	}
	switch {
	case err == nil && known:
		p := patch.Patch{{Op: "remove", Path: fmt.Sprintf("/placements/%d", i)}}
		_, err = h.Store.Patch(r.Context(), ui.Actor(r), id, job.Guarded(c.Draft, "", p),
			changeOf(r).As(c.Rendition.Job.Placements[i].Name+" taken away"))
	case c != nil:
		err = problem.List{{Field: "/placements", Code: "place.gone", Message: "does not fit any more: " + job.ErrGone.Error()}}
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
}

// proof answers the remarks, or with set what a further set adds; it waits for the readers.
func (h *Handler) proof(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	upto, part := proof.Ordinary, "proved"
	if set := proof.Stage(r.URL.Query().Get("set")); slices.Contains(proof.Stages[1:], set) {
		upto, part = set, "further"
	}
	p, err := h.Store.Prove(r.Context(), ui.Actor(r), c.Rendition, i, upto)
	if err == nil {
		p, err = h.around(r, c, i, p)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := NewView(c, i)
	v.Proof = reads.RemarksOf(c, p, i)
	h.follow(r, c, i, &v.Proof.Handset)
	trials, err := h.Door.Records.Trials(r.Context(), ui.Actor(r), c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	checks, err := h.Door.Records.Checks(r.Context(), ui.Actor(r), c.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if lines := reads.CheckLines(checks); len(lines) > 0 {
		v.Proof.Checked = &lines[0]
	}
	v.Proof.Reask(p, r.URL.Query().Get("again"))
	v.Proof.Trials, v.Proof.Asked = reads.TrialLines(trials), h.Asked && part == "proved"
	v.Proof.Turned = part == "further" && slices.ContainsFunc(p.Findings, func(f proof.Finding) bool {
		// grades come with the first of what goes beyond the verdict
		return f.Code == "misread" || f.Code == "style.grade" && upto == proof.Hard
	})
	w.Header().Set("Sodrik-Revision", strconv.FormatInt(c.Rev, 10))
	ui.Render(w, http.StatusOK, pages, part, v)
}

// around adds to a proof what is known of the code outside its job.
func (h *Handler) around(r *http.Request, c *code.Code, i int, p *proof.Proof) (*proof.Proof, error) {
	context := proof.Context{Campaign: c.Campaign, House: c.House}
	if c.SaysOtherwise() {
		printed, err := h.Store.Printed(r.Context(), ui.Actor(r), c)
		if err != nil {
			return nil, err
		}
		if printed != nil {
			context.Printed, context.Version = printed.Payload, c.Issued.N
		}
	}
	return proof.Around(p, proof.Input{Payload: c.Rendition.For(c.Rendition.Place(i)).Payload, Content: c.Rendition.Job.Content,
		Look: c.Rendition.Job.Look}, context), nil
}

func (h *Handler) issued(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	v := NewView(c, placeOf(c, r.URL.Query().Get("place")))
	if err := h.led(r, c, &v); err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "issued-since", v)
}

// picture is the PNG that lies over the sheet, to be dragged out or saved by a right click. It is the draft, so that
// looking at it issues nothing.
func (h *Handler) picture(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	file, err := h.Store.File(r.Context(), c.Rendition, compose.Format{Kind: "png"}, nil,
		export.Meta{Title: c.Rendition.Title(i)})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "image/png")
	w.Header().Set("Cache-Control", "private, max-age=3600")
	w.Write(file)
}
