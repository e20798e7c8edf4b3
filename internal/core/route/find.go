package route

import (
	"fmt"
	"slices"
	"strings"
	"time"
)

// Finding is something about the rules of a code that is likely not meant.
type Finding struct {
	Code  string // fixed name, such as "route.unreached"
	Rule  int    // that it is about, Everybody for the rest
	Words string
	Fix   *Fix // nil where there is no single one
}

// Fix mends a finding.
type Fix struct {
	Words string // on a button
	Do    string // first, last, drop, begin, language, widen
	Rule  int
	Text  string // of begin a moment, of language and widen a tag
}

// closeBy is how long a gap between two spans may be to be taken for a slip.
const closeBy = 7 * 24 * time.Hour

// Find says what is likely not meant at a moment; rest is as in Compile.
func Find(rules []*Rule, zone, rest string, now time.Time) (out []Finding) {
	s := Compile(rules, zone, rest)
	out = append(out, over(rules, s, now)...)
	ended := map[int]bool{}
	for _, f := range out {
		ended[f.Rule] = true
	}
	all := -1 // the first that everybody fits
	for i, r := range rules {
		if !r.Off && !r.Asks() && all < 0 {
			all = i
		}
	}
	after := 0
	for i, r := range rules {
		if all >= 0 && i > all && !r.Off {
			after++
		}
	}
	if all >= 0 && after > 0 {
		out = append(out, Finding{"route.always", all, fmt.Sprintf("Route %d fires for everybody; no route after it is reached.", all+1),
			&Fix{"Move it to the end", "last", all, ""}})
	}
	reached, more, sure := s.Reached(now)
	for i, r := range rules {
		if r.Off || ended[i] || reached[i] || all >= 0 && i > all {
			continue
		}
		out = append(out, Finding{"route.unreached", i,
			fmt.Sprintf("Nobody gets to route %d: those before it take everybody it asks for.", i+1),
			&Fix{"Move it to the top", "first", i, ""}})
	}
	if sure && !more && all < 0 && len(rules) > 0 {
		out = append(out, Finding{"route.rest", Everybody, "Routes take everybody; the usual destination is never reached.", nil})
	}
	out = append(out, edges(rules, zone)...)
	out = append(out, tongueFindings(rules, rest)...)
	return append(out, shares(rules)...)
}

// over are the rules whose time has passed.
func over(rules []*Rule, s *Set, now time.Time) (out []Finding) {
	for i, r := range rules {
		if r.Off || r.Yearly || len(r.Spans) == 0 {
			continue
		}
		if !slices.ContainsFunc(s.rules[i].clock.windows, func(w window) bool { return w.until > now.Unix() }) {
			out = append(out, Finding{"route.over", i, fmt.Sprintf("Route %d is over.", i+1), &Fix{"Take it out", "drop", i, ""}})
		}
	}
	return out
}

// edges are spans of rules that ask the same besides, and miss or cross one another by little.
func edges(rules []*Rule, zone string) (out []Finding) {
	type one struct {
		i           int
		from, until int64
	}
	groups := map[string][]one{}
	var order []string
	for i, r := range rules {
		if r.Off || r.Yearly || len(r.Spans) != 1 || r.Spans[0].From == "" {
			continue
		}
		c := *r
		c.Spans = nil
		w := one{i: i, until: always}
		w.from, _ = moment(r.Spans[0].From, zone)
		if r.Spans[0].Until != "" {
			w.until, _ = moment(r.Spans[0].Until, zone)
		}
		key := c.alike()
		if groups[key] == nil {
			order = append(order, key)
		}
		groups[key] = append(groups[key], w)
	}
	for _, key := range order {
		list := groups[key]
		slices.SortStableFunc(list, func(a, b one) int { return int(min(1, max(-1, a.from-b.from))) })
		for k := 1; k < len(list); k++ {
			a, b := list[k-1], list[k]
			end := rules[a.i].Spans[0].Until
			fix := &Fix{fmt.Sprintf("Let route %d begin then", b.i+1), "begin", b.i, end}
			switch gap := b.from - a.until; {
			case a.until == always:
			case gap > 0 && gap <= int64(closeBy/time.Second):
				out = append(out, Finding{"route.gap", b.i, fmt.Sprintf("Between route %d, until %s, and route %d, from %s, there is a gap.",
					a.i+1, spelled(end, false), b.i+1, spelled(rules[b.i].Spans[0].From, false)), fix})
			case gap < 0 && a.from < b.from && a.until < b.until:
				first := min(a.i, b.i)
				out = append(out, Finding{"route.overlap", b.i, fmt.Sprintf("Routes %d and %d overlap from %s to %s; route %d holds then.",
					a.i+1, b.i+1, spelled(rules[b.i].Spans[0].From, false), spelled(end, false), first+1), fix})
			}
		}
	}
	return out
}

// tongueFindings are about languages that nobody falls back from.
func tongueFindings(rules []*Rule, rest string) (out []Finding) {
	asked := map[string]bool{rest: true}
	first := -1
	for i, r := range rules {
		if r.Off {
			continue
		}
		for _, tag := range r.Languages {
			if asked[tag] = true; first < 0 {
				first = i
			}
		}
	}
	if first >= 0 && rest == "" {
		name := LanguageName(rules[first].Languages[0])
		out = append(out, Finding{"route.rest_language", Everybody, fmt.Sprintf("It is not said which language everybody else gets: whoever "+
			"has %s anywhere on the phone's list gets %s.", name, name), &Fix{"Everybody else gets English", "language", Everybody, "en"}})
	}
	for i, r := range rules {
		if r.Off {
			continue
		}
		for _, tag := range r.Languages {
			base, _, narrow := strings.Cut(tag, "-")
			if narrow && !asked[base] {
				out = append(out, Finding{"route.language", i, fmt.Sprintf("Route %d takes %s alone; phones with another %s go on.", i+1,
					LanguageName(tag), LanguageName(base)), &Fix{"Take all " + LanguageName(base), "widen", i, base}})
			}
		}
	}
	return out
}

// shares are those that leave some over.
func shares(rules []*Rule) (out []Finding) {
	total, last, count := map[string]float64{}, map[string]int{}, map[string]int{}
	var order []string
	for i, r := range rules {
		if r.Off || r.Share == 0 {
			continue
		}
		key := r.alike()
		if count[key] == 0 {
			order = append(order, key)
		}
		total[key] += r.Share
		count[key]++
		last[key] = i
	}
	for _, key := range order {
		if left := 1 - total[key]; count[key] > 1 && left > 1e-9 {
			out = append(out, Finding{"route.share", last[key], fmt.Sprintf("Shares up to route %d come to %s; the other %s go on.",
				last[key]+1, percent(total[key]), percent(left)), nil})
		}
	}
	return out
}
