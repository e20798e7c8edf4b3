package scanned

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/scans"
)

// asked is what a request wants to see.
type asked struct {
	span    scans.Span
	against string // "before", "year" or "none"
	days    string // of the choice of spans; "" for days by date
	open    string // link whose row is unfolded
	with    []string
	code    string // one code alone, by its id
	group   string // one campaign alone, by its name
	link    string // one printed place alone, by its link
	by      string // what a row is: "place" or "code"
	after   int    // rows that come before those shown
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
		var ok bool
		if zone, ok = scans.ZoneNamed(name); !ok && r.FormValue("zone") != "" {
			a.problem = fmt.Sprintf("%q is no time zone; write a large town of it, such as London.", name)
		}
	}
	midnight := func(t time.Time) time.Time { return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, zone) }
	today := midnight(now.In(zone))
	a.against, a.open, a.with, a.code = r.FormValue("against"), r.FormValue("open"), r.URL.Query()["with"], r.FormValue("code")
	a.group, a.link, a.by = r.FormValue("campaign"), r.FormValue("link"), r.FormValue("by")
	if a.by != "code" {
		a.by = "place"
	}
	if n, err := strconv.Atoi(r.FormValue("after")); err == nil {
		a.after = max(0, n)
	}
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

// all says that a request asks for no part of a workspace.
func (a asked) all() bool { return a.code == "" && a.group == "" && a.link == "" }

// earlier is the span behind, ok false where none is asked for.
func (a asked) earlier() (s scans.Span, ok bool) {
	switch a.against {
	case "before":
		return a.span.Before(), true
	case "year":
		return a.span.YearBefore(), true
	}
	return s, false
}

// query is a request that shows the same but for one thing.
func (a asked) query(key, value string) string {
	set := [][2]string{{"days", a.days}, {"against", a.against}, {"code", a.code}, {"campaign", a.group}, {"link", a.link},
		{"by", a.by}, {"open", a.open}, {"after", ""}}
	if a.by == "place" {
		set[5][1] = ""
	}
	if a.after > 0 {
		set[7][1] = strconv.Itoa(a.after)
	}
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
			b.WriteString(kv[0] + "=" + url.QueryEscape(kv[1]) + "&")
		}
	}
	for _, w := range a.with {
		b.WriteString("with=" + url.QueryEscape(w) + "&")
	}
	return strings.TrimRight(b.String(), "&?")
}
