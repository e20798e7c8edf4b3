package artwork

import (
	"math"
	"slices"

	"sodrik/internal/core/scene"
)

// pencil is how a line is drawn (SVG 2, clause 13.5).
type pencil struct {
	width, miter float64
	linecap      string // butt, round, square
	join         string // miter, round, bevel
}

// chordsOf is how many straight pieces stand for a curve at most; those that lie straighter than slack, a share of the line's
// width, are taken together.
const (
	chordsOf = 32
	slack    = 0.003
)

// stroke is the area that a line covers, as outlines for the non-zero rule: an open line is gone around once, a closed one has an
// outline on each side. Inside tight bends an outline crosses itself, where all is covered anyway.
func stroke(p scene.Path, closed []bool, pen pencil) (out scene.Path) {
	half := pen.width / 2
	for i, line := range p.Polygons(chordsOf) {
		points := line[:0:0]
		for _, q := range line {
			n := len(points)
			if n > 0 && math.Hypot(q.X-points[n-1].X, q.Y-points[n-1].Y) <= 1e-9 {
				continue
			}
			if n > 1 && between(points[n-2], points[n-1], q) < slack*pen.width {
				points = points[:n-1]
			}
			points = append(points, q)
		}
		shut := i < len(closed) && closed[i]
		if n := len(points); shut && n > 1 && math.Hypot(points[0].X-points[n-1].X, points[0].Y-points[n-1].Y) < 1e-9 {
			points = points[:n-1]
		}
		if len(points) == 1 { // a dot, where the ends show
			switch pen.linecap {
			case "round":
				disc(&out, points[0], half)
			case "square":
				out.Rectangle(points[0].X-half, points[0].Y-half, pen.width, pen.width)
			}
			continue
		}
		back := slices.Clone(points)
		slices.Reverse(back)
		w := &walker{p: &out}
		for _, way := range [2][]scene.Point{points, back} {
			w.side(way, shut && len(points) > 2, pen)
			if shut && len(points) > 2 {
				w.close()
			} else {
				w.end(way[len(way)-2], way[len(way)-1], pen)
			}
		}
		if w.started {
			w.close()
		}
	}
	return out
}

// between is how far b lies off the piece from a to c; much where it lies beyond one of them.
func between(a, b, c scene.Point) float64 {
	dx, dy := c.X-a.X, c.Y-a.Y
	length := math.Hypot(dx, dy)
	if along := (b.X-a.X)*dx + (b.Y-a.Y)*dy; length < 1e-9 || along < 0 || along > length*length {
		return math.Inf(1)
	}
	return math.Abs((b.X-a.X)*dy-(b.Y-a.Y)*dx) / length
}

// normal is at a right angle to the way from a to b, so long.
func normal(a, b scene.Point, length float64) (x, y float64) {
	dx, dy := b.X-a.X, b.Y-a.Y
	k := length / math.Hypot(dx, dy)
	return -dy * k, dx * k
}

// walker draws an outline.
type walker struct {
	p       *scene.Path
	started bool
}

func (w *walker) to(x, y float64) {
	if !w.started {
		w.p.MoveTo(x, y)
		w.started = true
		return
	}
	w.p.LineTo(x, y)
}

func (w *walker) close() { w.p.Close(); w.started = false }

// side walks along one side of a line, at half its width.
func (w *walker) side(points []scene.Point, shut bool, pen pencil) {
	n := len(points)
	last := n - 1
	if shut {
		last = n
	}
	for k := range last {
		a, b := points[k], points[(k+1)%n]
		nx, ny := normal(a, b, pen.width/2)
		w.to(a.X+nx, a.Y+ny)
		w.to(b.X+nx, b.Y+ny)
		if k+1 < last || shut {
			w.joint(a, b, points[(k+2)%n], pen)
		}
	}
}

// joint goes around the point b from the piece before it to the one after.
func (w *walker) joint(a, b, c scene.Point, pen pencil) {
	half := pen.width / 2
	ax, ay := normal(a, b, half)
	cx, cy := normal(b, c, half)
	cos := (ax*cx + ay*cy) / (half * half)
	inside := (b.X-a.X)*(c.Y-b.Y)-(b.Y-a.Y)*(c.X-b.X) > 0
	switch {
	case inside:
		if cos < 0.9 {
			w.to(b.X, b.Y)
		}
	case cos > 0.98:
	case pen.join == "round":
		w.round(b, ax, ay, cx, cy)
	case pen.join == "miter" && (1+cos)/2 >= 1/(pen.miter*pen.miter):
		k := 1 / (1 + cos)
		w.to(b.X+(ax+cx)*k, b.Y+(ay+cy)*k)
	}
}

// round follows a circle about b from a normal to another, backwards as the screen shows it, by at most half a turn.
func (w *walker) round(b scene.Point, ax, ay, cx, cy float64) {
	from := math.Atan2(ay, ax)
	turn := math.Atan2(cy, cx) - from
	for turn > 1e-9 {
		turn -= 2 * math.Pi
	}
	n := math.Max(1, math.Ceil(-turn/(math.Pi/2)-1e-6))
	r, step := math.Hypot(ax, ay), turn/n
	k := 4.0 / 3 * math.Tan(step/4)
	for i := range int(n) {
		s0, c0 := math.Sincos(from + step*float64(i))
		s1, c1 := math.Sincos(from + step*float64(i+1))
		w.p.CubicTo(b.X+r*(c0-k*s0), b.Y+r*(s0+k*c0), b.X+r*(c1+k*s1), b.Y+r*(s1-k*c1), b.X+r*c1, b.Y+r*s1)
	}
}

// end goes around the end b of a line that comes from a.
func (w *walker) end(a, b scene.Point, pen pencil) {
	nx, ny := normal(a, b, pen.width/2)
	switch pen.linecap {
	case "round":
		w.round(b, nx, ny, -nx, -ny)
	case "square":
		w.to(b.X+nx+ny, b.Y+ny-nx)
		w.to(b.X-nx+ny, b.Y-ny-nx)
	}
}

// disc adds a circle, clockwise.
func disc(out *scene.Path, c scene.Point, r float64) {
	const k = 0.5522847498
	out.MoveTo(c.X, c.Y-r)
	out.CubicTo(c.X+k*r, c.Y-r, c.X+r, c.Y-k*r, c.X+r, c.Y)
	out.CubicTo(c.X+r, c.Y+k*r, c.X+k*r, c.Y+r, c.X, c.Y+r)
	out.CubicTo(c.X-k*r, c.Y+r, c.X-r, c.Y+k*r, c.X-r, c.Y)
	out.CubicTo(c.X-r, c.Y-k*r, c.X-k*r, c.Y-r, c.X, c.Y-r)
	out.Close()
}
