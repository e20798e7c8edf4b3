package scanned

import (
	"cmp"
	"net/http"
	"slices"

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
	hungBefore   tally.Days   // of those of the span before on which it did
	first, after int          // days of the span between which it hung, after not included
	summary      code.Summary // of its code
}

func (p place) name() string {
	switch {
	case p.Live.Place != "":
		return p.Live.Place
	case p.Path != "":
		return p.Path
	}
	return p.Code
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
	group, ctx := errgroup.WithContext(ctx)
	group.Go(caught.Safe(func() (err error) {
		counts, err = h.Scans.Daily(ctx, actor, scans.Which{Links: links}, a.span)
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
		one.days, one.summary = added(counts, one.links, a.span.Days()), summaries[one.Live.Code]
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
		p.all = added(counts, nil, a.span.Days())
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
