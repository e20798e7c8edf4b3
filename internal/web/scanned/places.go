package scanned

import (
	"cmp"
	"net/http"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"sodrik/internal/code"
	"sodrik/internal/core/caught"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/tally"
	"sodrik/internal/link"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

// place is what a row shows: a printed place, or all of a code.
type place struct {
	link.Placed              // its address is that of its short link; of a code it is code: and its id
	links        []scans.Key // all of it
	total        int
	days, before []int        // of the whole span
	hung         tally.Days   // of the days on which it hung
	over         tally.Days   // of the days that are over, of the span and before it, on which it hung
	until        time.Time    // the day after the last of those
	running      int          // scans of today, where it hangs today
	hungBefore   tally.Days   // of those of the span before on which it did
	first, after int          // days of the span between which it hung, after not included
	summary      code.Summary // of its code
}

// judged is how many days that are over are looked at to say what becomes of a place, where the page shows fewer.
const judged = 56

// wider is a span with enough days before it to say what becomes of places.
func wider(s scans.Span, now time.Time) scans.Span {
	end := s.Day(now) // today, or after the span
	from := s.From.AddDate(0, 0, min(end, s.Days())-judged)
	if from.Before(s.From) {
		s.From = from
	}
	return s
}

// ends takes of the days of a span, as a place was scanned on them, those that are over and on which it hung.
func (p *place) ends(days []int, s scans.Span, now time.Time) {
	first, after := p.Hung(s.From, len(days))
	today := s.Day(now)
	p.over = days[first:max(first, min(after, today))]
	p.until = s.From.AddDate(0, 0, first+len(p.over))
	if p.running = 0; today >= first && today < after {
		p.running = days[today]
	}
}

// silence says that nobody scans the place any more, for how many days that are over, and how likely that is by chance.
func (p place) silence() (days int, chance float64, ok bool) {
	days, chance, ok = p.over.Silence()
	return days, chance, ok && p.running == 0
}

// course is what becomes of the place, by the days that are over; what was scanned today has not fallen silent.
func (p place) course() tally.Course {
	c := p.over.Course()
	if _, _, silent := p.silence(); c == tally.FellSilent && !silent {
		return tally.Steady
	}
	return c
}

// last is the day on which it was scanned last before so many days of silence.
func (p place) last(days int) time.Time { return p.until.AddDate(0, 0, -days-1) }

func (p place) name() string {
	switch {
	case p.Live.Place != "":
		return p.Live.Place
	case p.Path != "":
		return p.Path
	}
	return p.Code
}

// full is the code with the place, for where one is spoken of apart from its row.
func (p place) full() string {
	if p.Live.Place != "" && p.Code != "" && p.Code != p.Live.Place {
		return p.Code + ", " + p.Live.Place
	}
	return p.name()
}

// scope is that of its scans.
func (p place) scope() scans.Scope {
	if p.Path == "" {
		return scans.CodeScope(p.Live.Code)
	}
	return scans.LinkScope(p.Address)
}

// placed is what a page shows.
type placed struct {
	list      []place // those shown, the most scanned first
	n, before int     // rows there are, and how many come before those shown
	all       tally.Days
	codes     []string // of all rows; nil for the whole workspace
	scope     scans.Scope
	campaigns []string
}

// rowsAtOnce is how many rows a page shows.
const rowsAtOnce = 40

// every is all places that a request asks for, not counted yet.
func (h *Handler) every(r *http.Request, a asked) (every []place, p placed, err error) {
	ctx, actor := r.Context(), ui.Actor(r)
	placed, err := h.Links.Placed(ctx, actor)
	if err != nil {
		return nil, p, err
	}
	grouped, err := h.Codes.Grouped(ctx, actor)
	if err != nil {
		return nil, p, err
	}
	p.scope, p.campaigns = scopeOf(a, grouped), code.CampaignsOf(grouped)
	for _, l := range placed {
		if a.code != "" && l.Live.Code != a.code || a.link != "" && l.Address != a.link ||
			a.group != "" && grouped[l.Live.Code].Name != a.group {
			continue
		}
		one := place{Placed: l, links: []scans.Key{{Code: l.Live.Code, Link: l.Address}}}
		one.first, one.after = one.Hung(a.span.From, a.span.Days())
		every = append(every, one)
		if !a.all() {
			p.codes = append(p.codes, l.Live.Code)
		}
	}
	return every, p, nil
}

// places are what the rows of a page show.
func (h *Handler) places(r *http.Request, a asked) (placed, error) {
	every, p, err := h.every(r, a)
	if err != nil {
		return p, err
	}
	return h.ranked(r, a, every, p)
}

// ranked counts places, and leaves in those of a page, the most scanned first.
func (h *Handler) ranked(r *http.Request, a asked, every []place, p placed) (placed, error) {
	totals, err := h.Scans.Totals(r.Context(), ui.Actor(r), a.span)
	if err != nil {
		return p, err
	}
	for i := range every {
		every[i].total = totals[every[i].Address]
	}
	if a.by == "code" {
		every = byCode(every)
	}
	slices.SortStableFunc(every, func(x, y place) int { return cmp.Compare(y.total, x.total) })
	p.n, p.before = len(every), min(a.after, max(0, len(every)-1))
	for i, one := range every {
		if i >= p.before && i < p.before+rowsAtOnce || a.open == one.Address || slices.Contains(a.with, one.Address) {
			p.list = append(p.list, one)
		}
	}
	return p, h.count(r, a, &p)
}

// scopeOf is the scope of all that a request asks for.
func scopeOf(a asked, grouped map[string]code.Campaign) scans.Scope {
	switch {
	case a.link != "":
		return scans.LinkScope(a.link)
	case a.code != "":
		return scans.CodeScope(a.code)
	case a.group != "":
		for _, c := range grouped {
			if c.Name == a.group {
				return scans.CampaignScope(c.ID)
			}
		}
		return scans.CampaignScope("none")
	}
	return scans.Workspace
}

// byCode brings the places of each code together.
func byCode(list []place) (out []place) {
	at := map[string]int{}
	for _, p := range list {
		i, known := at[p.Live.Code]
		if !known {
			at[p.Live.Code] = len(out)
			p.Address, p.Path, p.Host, p.Noted = "code:"+p.Live.Code, "", "", leads.Hanging{}
			p.links = []scans.Key{{Code: p.Live.Code}}
			p.Live = &leads.Live{Code: p.Live.Code}
			out = append(out, p)
			continue
		}
		o := &out[i]
		o.total += p.total
		o.first, o.after = min(o.first, p.first), max(o.after, p.after)
	}
	return out
}

// count fills in the days of what is shown, and of all.
func (h *Handler) count(r *http.Request, a asked, p *placed) error {
	ctx, actor := r.Context(), ui.Actor(r)
	links, ids := []scans.Key{}, []string{} // of no row there are none, which is not all
	for _, one := range p.list {
		links, ids = append(links, one.links...), append(ids, one.Live.Code)
	}
	var counts, earlier, each []scans.Linked
	var summaries map[string]code.Summary
	before, behind := a.earlier()
	now := h.Codes.Now()
	wide := wider(a.span, now)
	shown := wide.Day(a.span.From) // the first day that the page shows
	group, ctx := errgroup.WithContext(ctx)
	group.Go(caught.Safe(func() (err error) {
		counts, err = h.Scans.Daily(ctx, actor, scans.Which{Links: links}, wide)
		return err
	}))
	group.Go(caught.Safe(func() (err error) {
		if behind {
			earlier, err = h.Scans.Daily(ctx, actor, scans.Which{Links: links}, before)
		}
		return err
	}))
	group.Go(caught.Safe(func() (err error) {
		summaries, err = h.Codes.Summaries(ctx, actor, ids)
		return err
	}))
	group.Go(caught.Safe(func() (err error) {
		switch {
		case a.all():
			p.all, err = h.Scans.All(ctx, actor, a.span)
		case len(p.list) < p.n:
			each, err = h.Scans.Daily(ctx, actor, scans.Which{Codes: p.codes}, a.span)
		}
		return err
	}))
	if err := group.Wait(); err != nil {
		return err
	}
	for i := range p.list {
		one := &p.list[i]
		all := added(counts, one.links, wide.Days())
		one.days, one.summary = all[shown:], summaries[one.Live.Code]
		one.ends(all, wide, now)
		if behind {
			one.before = added(earlier, one.links, before.Days())
			first, after := one.Hung(before.From, before.Days())
			one.hungBefore = one.before[first:after]
		}
		one.hung = one.days[one.first:one.after]
	}
	switch {
	case a.all():
	case len(p.list) < p.n:
		p.all = added(each, nil, a.span.Days())
	default:
		p.all = added(counts, nil, wide.Days())[shown:]
	}
	return nil
}

// added adds up the days of some links, nil for all.
func added(list []scans.Linked, links []scans.Key, days int) []int {
	out := make([]int, days)
	for _, c := range list {
		if links == nil || slices.Contains(links, scans.Key{Code: c.Code, Link: c.Link}) {
			for i, n := range c.Days {
				out[i] += n
			}
		}
	}
	return out
}

func sum(days []int) (n int) {
	for _, c := range days {
		n += c
	}
	return n
}
