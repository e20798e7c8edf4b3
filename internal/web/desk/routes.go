package desk

import (
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/route"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/web/desk/led"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// week is how far back scans are gone through again.
const week = 7 * 24 * time.Hour

// routes shows who is sent where.
func (h *Handler) routes(w http.ResponseWriter, r *http.Request) {
	c, l, ok := h.ledOf(w, r)
	if !ok {
		return
	}
	now := h.Store.Now()
	typed := map[string][]string{}
	if r.FormValue("open") != "" && r.Form.Has("to") || r.Form.Has("to-ios") {
		typed = r.Form
	}
	v := led.RoutesOf(c.ID, c.Rendition.Job, l, r.FormValue("open"), typed, zoneOf(r), !ui.May(r, people.Change), now)
	past, err := h.lastWeek(r, c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Counted(l, past)
	v.Asked = askedOf(r)
	v.If = led.What(l.Draft, v.Asked, now)
	if r.FormValue("open") == "copy" {
		if v.Others, err = h.others(r, c.ID); err != nil {
			ui.Fail(w, r, err)
			return
		}
	}
	ui.Render(w, http.StatusOK, pages, "routes", v)
}

// whatIf answers what somebody would get.
func (h *Handler) whatIf(w http.ResponseWriter, r *http.Request) {
	c, l, ok := h.ledOf(w, r)
	if !ok {
		return
	}
	v := led.Routes{ID: c.ID, Asked: askedOf(r), If: led.What(l.Draft, askedOf(r), h.Store.Now())}
	ui.Render(w, http.StatusOK, pages, "what-if", v)
}

// weekOf says what the draft would have made of last week's scans.
func (h *Handler) weekOf(w http.ResponseWriter, r *http.Request) {
	c, l, ok := h.ledOf(w, r)
	if !ok {
		return
	}
	past, err := h.lastWeek(r, c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	words := ""
	if l.Live != nil {
		words = led.WeekSays(l, l.Draft.Replay(l.Live.Lead, past))
	}
	ui.Render(w, http.StatusOK, pages, "week", words)
}

// ledOf reads a code that leads somewhere; ok is false where it was answered that there is none.
func (h *Handler) ledOf(w http.ResponseWriter, r *http.Request) (c *code.Code, l *link.Led, ok bool) {
	c, known := h.code(w, r)
	if !known {
		return nil, nil, false
	}
	l, err := h.Links.Of(r.Context(), ui.Actor(r), c)
	if err == nil && l == nil {
		err = code.ErrNotFound
	}
	if err != nil {
		ui.Fail(w, r, err)
		return nil, nil, false
	}
	return c, l, true
}

// lastWeek are the scans of the last week, as far as they are kept.
func (h *Handler) lastWeek(r *http.Request, c *code.Code) (out []leads.Past, err error) {
	var links []string
	for _, p := range link.Links(c.Rendition.Job) {
		links = append(links, p.Address.Host+"/"+p.Address.Path)
	}
	list, err := h.Scans.Askers(r.Context(), ui.Actor(r), links, h.Store.Now().Add(-week))
	for _, a := range list {
		out = append(out, leads.Past{Input: route.Input{At: a.At, Country: a.Country, Part: a.Part, Town: a.Town, Place: a.Place,
			Languages: a.Languages, System: a.System, Draw: a.Draw}, Kept: route.Kept{Who: !a.Bare, Draw: a.Draw > 0}})
	}
	return out, err
}

// askedOf is somebody who might scan, as the form has it.
func askedOf(r *http.Request) route.Asked {
	return route.Asked{Where: r.FormValue("if-where"), Languages: r.FormValue("if-languages"), System: r.FormValue("if-system"),
		Place: r.FormValue("if-place"), At: r.FormValue("if-at")}
}

// zoneOf is the time zone of the browser, which it tells in a cookie; UTC where it does not.
func zoneOf(r *http.Request) string {
	if c, err := r.Cookie("zone"); err == nil {
		if name, ok := content.ZoneNamed(c.Value); ok {
			return name
		}
	}
	return "UTC"
}

// others are the other codes that lead through a link.
func (h *Handler) others(r *http.Request, id string) (out []led.Other, err error) {
	list, err := h.Links.Others(r.Context(), ui.Actor(r))
	for _, o := range list {
		if o.ID != id {
			out = append(out, led.Other{ID: o.ID, Name: o.Name})
		}
	}
	return out, err
}

// routeEdit keeps a route as its form has it, or makes a new one.
func (h *Handler) routeEdit(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, err)
		return
	}
	id, region := chi.URLParam(r, "id"), ui.RegionOf(r.Header.Get("Accept-Language"))
	var l *link.Led
	var err error
	if r.PostForm.Has("to-ios") {
		l, err = h.Links.StartApp(r.Context(), ui.Actor(r), id, r.PostFormValue("to-ios"), r.PostFormValue("to-android"), region)
	} else {
		edits := map[string][]string{}
		for key, values := range r.PostForm {
			edits[key] = values
		}
		for _, key := range strings.Fields(r.PostFormValue("groups")) { // of which nothing may be ticked
			if edits[key] == nil {
				edits[key] = []string{}
			}
		}
		l, _, err = h.Links.EditRoute(r.Context(), ui.Actor(r), id, r.PostFormValue("route"), edits, region)
	}
	h.ofRoutes(w, r, l, err, true)
}

// routeAct moves a route, switches it, takes it out, mends what was found, or copies all of them.
func (h *Handler) routeAct(w http.ResponseWriter, r *http.Request) {
	id, rid, actor := chi.URLParam(r, "id"), r.FormValue("route"), ui.Actor(r)
	n, _ := strconv.Atoi(r.FormValue("n"))
	var l *link.Led
	var err error
	done := false
	switch chi.URLParam(r, "act") {
	case "move":
		l, err = h.Links.MoveRoute(r.Context(), actor, id, rid, n)
	case "off", "on":
		l, err = h.Links.SwitchRoute(r.Context(), actor, id, rid, chi.URLParam(r, "act") == "off")
	case "drop":
		done = true
		l, err = h.Links.DropRoute(r.Context(), actor, id, rid)
	case "fix":
		l, err = h.Links.FixRoute(r.Context(), actor, id, r.FormValue("finding"), n)
	case "copy":
		done = true
		var copied int
		if copied, err = h.Links.CopyRoutes(r.Context(), actor, id, r.Form["to"]); err == nil {
			w.Header().Set("HX-Trigger", `{"routes-done":"Copied to the drafts of `+codesOf(copied)+`."}`)
		}
	default:
		err = code.ErrNotFound
	}
	h.ofRoutes(w, r, l, err, done)
}

func codesOf(n int) string {
	if n == 1 {
		return "1 code"
	}
	return strconv.Itoa(n) + " codes"
}

// ofRoutes answers with the desk after a change of the routes, and has their view drawn again; done closes the form.
func (h *Handler) ofRoutes(w http.ResponseWriter, r *http.Request, l *link.Led, err error, done bool) {
	if problems, is := code.IsProblem(err); is && r.Header.Get("HX-Request") != "" {
		refuse(w, routeRefusals(problems))
		return
	}
	if err == nil && done && w.Header().Get("HX-Trigger") == "" {
		w.Header().Set("HX-Trigger", "routes-done")
	}
	h.ofLead(w, r, l, err)
}

// routeRefusals are what is wrong with a route, at its fields; what belongs to none stands at the destination.
func routeRefusals(problems problem.List) (out []refusal) {
	keys := append([]string{"to", "to-ios", "to-android", "timezone"}, keysOf(&route.Fields)...)
	for n := range route.MaxSpans {
		from, until := route.SpanKeys(n)
		keys = append(keys, from, until)
	}
	out = refusals(problems, keys, func(key string) string { return forms.ID("/route/" + key) })
	known := map[string]bool{}
	for _, k := range keys {
		known["/"+k] = true
	}
	for _, p := range problems {
		if !known[p.Field] {
			out = append(out, refusal{ID: "route-whole", Words: forms.Sentence(p)})
			return out
		}
	}
	return append(out, refusal{ID: "route-whole"})
}
