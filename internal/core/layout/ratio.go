package layout

import (
	"math"

	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
)

// RingShare says how thick the ring of an eye is on the middle lines, in modules: 1 where it is solid, less where it is built
// of modules that do not fill their cells. The worst of the three eyes counts.
func RingShare(l look.Look) float64 {
	for i := range 3 {
		if l.Eyes.Of(i).Ring.Texture != "modules" {
			continue
		}
		p, _ := modules(7, l.Modules, func(cx, cy int) bool { return cx == 0 || cy == 0 || cx == 6 || cy == 6 })
		rows := p.Polygons(16)
		for i := range p.Points {
			p.Points[i].X, p.Points[i].Y = p.Points[i].Y, p.Points[i].X
		}
		columns := p.Polygons(16)
		return min(scene.Run(rows, 0.5, 3.5001), scene.Run(rows, 6.5, 3.5001), scene.Run(columns, 0.5, 3.5001),
			scene.Run(columns, 6.5, 3.5001))
	}
	return 1
}

// CoreShare says how much of its three modules the core of an eye keeps across, as a share, both ways: readers find a code by
// the ratio 1:1:3:1:1 and look for it on more lines than the middle one (ISO/IEC 18004:2015, clause 6.3.3). middle is that on
// the middle lines, off that on the lines a quarter of its side off them. A square has 1 and 1, a disc 1 and 0.87. The worst
// of the three eyes counts.
func CoreShare(l look.Look) (middle, off float64) {
	middle, off = math.Inf(1), math.Inf(1)
	for i := range 3 {
		e := l.Eyes.Of(i)
		side := 3 * e.Core.Scale
		var p scene.Path
		if e.Core.Motif == "square" {
			p = square(0, 0, side, turned(e.Core.Corners, i, l.Eyes.Facing))
		} else {
			put(&p, e.Core.Form(), 0, 0, side)
		}
		rows := p.Polygons(16)
		for i := range p.Points { // exchanged, for columns
			p.Points[i].X, p.Points[i].Y = p.Points[i].Y, p.Points[i].X
		}
		columns := p.Polygons(16)
		at := func(y float64) float64 {
			return min(scene.Run(rows, side/2, side*y), scene.Run(columns, side/2, side*y)) / 3
		}
		middle, off = min(middle, at(0.5001)), min(off, at(0.25), at(0.75)) // not along the axis itself, where corners meet
	}
	return middle, off
}
