// Package hosts is the page of an owner's settings for short links: the hosts that they stand on, each proved by a TXT record,
// and the hosts that they may lead to.
package hosts

import (
	"embed"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Handler serves the page.
type Handler struct {
	Links *link.Store
	Scans *scans.Store
}

// Routes mounts the page.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Manage)).Get("/hosts", h.page)
	r.With(may(people.Manage)).Post("/hosts", h.change)
	r.With(may(people.Manage)).Get("/moving", h.moving)
	r.With(may(people.Manage)).Post("/moving", h.moving)
}

// View is the page.
type View struct {
	ui.Frame
	Hosts        []Row
	Typed, Error string // of the host that is to be added
	Allowed      string
	AllowedError string
	Done         string
	Reports      []Report
}

// Report is what somebody said about a link.
type Report struct{ Link, Code, When, Words string }

// Row is a host.
type Row struct {
	link.Host
	Says          string // how it stands
	Bad           bool
	Record, Proof string // that is to be set; "" where nothing is
	Choosable     bool
	Removable     bool
	Until         string // it is registered, as the field holds it
}

func rowOf(h link.Host, token string, now time.Time) Row {
	r := Row{Host: h}
	switch {
	case h.Server:
		r.Says = "This server's own."
	case h.Missing != nil:
		r.Says, r.Bad = "Its TXT record is gone since "+day(*h.Missing)+". Links that hang go on; no new ones are drawn.", true
	case h.Proved != nil:
		r.Says = "Yours since " + day(*h.Proved) + "."
	default:
		r.Says = "Not proved yet."
	}
	if h.Asked != nil && !h.Server {
		r.Says += " Asked " + ui.Ago(now, *h.Asked) + "."
	}
	if h.Trouble != "" {
		r.Says, r.Bad = r.Says+" "+h.Trouble, true
	}
	if !h.Server && (h.Proved == nil || h.Missing != nil) {
		r.Record, r.Proof = shortlink.Record(h.Name), shortlink.Proof(token)
	}
	if h.Registered != nil {
		r.Until = h.Registered.Format(time.DateOnly)
	}
	r.Choosable, r.Removable = !h.Chosen && h.Usable(), !h.Server && h.Links == 0
	return r
}

func day(t time.Time) string { return t.Format("2 January 2006") }

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	h.show(w, r, http.StatusOK, View{Done: map[string]string{"allow": "Kept. It counts from the next destination on.",
		"remove": "Taken away.", "registered": "Noted. You are told a month before, where notices of hosts are on.", "choose": "New links are drawn there from now on."}[r.URL.Query().Get("done")]})
}

// show completes a view, which may hold what was typed and what was wrong with it.
func (h *Handler) show(w http.ResponseWriter, r *http.Request, status int, v View) {
	v.Frame = ui.FrameOf(r, "Short links", "person")
	list, token, err := h.Links.Hosts(r.Context(), ui.Actor(r))
	if err == nil && v.AllowedError == "" {
		var allowed []string
		allowed, err = h.Links.Allowed(r.Context(), ui.Actor(r))
		v.Allowed = strings.Join(allowed, "\n")
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	reports, err := h.Scans.Reports(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	for _, one := range reports {
		v.Reports = append(v.Reports, Report{one.Link, one.Code, ui.Ago(h.Links.Codes.Now(), one.At), one.Words})
	}
	for _, one := range list {
		v.Hosts = append(v.Hosts, rowOf(one, token, h.Links.Codes.Now()))
	}
	ui.Render(w, status, pages, "hosts", v)
}

// change does what one of the forms asks for.
func (h *Handler) change(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}})
		return
	}
	ctx, actor, host, act := r.Context(), ui.Actor(r), r.PostFormValue("host"), r.PostFormValue("act")
	err := error(code.ErrNotFound)
	switch act {
	case "add":
		_, err = h.Links.AddHost(ctx, actor, host)
	case "ask":
		err = h.Links.AskHost(ctx, actor, host)
	case "choose":
		err = h.Links.ChooseHost(ctx, actor, host)
	case "remove":
		err = h.Links.RemoveHost(ctx, actor, host)
	case "registered":
		err = h.Links.Registered(ctx, actor, host, r.PostFormValue("registered"))
	case "allow":
		err = h.Links.Allow(ctx, actor, r.PostFormValue("hosts"))
	}
	if problems, is := code.IsProblem(err); is {
		v := View{Typed: host, Error: "The host " + problems[0].Message + "."}
		if act == "registered" {
			v = View{Error: "Registered until: " + problems[0].Message + "."}
		}
		if act == "allow" {
			v = View{Allowed: r.PostFormValue("hosts"), AllowedError: "The list " + problems[0].Message + "."}
		}
		h.show(w, r, http.StatusUnprocessableEntity, v)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/hosts?done="+act, http.StatusSeeOther)
}
