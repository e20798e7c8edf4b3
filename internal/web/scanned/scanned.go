// Package scanned is the page of scans: one sentence, the printed places as rows on one common time rule, what they were sent
// to, and places side by side. What may be said of counts is core/tally's matter.
package scanned

import (
	"embed"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"
	"golang.org/x/sync/errgroup"

	"sodrik/internal/code"
	"sodrik/internal/core/caught"
	"sodrik/internal/link"
	"sodrik/internal/notices"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Handler serves the page.
type Handler struct {
	Codes   *code.Store
	Links   *link.Store
	Scans   *scans.Store
	Notices *notices.Store
	Base    string // of this server's addresses
	Phones  Phones // of made-up people; nil but in the demonstration

	ends  sync.Once     // has streams end with the server
	ended chan struct{} // closed once it is to end
}

// Routes mounts the page.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Look)).Get("/scans", h.page)
	for _, kind := range []string{"csv", "json"} {
		r.With(may(people.Look)).Get("/scans/days."+kind, h.download(h.days, "scans", kind))
		r.With(may(people.Look)).Get("/scans/events."+kind, h.download(h.events, "events", kind))
	}
	r.With(may(people.Look)).Get("/scans/now", h.now)
	r.With(may(people.Look)).Get("/codes/{id}/scans", h.desk)
	r.With(may(people.Look)).Get("/scans/overview", h.overview)
	r.With(may(people.Look)).Get("/scans/overview.pdf", h.overviewPDF)
	r.With(may(people.Change)).Post("/scans/overview", h.share)
	r.With(may(people.Change)).Post("/scans/overview/withdraw", h.withdraw)
	r.Get("/overview/{token}", h.shared(false))
	r.Get("/overview/{token}/pdf", h.shared(true))
	r.With(may(people.Manage)).Get("/scans/settings", h.settings)
	r.With(may(people.Manage)).Post("/scans/settings", h.change)
	r.With(may(people.Change)).Post("/scans/notices", h.putAway)
	if h.Phones != nil {
		r.With(may(people.Look)).Post("/scans/phones", h.scan)
	}
}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	v, err := h.view(r)
	if err == nil {
		v.Frame = ui.FrameOf(r, "Scans", "scans")
		v.Now, err = h.nowOf(r, v.asked.span.Zone)
	}
	if err == nil {
		v.MayChange = ui.May(r, people.Change)
		err = h.tell(r, &v)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "scanned", v)
}

// tell adds the notices that hold, but those that the page says anyway, and the made-up phones.
func (h *Handler) tell(r *http.Request, v *View) error {
	list, err := h.Notices.List(r.Context(), ui.Actor(r))
	for _, n := range list {
		said := n.Kind == "silent" && slices.ContainsFunc(v.Silent, func(s Silence) bool { return s.Link == n.Link })
		if !said {
			v.Notices = append(v.Notices, n)
		}
	}
	if h.Phones != nil && v.asked.by == "place" {
		v.Towns, v.Systems, v.Languages = h.Phones.Towns(), h.Phones.Systems(), madeUpLanguages
	}
	return err
}

// desk is the view of a code's desk.
func (h *Handler) desk(w http.ResponseWriter, r *http.Request) {
	if _, err := h.Codes.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	r.Form = url.Values{"code": {chi.URLParam(r, "id")}}
	v, err := h.view(r)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "scans-desk", v)
}

// view is what a request asks for.
func (h *Handler) view(r *http.Request) (v View, err error) {
	a := askedOf(r, h.Codes.Now())
	every, p, err := h.every(r, a)
	if err != nil {
		return v, err
	}
	var parts scans.Parts
	group := errgroup.Group{}
	group.Go(caught.Safe(func() (err error) {
		parts, err = h.Scans.Parts(r.Context(), ui.Actor(r), p.scope, a.span)
		return err
	}))
	shown, err := h.ranked(r, a, every, p)
	if err := errors.Join(err, group.Wait()); err != nil {
		return v, err
	}
	p = shown
	v = newView(a, p, h.Codes.Now())
	v.apart(parts.Apart)
	for i := range v.Rows {
		if v.Rows[i].Open {
			if err := h.unfold(r, a, p.list[i], &v.Rows[i]); err != nil {
				return v, err
			}
		}
	}
	if v.All != nil && v.All.Open {
		week, err := h.Scans.Hours(r.Context(), ui.Actor(r), scans.Which{Codes: p.codes}, a.span)
		if err != nil {
			return v, err
		}
		v.All.unfolded(parts, week, a.span)
		reached, err := h.Scans.Reached(r.Context(), ui.Actor(r), scans.Which{Codes: p.codes}, a.span)
		if err != nil {
			return v, err
		}
		v.All.reached(reached)
	}
	return v, nil
}

// unfold fills in what is known of the scans of a row.
func (h *Handler) unfold(r *http.Request, a asked, p place, row *Row) error {
	actor := ui.Actor(r)
	group, ctx := errgroup.WithContext(r.Context())
	var parts scans.Parts
	var week scans.Week
	var versions []link.Version
	var led []int
	var reached []scans.Reached
	group.Go(caught.Safe(func() (err error) {
		parts, err = h.Scans.Parts(ctx, actor, p.scope(), a.span)
		return err
	}))
	group.Go(caught.Safe(func() (err error) {
		week, err = h.Scans.Hours(ctx, actor, scans.Which{Links: p.links}, a.span)
		return err
	}))
	group.Go(caught.Safe(func() (err error) {
		if versions, err = h.Links.Led(ctx, actor, p.Live.Code); err != nil {
			return err
		}
		var at []time.Time
		for _, v := range versions {
			at = append(at, v.At)
		}
		led, err = h.Scans.Led(ctx, actor, p.links, at, a.span)
		return err
	}))
	group.Go(caught.Safe(func() (err error) {
		reached, err = h.Scans.Reached(ctx, actor, scans.Which{Links: p.links}, a.span)
		return err
	}))
	if err := group.Wait(); err != nil {
		return err
	}
	row.unfolded(parts, week, a.span)
	row.ledTo(versions, led, a.span.Zone)
	row.reached(reached)
	return nil
}
