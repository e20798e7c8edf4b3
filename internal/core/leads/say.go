package leads

import (
	"fmt"
	"reflect"
	"slices"
	"time"

	"golang.org/x/net/publicsuffix"

	"sodrik/internal/core/content"
	"sodrik/internal/core/route"
	"sodrik/internal/core/schema"
)

// Says is where a lead leads, in words: "marrowby.example/fair", or what happens there where it is no address.
func (l *Lead) Says() string { return Says(l.To) }

// Says is a destination in words; nil is nowhere yet.
func Says(c content.Content) string {
	if c == nil {
		return "nowhere yet"
	}
	if s := c.Summary(); c.Kind() != "url" {
		return s.String()
	}
	return c.Summary().Object
}

// Summary is where a lead leads, apart: what is done there, and with what. An address is led to.
func (l *Lead) Summary() content.Summary {
	if l.To == nil || l.To.Kind() == "url" {
		return content.Summary{Verb: "Leads to", Object: l.Says()}
	}
	return l.To.Summary()
}

// Differences says in words how a lead differs from another that is live.
func (l *Lead) Differences(was *Lead) (out []string) {
	if a, b := was.To.Payload(), l.To.Payload(); a != b || was.To.Kind() != l.To.Kind() {
		words := "It leads to %s, no longer to %s."
		if l.To.Kind() != "url" || was.To.Kind() != "url" { // of which one says more than an address
			words = "It leads elsewhere. Now: %s. Before: %s."
		}
		out = append(out, fmt.Sprintf(words, l.Says(), was.Says()))
	}
	out = append(out, l.routesDiffer(was)...)
	switch {
	case l.Ends != was.Ends && l.Ends == "":
		out = append(out, "It does not end any more.")
	case l.Ends != was.Ends || l.Ends != "" && l.Zone != was.Zone:
		out = append(out, fmt.Sprintf("It ends on %s.", clock(l.Ends)))
	}
	switch {
	case l.Paused && !was.Paused:
		out = append(out, "It rests: people see a quiet page.")
	case !l.Paused && was.Paused:
		out = append(out, "It goes on.")
	}
	for _, f := range []struct {
		key      string
		was, now any
	}{{"message", was.Words, l.Words}, {"instead", was.Instead, l.Instead}, {"keep_query", was.KeepQuery, l.KeepQuery},
		{"status", was.Status, l.Status}, {"max_age", was.MaxAge, l.MaxAge}, {"place_tag", was.PlaceTag, l.PlaceTag},
		{"scan_tag", was.ScanTag, l.ScanTag}, {"language", was.Language, l.Language}} {
		if f.was != f.now {
			out = append(out, fmt.Sprintf("The %s is another.", Fields.Field(f.key).Name()))
		}
	}
	return out
}

// change says the change that is planned.
func (l *Lead) change() string {
	words := fmt.Sprintf("From %s it leads to %s", clock(l.From), Says(l.Then))
	if l.Until != "" {
		words += fmt.Sprintf(", until %s", clock(l.Until))
	}
	return words + "."
}

// Plan says what is still to come, "" for nothing.
func (l *Lead) Plan(now time.Time) string {
	switch from, until, ends := l.moment(nil, "", l.From), l.moment(nil, "", l.Until), l.moment(nil, "", l.Ends); {
	case l.Then != nil && now.Unix() < from:
		return l.change()
	case l.Then != nil && now.Unix() < until:
		return fmt.Sprintf("Until %s it leads to %s.", clock(l.Until), Says(l.Then))
	case now.Unix() < ends:
		return fmt.Sprintf("It ends on %s.", clock(l.Ends))
	}
	return ""
}

// Soon says what changes within a time from now, "" for nothing.
func (l *Lead) Soon(now time.Time, within time.Duration) string {
	for _, text := range []string{l.From, l.Until, l.Ends} {
		if l.Paused {
			break
		}
		if at := l.moment(nil, "", text); at > now.Unix() && at <= now.Add(within).Unix() {
			return l.Plan(now)
		}
	}
	if l.Paused {
		return ""
	}
	return l.routeSoon(now, within)
}

// routeSoon says which route begins or ends first within a time from now, "" for none. The change at a time is said elsewhere.
func (l *Lead) routeSoon(now time.Time, within time.Duration) (out string) {
	first := now.Add(within).Unix() + 1
	for i, r := range l.Routes {
		if r.Off || r.Yearly || r.ID == Planned {
			continue
		}
		for _, s := range r.Spans {
			for _, edge := range []struct{ text, does string }{{s.From, "begins"}, {s.Until, "ends"}} {
				if at := l.moment(nil, "", edge.text); at > now.Unix() && at < first {
					first, out = at, fmt.Sprintf("Route %d %s on %s.", i+1, edge.does, clock(edge.text))
				}
			}
		}
	}
	return out
}

// clock is a time as people read it.
func clock(text string) string { return content.SpelledOut(text) }

// Own says that a host belongs to the house whose short links are at another: both are under one domain that somebody registered.
// Which part of a name can be registered is in the Public Suffix List.
func Own(host, links string) bool {
	a, err := publicsuffix.EffectiveTLDPlusOne(host)
	b, other := publicsuffix.EffectiveTLDPlusOne(links)
	return err == nil && other == nil && a == b
}

// NewHost is the host that a lead leads to and another did not, "" where there is none: who changes it may mean to trap
// whoever scans what hangs already.
func (l *Lead) NewHost(was *Lead) string {
	had := map[string]bool{}
	for _, d := range was.Destinations() {
		if u, ok := d.To.(*content.URL); ok {
			had[u.Host()] = true
		}
	}
	for _, d := range l.Destinations() {
		if u, ok := d.To.(*content.URL); ok && !had[u.Host()] {
			return u.Host()
		}
	}
	return ""
}

// Declared finds the declaration of a field of a lead, nil where there is none.
func Declared(key string) *schema.Field { return Fields.Field(key) }

// routesDiffer says how the routes of a lead differ from those of another.
func (l *Lead) routesDiffer(was *Lead) (out []string) {
	before, order := map[string]int{}, []string(nil)
	for i, r := range was.Routes {
		before[r.ID] = i
	}
	for i, r := range l.Routes {
		k, had := before[r.ID]
		if !had {
			if r.ID == Planned && r.Timed() {
				out = append(out, l.change())
			} else {
				out = append(out, fmt.Sprintf("Route %d is new. %s", i+1, l.RouteSays(i)))
			}
			continue
		}
		delete(before, r.ID)
		order = append(order, r.ID)
		old := was.Routes[k]
		zoned := was.Zone != l.Zone && len(r.Spans)+len(r.Weekdays)+len(r.Hours) > 0
		switch same := reflect.DeepEqual(plainRule(old), plainRule(r)) && old.To.Payload() == r.To.Payload() &&
			old.To.Kind() == r.To.Kind() &&
			!zoned; {
		case !same && r.ID == Planned && r.Timed():
			out = append(out, l.change())
		case !same:
			out = append(out, fmt.Sprintf("Route %d is another. %s", i+1, l.RouteSays(i)))
		}
		if r.Off != old.Off {
			out = append(out, fmt.Sprintf("Route %d is %s.", i+1, map[bool]string{true: "off", false: "on again"}[r.Off]))
		}
	}
	var left []string
	for _, r := range was.Routes {
		if _, gone := before[r.ID]; !gone {
			left = append(left, r.ID)
		} else if r.ID == Planned {
			out = append(out, "The change that was planned is off.")
		} else {
			out = append(out, fmt.Sprintf("A route is gone. %s", was.RouteSays(before[r.ID])))
		}
	}
	if !slices.Equal(left, order) {
		out = append(out, "The routes stand in another order.")
	}
	return out
}

// plainRule is a rule but for what it is called and whether it is on.
func plainRule(r *Route) route.Rule {
	c := r.Rule
	c.ID, c.Off = "", false
	return c
}
