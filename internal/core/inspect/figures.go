package inspect

import (
	"math"
)

// contrast is by how much paper is lighter than ink, the paper taken to be as light as the drawing has it.
func (v *view) contrast() Figure {
	seen := v.paper * (1 - (v.offset + v.scale*v.ink))
	return Figure{
		Value:    math.Round(seen*1000) / 1000,
		Off:      math.Round(max(v.inkOff*v.paper, 0.02)*1000) / 1000,
		Reckoned: math.Round((v.paper-v.ink)*1000) / 1000,
	}
}

// width of the code with its border on a flatbed scan.
func (v *view) width(dpi float64) *Figure {
	modules := float64(v.in.Symbol.Size + 2*v.in.QuietZone)
	wide := v.pixels * modules / dpi * 25.4
	off := modules * 0.1 / float64(v.in.Symbol.Size) / dpi * 25.4 * 2 // the corners are known to a tenth of a pixel
	return &Figure{Value: math.Round(wide*100) / 100, Off: math.Round((off+0.002*wide)*100) / 100, Reckoned: v.in.Scene.Width}
}

// damaged is the share of modules whose middle is not as the drawing has it.
func (v *view) damaged() float64 {
	n := v.in.Symbol.Size
	seen, drawn := make([]float64, n*n), make([]float64, n*n)
	for _, p := range v.points {
		x, y := int(math.Floor(p.x)), int(math.Floor(p.y))
		if x < 0 || y < 0 || x >= n || y >= n || math.Abs(p.x-float64(x)-0.5) > 0.3 || math.Abs(p.y-float64(y)-0.5) > 0.3 {
			continue
		}
		seen[y*n+x] += (p.seen - v.offset) / v.scale
		drawn[y*n+x] += p.drawn
	}
	const points = 16 // of a module's middle, four each way
	half, wrong := points*(v.paper+v.ink)/2, 0
	for i := range seen {
		if (seen[i] < half) != (drawn[i] < half) {
			wrong++
		}
	}
	return math.Round(float64(wrong)/float64(n*n)*10000) / 10000
}

// Growth that is looked for, in modules.
const (
	leastGrowth = -0.1
	mostGrowth  = 0.35
	step        = 0.05
)

// grown is the luminance of the drawing at all points, with dark edges spread by so many steps.
func (v *view) grown(steps int) ([]float64, error) {
	for len(v.steps) <= steps {
		print, err := v.printed(float64(len(v.steps)) * step * v.module)
		if err != nil {
			return nil, err
		}
		at := make([]float64, len(v.points))
		for i, p := range v.points {
			at[i] = v.drawn(print, p.x, p.y)
		}
		v.steps = append(v.steps, at)
	}
	return v.steps[steps], nil
}

// growth solves for the spread of dark edges with which the drawing is as dark as what is seen. Modules that are damaged, and
// a mark that is printed in other greys than the drawing has, are left out of both. How far it may be off follows from how
// the four quarters of the code differ.
func (v *view) growth() (*Figure, error) {
	left := v.leftOut()
	n := v.in.Symbol.Size + 2*v.around
	quarter := func(i int) int { // of a point
		x, y := i%(n*per), i/(n*per)
		return x/((n*per+1)/2) + 2*(y/((n*per+1)/2))
	}
	var seen [5]float64 // of each quarter, and of all
	for i, p := range v.points {
		if !left[i] {
			y := (p.seen - v.offset) / v.scale
			seen[quarter(i)] += y
			seen[4] += y
		}
	}
	drawn := func(at []float64) (sum [5]float64) {
		for i, y := range at {
			if !left[i] {
				sum[quarter(i)] += y
				sum[4] += y
			}
		}
		return sum
	}
	// Between steps darkness follows growth all but straight; below nothing it goes on as it began.
	var solution [5]float64
	var solved [5]bool
	var before [5]float64
	for k := 0; float64(k)*step <= mostGrowth+1e-9; k++ {
		at, err := v.grown(k)
		if err != nil {
			return nil, err
		}
		now := drawn(at)
		done := true
		for q := range now {
			if k > 0 && !solved[q] && (now[q] <= seen[q] || k == 1 && seen[q] >= before[q]) {
				solution[q], solved[q] = (float64(k)-1+(before[q]-seen[q])/(before[q]-now[q]))*step, true
			}
			done = done && solved[q]
		}
		before = now
		if done {
			break
		}
	}
	for q := range solution {
		if !solved[q] {
			solution[q] = mostGrowth
		}
		solution[q] = max(solution[q], leastGrowth)
	}
	off := 0.0
	for _, g := range solution[:4] {
		off += (g - solution[4]) * (g - solution[4])
	}
	off = 2*math.Sqrt(off/3)/2 + v.blind/v.pixels // two standard deviations of a mean of four, and what no quarter tells
	round := func(f float64) float64 { return math.Round(f*10000) / 10000 }
	return &Figure{Value: round(solution[4] * v.module), Off: round(off * v.module), Reckoned: reckonedGrowth(v.in)}, nil
}

// leftOut says which points do not tell how edges have spread.
func (v *view) leftOut() []bool {
	n := v.in.Symbol.Size + 2*v.around
	type cell struct {
		off   float64
		count int
	}
	cells := make([]cell, n*n)
	for i, p := range v.points {
		x, y := i%(n*per)/per, i/(n*per)/per
		if p.inside {
			c := &cells[y*n+x]
			c.off += math.Abs((p.seen-v.offset)/v.scale - p.drawn)
			c.count++
		}
	}
	out := make([]bool, len(v.points))
	most := 0.3 * (v.paper - v.ink)
	for i := range v.points {
		x, y := i%(n*per)/per, i/(n*per)/per
		for dy := -1; dy <= 1; dy++ { // what is damaged spills over its neighbours
			for dx := -1; dx <= 1; dx++ {
				cx, cy := x+dx, y+dy
				if cx < 0 || cy < 0 || cx >= n || cy >= n {
					continue
				}
				if c := cells[cy*n+cx]; c.count > 0 && c.off/float64(c.count) > most {
					out[i] = true
				}
			}
		}
	}
	return out
}
