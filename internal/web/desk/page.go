package desk

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/people"
	"sodrik/internal/web/desk/sits"
	"sodrik/internal/web/desk/wears"
	"sodrik/internal/web/ui"
)

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
