package route

import (
	"math"
	"slices"
	"time"
)

// Input is what is known of a scan.
type Input struct {
	At                  time.Time
	Country, Part, Town string   // of the address, as its data names them; "" where that is not known
	Place               string   // name of the printed place
	Languages           []string // BCP 47, the preferred first
	System              string   // as scans keep it: iOS, Android, …
	Draw                float64  // from 0 to 1; of shares
	Near, Far           []string // ids of rules of which the phone says that it is near, or that it is not
}

// Everybody is the answer where no rule fits.
const Everybody = -1

// rule is one that is compiled.
type rule struct {
	id      string
	near    bool // asks the phone where it is
	off     bool
	areas   []area
	places  []string
	tags    []int // indices of Set.tags
	systems uint8 // bits of systems; 0 for any
	clock   clock
	// lo and hi bound its share of draws; hi may pass 1, and goes on at 0
	shared bool
	lo, hi float64
	stock  int
}

// Set is the rules of a code, ready to be asked. It is not changed by being asked, so that many may ask at once.
type Set struct {
	rules []rule
	zone  *time.Location
	tags  [][]string // languages that are on offer, each widened
	rest  int        // index of the language of whoever no rule asks for one; −1 for none
	draws bool
}

// Compile makes rules without problems ready, on the clocks of a zone. rest is the language of what rules lead to that ask for
// none, and of what everybody else gets: a BCP 47 tag, "" where that is not said.
func Compile(rules []*Rule, zone, rest string) *Set {
	s := &Set{zone: zoneNamed(zone), rest: -1}
	index := map[string]int{}
	offer := func(tag string) int {
		if _, ok := index[tag]; !ok {
			index[tag] = len(s.tags)
			s.tags = append(s.tags, widened(tag))
		}
		return index[tag]
	}
	drawn := 0.0
	for _, r := range rules {
		c := rule{id: r.ID, near: r.Near != "", off: r.Off, places: r.Places, clock: clockOf(r, zone), stock: r.Stock}
		for _, name := range r.Where {
			c.areas = append(c.areas, areaOf(name))
		}
		if !r.Off {
			for _, tag := range r.Languages {
				c.tags = append(c.tags, offer(tag))
			}
		}
		for i, x := range systems {
			if slices.Contains(r.Systems, x.Value) {
				c.systems |= 1 << i
			}
		}
		if r.Share > 0 && !r.Off {
			s.draws, c.shared, c.lo = true, true, drawn
			c.hi = drawn + r.Share
			drawn = math.Mod(c.hi, 1)
		}
		s.rules = append(s.rules, c)
	}
	if rest != "" {
		s.rest = offer(rest)
	}
	return s
}

// Draws says that a rule takes a share, so that a scan needs a draw.
func (s *Set) Draws() bool { return s.draws }

// none is the rank of a language that a phone does not speak; unsaid is that of the rest where nobody said which it speaks.
const none, unsaid = 254, 253

// ranks remembers how early a phone names a language on offer, by its index, plus one; 0 is not read yet.
type ranks [64]uint8

// Choose gives the rule that a scan is sent by, or Everybody. Rules are asked in their order. Of those that ask for a language,
// up to the first that fits without one, the one fits whose language the phone prefers (RFC 4647, 3.4: by the order of the
// phone's list). reserve is asked once of a rule with a stock that would fire, and says whether something is left; nil says
// that there is. A rule that asks the phone whether it is near counts as one that fits until the phone has said no: see
// Unanswered.
func (s *Set) Choose(in *Input, reserve func(i int) bool) int {
	var now local
	var of ranks
	var out [MaxRules]bool
	for {
		stop, spoken, best := Everybody, Everybody, uint8(none)
		for i := range s.rules {
			r := &s.rules[i]
			if r.off || out[i] || !s.others(r, in, &now) {
				continue
			}
			if len(r.tags) == 0 {
				stop = i
				break
			}
			if k := s.rank(r.tags, in, &of); k < best {
				spoken, best = i, k
			}
		}
		chosen := stop
		if spoken != Everybody && best <= s.restRank(in, &of) {
			chosen = spoken
		}
		if chosen == Everybody || s.rules[chosen].stock == 0 || s.rules[chosen].unanswered(in) || reserve == nil ||
			reserve(chosen) {
			return chosen
		}
		out[chosen] = true
	}
}

// restRank is how early the phone names the language of whatever asks for none.
func (s *Set) restRank(in *Input, of *ranks) uint8 {
	if s.rest < 0 {
		return unsaid
	}
	return min(unsaid, s.rankOf(s.rest, in, of))
}

// others says that a scan answers all questions of a rule but that of the language, and that of the stock.
func (s *Set) others(r *rule, in *Input, now *local) bool {
	return !r.far(in) && s.drawn(r, in.Draw) && r.clock.spansHold(in.At, now, s.zone) && r.clock.weekHolds(in.At, now, s.zone) &&
		r.at(in.Place) &&
		r.system(in.System) &&
		r.within(in)
}

func (s *Set) drawn(r *rule, draw float64) bool {
	return !r.shared || draw >= r.lo && draw < r.hi || draw+1 < r.hi
}

func (r *rule) at(place string) bool { return len(r.places) == 0 || slices.Contains(r.places, place) }

func (r *rule) system(name string) bool { return r.systems == 0 || r.systems&(1<<systemOf(name)) != 0 }

func (r *rule) within(in *Input) bool {
	if len(r.areas) == 0 {
		return true
	}
	for i := range r.areas {
		if r.areas[i].holds(in) {
			return true
		}
	}
	return false
}

// systemOf is the index of a system as scans keep it.
func systemOf(name string) int {
	switch name {
	case "iOS", "iPadOS":
		return 0
	case "Android":
		return 1
	}
	return 2
}

// rank is how early the phone names one of the languages of a rule.
func (s *Set) rank(tags []int, in *Input, of *ranks) uint8 {
	best := uint8(none)
	for _, t := range tags {
		best = min(best, s.rankOf(t, in, of))
	}
	return best
}

func (s *Set) rankOf(tag int, in *Input, of *ranks) uint8 {
	if tag < len(of) && of[tag] > 0 {
		return of[tag] - 1
	}
	rank := uint8(none)
	for i, phone := range in.Languages[:min(len(in.Languages), unsaid)] {
		if s.taken(tag, phone) {
			rank = uint8(i)
			break
		}
	}
	if tag < len(of) {
		of[tag] = rank + 1
	}
	return rank
}

func (s *Set) taken(tag int, phone string) bool {
	for _, w := range s.tags[tag] {
		if speaks(w, phone) {
			return true
		}
	}
	return false
}
