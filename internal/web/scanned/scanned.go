// Package scanned is the page of scans: one sentence, the printed places as rows on one common time rule, what they were sent
// to, and places side by side. What may be said of counts is core/tally's matter.
package scanned

import (
	"embed"
	"encoding/csv"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/leave"
	"sodrik/internal/core/tally"
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
	Codes *code.Store
	Links *link.Store
	Scans *scans.Store

	ends  sync.Once     // has streams end with the server
	ended chan struct{} // closed once it is to end
}

// Routes mounts the page.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Look)).Get("/scans", h.page)
	r.With(may(people.Look)).Get("/scans/table", h.table)
	r.With(may(people.Look)).Get("/scans/now", h.now)
}

// place is a printed place with its counts.
type place struct {
	leave.Link
	address      string
	since        time.Time  // it leads somewhere
	days, before []int      // of the whole span
	hung         tally.Days // of the days on which it hung
	noted        leads.Hanging
	summary      code.Summary // of its code
}

func (p place) name() string {
	if p.Live.Place != "" {
		return p.Live.Place
	}
	return p.Path
}

// asked is what a request wants to see.
type asked struct {
	span    scans.Span
	against string // "before", "year" or "none"
	days    string // of the choice of spans; "" for days by date
	open    string // link whose row is unfolded
	with    []string
	code    string // one code alone
	problem string
}

// maxSpan is how many days a span may have.
const maxSpan = 3 * 366

// spans are the choices of days.
var spans = []string{"7", "28", "90", "365"}

// askedOf reads a request. What cannot be shown is said, and the usual span shown.
func askedOf(r *http.Request, now time.Time) (a asked) {
	zone := time.UTC
	name := r.FormValue("zone")
	if c, err := r.Cookie("zone"); name == "" && err == nil {
		name = c.Value
	}
	if name != "" {
		if known, ok := content.ZoneNamed(name); ok {
			if l, err := time.LoadLocation(known); err == nil {
				zone = l
			}
		} else if r.FormValue("zone") != "" {
			a.problem = fmt.Sprintf("%q is no time zone; write a large town of it, such as London.", name)
		}
	}
	midnight := func(t time.Time) time.Time { return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, zone) }
	today := midnight(now.In(zone))
	a.against, a.open, a.with, a.code = r.FormValue("against"), r.FormValue("open"), r.URL.Query()["with"], r.FormValue("code")
	if a.against != "year" && a.against != "none" {
		a.against = "before"
	}
	if a.days = r.FormValue("days"); !slices.Contains(spans, a.days) {
		a.days = "28"
	}
	n, _ := strconv.Atoi(a.days)
	a.span = scans.Span{From: today.AddDate(0, 0, 1-n), To: today.AddDate(0, 0, 1), Zone: zone}
	from, to := r.FormValue("from"), r.FormValue("to")
	if from == "" && to == "" {
		return a
	}
	first, bad := time.ParseInLocation("2006-01-02", from, zone)
	last, worse := time.ParseInLocation("2006-01-02", to, zone)
	switch {
	case bad != nil || worse != nil:
		a.problem = "A span has a first and a last day, such as 1 March 2027 and 28 March 2027."
	case last.Before(first):
		a.problem = "The last day comes before the first."
	case last.Sub(first) > maxSpan*24*time.Hour:
		a.problem = "A span has three years at most."
	default:
		a.days, a.span.From, a.span.To = "", first, last.AddDate(0, 0, 1)
	}
	return a
}

// places are the printed places, the most scanned first.
func (h *Handler) places(r *http.Request, a asked) (list []place, err error) {
	ctx, actor := r.Context(), ui.Actor(r)
	live, err := h.Links.Live(ctx, actor)
	if err != nil {
		return nil, err
	}
	since, err := h.Links.Since(ctx, actor)
	if err != nil {
		return nil, err
	}
	noted, err := h.Links.Hangings(ctx, actor)
	if err != nil {
		return nil, err
	}
	counts, err := h.Scans.Daily(ctx, actor, a.code, a.span)
	if err != nil {
		return nil, err
	}
	var earlier []scans.Linked
	if a.against != "none" {
		before := a.span.Before()
		if a.against == "year" {
			before = scans.Span{From: a.span.From.AddDate(-1, 0, 0), To: a.span.To.AddDate(-1, 0, 0), Zone: a.span.Zone}
		}
		if earlier, err = h.Scans.Daily(ctx, actor, a.code, before); err != nil {
			return nil, err
		}
	}
	of := func(list []scans.Linked, l leave.Link) []int {
		for _, c := range list {
			if c.Link == l.Host+"/"+l.Path && c.Code == l.Live.Code {
				return c.Days
			}
		}
		return make([]int, a.span.Days())
	}
	var ids []string
	for _, l := range live {
		if a.code != "" && l.Live.Code != a.code {
			continue
		}
		p := place{Link: l, address: l.Host + "/" + l.Path, since: since[l.Live.Code], days: of(counts, l)}
		if a.against != "none" {
			p.before = of(earlier, l)
		}
		if n := noted[p.address]; n != nil {
			p.noted = *n
		}
		p.hung = p.hangs(a.span)
		list, ids = append(list, p), append(ids, l.Live.Code)
	}
	summaries, err := h.Codes.Summaries(ctx, actor, ids)
	if err != nil {
		return nil, err
	}
	for i := range list {
		list[i].summary = summaries[list[i].Live.Code]
	}
	slices.SortStableFunc(list, func(x, y place) int { return sum(y.days) - sum(x.days) })
	return list, nil
}

// hangs are the counts of the days on which a place hung: as it is noted, else since its code first led somewhere.
func (p place) hangs(s scans.Span) tally.Days {
	first, after := p.noted.Within(s.From, len(p.days))
	if p.noted.From == "" {
		first = min(after, hangsFrom(s, p.since))
	}
	return p.days[first:after]
}

// hangsFrom is the index of the first day of a span on which something hung that leads somewhere since a time.
func hangsFrom(s scans.Span, since time.Time) (i int) {
	for at := s.From; at.Before(s.To) && !at.AddDate(0, 0, 1).After(since); at = at.AddDate(0, 0, 1) {
		i++
	}
	return i
}

func sum(days []int) (n int) {
	for _, c := range days {
		n += c
	}
	return n
}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	a := askedOf(r, h.Codes.Now())
	list, err := h.places(r, a)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := newView(a, list, h.Codes.Now())
	v.Frame = ui.FrameOf(r, "Scans", "scans")
	if v.Apart, err = h.Scans.Apart(r.Context(), ui.Actor(r), a.span); err != nil {
		ui.Fail(w, r, err)
		return
	}
	if v.Now, err = h.nowOf(r, a.span.Zone); err != nil {
		ui.Fail(w, r, err)
		return
	}
	for i := range v.Rows {
		if row := &v.Rows[i]; row.Open {
			parts, err := h.Scans.OfLink(r.Context(), ui.Actor(r), row.Link, a.span)
			if err != nil {
				ui.Fail(w, r, err)
				return
			}
			row.Parts = partsOf(parts)
		}
	}
	ui.Render(w, http.StatusOK, pages, "scanned", v)
}

// table gives the counts as CSV, a row for each place and day.
func (h *Handler) table(w http.ResponseWriter, r *http.Request) {
	a := askedOf(r, h.Codes.Now())
	list, err := h.places(r, a)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attached(w, "scans-"+a.span.From.Format("2006-01-02")+".csv")
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	out := csv.NewWriter(w)
	out.Write([]string{"day", "place", "code", "link", "scans"})
	for _, p := range list {
		for i, n := range p.days {
			out.Write(
				[]string{a.span.From.AddDate(0, 0, i).Format("2006-01-02"), leave.Plain(p.name()), leave.Plain(p.Code), p.address,
					strconv.Itoa(n)},
			)
		}
	}
	out.Flush()
}

// query is a request that shows the same but for one thing.
func (a asked) query(key, value string) string {
	set := [][2]string{{"days", a.days}, {"against", a.against}, {"code", a.code}, {"open", a.open}}
	if a.days == "" {
		set = append(
			set,
			[2]string{"from", a.span.From.Format("2006-01-02")},
			[2]string{"to", a.span.To.AddDate(0, 0, -1).Format("2006-01-02")},
		)
	}
	var b strings.Builder
	b.WriteString("?")
	for _, kv := range set {
		if kv[0] == key {
			kv[1] = value
		}
		if kv[1] != "" {
			b.WriteString(kv[0] + "=" + urlEscape(kv[1]) + "&")
		}
	}
	for _, w := range a.with {
		b.WriteString("with=" + urlEscape(w) + "&")
	}
	return strings.TrimRight(b.String(), "&?")
}
