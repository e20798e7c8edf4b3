package says

import (
	"fmt"
	"html/template"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/symbol"
	"sodrik/internal/web/desk/bound"
)

// Way is one of the two ways in which a code can say something: the address itself, or through a short link.
type Way struct {
	Key, Title string
	Size       string // "29 × 29"
	Picture    template.HTML
	On         bool
}

// sampleLink is as long as a short link that would be drawn.
const sampleLink = "F4C3K"

// Ways adds the two ways, where a code has both. host is that of short links, "" where there are none; to is what a dynamic
// code leads to.
func (v *Says) AddWays(b bound.Code, host string, to content.Content) {
	m := b.C.Rendition
	says := m.Job.Content
	stays := content.KindOf(says.Kind()).Stays
	d, dynamic := says.(*content.Dynamic)
	var fixed, link content.Content
	switch {
	case dynamic:
		v.Fixed = fmt.Sprintf("Leads through %s. Its destination can change after printing, and scans are counted. It needs this server, or the leaving pack.", d.Address())
		fixed, link = to, says
	case host == "":
		return
	case stays != "":
		v.Fixed = "Fixed: " + stays + "."
		return
	default:
		sample, err := (&content.Dynamic{}).Through(host + "/" + sampleLink)
		if err != nil {
			return
		}
		if fixed, link = says, sample; leads.IsServed(says, host) {
			v.Fixed = leads.FileNeeds
		}
	}
	if fixed == nil {
		return
	}
	v.Folded = !dynamic && says.Kind() != "url" // an address leaves the room, and is what most lead to
	for _, w := range []struct {
		way  Way
		says content.Content
	}{{Way{Key: "fixed", Title: "Fixed", On: !dynamic}, fixed}, {Way{Key: "link", Title: "Short link", On: dynamic}, link}} {
		s := m.Symbol
		if w.says != says {
			s = m.Saying(w.says)
		}
		if s == nil { // too long for a symbol; behind a link it may be longer
			w.way.Size = "too long"
		} else {
			w.way.Size, w.way.Picture = fmt.Sprintf("%d × %d", s.Size, s.Size), small(s)
		}
		v.Ways = append(v.Ways, w.way)
	}
}

// small draws a symbol in black on white, with half of its quiet zone: both ways at equal width.
func small(s *symbol.Symbol) template.HTML {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg viewBox="-2 -2 %d %d" aria-hidden="true" shape-rendering="crispEdges"><path d="`, s.Size+4, s.Size+4)
	for y := range s.Size {
		for x := 0; x < s.Size; x++ {
			if !s.Dark(x, y) {
				continue
			}
			n := 1
			for x+n < s.Size && s.Dark(x+n, y) {
				n++
			}
			fmt.Fprintf(&b, "M%d %dh%dv1h-%dz", x, y, n, n)
			x += n
		}
	}
	b.WriteString(`"/></svg>`)
	return template.HTML(b.String())
}
