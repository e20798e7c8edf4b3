package layout

import (
	"math"

	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
)

// square is a square of a side with corners of their own, each a share of half the side, clockwise from the top left.
func square(x, y, side float64, corners [4]float64) scene.Path {
	var radii [4]float64
	for i, c := range corners {
		radii[i] = c * side / 2
	}
	return rounded(x, y, side, radii, false)
}

// rounded is a square with corners of so many units, clockwise, or backwards for a hole.
func rounded(x, y, side float64, r [4]float64, hole bool) (p scene.Path) {
	w := &pen{p: &p}
	points := [4][2]float64{{x, y}, {x + side, y}, {x + side, y + side}, {x, y + side}}
	for i := range 4 {
		at, from, to := i, (i+1)&3, i // the first corner: from south to east
		if hole {
			at = (4 - i) & 3
			from, to = at, (at+1)&3
		}
		w.corner(points[at][0], points[at][1], from, to, r[at])
	}
	p.Close()
	return p
}

// ringPath is a ring of one unit's thickness: the inner corners follow the outer ones at this distance.
func ringPath(x, y, side float64, corners [4]float64) scene.Path {
	var outer, inner [4]float64
	for i, c := range corners {
		outer[i] = c * side / 2
		inner[i] = math.Max(0, outer[i]-1)
	}
	p := rounded(x, y, side, outer, false)
	hole := rounded(x+1, y+1, side-2, inner, true)
	p.Append(hole)
	return p
}

// turned mirrors corners so that an eye at place i looks as the top left one does towards the middle.
func turned(c [4]float64, i int, facing string) [4]float64 {
	if facing == "inward" {
		switch i {
		case 1: // left and right exchanged
			return [4]float64{c[1], c[0], c[3], c[2]}
		case 2: // top and bottom
			return [4]float64{c[3], c[2], c[1], c[0]}
		}
	}
	return c
}

// eye draws the finder pattern at place i with its corner at x, y.
func (d *drawing) eye(l look.Look, i int, x, y float64) {
	e := l.Eyes.Of(i)
	ringInk, coreInk := l.Ink, l.Ink
	if e.Ring.Inked {
		ringInk = e.Ring.Ink
	}
	if e.Core.Inked {
		coreInk = e.Core.Ink
	}
	if e.Ring.Texture == "modules" {
		cells, _ := modules(7, l.Modules, func(cx, cy int) bool { return cx == 0 || cy == 0 || cx == 6 || cy == 6 })
		var p scene.Path
		put(&p, cells, x, y, 1)
		d.add("eye rings", ringInk, e.Ring.Inked, p)
	} else {
		d.add("eye rings", ringInk, e.Ring.Inked, ringPath(x, y, 7, turned(e.Ring.Corners, i, l.Eyes.Facing)))
	}
	side := 3 * e.Core.Scale
	inset := 2 + (3-side)/2
	if e.Core.Motif == "square" {
		d.add("eye cores", coreInk, e.Core.Inked, square(x+inset, y+inset, side, turned(e.Core.Corners, i, l.Eyes.Facing)))
		return
	}
	var p scene.Path
	put(&p, e.Core.Form(), x+inset, y+inset, side)
	d.add("eye cores", coreInk, e.Core.Inked, p)
}
