package api

import (
	"net/http"
	"net/url"
	"strconv"
	"time"

	"github.com/google/uuid"

	"sodrik/internal/core/problem"
	"sodrik/internal/core/scan"
	"sodrik/internal/core/tally"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
)

// Figures are counts of printed places.
type Figures struct {
	From   string        `json:"from"`
	To     string        `json:"to"`
	Zone   string        `json:"zone"`
	Places []PlaceFigure `json:"places"`
	Next   string        `json:"next,omitempty" doc:"Cursor of the next page; absent on the last."`
}

// PlaceFigure is the counts of a printed place.
type PlaceFigure struct {
	Link   string  `json:"link"`
	Code   string  `json:"code"`
	Name   string  `json:"name"`
	Place  string  `json:"place,omitempty"`
	Scans  int     `json:"scans"`
	PerDay float64 `json:"per_day"         doc:"Over the days on which it hung."`
	Low    float64 `json:"low,omitempty"   doc:"The true rate lies from here, in 95 of 100 cases; absent below five scans."`
	High   float64 `json:"high,omitempty"`
	Course string  `json:"course"          doc:"steady, rising, falling, fell silent or too few, by the days that are over; fell silent of 28 or more"`
	Days   []int   `json:"days"            doc:"One count a day, the first day first."`
}

// Events are what was kept of each who asked for a link.
type Events struct {
	Events []scan.Record `json:"events"`
	Next   string        `json:"next,omitempty" doc:"Cursor of the next page; absent where there is no more for now."`
}

const (
	figuresAtOnce = 100
	eventsAtOnce  = 1000
	mostDays      = 3 * 366
)

var (
	fromParam = param{
		in:      "query",
		name:    "from",
		about:   "First day; without it the span is the last 28 days.",
		example: "2027-03-01",
	}
	toParam   = param{in: "query", name: "to", about: "Last day.", example: "2027-03-28"}
	zoneParam = param{
		in:      "query",
		name:    "zone",
		about:   "In which days begin at midnight, UTC if not given.",
		example: "Europe/London",
	}
	cursorParam = param{in: "query", name: "cursor", about: "Of the page before."}
)

func init() {
	operations = append(operations,
		operation{method: "GET", path: "/scans", id: "listScans", summary: "Count scans",
			about: "Of each printed place, day by day. Robots and previews are not counted.", scope: people.ScopeRead,
			params: []param{fromParam, toParam, zoneParam, {in: "query", name: "code", about: "Of one code alone, by its id."},
				{
					in:      "query",
					name:    "limit",
					about:   "Places in an answer, 20 if not given.",
					example: "20",
					as:      whole(1, figuresAtOnce),
				},
				cursorParam},
			answers: []answer{{200, "By their links.", Figures{}, nil}}, do: (*Handler).figures},
		operation{method: "GET", path: "/scans/events", id: "listEvents", summary: "List scans",
			about: "Each by itself, robots too, in the order of their times; nothing that tells one phone from another. Asked again with " +
				"the id of the last scan as the cursor, it goes on where it was.", scope: people.ScopeRead,
			params: []param{fromParam, toParam, zoneParam,
				{
					in:      "query",
					name:    "limit",
					about:   "Scans in an answer, 100 if not given.",
					example: "100",
					as:      whole(1, eventsAtOnce),
				},
				cursorParam},
			answers: []answer{{200, "The oldest first.", Events{}, nil}}, do: (*Handler).events})
}

// spanOf reads the span of a request.
func spanOf(q url.Values, now time.Time, problems *problem.List) scans.Span {
	zone := time.UTC
	if name := q.Get("zone"); name != "" {
		var ok bool
		if zone, ok = scans.ZoneNamed(name); !ok {
			problems.Add("/zone", "zone", "is %q, which is no time zone; write such as Europe/London", name)
		}
	}
	today := now.In(zone)
	day := time.Date(today.Year(), today.Month(), today.Day(), 0, 0, 0, 0, zone)
	span := scans.Span{From: day.AddDate(0, 0, -27), To: day.AddDate(0, 0, 1), Zone: zone}
	read := func(name string, to *time.Time, plus int) {
		if text := q.Get(name); text != "" {
			at, err := time.ParseInLocation(time.DateOnly, text, zone)
			if err != nil {
				problems.Add("/"+name, "day", "is %q; write a day such as 2027-03-28", text)
				return
			}
			*to = at.AddDate(0, 0, plus)
		}
	}
	read("from", &span.From, 0)
	read("to", &span.To, 1)
	switch {
	case !span.From.Before(span.To):
		problems.Add("/to", "day", "comes before the first day")
	case span.Days() > mostDays:
		problems.Add("/from", "day", "begins a span of %d days; three years is the most", span.Days())
	}
	return span
}

// limitOf reads how many there may be in an answer.
func limitOf(q url.Values, usual, most int, problems *problem.List) int {
	s := q.Get("limit")
	if s == "" {
		return usual
	}
	n, err := strconv.Atoi(s)
	if err != nil || n < 1 || n > most {
		problems.Add("/limit", "limit", "must be a number from 1 to %d", most)
		return usual
	}
	return n
}

// figures answers with the counts of printed places.
func (h *Handler) figures(c *call) error {
	var problems problem.List
	q := c.r.URL.Query()
	span, limit := spanOf(q, h.Codes.Now(), &problems), limitOf(q, 20, figuresAtOnce, &problems)
	if len(problems) > 0 {
		return problems
	}
	placed, err := h.Links.Placed(c.r.Context(), c.actor())
	if err != nil {
		return err
	}
	out := Figures{From: span.From.Format(time.DateOnly), To: span.To.AddDate(0, 0, -1).Format(time.DateOnly),
		Zone: span.Zone.String(), Places: []PlaceFigure{}}
	var keys []scans.Key
	var some []link.Placed
	for _, l := range placed { // in the order of their addresses
		if l.Address <= q.Get("cursor") || q.Get("code") != "" && l.Live.Code != q.Get("code") {
			continue
		}
		if len(some) == limit {
			out.Next = keys[limit-1].Link
			break
		}
		keys, some = append(keys, scans.Key{Code: l.Live.Code, Link: l.Address}), append(some, l)
	}
	counts, err := h.Scans.Daily(c.r.Context(), c.actor(), scans.Which{Links: append([]scans.Key{}, keys...)}, span)
	if err != nil {
		return err
	}
	for i, l := range some {
		p := PlaceFigure{Link: keys[i].Link, Code: l.Live.Code, Name: l.Code, Place: l.Live.Place, Days: make([]int, span.Days())}
		for _, n := range counts {
			if n.Link == p.Link {
				p.Days = n.Days
			}
		}
		first, after := l.Hung(span.From, len(p.Days))
		p.fill(first, after, span.Day(h.Codes.Now()))
		out.Places = append(out.Places, p)
	}
	return c.send(http.StatusOK, out)
}

// fill says what the counts allow to be said, of the days between two on which the place hung. What becomes of it is said by
// those that are over, before the index of today.
func (p *PlaceFigure) fill(first, after, today int) {
	over := tally.Days(p.Days)[first:max(first, min(after, today))]
	days := tally.Days(p.Days)[first:after]
	perDay, in, ok := days.Rate()
	p.Scans, p.PerDay, p.Course = tally.Days(p.Days).Sum(), perDay, string(over.Course())
	if today >= first && today < after && p.Days[today] > 0 && over.Course() == tally.FellSilent {
		p.Course = string(tally.Steady)
	}
	if ok {
		p.Low, p.High = in.Low, in.High
	}
}

// events answers with scans one by one.
func (h *Handler) events(c *call) error {
	var problems problem.List
	q := c.r.URL.Query()
	span, limit := spanOf(q, h.Codes.Now(), &problems), limitOf(q, 100, eventsAtOnce, &problems)
	after := scans.From(span.From)
	if s := q.Get("cursor"); s != "" {
		id, err := uuid.Parse(s)
		if err != nil {
			problems.Add("/cursor", "cursor", "is not one that was given out here")
		}
		after = max(after, id.String())
	}
	if len(problems) > 0 {
		return problems
	}
	list, err := h.Scans.Events(c.r.Context(), c.actor(), nil, after, scans.From(span.To), limit)
	if err != nil {
		return err
	}
	out := Events{Events: append([]scan.Record{}, list...)}
	if len(list) == limit {
		out.Next = list[limit-1].ID
	}
	return c.send(http.StatusOK, out)
}
