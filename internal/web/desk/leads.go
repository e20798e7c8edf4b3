package desk

import (
	"context"
	"fmt"
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
	"sodrik/internal/core/schema"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/link"
	"sodrik/internal/scans"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/led"
	"sodrik/internal/web/desk/reads"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// led adds where a code leads, and the two ways in which it can say so.
func (h *Handler) led(r *http.Request, c *code.Code, v *View) error {
	l, err := h.Links.Of(r.Context(), ui.Actor(r), c)
	if err != nil {
		return err
	}
	b := bound.Code{C: c, Place: v.Place}
	var counted map[string]scans.Count
	if l != nil && l.Live != nil {
		if counted, err = h.Scans.OfCode(r.Context(), ui.Actor(r), c.ID); err != nil {
			return err
		}
	}
	v.Leads = led.Of(b, l, counted, h.Store.Now(), h.LinksAt)
	if err := h.keepers(r, l, &v.Leads); err != nil {
		return err
	}
	if l != nil {
		noted, err := h.Links.HangingsOf(r.Context(), ui.Actor(r), c.ID)
		if err != nil {
			return err
		}
		v.Leads.Hang(noted)
	}
	for _, p := range link.Links(c.Rendition.Job) {
		if v.Leads.Waiting && h.Links.OnServer(p.Address.Host) {
			v.Leads.Depends = p.Address.Host
		}
	}
	var to content.Content
	if l != nil {
		to = l.Draft.To
	}
	base, err := h.Links.Base(r.Context(), ui.Actor(r))
	if err != nil {
		return err
	}
	v.Says.AddWays(b, base, to)
	return nil
}

// Follower follows a short link as a phone would that scanned it.
type Follower interface {
	Look(ctx context.Context, address string) (leads.Hop, error)
}

// follow shows on the handset where a short link leads that it read.
func (h *Handler) follow(r *http.Request, c *code.Code, i int, phone *reads.Handset) {
	d, dynamic := c.Rendition.For(c.Rendition.Place(i)).Job.Content.(*content.Dynamic)
	if !dynamic || !phone.Decoded || phone.Wrong || h.Follow == nil {
		return
	}
	l, err := h.Links.Of(r.Context(), ui.Actor(r), c)
	if err != nil || l == nil {
		return
	}
	want := ""
	if l.Live != nil && !l.Live.Lead.PlaceTag { // with which each place has an address of its own
		want = wanted(l.Live.Lead, c, d.Address(), h.Store.Now())
	}
	// What was made live a moment ago may be on its way; what is shown is what the service answers.
	for end := time.Now().Add(patience); ; time.Sleep(20 * time.Millisecond) {
		hop, err := h.Follow.Look(r.Context(), d.Address().URL())
		if err != nil {
			return
		}
		if want == "" || strings.HasPrefix(hop.To+hop.Page, want) || time.Now().After(end) {
			phone.Follow(hop)
			return
		}
	}
}

// wanted is where a lead leads our own phone, or the title of the page that it shows; "" where chance decides.
func wanted(l *leads.Lead, c *code.Code, at shortlink.Address, now time.Time) string {
	place := ""
	for _, p := range link.Links(c.Rendition.Job) {
		if p.Address == at {
			place = p.Where()
		}
	}
	live := l.Compile(place, "")
	if live.Draws() {
		return ""
	}
	a, _ := live.Answer(&route.Input{At: now, Place: place, System: leads.PhoneSystem}, nil)
	if a.Does != leads.Goes {
		return a.Title
	}
	return a.To
}

// patience is how long a change may take until the service answers by it.
const patience = time.Second

// dynamic says whether a code leads through a short link.
func dynamic(c *code.Code) bool {
	_, is := c.Rendition.Job.Content.(*content.Dynamic)
	return is
}

// turnWay makes a code lead through a short link, or say again what it leads to.
func (h *Handler) turnWay(w http.ResponseWriter, r *http.Request) {
	do := h.Links.Turn
	if r.FormValue("way") == "fixed" {
		do = h.Links.TurnBack
	}
	c, err := do(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), changeOf(r))
	h.answer(w, r, c, err)
}

// ofLead answers with the desk after a change of where a code leads; what is wrong with a field of it stands there.
func (h *Handler) ofLead(w http.ResponseWriter, r *http.Request, l *link.Led, err error) {
	id := chi.URLParam(r, "id")
	if problems, is := code.IsProblem(err); is && r.Header.Get("HX-Request") != "" && problems[0].Field != "" {
		keys := append([]string{"to", "then"}, leadKeys()...)
		for _, p := range problems {
			if strings.HasPrefix(p.Field, "/to/") {
				keys = append(keys, p.Field[1:])
			}
		}
		refuse(w, refusals(problems, keys, func(key string) string { return forms.ID("/lead/" + key) }))
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	if w.Header().Get("HX-Trigger") == "" {
		w.Header().Set("HX-Trigger", "routes")
	}
	h.answer(w, r, c, err)
}

func leadKeys() []string { return keysOf(&leads.Fields) }

// keysOf are the keys of the fields of a part.
func keysOf(p *schema.Part) (out []string) {
	for i := range p.Fields {
		out = append(out, p.Fields[i].Key)
	}
	return out
}

// refusals are what is wrong with fields by their keys, each where id says that it stands.
func refusals(problems problem.List, keys []string, id func(key string) string) (out []refusal) {
	for _, key := range keys {
		one := refusal{ID: id(key)}
		for _, p := range problems {
			if p.Field == "/"+key {
				one.Words = forms.Sentence(p)
			}
		}
		out = append(out, one)
	}
	return out
}

// leadTo keeps the destination as it is typed.
func (h *Handler) leadTo(w http.ResponseWriter, r *http.Request) {
	key := strings.TrimPrefix(r.FormValue("path"), "/lead/")
	if key != "to" && !strings.HasPrefix(key, "to/") {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	l, err := h.Links.Edit(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), map[string]string{key: r.FormValue("text")},
		ui.RegionOf(r.Header.Get("Accept-Language")), 0)
	h.ofLead(w, r, l, err)
}

// lead keeps several fields of where a code leads; a box that is not ticked is not sent, and stands beside others that are.
func (h *Handler) lead(w http.ResponseWriter, r *http.Request) {
	edits := map[string]string{}
	for _, key := range append([]string{"then"}, leadKeys()...) {
		if r.PostFormValue(key) != "" || r.PostForm.Has(key) {
			edits[key] = r.PostFormValue(key)
		}
	}
	if r.PostForm.Has("status") { // of its form, the only one with boxes
		for _, key := range []string{"place_tag", "scan_tag", "keep_query"} {
			edits[key] = r.PostFormValue(key)
		}
	}
	l, err := h.Links.Edit(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), edits,
		ui.RegionOf(r.Header.Get("Accept-Language")),
		0)
	h.ofLead(w, r, l, err)
}

// leadAct makes a draft live, drops it, pauses, or leads where it led before.
func (h *Handler) leadAct(w http.ResponseWriter, r *http.Request) {
	id, actor := chi.URLParam(r, "id"), ui.Actor(r)
	rev, _ := strconv.ParseInt(r.FormValue("rev"), 10, 64)
	n, _ := strconv.Atoi(r.FormValue("n"))
	var l *link.Led
	var err error
	switch chi.URLParam(r, "act") {
	case "live":
		l, err = h.Links.MakeLive(r.Context(), actor, id, rev)
	case "discard":
		l, err = h.Links.Discard(r.Context(), actor, id, rev)
	case "rest":
		l, err = h.Links.Rest(r.Context(), actor, id, r.FormValue("rest") == "yes", rev)
	case "back":
		l, err = h.Links.GoBack(r.Context(), actor, id, n, rev)
	default:
		err = code.ErrNotFound
	}
	h.ofLead(w, r, l, err)
}

// hang keeps what is noted of a printed place.
func (h *Handler) hang(w http.ResponseWriter, r *http.Request) {
	edits := map[string]string{}
	for _, key := range keysOf(&leads.Hangings) {
		if r.PostFormValue(key) != "" || r.PostForm.Has(key) {
			edits[key] = r.PostFormValue(key)
		}
	}
	id := chi.URLParam(r, "id")
	err := h.Links.Hang(r.Context(), ui.Actor(r), id, r.FormValue("link"), edits)
	if problems, is := code.IsProblem(err); is && r.Header.Get("HX-Request") != "" {
		refuse(w, refusals(problems, keysOf(&leads.Hangings), func(key string) string {
			return r.FormValue("field") + "-" + key
		}))
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	h.answer(w, r, c, err)
}

// keepers lists who can look after where a code leads, whoever does first.
func (h *Handler) keepers(r *http.Request, l *link.Led, v *led.Leads) error {
	if l == nil || l.Live == nil {
		return nil
	}
	list, err := h.Members(r.Context(), ui.Actor(r).Workspace)
	if err != nil {
		return err
	}
	v.Kept(l, list)
	return nil
}

// keeper names another who looks after where a code leads.
func (h *Handler) keeper(w http.ResponseWriter, r *http.Request) {
	id, person, err := chi.URLParam(r, "id"), r.FormValue("keeper"), code.ErrNotFound
	list, bad := h.Members(r.Context(), ui.Actor(r).Workspace)
	if bad != nil {
		ui.Fail(w, r, bad)
		return
	}
	for _, m := range list {
		if m.ID == person {
			err = h.Links.Keeper(r.Context(), ui.Actor(r), id, m.ID, m.Name)
		}
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	h.answer(w, r, c, err)
}

// leadFile makes a file the draft of where the code leads.
func (h *Handler) leadFile(w http.ResponseWriter, r *http.Request) {
	if _, err := h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id")); err != nil { // before a file is read for nothing
		ui.Fail(w, r, err)
		return
	}
	var l *link.Led
	name, data, err := forms.File(r, leads.MaxServed)
	if err != nil {
		err = problem.List{{Field: "/to", Code: "file",
			Message: fmt.Sprintf("is a file that was cut off on its way, or is larger than %d MB", leads.MaxServed>>20)}}
	} else {
		l, err = h.Links.LeadToFile(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), name, data)
	}
	h.ofLead(w, r, l, err)
}

// word takes a word of one's own for a short link.
func (h *Handler) word(w http.ResponseWriter, r *http.Request) {
	at, err := strconv.Atoi(r.FormValue("at"))
	if err != nil {
		at = -1
	}
	c, err := h.Links.Word(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), at, r.FormValue("word"), changeOf(r))
	if problems, is := code.IsProblem(err); is && r.Header.Get("HX-Request") != "" && problems[0].Field == "/word" {
		refuse(w, []refusal{{ID: r.FormValue("field"), Words: forms.Sentence(problems[0])}})
		return
	}
	h.answer(w, r, c, err)
}
