package route

// Kept says what of a scan is kept.
type Kept struct {
	Who  bool // the place of the address, the languages and the system
	Draw bool
}

// May are the rules by which a scan may be sent, as far as what is kept of it tells; where it is one, that is told. Whether
// something was left of a stock, and what a phone said of where it is, is never kept.
func (s *Set) May(in *Input, kept Kept) (out []int) {
	var now local
	var of ranks
	rest := s.restRank(in, &of)
	for i := range s.rules {
		r, sure := &s.rules[i], s.rules[i].stock == 0 && !s.rules[i].near
		if r.off || !r.clock.spansHold(in.At, &now, s.zone) || !r.clock.weekHolds(in.At, &now, s.zone) || !r.at(in.Place) {
			continue
		}
		switch {
		case !r.shared:
		case !kept.Draw:
			sure = false
		case !s.drawn(r, in.Draw):
			continue
		}
		switch {
		case !kept.Who:
			sure = sure && len(r.areas) == 0 && r.systems == 0 && len(r.tags) == 0
		case !r.system(in.System) || !r.within(in):
			continue
		case len(r.tags) > 0:
			k := s.rank(r.tags, in, &of)
			if k == none || k > rest {
				continue
			}
			sure = sure && k == 0 // a later one may speak what the phone prefers
		}
		out = append(out, i)
		if sure {
			return s.told(in, kept, out)
		}
	}
	return s.told(in, kept, append(out, Everybody))
}

// told is one where everything that is asked for is kept.
func (s *Set) told(in *Input, kept Kept, may []int) []int {
	if len(may) == 1 || !kept.Who || s.draws && !kept.Draw {
		return may
	}
	for i := range s.rules {
		if !s.rules[i].off && (s.rules[i].stock > 0 || s.rules[i].near) {
			return may
		}
	}
	return []int{s.Choose(in, nil)}
}
