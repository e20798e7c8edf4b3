package leads

import (
	"sodrik/internal/core/route"
)

// Past is a scan that was, as far as it was kept.
type Past struct {
	route.Input
	Kept route.Kept
}

// Replayed is what a lead would have made of scans that were.
type Replayed struct {
	All    int
	Routes []int // by the index of a route
	Rest   int   // whom no route would have fitted
	Untold int   // of whom what was kept does not tell
	Moved  int   // who would have been led elsewhere than by the other lead
	Vague  int   // of whom it cannot be told whether they would
}

// Replay goes through scans that were, each at its own time. was is what is live, nil for no comparison.
func (l *Lead) Replay(was *Lead, scans []Past) (out Replayed) {
	now, then := l.compared(), (*compared)(nil)
	if was != nil {
		then = was.compared()
	}
	out.Routes = make([]int, len(l.Routes))
	for i := range scans {
		out.All++
		may := now.may(&scans[i])
		switch {
		case len(may) > 1:
			out.Untold++
		case may[0] == route.Everybody:
			out.Rest++
		default:
			out.Routes[may[0]]++
		}
		if then == nil {
			continue
		}
		here, there := now.to(may, &scans[i]), then.to(then.may(&scans[i]), &scans[i])
		switch {
		case here == "" || there == "":
			out.Vague++
		case here != there:
			out.Moved++
		}
	}
	return out
}

// compared is a lead with its rules as they stand, off ones too, so that indices are those of the lead.
type compared struct {
	live *Live
	set  *route.Set
	acts []Act
}

func (l *Lead) compared() *compared {
	c := &compared{live: l.Compile("", ""), set: route.Compile(l.Rules(), l.Zone, l.Language)}
	for _, r := range l.Routes {
		c.acts = append(c.acts, l.act(r.To, "", ""))
	}
	return c
}

func (c *compared) may(p *Past) []int {
	if len(c.live.Routes) == 0 || c.live.Ends != 0 && p.At.Unix() >= c.live.Ends {
		return []int{route.Everybody}
	}
	return c.set.May(&p.Input, p.Kept)
}

// to is where a scan would have been led, "" where several are possible that differ.
func (c *compared) to(may []int, p *Past) (out string) {
	for k, i := range may {
		a := c.live.usual(p.At)
		if i != route.Everybody {
			a = c.acts[i]
		}
		to := string(a.Does) + " " + a.To + " " + a.Title
		if k > 0 && to != out {
			return ""
		}
		out = to
	}
	return out
}
