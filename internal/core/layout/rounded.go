package layout

import (
	"math"

	"sodrik/internal/core/scene"
)

// Join says which neighbouring modules grow together.
type Join uint8

// Joins, as in the job file.
const (
	JoinAll Join = iota
	JoinNone
	JoinRows
	JoinColumns
)

// joined says whether two cells that meet in direction d from one to the other are one.
func (j Join) joined(d int) bool {
	horizontal := d == east || d == west
	return j == JoinAll || j == JoinRows && horizontal || j == JoinColumns && !horizontal
}

// kappa is where the control points of a cubic lie that follows a quarter of a circle, as a share of its radius; the greatest
// deviation is 0.03 % of the radius.
const kappa = 0.5522847498

// Rounded merges the dark cells of an n by n grid as Outline does, every corner of what is joined rounded by radius, 0 to 0.5
// of a cell. Cells that are not joined still share no outline where they touch: the outline runs into the notch between their
// corners and out again, so that the whole stays one path without overlap or seam.
//
// Of the area of the cells, each convex corner takes (1 − π/4)·radius², each concave corner of joined cells gives as much, and
// so does each pair of corners that stand against each other in a notch take twice as much.
func Rounded(n int, dark func(x, y int) bool, join Join, radius float64) scene.Path {
	if radius <= 0 {
		return Outline(n, dark)
	}
	radius = math.Min(radius, 0.5)
	open := openSides(n, dark)
	var p scene.Path
	w := &rounder{pen: pen{p: &p}, open: open, side: n + 1, join: join, radius: radius}
	for start := range open {
		for d := range 4 {
			for open[start]&(1<<d) != 0 {
				w.round(start, d)
			}
		}
	}
	if join == JoinNone { // where four cells meet that are none of them joined, a star stays open between them
		for y := 1; y < n; y++ {
			for x := 1; x < n; x++ {
				if dark(x-1, y-1) && dark(x, y-1) && dark(x-1, y) && dark(x, y) {
					star(&p, float64(x), float64(y), radius)
				}
			}
		}
	}
	return p
}

// pen collects a path; it leaves out points that change nothing.
type pen struct {
	p       *scene.Path
	started bool
	x, y    float64
}

// rounder walks around joined cells.
type rounder struct {
	pen
	open   []uint8 // sides of each point of the grid that are still to be walked
	side   int     // points along a side of the grid
	join   Join
	radius float64
}

func (w *pen) to(x, y float64) {
	switch {
	case !w.started:
		w.p.MoveTo(x, y)
		w.started = true
	case math.Abs(x-w.x)+math.Abs(y-w.y) > 1e-9:
		w.p.LineTo(x, y)
	}
	w.x, w.y = x, y
}

// corner goes along a quarter of a circle about x, y from its point in direction u to that in direction v.
func (w *pen) corner(x, y float64, u, v int, r float64) {
	ux, uy, vx, vy := float64(stepX[u]), float64(stepY[u]), float64(stepX[v]), float64(stepY[v])
	if w.to(x+ux*r, y+uy*r); r <= 0 {
		return
	}
	k := r * (1 - kappa)
	w.p.CubicTo(x+ux*k, y+uy*k, x+vx*k, y+vy*k, x+vx*r, y+vy*r)
	w.x, w.y = x+vx*r, y+vy*r
}

// round walks one outline from an open side and draws it. At every grid point it goes around the dark cells between the side it
// comes by and the side it leaves by: a joined pair straight on, a single cell around its corner.
func (w *rounder) round(start, dir int) {
	first, at, r := dir, start, w.radius
	w.started = false
	for {
		w.open[at] &^= 1 << dir
		at += stepX[dir] + stepY[dir]*w.side
		x, y := float64(at%w.side), float64(at/w.side)
		back, right, left := (dir+2)&3, (dir+1)&3, (dir+3)&3
		closing := at == start && w.open[at] == w.open[at]&^(1<<first)
		next := right
		for range 3 {
			if w.open[at]&(1<<next) != 0 || at == start && next == first && closing {
				break
			}
			next = (next + 3) & 3
		}
		switch next {
		case right: // one cell
			w.corner(x, y, back, right, r)
		case dir: // two
			if !w.join.joined(dir) {
				w.corner(x, y, back, right, r)
				w.corner(x, y, right, dir, r)
			}
		case left: // three
			behind, ahead := w.join.joined(dir), w.join.joined(left)
			switch {
			case behind && ahead:
				w.corner(x, y, back, left, r)
			case behind:
				w.corner(x, y, dir, left, r)
			case ahead:
				w.corner(x, y, back, right, r)
				w.to(x+float64(stepX[left])*r, y+float64(stepY[left])*r)
			default:
				w.corner(x, y, back, right, r)
				w.corner(x, y, right, dir, r)
				w.corner(x, y, dir, left, r)
			}
		}
		dir = next
		if at == start && dir == first {
			break
		}
	}
	w.p.Close()
}

// star is the hole between the corners of four cells that meet at x, y, counter-clockwise.
func star(p *scene.Path, x, y, r float64) {
	w := &pen{p: p}
	for i := range 4 {
		w.corner(x, y, (8-i)&3, (7-i)&3, r)
	}
	p.Close()
}
