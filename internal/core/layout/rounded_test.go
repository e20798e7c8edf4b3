package layout

import (
	"math"
	"math/rand/v2"
	"testing"

	"sodrik/internal/core/scene"
)

// inside is the shape as it is defined, point by point: a cell with those of its corners rounded whose both sides are free or not
// joined, and the corner between three joined cells filled. near says that the point lies too close to an edge to tell.
func inside(cell func(x, y int) bool, join Join, r, x, y float64) (dark, near bool) {
	cx, cy := int(math.Floor(x)), int(math.Floor(y))
	fx, fy := x-float64(cx), y-float64(cy)
	px, dx := cx, -1 // the grid point of the nearest corner, and the neighbours across it
	if fx > 0.5 {
		px, dx = cx+1, 1
	}
	py, dy := cy, -1
	if fy > 0.5 {
		py, dy = cy+1, 1
	}
	ax, ay := math.Abs(x-float64(px)), math.Abs(y-float64(py)) // from the corner
	near = math.Abs(math.Hypot(r-ax, r-ay)-r) < 0.004 || ax < 0.004 || ay < 0.004
	self, beside, above, across := cell(cx, cy), cell(cx+dx, cy), cell(cx, cy+dy), cell(cx+dx, cy+dy)
	beyond := ax < r && ay < r && math.Hypot(r-ax, r-ay) > r
	if self {
		if beyond && !(beside && join.joined(east)) && !(above && join.joined(south)) {
			return false, near
		}
		return true, near
	}
	return beyond && beside && above && across && join == JoinAll, near
}

func TestRounded(t *testing.T) {
	rng := rand.New(rand.NewPCG(27, 3))
	for round := range 96 {
		n := 3 + rng.IntN(9)
		grid := make([]bool, n*n)
		share := 0.2 + 0.7*rng.Float64()
		for i := range grid {
			grid[i] = rng.Float64() < share
		}
		dark := func(x, y int) bool { return grid[y*n+x] }
		cell := func(x, y int) bool { return x >= 0 && y >= 0 && x < n && y < n && grid[y*n+x] }
		join := Join(round % 4)
		r := []float64{0.05, 0.2, 0.35, 0.5}[round/4%4]
		p := Rounded(n, dark, join, r)
		all := p.Polygons(24)
		if moves, closes := count(p, scene.Move), count(p, scene.Close); moves != closes {
			t.Fatalf("%d outlines begin and %d close", moves, closes)
		}
		hits, tried := 0.0, 0.0
		for range 600 {
			x, y := rng.Float64()*float64(n), rng.Float64()*float64(n)
			want, near := inside(cell, join, r, x, y)
			if tried++; want {
				hits++
			}
			if near {
				continue
			}
			got := scene.Turns(all, x, y)
			if got != 0 && got != 1 || (got == 1) != want {
				t.Fatalf("join %d, radius %v: %.3f, %.3f is gone around %d times, want inside %v", join, r, x, y, got, want)
			}
		}
		if area, want := scene.Area(all), areaByRule(n, cell, join, r); math.Abs(area-want) > 0.01*math.Max(1, want) {
			t.Fatalf("join %d, radius %v: the area is %.3f, want %.3f", join, r, area, want)
		}
	}
}

func count(p scene.Path, op scene.Op) (n int) {
	for _, o := range p.Ops {
		if o == op {
			n++
		}
	}
	return n
}

// areaByRule is what the doc comment of Rounded says, corner by corner.
func areaByRule(n int, cell func(x, y int) bool, join Join, r float64) (area float64) {
	piece := (1 - math.Pi/4) * r * r
	for y := range n {
		for x := range n {
			if cell(x, y) {
				area++
			}
			for _, d := range [][2]int{{-1, -1}, {1, -1}, {-1, 1}, {1, 1}} {
				beside, above := cell(x+d[0], y), cell(x, y+d[1])
				if cell(x, y) && !(beside && join.joined(east)) && !(above && join.joined(south)) {
					area -= piece
				}
				if !cell(x, y) && beside && above && cell(x+d[0], y+d[1]) && join == JoinAll {
					area += piece
				}
			}
		}
	}
	return area
}

func BenchmarkRounded(b *testing.B) {
	rng := rand.New(rand.NewPCG(1, 2))
	grid := make([]bool, 41*41)
	for i := range grid {
		grid[i] = rng.IntN(2) == 0
	}
	for b.Loop() {
		Rounded(41, func(x, y int) bool { return grid[y*41+x] }, JoinAll, 0.4)
	}
}
