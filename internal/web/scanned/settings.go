package scanned

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strconv"

	"sodrik/internal/code"
	"sodrik/internal/core/measure"
	"sodrik/internal/notices"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

// Settings is the page of what is told, kept and shown to others.
type Settings struct {
	ui.Frame
	Done        string
	Choices     []notices.Choice
	NobodyAsked bool // the operator lets nobody be asked
	Months      string
	MonthsError string
	Keeping     string
	Deletions   []Deletion
	Shares      []Share
	Key         string // with which servers sign; "" for none
	Host        string // of short links
}

// Deletion is one of events, as it is told.
type Deletion struct{ Before, N, When string }

// Share is an overview that others see.
type Share struct{ Token, Title, Address, Until, Who string }

func (h *Handler) settings(w http.ResponseWriter, r *http.Request) {
	h.showSettings(
		w,
		r,
		http.StatusOK,
		Settings{
			Done: map[string]string{"told": "Kept.", "key": "A new key is made. What is signed with another counts no longer.", "months": "Kept. Events that are older go within a day.",
				"withdrawn": "Withdrawn. The address shows nothing any more."}[r.FormValue("done")],
		},
	)
}

func (h *Handler) showSettings(w http.ResponseWriter, r *http.Request, status int, v Settings) {
	ctx, actor, now := r.Context(), ui.Actor(r), h.Codes.Now()
	v.Frame = ui.FrameOf(r, "Scans, settings", "scans")
	v.NobodyAsked = h.Notices.Outside == nil
	var err error
	if v.Choices, err = h.Notices.Choices(ctx, actor); err != nil {
		ui.Fail(w, r, err)
		return
	}
	k, err := h.Scans.Keeping(ctx, actor)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.keeping(k)
	for _, d := range k.Deletions {
		v.Deletions = append(v.Deletions, Deletion{d.Before.Format("2 January 2006"), measure.Count(int(d.N)), ui.Ago(now, d.At)})
	}
	shares, err := h.Scans.Shares(ctx, actor)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	for _, s := range shares {
		v.Shares = append(v.Shares, Share{s.Token, s.Title, h.Base + "/overview/" + url.PathEscape(s.Token),
			s.Until.Format("2 January 2006"), s.Who})
	}
	if v.Key, err = h.Links.GoalKey(ctx, actor); err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Host = h.Links.Host
	ui.Render(w, status, pages, "scans-settings", v)
}

func (v *Settings) keeping(k scans.Keeping) {
	if k.Months > 0 && v.MonthsError == "" {
		v.Months = strconv.Itoa(k.Months)
	}
	if k.Oldest.IsZero() {
		v.Keeping = "No scan is kept."
		return
	}
	v.Keeping = fmt.Sprintf("The oldest scan that is kept is of %s.", k.Oldest.UTC().Format("2 January 2006"))
}

// change does what a form of the settings asks for.
func (h *Handler) change(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, err)
		return
	}
	ctx, actor, done := r.Context(), ui.Actor(r), r.PostFormValue("act")
	err := error(code.ErrNotFound)
	switch done {
	case "told":
		err = h.Notices.Choose(ctx, actor, r.PostForm["told"])
	case "key":
		err = h.Links.MakeGoalKey(ctx, actor)
	case "months":
		err = h.Scans.Keep(ctx, actor, r.PostFormValue("months"))
	}
	if problems, is := code.IsProblem(err); is && done == "months" {
		h.showSettings(w, r, http.StatusUnprocessableEntity, Settings{Months: r.PostFormValue("months"),
			MonthsError: "The number of months: " + problems[0].Message + "."})
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/scans/settings?done="+done, http.StatusSeeOther)
}

// putAway has a notice seen.
func (h *Handler) putAway(w http.ResponseWriter, r *http.Request) {
	if err := h.Notices.PutAway(r.Context(), ui.Actor(r), r.FormValue("key")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	if r.Header.Get("HX-Request") != "" {
		w.WriteHeader(http.StatusOK) // what takes its place is nothing
		return
	}
	http.Redirect(w, r, "/scans", http.StatusSeeOther)
}

// Phones are those of made-up people, in the demonstration.
type Phones interface {
	Towns() []string
	Systems() []string
	Scan(ctx context.Context, link, town, language, system string) error
}

// madeUpLanguages are those that made-up phones can speak.
var madeUpLanguages = []Choice{
	{Value: "en-GB,en", Words: "English"},
	{Value: "cy,en-GB", Words: "Welsh"},
	{Value: "pl,en", Words: "Polish"},
	{Value: "fr", Words: "French"},
}

// scan has a made-up phone scan a place.
func (h *Handler) scan(w http.ResponseWriter, r *http.Request) {
	if h.Phones == nil {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	live, err := h.Links.Live(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	for _, l := range live { // nothing but this house's own links
		if l.Host+"/"+l.Path == r.FormValue("link") {
			if err := h.Phones.Scan(r.Context(), r.FormValue("link"), r.FormValue("town"), r.FormValue("language"),
				r.FormValue("system")); err != nil {
				ui.Fail(w, r, err)
				return
			}
			if r.Header.Get("HX-Request") == "" {
				http.Redirect(w, r, "/scans", http.StatusSeeOther)
				return
			}
			ui.Render(w, http.StatusOK, pages, "scanned-one", r.FormValue("town"))
			return
		}
	}
	ui.Fail(w, r, code.ErrNotFound)
}
