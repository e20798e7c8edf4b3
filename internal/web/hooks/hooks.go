// Package hooks is the page of webhooks: addresses that are told what happens, and the log of calls.
package hooks

import (
	"embed"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/webhook"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
	"sodrik/internal/webhooks"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Handler serves the page.
type Handler struct{ Webhooks *webhooks.Store }

// Routes mounts the page.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Manage)).Get("/webhooks", h.page)
	r.With(may(people.Manage)).Post("/webhooks", h.change)
}

// View is the page.
type View struct {
	ui.Frame
	Hooks  []Row
	Calls  []Line
	Of     string // the webhook whose calls are shown, "" for all
	Moving bool   // some call is under way
	Kinds  []Choice
	Typed  string // address that is to be added
	Wrong  problem.List
	Done   string
}

// At says what is wrong with a field, "" where nothing is.
func (v View) At(field string) string {
	list := v.Wrong.At(field)
	if len(list) == 0 {
		return ""
	}
	what := map[string]string{"/address": "The address ", "/kinds": "What is told: ", "/call": "The call ",
		"/webhook": "The webhook "}[field]
	return what + list[0].Message + "."
}

// Row is a webhook.
type Row struct {
	*webhooks.Hook
	Told string // of what
	Says string // how it stands
	Bad  bool
}

// Choice is a kind that can be chosen.
type Choice struct {
	webhook.Kind
	Chosen bool
}

// Line is a call in the log.
type Line struct {
	webhooks.Call
	Told, Address, When, Words string
	Again                      bool
}

// soon is within what time a call is awaited on the page.
const soon = 15 * time.Second

// done says what was done.
var done = map[string]string{"add": "The address is told from now on. Try it with a test.", "remove": "Taken away.",
	"pause": "Paused. Nothing is sent, and nothing is kept for later.", "resume": "It is told again, from now on.",
	"renew": "A new key signs from now on; the one before signs beside it for a day.", "test": "A test is on its way.",
	"again": "The call is made once more."}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	h.show(w, r, http.StatusOK, View{Done: done[r.URL.Query().Get("done")]}, nil)
}

// show completes a view, which may hold what was typed and what was wrong with it.
func (h *Handler) show(w http.ResponseWriter, r *http.Request, status int, v View, chosen []string) {
	v.Frame, v.Of = ui.FrameOf(r, "Webhooks", "person"), r.URL.Query().Get("of")
	list, err := h.Webhooks.List(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	calls, err := h.Webhooks.Calls(r.Context(), ui.Actor(r), v.Of)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	now := h.Webhooks.Now()
	by := map[string]*webhooks.Hook{}
	for _, one := range list {
		by[one.ID] = one
		v.Hooks = append(v.Hooks, rowOf(one, now))
	}
	for _, c := range calls {
		l := lineOf(c, by[c.Hook], now)
		v.Moving = v.Moving || c.State == webhooks.Waiting && !by[c.Hook].Lost && (c.Next == nil || c.Next.Before(now.Add(soon)))
		v.Calls = append(v.Calls, l)
	}
	for _, k := range webhook.Kinds {
		if webhook.Chosen(k.Name) {
			v.Kinds = append(v.Kinds, Choice{k, slices.Contains(chosen, k.Name)})
		}
	}
	ui.Render(w, status, pages, "webhooks", v)
}

func rowOf(h *webhooks.Hook, now time.Time) Row {
	r := Row{Hook: h, Says: "It takes what it is told."}
	var told []string
	for _, k := range webhook.Kinds { // in their order
		if slices.Contains(h.Kinds, k.Name) {
			told = append(told, k.Words)
		}
	}
	r.Told = strings.Join(told, ". ") + "."
	switch {
	case h.Lost:
		r.Says, r.Bad = "It "+webhooks.LostWords+".", true
	case h.Paused != nil:
		r.Says, r.Bad = strings.TrimSpace("Paused since "+h.Paused.Format("2 January, 15:04 UTC")+". "+h.PausedWhy),
			h.PausedWhy != ""
	case h.Failing != nil:
		r.Says, r.Bad = "It took nothing since "+h.Failing.Format("2 January, 15:04 UTC")+". Calls are made again for three days.", true
	}
	return r
}

func lineOf(c webhooks.Call, h *webhooks.Hook, now time.Time) Line {
	l := Line{Call: c, Told: webhook.Named(c.Kind).Words, When: ui.Ago(now, c.At),
		Again: c.State != webhooks.Waiting && h.Paused == nil && !h.Lost, Address: h.Address}
	took := measure.Count(max(1, int(c.Took.Milliseconds()))) + " ms"
	switch {
	case c.State == webhooks.Taken:
		l.Words = fmt.Sprintf("It answered %d within %s.", c.Status, took)
	case h.Lost && c.State == webhooks.Waiting:
		l.Words, l.Trouble = "It cannot be made: the webhook does not open any more.", "is lost"
	case c.Tries == 0 && c.State == webhooks.Waiting:
		l.Words = "On its way."
	case c.State == webhooks.Waiting:
		l.Words = fmt.Sprintf("It %s. The next call is made at %s.", c.Trouble, c.Next.UTC().Format("15:04 UTC, 2 January"))
	default:
		l.Words = fmt.Sprintf("It %s. Given up.", c.Trouble)
	}
	if c.Tries > 1 {
		l.Words = fmt.Sprintf("Call %d: i%s", c.Tries, l.Words[1:])
	}
	return l
}

// change does what one of the forms asks for.
func (h *Handler) change(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}})
		return
	}
	ctx, actor, id, act := r.Context(), ui.Actor(r), r.PostFormValue("id"), r.PostFormValue("act")
	err := error(webhooks.ErrNotFound)
	switch act {
	case "add":
		_, err = h.Webhooks.Add(ctx, actor, r.PostFormValue("address"), r.PostForm["told"])
	case "test":
		err = h.Webhooks.Try(ctx, actor, id)
	case "renew":
		err = h.Webhooks.Renew(ctx, actor, id)
	case "pause":
		err = h.Webhooks.Pause(ctx, actor, id)
	case "resume":
		err = h.Webhooks.Resume(ctx, actor, id)
	case "remove":
		err = h.Webhooks.Remove(ctx, actor, id)
	case "again":
		err = h.Webhooks.Again(ctx, actor, r.PostFormValue("call"))
	}
	if problems, is := code.IsProblem(err); is {
		h.show(w, r, http.StatusUnprocessableEntity, View{Typed: r.PostFormValue("address"), Wrong: problems}, r.PostForm["told"])
		return
	}
	if errors.Is(err, webhooks.ErrNotFound) {
		err = code.ErrNotFound
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/webhooks?done="+act, http.StatusSeeOther)
}
