package artwork

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// inherit is the style of a node within one of style up.
func (d *drawing) inherit(n *node, up style) style {
	s := up
	of := d.declared(n)
	set := func(key string, f func(v string)) {
		if v, ok := of[key]; ok && v != "" && v != "inherit" {
			f(v)
		}
	}
	set("color", func(v string) { s.color = d.paintOf(v, up.color, up.color) })
	set("fill", func(v string) { s.fill = d.paintOf(v, s.color, up.fill) })
	set("stroke", func(v string) { s.stroke = d.paintOf(v, s.color, up.stroke) })
	set("opacity", func(v string) { s.fade = up.fade * share(v) })
	set("fill-opacity", func(v string) { s.fillFade = share(v) })
	set("stroke-opacity", func(v string) { s.strokeFade = share(v) })
	set("fill-rule", func(v string) { s.evenOdd = v == "evenodd" })
	set("visibility", func(v string) { s.hidden = v != "visible" })
	set("stroke-width", func(v string) {
		if strings.HasSuffix(v, "%") {
			return
		}
		s.pen.width = max(0, length(v, up.pen.width))
	})
	set("stroke-linecap", func(v string) { s.pen.linecap = v })
	set("stroke-linejoin", func(v string) { s.pen.join = v })
	set("stroke-miterlimit", func(v string) { s.pen.miter = max(1, length(v, 4)) })
	set("stroke-dasharray", func(v string) {
		if v != "none" {
			d.leave("Dashes were drawn as a whole line.")
		}
	})
	return s
}

// share reads an opacity, a number or percent.
func share(v string) float64 {
	k := 1.0
	if p, ok := strings.CutSuffix(v, "%"); ok {
		v, k = p, 0.01
	}
	f, err := strconv.ParseFloat(strings.TrimSpace(v), 64)
	if err != nil || math.IsNaN(f) {
		return 1
	}
	return min(max(f*k, 0), 1)
}

// refOf is the id in url(#id), "" where there is none.
func refOf(v string) string {
	inner, ok := strings.CutPrefix(strings.TrimSpace(v), "url(")
	if !ok {
		return ""
	}
	inner, _, _ = strings.Cut(inner, ")")
	inner = strings.Trim(inner, `"' `)
	return strings.TrimPrefix(inner, "#")
}

// paintOf reads a paint; what cannot be read is as it was before.
func (d *drawing) paintOf(v string, current, before paint) paint {
	switch ref := refOf(v); {
	case ref != "":
		return paint{ref: ref, alpha: 1}
	case v == "none" || v == "transparent":
		return paint{none: true}
	case strings.EqualFold(v, "currentcolor"):
		return current
	}
	c, alpha, ok := ink.CSS(v)
	if !ok {
		return before
	}
	return paint{colour: c, alpha: alpha}
}

// gradient is a shade in the drawing's units; one is its colour where it does not change, with a nil shade. Parts of it that
// are not solid count as their mean.
func (d *drawing) gradient(ref string, over scene.Path, m matrix) (shade *scene.Shade, one ink.Colour, alpha float64, ok bool) {
	n := d.ids[ref]
	if n == nil || n.name != "linearGradient" && n.name != "radialGradient" {
		if n != nil {
			d.leave("A pattern was left out.")
		}
		return nil, one, 0, false
	}
	g := d.stopsOf(ref, n)
	attr, stops, alpha := g.attr, g.list, g.alpha
	if d.err != nil {
		return nil, one, 0, false
	}
	if d.spend(len(over.Points) + stepsOfStop*len(stops)); d.err != nil {
		return nil, one, 0, false
	}
	if len(stops) == 0 {
		return nil, one, 0, false
	}
	if alpha < 0.999 {
		d.leave("A gradient that fades out was made evenly transparent.")
	}
	one = stops[0].Colour
	if len(stops) == 1 {
		return nil, one, alpha, true
	}
	units := identity
	whole := 1.0
	if attr["gradientUnits"] != "userSpaceOnUse" {
		b := boxOf(scene.Item{Path: over})
		if b.empty() || b.x1-b.x0 < 1e-9 || b.y1-b.y0 < 1e-9 {
			return nil, one, alpha, true
		}
		units = matrix{b.x1 - b.x0, 0, 0, b.y1 - b.y0, b.x0, b.y0}
	} else if w := d.view.x1 - d.view.x0; !math.IsInf(w, 0) {
		whole = w
	}
	get := func(key string, def float64) float64 {
		v := attr[key]
		if p, is := strings.CutSuffix(v, "%"); is {
			if f, err := strconv.ParseFloat(p, 64); err == nil {
				return f / 100 * whole
			}
			return def * whole
		}
		if v == "" {
			return def * whole
		}
		return length(v, def)
	}
	s := &scene.Shade{Radial: n.name == "radialGradient", Stops: stops}
	if s.Radial {
		s.X0, s.Y0, s.Radius = get("cx", 0.5), get("cy", 0.5), get("r", 0.5)
		if s.Radius <= 0 {
			return nil, stops[len(stops)-1].Colour, alpha, true
		}
	} else {
		s.X0, s.Y0, s.X1, s.Y1 = get("x1", 0), get("y1", 0), get("x2", 1), get("y2", 0)
		if math.Hypot(s.X1-s.X0, s.Y1-s.Y0) < 1e-9 {
			return nil, stops[len(stops)-1].Colour, alpha, true
		}
	}
	return m.of(units).of(parseTransform(attr["gradientTransform"])).shade(s), one, alpha, true
}

// stops are the colours of a gradient, read once however many shapes are painted with it.
type stops struct {
	attr  map[string]string
	list  []ink.Stop
	alpha float64 // mean
}

// maxStops bounds the colours of one gradient; stepsOfStop is what one costs for every shape that is painted with it.
const (
	maxStops    = 64
	stepsOfStop = 24
)

func (d *drawing) stopsOf(ref string, n *node) *stops {
	if g := d.stops[ref]; g != nil {
		return g
	}
	g := &stops{attr: map[string]string{}}
	d.stops[ref] = g
	var kids []*node
	for at, hops := n, 0; at != nil && hops < 8; hops++ { // what is missing comes from the one referred to
		for k, v := range at.attr {
			if _, has := g.attr[k]; !has {
				g.attr[k] = v
			}
		}
		if len(kids) == 0 {
			kids = at.kids
		}
		at = d.ids[strings.TrimPrefix(at.attr["href"], "#")]
	}
	for _, k := range kids {
		if d.spend(stepsOfNode); d.err != nil {
			return g
		}
		if k.name != "stop" {
			continue
		}
		if len(g.list) == maxStops {
			d.leave(fmt.Sprintf("Of a gradient, the colours after the first %d were left out.", maxStops))
			break
		}
		of := d.declared(k)
		c, a, read := ink.CSS(of["stop-color"])
		if !read {
			a = 1
		}
		if v, has := of["stop-opacity"]; has {
			a *= share(v)
		}
		g.alpha += a
		at := 0.0
		if of["offset"] != "" {
			at = share(of["offset"])
		}
		if len(g.list) > 0 {
			at = max(at, g.list[len(g.list)-1].At)
		}
		g.list = append(g.list, ink.Stop{At: at, Colour: c})
	}
	if len(g.list) > 0 {
		g.alpha /= float64(len(g.list))
	}
	return g
}

// nonZero turns the outlines of a path that is filled by the even-odd rule so that the non-zero rule fills the same: each
// runs the other way than the one around it. Outlines that cross themselves or each other are not taken apart.
func (d *drawing) nonZero(p scene.Path) scene.Path {
	d.spend(chordsOf * len(p.Points))
	if d.err != nil {
		return p
	}
	polygons := p.Polygons(chordsOf)
	around := make([]box, len(polygons))
	for i, l := range polygons {
		around[i] = emptyBox
		for _, q := range l {
			around[i] = around[i].or(box{q.X, q.Y, q.X, q.Y})
		}
	}
	var out scene.Path
	op, point := 0, 0
	for i, l := range polygons {
		first, from := op, point
		for op < len(p.Ops) && (op == first || p.Ops[op] != scene.Move) {
			point += [4]int{1, 1, 3, 0}[p.Ops[op]]
			op++
		}
		depth := 0
		if d.spend(len(polygons)); d.err != nil {
			return p
		}
		for k, other := range polygons {
			if k == i || len(l) == 0 || !around[k].holds(box{l[0].X, l[0].Y, l[0].X, l[0].Y}) {
				continue
			}
			if d.spend(len(other)); d.err != nil {
				return p
			}
			if scene.Turns([]scene.Polygon{other}, l[0].X+1e-7, l[0].Y+1.3e-7) != 0 {
				depth++
			}
		}
		one := scene.Path{Ops: p.Ops[first:op], Points: p.Points[from:point]}
		if forwards := scene.Area([]scene.Polygon{l}) > 0; forwards != (depth%2 == 0) {
			one = reversed(one)
		}
		out.Append(one)
	}
	return out
}

// reversed is one closed outline run the other way.
func reversed(p scene.Path) (out scene.Path) {
	n := len(p.Points)
	out.MoveTo(p.Points[n-1].X, p.Points[n-1].Y)
	at := n - 1
	for i := len(p.Ops) - 1; i >= 0; i-- {
		switch q := p.Points; p.Ops[i] {
		case scene.Line:
			out.LineTo(q[at-1].X, q[at-1].Y)
			at--
		case scene.Cubic:
			out.CubicTo(q[at-1].X, q[at-1].Y, q[at-2].X, q[at-2].Y, q[at-3].X, q[at-3].Y)
			at -= 3
		}
	}
	out.Close()
	return out
}
