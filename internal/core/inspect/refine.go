package inspect

import "math"

// terms are what the place of a point in the picture is corrected by: its corners, and a bow of either way, each in x and y.
const terms = 6

// weights of the terms at a point in modules.
func (v *view) weights(x, y float64) (w [terms]float64) {
	n := float64(v.in.Symbol.Size)
	s, t := x/n, y/n
	return [terms]float64{(1 - s) * (1 - t), s * (1 - t), (1 - s) * t, s * t, 4 * s * (1 - s), 4 * t * (1 - t)}
}

// at takes a point in modules to pixels.
func (v *view) at(x, y float64) (px, py float64) {
	px, py = v.f.At(x, y)
	for i, w := range v.weights(x, y) {
		px += w * v.moved[i]
		py += w * v.moved[terms+i]
	}
	return px, py
}

// refine moves the grid until what is seen is nearest to the drawing, by Gauss and Newton's method: a reader needs the grid
// to within a third of a module, a ruler to within a few hundredths. A soft lens spreads either side of an edge alike, so
// that it moves nothing.
func (v *view) refine() {
	for range 12 {
		m := equations(2 * terms)
		for _, p := range v.points {
			if p.inside { // edges tell where it lies
				continue
			}
			px, py := v.at(p.x, p.y)
			gx := v.pixel(px+0.5, py) - v.pixel(px-0.5, py)
			gy := v.pixel(px, py+0.5) - v.pixel(px, py-0.5)
			off := (v.offset+v.scale*p.drawn)*v.fallen(p.x, p.y) - v.pixel(px, py)
			var row [2 * terms]float64
			for i, w := range v.weights(p.x, p.y) {
				row[i], row[terms+i] = w*gx, w*gy
			}
			for i := range row {
				for j := range row {
					m[i][j] += row[i] * row[j]
				}
				m[i][2*terms] += row[i] * off
			}
		}
		step, ok := solve(m)
		if !ok {
			return
		}
		most := 0.0
		for i, d := range step {
			d = min(max(d, -v.pixels/4), v.pixels/4)
			v.moved[i] += d
			most = max(most, math.Abs(d))
		}
		if most < 0.01 {
			return
		}
	}
}

// place finds where the grid lies, at first with the drawing as it is, then as the press has spread it, and leaves points and
// levels as the drawing has them.
func (v *view) place(spread bool) error {
	for pass := range 2 {
		if pass == 1 && spread {
			g, err := v.growth()
			if err != nil {
				return err
			}
			at, err := v.grown(max(0, int(math.Round(g.Value/v.module/step))))
			if err != nil {
				return err
			}
			for i := range v.points {
				v.points[i].drawn = at[i]
			}
		}
		v.refine()
		v.size()
		if pass == 1 && spread {
			for i := range v.points {
				v.points[i].drawn = v.steps[0][i]
			}
		}
		if err := v.level(); err != nil {
			return err
		}
	}
	return nil
}
