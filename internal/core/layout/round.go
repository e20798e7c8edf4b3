package layout

import (
	"math"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
)

// RoundMargin is how many whole modules a disc takes beside a code of n modules, quiet zone included.
func RoundMargin(n int) int { return int(math.Ceil(radius(n) + 1 - float64(n)/2)) }

// radius is that of the circle through the corners of the quiet zone.
func radius(n int) float64 { return float64(n) / math.Sqrt2 }

// Round lays a code of n modules, quiet zone included, into a disc that is filled out with modules which say nothing. They
// keep out of the quiet zone, and no row or column of them has the proportions of a finder pattern. seed chooses among the
// ways of filling it.
func Round(s *scene.Scene, l look.Look, n int, seed uint64, paper *ink.Colour) Framed {
	unit, m := s.Width/float64(n), RoundMargin(n)
	off := float64(m) * unit
	side := float64(n + 2*m)
	out := &scene.Scene{Width: side * unit, Height: s.Height + 2*off}
	if paper != nil {
		r := side / 2
		out.Items = append(out.Items, scene.Item{Name: "paper", Path: scene.RoundRectangle(0, 0, side, side, r, r),
			At: scene.At(unit, 0, 0), Fill: *paper})
	}
	form := l.Modules
	filling, _ := modules(n+2*m, form, Filling(n, seed))
	item := scene.Item{Name: "filling", At: scene.At(unit, 0, 0), Fill: l.Ink}
	if shade := l.Shade; !shade.None() { // the gradient of the symbol goes on beyond it
		quiet := (s.Width/unit - symbolSide(s, unit)) / 2
		shift := float64(m) + quiet
		for i, p := range filling.Points {
			filling.Points[i] = scene.Point{X: p.X - shift, Y: p.Y - shift}
		}
		item.At = scene.At(unit, shift*unit, shift*unit)
		item.Shade = scene.Across(shade, symbolSide(s, unit))
	}
	item.Path = filling
	out.Items = append(out.Items, item)
	out.Items = append(out.Items, scene.Transformed(s.Items, scene.At(1, off, off))...)
	return Framed{Scene: out, Left: off, Top: off}
}

// symbolSide is the side of the symbol of a drawing, in modules, from where its modules begin.
func symbolSide(s *scene.Scene, unit float64) float64 {
	for _, it := range s.Items {
		if it.Name == "modules" {
			return s.Width/unit - 2*it.At.X/unit
		}
	}
	return s.Width / unit
}

// Filling says which cells around a code of n modules, quiet zone included, are dark, in a square of n + 2·RoundMargin(n) a side.
func Filling(n int, seed uint64) func(x, y int) bool {
	m := RoundMargin(n)
	side := n + 2*m
	mid, r := float64(side)/2, radius(n)
	free := make([]bool, side*side)
	dark := make([]bool, side*side)
	state := seed*0x9e3779b97f4a7c15 + 1
	for y := range side {
		for x := range side {
			i := y*side + x
			dx, dy := math.Abs(float64(x)+0.5-mid)+0.5, math.Abs(float64(y)+0.5-mid)+0.5
			free[i] = (x < m || y < m || x >= m+n || y >= m+n) && math.Hypot(dx, dy) <= r
			state ^= state << 13 // xorshift64
			state ^= state >> 7
			state ^= state << 17
			dark[i] = free[i] && state>>63 == 1
		}
	}
	for range 4 { // breaking one pattern may make another; a few rounds end it
		broken := false
		for a := range side {
			broken = breakFinders(side, free, dark, func(b int) int { return a*side + b }) || broken
			broken = breakFinders(side, free, dark, func(b int) int { return b*side + a }) || broken
		}
		if !broken {
			break
		}
	}
	return func(x, y int) bool { return dark[y*side+x] }
}

// breakFinders looks along a line for dark and light in the proportions 1 : 1 : 3 : 1 : 1, each within half its unit, and
// clears the middle of those it finds.
func breakFinders(side int, free, dark []bool, at func(int) int) (broken bool) {
	type run struct{ from, n int }
	var runs []run
	is := false // the first run is light
	from := 0
	for b := 0; b <= side; b++ {
		if b == side || dark[at(b)] != is {
			runs = append(runs, run{from, b - from})
			from, is = b, !is
		}
	}
	for i := 1; i+4 < len(runs); i += 2 {
		sum := 0
		for _, r := range runs[i : i+5] {
			sum += r.n
		}
		unit := float64(sum) / 7
		like := true
		for k, want := range []float64{1, 1, 3, 1, 1} {
			like = like && math.Abs(float64(runs[i+k].n)-want*unit) <= unit*0.75
		}
		if !like {
			continue
		}
		middle := runs[i+2]
		for b := middle.from; b < middle.from+middle.n; b++ {
			if free[at(b)] {
				dark[at(b)] = false
			}
		}
		broken = true
	}
	return broken
}
