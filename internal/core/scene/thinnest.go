package scene

import (
	"math"
	"slices"
)

// Thinnest is how wide the thinnest line of a path is, in its units: the least way across what it fills, from points on
// straight parts of its edge that are longer than short; shorter ones are corners and ends. Outlines may overlap. It is
// infinite where there is none. The time grows with the square of the points.
func (p Path) Thinnest(short float64) float64 {
	thin := math.Inf(1)
	rings := p.rings()
	filled := func(x, y float64) bool {
		turns := 0
		for _, r := range rings {
			if x >= r.box[0] && x <= r.box[2] && y >= r.box[1] && y <= r.box[3] {
				turns += r.turns(Point{x, y})
			}
		}
		return turns != 0
	}
	for _, r := range rings {
		for i, a := range r.flat {
			b := r.flat[(i+1)%len(r.flat)]
			l := math.Hypot(b.X-a.X, b.Y-a.Y)
			if l <= short {
				continue
			}
			for _, k := range [3]float64{0.25, 0.5, 0.75} {
				from, way := Point{a.X + k*(b.X-a.X), a.Y + k*(b.Y-a.Y)}, Point{-(b.Y - a.Y) / l, (b.X - a.X) / l}
				step := short / 1000
				right, left := filled(from.X+way.X*step, from.Y+way.Y*step), filled(from.X-way.X*step, from.Y-way.Y*step)
				if right == left { // not the edge of what is filled
					continue
				}
				if left {
					way = Point{-way.X, -way.Y}
				}
				var hits []float64
				for _, o := range rings {
					hits = o.across(hits, from, way, thin)
				}
				slices.Sort(hits)
				for _, t := range hits {
					if t > step && !filled(from.X+way.X*(t+step), from.Y+way.Y*(t+step)) {
						thin = t
						break
					}
				}
			}
		}
	}
	return thin
}

// across adds how far a ray goes to where it meets the ring, as far as that is nearer than most.
func (r *ring) across(hits []float64, from, way Point, most float64) []float64 {
	if max(r.box[0]-from.X, from.X-r.box[2], r.box[1]-from.Y, from.Y-r.box[3]) > most {
		return hits
	}
	for i, a := range r.flat {
		b := r.flat[(i+1)%len(r.flat)]
		ex, ey := b.X-a.X, b.Y-a.Y
		den := way.X*ey - way.Y*ex
		if math.Abs(den) < 1e-12 {
			continue
		}
		t := ((a.X-from.X)*ey - (a.Y-from.Y)*ex) / den
		if u := ((a.X-from.X)*way.Y - (a.Y-from.Y)*way.X) / den; u >= 0 && u <= 1 && t > 0 && t < most {
			hits = append(hits, t)
		}
	}
	return hits
}
