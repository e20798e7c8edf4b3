package layout

import (
	"math"

	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
)

// CoreShare says how much of its three modules the core of an eye keeps across, as a share, on the lines that lie a quarter of its
// side off its middle, both ways: readers find a code by the ratio 1:1:3:1:1 and look for it on more lines than the middle one
// (ISO/IEC 18004:2015, clause 6.3.3). 1 is a square; a disc keeps 0.87. The worst of the three eyes counts.
func CoreShare(l look.Look) float64 {
	least := math.Inf(1)
	for i := range 3 {
		e := l.Eyes.Of(i)
		side := 3 * e.Core.Scale
		var p scene.Path
		if e.Core.Motif == "square" {
			p = square(0, 0, side, turned(e.Core.Corners, i, l.Eyes.Facing))
		} else {
			put(&p, e.Core.Form(), 0, 0, side)
		}
		for _, off := range []float64{-0.25, 0.25} {
			at := side * (0.5 + off)
			least = math.Min(least, math.Min(across(p, at, side/2, false), across(p, at, side/2, true))/3)
		}
	}
	return least
}

// across is the length of the dark run on a line of a path that holds the point at middle: a row, or turned, a column.
func across(p scene.Path, at, middle float64, turned bool) float64 {
	from, to := math.Inf(-1), math.Inf(1)
	hits := 0
	side := func(a, b scene.Point) {
		if turned {
			a, b = scene.Point{X: a.Y, Y: a.X}, scene.Point{X: b.Y, Y: b.X}
		}
		if (a.Y > at) == (b.Y > at) {
			return
		}
		x := a.X + (at-a.Y)/(b.Y-a.Y)*(b.X-a.X)
		if hits++; x <= middle {
			from = math.Max(from, x)
		} else {
			to = math.Min(to, x)
		}
	}
	var start, last scene.Point
	i := 0
	for _, op := range p.Ops {
		switch op {
		case scene.Move:
			start, last = p.Points[i], p.Points[i]
			i++
		case scene.Line:
			side(last, p.Points[i])
			last = p.Points[i]
			i++
		case scene.Cubic:
			a, b, c, d := last, p.Points[i], p.Points[i+1], p.Points[i+2]
			for k := 1; k <= 16; k++ {
				t := float64(k) / 16
				s := 1 - t
				q := scene.Point{X: s*s*s*a.X + 3*s*s*t*b.X + 3*s*t*t*c.X + t*t*t*d.X, Y: s*s*s*a.Y + 3*s*s*t*b.Y + 3*s*t*t*c.Y + t*t*t*d.Y}
				side(last, q)
				last = q
			}
			i += 3
		case scene.Close:
			side(last, start)
		}
	}
	if hits == 0 || math.IsInf(from, 0) || math.IsInf(to, 0) {
		return 0
	}
	return to - from
}
