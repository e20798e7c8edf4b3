package detect

import (
	"cmp"
	"math"
	"slices"
)

// eye is a place where a finder pattern may be: its middle, the size of its modules along rows and columns, and how many rows
// crossed it.
type eye struct {
	x, y, module float64
	rows         int
}

// maxEyes bounds how many candidates are put together in threes.
const maxEyes = 36

// eyes looks along every row for dark, light, dark, light, dark in the shares of a finder pattern (clause 6.3.3) and keeps
// what has them down the column too.
func (l *light) eyes() (out []eye) {
	var edges []float64
	confirmed := 0
	for y := range l.h {
		row := l.v[y*l.w:][:l.w]
		edges = edges[:0]
		first := row[0] < 0 // a row that starts dark has its first edge there
		if first {
			edges = append(edges, 0)
		}
		for x := 1; x < l.w; x++ {
			if a, b := row[x-1], row[x]; (a < 0) != (b < 0) {
				edges = append(edges, float64(x)-0.5+float64(a/(a-b)))
			}
		}
		if len(edges)%2 == 1 {
			edges = append(edges, float64(l.w))
		}
		for i := 0; i+5 < len(edges); i += 2 { // even edges go dark
			middle, module, ok := pattern(edges[i:])
			if !ok {
				continue
			}
			if confirmed++; confirmed > maxConfirmed {
				l.crowded = true
				break
			}
			e, ok := l.confirm(middle, float64(y)+0.5, module)
			if ok {
				out = gather(out, e)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b eye) int { return cmp.Compare(b.rows, a.rows) })
	return out[:min(len(out), maxEyes)]
}

// pattern holds six edges against 1:1:3:1:1. Distances between like edges (dark to dark, light to light) are what counts,
// since spread of ink does not change them.
func pattern(e []float64) (middle, module float64, ok bool) {
	module = (e[5] - e[0] + e[4] - e[1] + e[3] - e[2]) / (7 + 5 + 3)
	if module < 0.8 {
		return 0, 0, false
	}
	off := func(got, want, may float64) bool { return math.Abs(got-want*module) > may*module }
	if off(e[2]-e[0], 2, 0.75) || off(e[3]-e[1], 4, 0.9) || off(e[4]-e[2], 4, 0.9) || off(e[5]-e[3], 2, 0.75) {
		return 0, 0, false
	}
	for i := range 5 { // each run is there
		if w := e[i+1] - e[i]; w < 0.3*module || i != 2 && w > 2*module || i == 2 && (w < 1.5*module || w > 4.4*module) {
			return 0, 0, false
		}
	}
	return (e[0] + e[1] + e[2] + e[3] + e[4] + e[5]) / 6, module, true
}

// confirm crosses a candidate down its column and along the row through the middle found there.
func (l *light) confirm(x, y, module float64) (eye, bool) {
	_, top, bottom, mv, ok := l.cross(x, y, 0, 1, module)
	if !ok || mv > 2.6*module || module > 2.6*mv {
		return eye{}, false
	}
	y += (bottom - top) / 2
	_, left, right, mh, ok := l.cross(x, y, 1, 0, module)
	if !ok {
		return eye{}, false
	}
	x += (right - left) / 2
	return eye{x: x, y: y, module: math.Sqrt(mv * mh), rows: 1}, true
}

// cross walks from the middle of a candidate both ways along a direction and gives the distances to the outer edges, which
// are three and a half modules away, and the size of a module.
func (l *light) cross(x, y, dx, dy, module float64) (edges [6]float64, back, forth, size float64, ok bool) {
	forward, ok1 := l.walk(x, y, dx, dy, module)
	backward, ok2 := l.walk(x, y, -dx, -dy, module)
	if !ok1 || !ok2 {
		return edges, 0, 0, 0, false
	}
	for i := range 3 {
		edges[2-i], edges[3+i] = -backward[i], forward[i]
	}
	_, size, ok = pattern(edges[:])
	// The mean of like edges lies at the middle.
	forth, back = (forward[0]+forward[1]+forward[2])/3, (backward[0]+backward[1]+backward[2])/3
	return edges, back, forth, size, ok
}

// walk gives the distances of the next three edges along a ray that starts in the dark.
func (l *light) walk(x, y, dx, dy, module float64) (at [3]float64, ok bool) {
	step := math.Min(0.5, module/4)
	before := l.at(x, y)
	if before >= 0 {
		return at, false
	}
	n := 0
	for d := step; d < 9*module; d += step {
		now := l.at(x+dx*d, y+dy*d)
		if (now < 0) != (before < 0) {
			at[n] = d - step + step*before/(before-now)
			if n++; n == 3 {
				return at, true
			}
		}
		before = now
	}
	return at, false
}

// gather merges a candidate with one found before at the same place.
func gather(list []eye, e eye) []eye {
	for i := range list {
		o := &list[i]
		if math.Abs(o.x-e.x) < 1.5*o.module && math.Abs(o.y-e.y) < 1.5*o.module {
			n := float64(o.rows)
			o.x, o.y, o.module = (o.x*n+e.x)/(n+1), (o.y*n+e.y)/(n+1), (o.module*n+e.module)/(n+1)
			o.rows++
			return list
		}
	}
	return append(list, e)
}

// triple is three candidates, the middle one first, and how unlike the three of one symbol they lie.
type triple struct {
	at  [3]int
	odd float64
}

// triples gives the sets of three that may belong to one symbol, likeliest first.
func triples(eyes []eye) (out []triple) {
	for i := range eyes {
		for j := range eyes {
			for k := j + 1; k < len(eyes); k++ {
				if i == j || i == k {
					continue
				}
				if odd, ok := oddness(eyes[i], eyes[j], eyes[k]); ok {
					out = append(out, triple{[3]int{i, j, k}, odd})
				}
			}
		}
	}
	slices.SortStableFunc(out, func(a, b triple) int { return cmp.Compare(a.odd, b.odd) })
	return out
}

func oddness(a, b, c eye) (float64, bool) {
	module := (a.module + b.module + c.module) / 3
	apart := math.Max(math.Max(a.module, b.module), c.module) / math.Min(math.Min(a.module, b.module), c.module)
	p, q := math.Hypot(b.x-a.x, b.y-a.y), math.Hypot(c.x-a.x, c.y-a.y)
	cos := ((b.x-a.x)*(c.x-a.x) + (b.y-a.y)*(c.y-a.y)) / (p * q)
	ratio := math.Max(p, q) / math.Min(p, q)
	if apart > 1.8 || ratio > 2.8 || math.Abs(cos) > 0.6 || math.Min(p, q) < 6*module || math.Max(p, q) > 220*module {
		return 0, false
	}
	return math.Log(apart)*2 + math.Log(ratio) + math.Abs(cos)*1.5 + 4/float64(min(a.rows, b.rows, c.rows)), true
}

// sizes gives the likeliest sizes of a symbol, from its timing patterns, whose changes are counted, and from the size of modules.
func (l *light) sizes(a, b, c eye) (out []int) {
	across, down := l.timing(a, b, c), l.timing(a, c, b)
	along := func(p, q eye) float64 { // distance in modules as they are along it
		d := math.Hypot(q.x-p.x, q.y-p.y)
		dx, dy := (q.x-p.x)/d, (q.y-p.y)/d
		sum, n := 0.0, 0.0
		for _, e := range [2]eye{p, q} {
			if _, _, _, size, ok := l.cross(e.x, e.y, dx, dy, e.module); ok {
				sum, n = sum+size, n+1
			}
		}
		if n == 0 {
			return d/((p.module+q.module)/2) + 7
		}
		return d/(sum/n) + 7
	}
	guess := (along(a, b) + along(a, c)) / 2
	apart := math.Min(math.Hypot(b.x-a.x, b.y-a.y), math.Hypot(c.x-a.x, c.y-a.y))
	add := func(n float64) {
		v := int(math.Round((n - 17) / 4))
		if n := 17 + 4*v; v >= 1 && v <= 40 && apart >= 0.7*float64(n-7) && !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	if across == down {
		add(float64(across))
	}
	add(guess)
	if math.Abs(float64(across)-guess) < 0.15*guess+3 {
		add(float64(across))
	}
	if math.Abs(float64(down)-guess) < 0.15*guess+3 {
		add(float64(down))
	}
	if off := guess - 17 - 4*math.Round((guess-17)/4); off > 0 { // the next nearest
		add(guess + 4)
	} else {
		add(guess - 4)
	}
	return out
}

// timing counts changes along the alternating line between two finder patterns; from the corner of one to that of the other
// there are thirteen less than modules a side.
func (l *light) timing(a, b, c eye) int {
	d := math.Hypot(b.x-a.x, b.y-a.y)
	ux, uy := (b.x-a.x)/d, (b.y-a.y)/d
	down := math.Hypot(c.x-a.x, c.y-a.y)
	vx, vy := (c.x-a.x)/down, (c.y-a.y)/down
	near := func(e eye, along float64) (x, y float64) { // three modules inwards, and as many towards the other
		m := e.module
		return e.x + 3*m*(vx+along*ux), e.y + 3*m*(vy+along*uy)
	}
	x0, y0 := near(a, 1)
	x1, y1 := near(b, -1)
	steps := int(math.Hypot(x1-x0, y1-y0) * 4)
	changes, dark := 0, true
	for i := range steps + 1 {
		t := float64(i) / float64(max(1, steps))
		v := l.at(x0+(x1-x0)*t, y0+(y1-y0)*t)
		if dark && v > 0.1 || !dark && v < -0.1 {
			dark = !dark
			changes++
		}
	}
	return changes + 13
}
