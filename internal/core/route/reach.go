package route

import "time"

// mask has a bit for each rule.
type mask [(MaxRules + 63) / 64]uint64

func (m *mask) set(i int)     { m[i/64] |= 1 << (i % 64) }
func (m mask) has(i int) bool { return m[i/64]&(1<<(i%64)) != 0 }

func (m mask) and(o mask) mask {
	for i := range m {
		m[i] &= o[i]
	}
	return m
}

// below is the bits before one.
func (m mask) below(i int) mask {
	for w := range m {
		switch {
		case w > i/64:
			m[w] = 0
		case w == i/64:
			m[w] &= 1<<(i%64) - 1
		}
	}
	return m
}

// maxMasks bounds how many sets of rules are held against one another.
const maxMasks = 20000

// Reached says which rules somebody can ever get to from a moment on, and whether anybody gets past all of them; sure is false
// where there are too many to say, and then all are. The answers to each question fall into kinds that no rule tells apart; of
// each question one kind is taken, in every combination. A phone of one language suffices, since a phone of several gets what
// one of its languages alone would get.
func (s *Set) Reached(from time.Time) (rules []bool, rest, sure bool) {
	rules = make([]bool, len(s.rules))
	var blocks mask // by which nobody passes whom they fit
	for i := range s.rules {
		if !s.rules[i].off && s.rules[i].stock == 0 && !s.rules[i].near {
			blocks.set(i)
		}
	}
	all := map[mask]bool{s.kind(func(*rule) bool { return true }): true}
	for _, kinds := range [][]mask{s.times(from), s.areaKinds(), s.placeKinds(), s.tongueKinds(), s.systemKinds(),
		s.drawKinds()} {
		next := map[mask]bool{}
		for m := range all {
			for _, k := range kinds {
				next[m.and(k)] = true
			}
		}
		if all = next; len(all) > maxMasks {
			for i := range rules {
				rules[i] = true
			}
			return rules, true, false
		}
	}
	for m := range all {
		stops := m.and(blocks)
		rest = rest || stops == mask{}
		for i := range s.rules {
			if m.has(i) && stops.below(i) == (mask{}) {
				rules[i] = true
			}
		}
	}
	return rules, rest, true
}

// kind is the rules that are on and hold.
func (s *Set) kind(holds func(*rule) bool) (m mask) {
	for i := range s.rules {
		if r := &s.rules[i]; !r.off && holds(r) {
			m.set(i)
		}
	}
	return m
}

// kinds leaves out doubles.
func kinds(list []mask) (out []mask) {
	seen := map[mask]bool{}
	for _, m := range list {
		if !seen[m] {
			seen[m] = true
			out = append(out, m)
		}
	}
	return out
}

// farYears is for how many years a date comes on every weekday; nearYears suffice where no weekday is asked for.
const farYears, nearYears = 28, 2

// times are the kinds of moments from one on. Between two moments at which a span begins or ends a week says all.
func (s *Set) times(from time.Time) []mask {
	until, years, weekly := from, nearYears, false
	for i := range s.rules {
		c := &s.rules[i].clock
		for _, w := range c.windows {
			if !c.yearly {
				for _, at := range []int64{w.from, w.until} {
					if t := time.Unix(at, 0); at != always && t.After(until) {
						until = t
					}
				}
			} else if c.days != 0 {
				years = farYears
			}
		}
		weekly = weekly || c.days != 0 || len(c.hours) > 0
	}
	coarse := &Set{zone: s.zone}
	for i := range s.rules {
		coarse.rules = append(
			coarse.rules,
			rule{clock: clock{windows: s.rules[i].clock.windows, yearly: s.rules[i].clock.yearly}},
		)
	}
	var list []mask
	edges := coarse.changes(from, until.AddDate(years, 0, 8))
	for i, edge := range edges {
		end := edge.AddDate(0, 0, 8)
		if i+1 < len(edges) && edges[i+1].Before(end) {
			end = edges[i+1]
		}
		at := []time.Time{edge}
		if weekly {
			at = s.changes(edge, end)
		}
		for _, t := range at {
			var now local
			list = append(list, s.kind(func(r *rule) bool {
				return r.clock.spansHold(t, &now, s.zone) && r.clock.weekHolds(t, &now, s.zone)
			}))
		}
	}
	return kinds(list)
}

func (s *Set) areaKinds() []mask {
	at := []Input{{}}
	for i := range s.rules {
		for _, a := range s.rules[i].areas {
			at = append(at, Input{Country: a.country}, Input{Country: a.country, Part: a.name})
		}
	}
	var list []mask
	for i := range at {
		list = append(list, s.kind(func(r *rule) bool { return r.within(&at[i]) }))
	}
	return kinds(list)
}

func (s *Set) placeKinds() []mask {
	at := []string{""}
	for i := range s.rules {
		at = append(at, s.rules[i].places...)
	}
	var list []mask
	for _, name := range at {
		list = append(list, s.kind(func(r *rule) bool { return r.at(name) }))
	}
	return kinds(list)
}

func (s *Set) tongueKinds() []mask {
	at := []string{""}
	for _, t := range s.tags {
		at = append(at, t[0])
	}
	var list []mask
	for _, phone := range at {
		list = append(list, s.kind(func(r *rule) bool {
			for _, t := range r.tags {
				if s.taken(t, phone) {
					return true
				}
			}
			return len(r.tags) == 0
		}))
	}
	return kinds(list)
}

func (s *Set) systemKinds() (list []mask) {
	for _, name := range []string{"iOS", "Android", ""} {
		list = append(list, s.kind(func(r *rule) bool { return r.system(name) }))
	}
	return kinds(list)
}

func (s *Set) drawKinds() (list []mask) {
	for _, at := range s.cuts() {
		list = append(list, s.kind(func(r *rule) bool { return s.drawn(r, at+1e-9) }))
	}
	return kinds(list)
}
