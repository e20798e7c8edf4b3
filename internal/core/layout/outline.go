// Package layout puts a symbol into a scene: modules merged into outlines, the paper behind them, all in millimetres.
package layout

import "sodrik/internal/core/scene"

// Directions around a module, clockwise: along its top, right, bottom and left side.
const (
	east = iota
	south
	west
	north
)

var stepX, stepY = [4]int{1, 0, -1, 0}, [4]int{0, 1, 0, -1}

// Outline merges the dark cells of an n by n grid into closed outlines in units of one cell, clockwise around dark areas
// and counter-clockwise around holes, so that the non-zero rule fills them. Cells that touch only at a corner stay apart.
// Neighbouring cells share no edge in the result: there is nothing for a renderer to leave a seam between.
func Outline(n int, dark func(x, y int) bool) scene.Path {
	open := openSides(n, dark)
	// In a symbol there are about as many corners as modules.
	p := scene.Path{Ops: make([]scene.Op, 0, n*n*5/4), Points: make([]scene.Point, 0, n*n)}
	for start := range open {
		// Scanning row by row, the first open side of an outline is a top side with its corner on the left.
		for open[start]&(1<<east) != 0 {
			trace(&p, open, n+1, start)
		}
	}
	return p
}

// openSides lists the sides of dark cells beyond which it is light, clockwise: one bit a direction at every grid point, for a
// side that starts there.
func openSides(n int, dark func(x, y int) bool) []uint8 {
	side := n + 1
	open := make([]uint8, side*side)
	for y := range n {
		for x := range n {
			if !dark(x, y) {
				continue
			}
			if y == 0 || !dark(x, y-1) {
				open[y*side+x] |= 1 << east
			}
			if x == n-1 || !dark(x+1, y) {
				open[y*side+x+1] |= 1 << south
			}
			if y == n-1 || !dark(x, y+1) {
				open[(y+1)*side+x+1] |= 1 << west
			}
			if x == 0 || !dark(x-1, y) {
				open[(y+1)*side+x] |= 1 << north
			}
		}
	}
	return open
}

func trace(p *scene.Path, open []uint8, side, start int) {
	x, y, dir := start%side, start/side, east
	p.MoveTo(float64(x), float64(y))
	for {
		open[y*side+x] &^= 1 << dir
		x, y = x+stepX[dir], y+stepY[dir]
		at := y*side + x
		if at == start && open[at]&(1<<east) == 0 {
			break
		}
		// Where two outlines meet at a corner, turning right stays with the same cell.
		next := (dir + 1) & 3
		for open[at]&(1<<next) == 0 {
			next = (next + 3) & 3
		}
		if next != dir {
			p.LineTo(float64(x), float64(y))
			dir = next
		}
	}
	p.Close()
}
