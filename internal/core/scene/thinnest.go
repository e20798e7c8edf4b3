package scene

import "math"

// Thinnest is how wide the thinnest line of a path is, in its units: the least way across what it fills, from the middles of straight parts that are
// longer than short; shorter ones are corners and ends. It is infinite where there is none.
func (p Path) Thinnest(short float64) float64 {
	thin := math.Inf(1)
	rings := p.rings()
	for _, r := range rings {
		side := r.fills(rings)
		if side == 0 {
			continue
		}
		for i, a := range r.flat {
			b := r.flat[(i+1)%len(r.flat)]
			l := math.Hypot(b.X-a.X, b.Y-a.Y)
			if l <= short {
				continue
			}
			from := Point{(a.X + b.X) / 2, (a.Y + b.Y) / 2}
			way := Point{-(b.Y - a.Y) / l * side, (b.X - a.X) / l * side}
			for _, o := range rings {
				thin = o.across(from, way, thin)
			}
		}
	}
	return thin
}

// across is how far a ray goes until it meets the ring, or most where that is nearer.
func (r *ring) across(from, way Point, most float64) float64 {
	if near := max(r.box[0]-from.X, from.X-r.box[2], r.box[1]-from.Y, from.Y-r.box[3]); near > most {
		return most
	}
	for i, a := range r.flat {
		b := r.flat[(i+1)%len(r.flat)]
		ex, ey := b.X-a.X, b.Y-a.Y
		den := way.X*ey - way.Y*ex
		if math.Abs(den) < 1e-12 {
			continue
		}
		t := ((a.X-from.X)*ey - (a.Y-from.Y)*ex) / den
		u := ((a.X-from.X)*way.Y - (a.Y-from.Y)*way.X) / den
		if u >= 0 && u <= 1 && t > 1e-9 && t < most {
			most = t
		}
	}
	return most
}
