package scene

// Polygon is a closed outline of straight sides.
type Polygon []Point

// Polygons takes a path apart into its outlines, each curve as so many chords.
func (p Path) Polygons(chords int) (out []Polygon) {
	i := 0
	for _, op := range p.Ops {
		switch op {
		case Move:
			out = append(out, Polygon{p.Points[i]})
			i++
		case Line:
			out[len(out)-1] = append(out[len(out)-1], p.Points[i])
			i++
		case Cubic:
			l := out[len(out)-1]
			a, b, c, d := l[len(l)-1], p.Points[i], p.Points[i+1], p.Points[i+2]
			for k := 1; k <= chords; k++ {
				t := float64(k) / float64(chords)
				s := 1 - t
				l = append(l, Point{s*s*s*a.X + 3*s*s*t*b.X + 3*s*t*t*c.X + t*t*t*d.X, s*s*s*a.Y + 3*s*s*t*b.Y +
					3*s*t*t*c.Y + t*t*t*d.Y})
			}
			out[len(out)-1] = l
			i += 3
		}
	}
	return out
}

// Area is the sum of the areas of polygons; those that run backwards, as holes do, count negative.
func Area(all []Polygon) (sum float64) {
	for _, l := range all {
		for i, a := range l {
			b := l[(i+1)%len(l)]
			sum += (a.X*b.Y - b.X*a.Y) / 2
		}
	}
	return sum
}

// Turns counts how often polygons go around a point that lies on none of them.
func Turns(all []Polygon, x, y float64) (n int) {
	for _, at := range crossings(all, y) {
		if at.x > x {
			n += at.way
		}
	}
	return n
}

// Run is the length of the row at y that holds the point x and crosses no outline; 0 where it has no end.
func Run(all []Polygon, x, y float64) float64 {
	var left, right *float64
	for _, at := range crossings(all, y) {
		switch here := at.x; {
		case here <= x && (left == nil || here > *left):
			left = &here
		case here > x && (right == nil || here < *right):
			right = &here
		}
	}
	if left == nil || right == nil {
		return 0
	}
	return *right - *left
}

// crossing is where a side passes a row, downwards 1 or upwards −1.
type crossing struct {
	x   float64
	way int
}

func crossings(all []Polygon, y float64) (out []crossing) {
	for _, l := range all {
		for i, a := range l {
			b := l[(i+1)%len(l)]
			if (a.Y > y) == (b.Y > y) {
				continue
			}
			way := -1
			if b.Y > a.Y {
				way = 1
			}
			out = append(out, crossing{a.X + (y-a.Y)/(b.Y-a.Y)*(b.X-a.X), way})
		}
	}
	return out
}
