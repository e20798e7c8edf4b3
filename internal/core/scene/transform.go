package scene

import "math"

// Transform takes the units of a path to millimetres: x·A + y·C + X to the right, x·B + y·D + Y downwards. The letters are
// those of the matrices of SVG and PDF (ISO 32000-1, 8.3.3).
type Transform struct{ A, B, C, D, X, Y float64 }

// At scales, then moves.
func At(scale, x, y float64) Transform { return Transform{A: scale, D: scale, X: x, Y: y} }

// Unit leaves everything where it is.
var Unit = At(1, 0, 0)

// Turn turns by degrees, clockwise as seen, about a point. Whole quarters are exact.
func Turn(degrees, x, y float64) Transform {
	sin, cos := math.Sincos(degrees * math.Pi / 180)
	if quarter := degrees / 90; quarter == math.Trunc(quarter) {
		sin, cos = math.Round(sin), math.Round(cos)
	}
	return Transform{cos, sin, -sin, cos, x - x*cos + y*sin, y - x*sin - y*cos}
}

// Then is t, and after it u.
func (t Transform) Then(u Transform) Transform {
	return Transform{
		A: t.A*u.A + t.B*u.C, B: t.A*u.B + t.B*u.D,
		C: t.C*u.A + t.D*u.C, D: t.C*u.B + t.D*u.D,
		X: t.X*u.A + t.Y*u.C + u.X, Y: t.X*u.B + t.Y*u.D + u.Y,
	}
}

// Point is where a point comes to lie.
func (t Transform) Point(p Point) Point {
	return Point{p.X*t.A + p.Y*t.C + t.X, p.X*t.B + p.Y*t.D + t.Y}
}

// Upright says that nothing is turned, sheared, mirrored or larger one way than the other.
func (t Transform) Upright() bool { return t.B == 0 && t.C == 0 && t.A == t.D && t.A > 0 }

// Size is by how much lengths grow; where they grow differently by direction, the side of a square that is as large as what a
// unit square becomes.
func (t Transform) Size() float64 {
	if t.Upright() {
		return t.A
	}
	return math.Sqrt(math.Abs(t.A*t.D - t.B*t.C))
}

// Back is the way back; ok is false where everything falls onto a line.
func (t Transform) Back() (back Transform, ok bool) {
	det := t.A*t.D - t.B*t.C
	if det == 0 || math.IsNaN(det) || math.IsInf(det, 0) {
		return Transform{}, false
	}
	back = Transform{A: t.D / det, B: -t.B / det, C: -t.C / det, D: t.A / det}
	back.X, back.Y = -(t.X*back.A + t.Y*back.C), -(t.X*back.B + t.Y*back.D)
	return back, true
}

// Transformed are items after another transform.
func Transformed(items []Item, t Transform) []Item {
	out := make([]Item, len(items))
	for i, it := range items {
		it.At = it.At.Then(t)
		out[i] = it
	}
	return out
}
