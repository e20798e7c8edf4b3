package scene

import "math"

// maxMitre bounds how far a corner moves, in lengths of the inset: sharp ones would run away.
const maxMitre = 4.0

// Inset moves every edge of a path by d into what it fills, corners mitred, so that each dark part loses 2·d of its width; d
// is in the units of the path, 0 or more. Steps and their order stay; an outline that is narrower than 2·d everywhere is
// gone. Curves are moved by their control polygons (Tiller and Hanson, Offsets of Two-Dimensional Profiles, 1984), within a
// hundredth of d for the quarter circles of corners.
func (p Path) Inset(d float64) Path {
	if d <= 0 {
		return p
	}
	var out Path
	rings := p.rings()
	for _, r := range rings {
		side := r.fills(rings)
		if side == 0 { // within another of its own: no edge of what is dark
			r.put(&out, r.points)
			continue
		}
		if moved, ok := r.moved(d * side); ok {
			r.put(&out, moved)
		}
	}
	return out
}

// ring is one outline: its points without those that repeat the one before, and which of them each point of the path is.
type ring struct {
	ops    []Op
	points []Point
	of     []int
	box    [4]float64
	flat   []Point // with curves as short lines
}

// rings takes a path apart.
func (p Path) rings() (out []*ring) {
	at := 0
	for i := 0; i < len(p.Ops); {
		r := &ring{}
		from := at
		for ; i < len(p.Ops) && (p.Ops[i] != Move || len(r.ops) == 0); i++ {
			r.ops = append(r.ops, p.Ops[i])
			at += map[Op]int{Move: 1, Line: 1, Cubic: 3}[p.Ops[i]]
		}
		r.take(p.Points[from:at])
		if len(r.points) > 2 {
			out = append(out, r)
		}
	}
	return out
}

func (r *ring) take(points []Point) {
	r.box = [4]float64{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	for _, q := range points {
		if n := len(r.points); n == 0 || far(q, r.points[n-1]) {
			r.points = append(r.points, q)
		}
		r.of = append(r.of, len(r.points)-1)
		r.box = [4]float64{min(r.box[0], q.X), min(r.box[1], q.Y), max(r.box[2], q.X), max(r.box[3], q.Y)}
	}
	if n := len(r.points); n > 1 && !far(r.points[0], r.points[n-1]) { // closed by a line to where it began
		for i, k := range r.of {
			if k == n-1 {
				r.of[i] = 0
			}
		}
		r.points = r.points[:n-1]
	}
	at := 0
	for _, op := range r.ops {
		switch op {
		case Move, Line:
			r.flat = append(r.flat, points[at])
			at++
		case Cubic:
			a, b, c, e := points[at-1], points[at], points[at+1], points[at+2]
			const steps = 6
			for k := 1; k <= steps; k++ {
				t := float64(k) / steps
				u := 1 - t
				r.flat = append(r.flat, Point{u*u*u*a.X + 3*u*u*t*b.X + 3*u*t*t*c.X + t*t*t*e.X, u*u*u*a.Y + 3*u*u*t*b.Y +
					3*u*t*t*c.Y + t*t*t*e.Y})
			}
			at += 3
		}
	}
}

func far(a, b Point) bool { return math.Abs(a.X-b.X) > 1e-9 || math.Abs(a.Y-b.Y) > 1e-9 }

// fills says on which side of its edges a ring is filled, by all rings together: 1 to the right as it goes, y pointing down,
// −1 to the left, 0 on both or on none.
func (r *ring) fills(rings []*ring) float64 {
	long, at := 0.0, 0
	for i, a := range r.flat {
		b := r.flat[(i+1)%len(r.flat)]
		if l := math.Hypot(b.X-a.X, b.Y-a.Y); l > long {
			long, at = l, i
		}
	}
	if long == 0 {
		return 0
	}
	a, b := r.flat[at], r.flat[(at+1)%len(r.flat)]
	nx, ny := -(b.Y-a.Y)/long, (b.X-a.X)/long // to the right
	filled := func(way float64) bool {
		q := Point{(a.X+b.X)/2 + way*nx*long*1e-4, (a.Y+b.Y)/2 + way*ny*long*1e-4}
		turns := 0
		for _, o := range rings {
			if q.X >= o.box[0] && q.X <= o.box[2] && q.Y >= o.box[1] && q.Y <= o.box[3] {
				turns += o.turns(q)
			}
		}
		return turns != 0
	}
	switch right, left := filled(1), filled(-1); {
	case right && !left:
		return 1
	case left && !right:
		return -1
	}
	return 0
}

// turns is how often a ring goes around a point.
func (r *ring) turns(q Point) (n int) {
	for i, a := range r.flat {
		b := r.flat[(i+1)%len(r.flat)]
		if (a.Y <= q.Y) == (b.Y <= q.Y) {
			continue
		}
		if x := a.X + (q.Y-a.Y)/(b.Y-a.Y)*(b.X-a.X); x > q.X {
			if b.Y > a.Y {
				n++
			} else {
				n--
			}
		}
	}
	return n
}

// moved gives the points by d to the right of the edges; ok is false where nothing is left.
func (r *ring) moved(d float64) (out []Point, ok bool) {
	n := len(r.points)
	way := make([]Point, n) // of the edge that leaves a point
	for i, a := range r.points {
		b := r.points[(i+1)%n]
		l := math.Hypot(b.X-a.X, b.Y-a.Y)
		way[i] = Point{(b.X - a.X) / l, (b.Y - a.Y) / l}
	}
	out = make([]Point, n)
	for i, p := range r.points {
		a, b := way[(i+n-1)%n], way[i]
		k := d / max(1+a.X*b.X+a.Y*b.Y, 2/(maxMitre*maxMitre))
		out[i] = Point{p.X - (a.Y+b.Y)*k, p.Y + (a.X+b.X)*k}
	}
	// Edges that are used up run backwards now: those next to them meet in their place.
	back := func(i int) bool {
		a, b := out[i%n], out[(i+1)%n]
		return (b.X-a.X)*way[i%n].X+(b.Y-a.Y)*way[i%n].Y < 0
	}
	first := -1
	for i := range n {
		if !back(i) {
			first = i
			break
		}
	}
	if first < 0 {
		return nil, false
	}
	type run struct{ from, to int } // edges
	var runs []run
	for i := first + 1; i < first+n; i++ {
		if !back(i) {
			continue
		}
		from := i
		for i+1 < first+n && back(i+1) {
			i++
		}
		runs = append(runs, run{from, i})
	}
	kept := n
	for _, u := range runs {
		kept -= u.to - u.from + 1
	}
	if kept < 3 {
		return nil, false
	}
	for _, u := range runs {
		at := meet(out[u.from%n], way[(u.from+n-1)%n], out[(u.to+1)%n], way[(u.to+1)%n])
		for i := u.from; i <= u.to+1; i++ {
			out[i%n] = at
		}
	}
	return out, true
}

// meet is where two lines cross, or the middle between their points where they run side by side.
func meet(p, a, q, b Point) Point {
	den := a.X*b.Y - a.Y*b.X
	if math.Abs(den) < 1e-6 {
		return Point{(p.X + q.X) / 2, (p.Y + q.Y) / 2}
	}
	t := ((q.X-p.X)*b.Y - (q.Y-p.Y)*b.X) / den
	return Point{p.X + t*a.X, p.Y + t*a.Y}
}

// put adds the ring with its points elsewhere.
func (r *ring) put(to *Path, points []Point) {
	to.Ops = append(to.Ops, r.ops...)
	for _, k := range r.of {
		to.Points = append(to.Points, points[k])
	}
}
