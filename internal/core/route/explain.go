package route

import (
	"fmt"
	"math"
	"slices"
	"time"
)

// Step is a rule that was asked, and what came of it.
type Step struct {
	Rule  int
	Fires bool
	Words string // why, or why not
}

// Explain says of each rule, in order, why it does not fire, up to the one that does; rules and zone are those that the set was
// made of.
func (s *Set) Explain(rules []*Rule, zone string, in *Input) (out []Step) {
	chosen := s.Choose(in, nil)
	for i, r := range rules {
		if r.Off {
			continue
		}
		step := Step{Rule: i, Fires: i == chosen}
		if step.Fires {
			step.Words = s.because(r, in)
		} else {
			step.Words = s.whyNot(i, r, chosen, in)
		}
		out = append(out, step)
		if step.Fires {
			break
		}
	}
	return out
}

// because says why a rule fires.
func (s *Set) because(r *Rule, in *Input) string {
	var out []string
	if len(r.Spans)+len(r.Weekdays)+len(r.Hours) > 0 {
		out = append(out, "it is the time")
	}
	if len(r.Where) > 0 {
		out = append(out, "it is in "+or(each(r.Where, Says)))
	}
	if r.Near != "" {
		out = append(out, "the phone says that it is "+r.NearSays())
	}
	if len(r.Places) > 0 {
		out = append(out, "it is scanned at "+in.Place)
	}
	if len(r.Languages) > 0 {
		out = append(out, "the phone speaks "+or(each(r.Languages, LanguageName)))
	}
	if len(r.Systems) > 0 {
		out = append(out, "it is "+or(each(r.Systems, systemName)))
	}
	if r.Share > 0 {
		out = append(out, "it is drawn")
	}
	if r.Stock > 0 {
		out = append(out, "something is left")
	}
	if len(out) == 0 {
		return "it asks nothing"
	}
	return join(out, "and")
}

// whyNot says the first question to which the answer is no.
func (s *Set) whyNot(i int, r *Rule, chosen int, in *Input) string {
	c, now := &s.rules[i], local{}
	switch {
	case !c.clock.spansHold(in.At, &now, s.zone):
		return s.notNow(r, in.At)
	case !c.clock.weekHolds(in.At, &now, s.zone):
		now.at(in.At, s.zone)
		return fmt.Sprintf("not on a %s at %02d:%02d", weekdays[now.day].Words, now.minute/60, now.minute%60)
	case !c.at(in.Place):
		return "not scanned at " + or(r.Places)
	case !c.within(in):
		return "not in " + or(each(r.Where, Says))
	case c.far(in):
		return "the phone says that it is not " + r.NearSays()
	case !c.system(in.System):
		return "not " + or(each(r.Systems, systemName))
	case !s.drawn(c, in.Draw):
		return fmt.Sprintf("drawn for others; %s get it", percent(r.Share))
	}
	var of ranks
	if len(c.tags) > 0 && s.rank(c.tags, in, &of) == none {
		return "the phone does not speak " + or(each(r.Languages, LanguageName))
	}
	for _, phone := range in.Languages {
		if chosen != Everybody && slices.ContainsFunc(s.rules[chosen].tags, func(t int) bool { return s.taken(t, phone) }) ||
			s.rest >= 0 && s.taken(s.rest, phone) {
			return "the phone prefers " + LanguageName(phone)
		}
	}
	return "another comes first"
}

// notNow says how a moment misses the spans of a rule.
func (s *Set) notNow(r *Rule, at time.Time) string {
	if r.Yearly {
		return "not at this time of the year"
	}
	for _, x := range r.Spans {
		if x.From == "" {
			continue
		}
		if from, _ := moment(x.From, s.zone.String()); at.Unix() < from {
			return "not before " + spelled(x.From, false)
		}
	}
	last := ""
	for _, x := range r.Spans {
		last = max(last, x.Until)
	}
	return "over since " + spelled(last, false)
}

// Outcome is a rule that may fire, and for which share of scans like this.
type Outcome struct {
	Rule  int
	Share float64
}

// Outcomes are what may come of a scan whatever is drawn, in order of the draw; one where no share is asked for.
func (s *Set) Outcomes(in Input) (out []Outcome) {
	cuts := s.cuts()
	for i, lo := range cuts {
		hi := 1.0
		if i+1 < len(cuts) {
			hi = cuts[i+1]
		}
		in.Draw = (lo + hi) / 2
		rule := s.Choose(&in, nil)
		if k := slices.IndexFunc(out, func(o Outcome) bool { return o.Rule == rule }); k >= 0 {
			out[k].Share += hi - lo
		} else {
			out = append(out, Outcome{rule, hi - lo})
		}
	}
	return out
}

// cuts are the draws at which another rule may fire, from 0 on.
func (s *Set) cuts() []float64 {
	out := []float64{0}
	for i := range s.rules {
		if r := &s.rules[i]; r.shared {
			for _, at := range []float64{r.lo, r.hi} {
				if at >= 1 {
					at--
				}
				out = append(out, at)
			}
		}
	}
	slices.Sort(out)
	out = slices.CompactFunc(out, func(a, b float64) bool { return math.Abs(b-a) < 1e-9 })
	if last := len(out) - 1; last > 0 && out[last] > 1-1e-9 {
		out = out[:last]
	}
	return out
}

// Cell is a day of somebody: the rules that fire on it, in the order of the day.
type Cell []int

// Day is what somebody gets on a day of the zone: the rules that fire for the first half of the draws, in order.
func (s *Set) Day(in Input, day time.Time) (out Cell) {
	here := day.In(s.zone)
	start := time.Date(here.Year(), here.Month(), here.Day(), 0, 0, 0, 0, s.zone)
	for _, at := range s.changes(start, start.AddDate(0, 0, 1)) {
		in.At = at
		for _, o := range s.Outcomes(in) {
			if !slices.Contains(out, o.Rule) {
				out = append(out, o.Rule)
			}
		}
	}
	return out
}

// Next is the next moment after a time at which something changes, within a span; ok is false where nothing does.
func (s *Set) Next(after time.Time, within time.Duration) (at time.Time, ok bool) {
	for _, t := range s.changes(after, after.Add(within))[1:] {
		return t, true
	}
	return at, false
}

// Zone is that of the clocks.
func (s *Set) Zone() *time.Location { return s.zone }
