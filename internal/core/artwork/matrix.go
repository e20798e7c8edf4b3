package artwork

import (
	"math"
	"strconv"
	"strings"

	"sodrik/internal/core/scene"
)

// matrix takes x, y to a·x + c·y + e, b·x + d·y + f (SVG 2, clause 8.4).
type matrix [6]float64

var identity = matrix{1, 0, 0, 1, 0, 0}

func (m matrix) at(x, y float64) (float64, float64) {
	return m[0]*x + m[2]*y + m[4], m[1]*x + m[3]*y + m[5]
}

// of is first n, then m.
func (m matrix) of(n matrix) matrix {
	return matrix{m[0]*n[0] + m[2]*n[1], m[1]*n[0] + m[3]*n[1], m[0]*n[2] + m[2]*n[3], m[1]*n[2] + m[3]*n[3],
		m[0]*n[4] + m[2]*n[5] + m[4], m[1]*n[4] + m[3]*n[5] + m[5]}
}

// scale is the side of a square that has the area of a transformed unit square.
func (m matrix) scale() float64 { return math.Sqrt(math.Abs(m[0]*m[3] - m[1]*m[2])) }

func (m matrix) path(p scene.Path) scene.Path {
	if m == identity {
		return p
	}
	out := scene.Path{Ops: p.Ops, Points: make([]scene.Point, len(p.Points))}
	for i, q := range p.Points {
		out.Points[i].X, out.Points[i].Y = m.at(q.X, q.Y)
	}
	return out
}

// shade transforms a shade. The lines of one colour of a linear one stay lines, though not at right angles to its transformed
// axis; the axis is put up anew so that they are. A radial one stays round.
func (m matrix) shade(s *scene.Shade) *scene.Shade {
	out := *s
	out.X0, out.Y0 = m.at(s.X0, s.Y0)
	if s.Radial {
		out.Radius = s.Radius * m.scale()
		return &out
	}
	dx, dy := s.X1-s.X0, s.Y1-s.Y0
	length, det := dx*dx+dy*dy, m[0]*m[3]-m[1]*m[2]
	if length == 0 || det == 0 {
		out.X1, out.Y1 = m.at(s.X1, s.Y1)
		return &out
	}
	gx, gy := dx/length, dy/length // how fast the colour changes
	hx, hy := (m[3]*gx-m[1]*gy)/det, (m[0]*gy-m[2]*gx)/det
	h := hx*hx + hy*hy
	out.X1, out.Y1 = out.X0+hx/h, out.Y0+hy/h
	return &out
}

// parseTransform reads a list such as "translate(2 3) rotate(45)" (SVG 2, clause 8.5). What cannot be read changes nothing.
func parseTransform(s string) matrix {
	m := identity
	for {
		name, rest, ok := strings.Cut(s, "(")
		if !ok {
			return m
		}
		args, after, ok := strings.Cut(rest, ")")
		if !ok {
			return m
		}
		s = after
		a := numbers(args)
		get := func(i int, def float64) float64 {
			if i < len(a) {
				return a[i]
			}
			return def
		}
		switch strings.Trim(name, " ,\t\r\n") {
		case "matrix":
			if len(a) == 6 {
				m = m.of(matrix(a))
			}
		case "translate":
			m = m.of(matrix{1, 0, 0, 1, get(0, 0), get(1, 0)})
		case "scale":
			m = m.of(matrix{get(0, 1), 0, 0, get(1, get(0, 1)), 0, 0})
		case "rotate":
			sin, cos := math.Sincos(get(0, 0) * math.Pi / 180)
			x, y := get(1, 0), get(2, 0)
			m = m.of(matrix{1, 0, 0, 1, x, y}).of(matrix{cos, sin, -sin, cos, 0, 0}).of(matrix{1, 0, 0, 1, -x, -y})
		case "skewX":
			m = m.of(matrix{1, 0, math.Tan(get(0, 0) * math.Pi / 180), 1, 0, 0})
		case "skewY":
			m = m.of(matrix{1, math.Tan(get(0, 0) * math.Pi / 180), 0, 1, 0, 0})
		}
	}
}

// numbers reads numbers apart by blanks and commas; the first that is none ends the list.
func numbers(s string) (out []float64) {
	for _, f := range strings.FieldsFunc(s, func(r rune) bool {
		return r == ' ' || r == ',' || r == '\t' || r == '\n' || r == '\r'
	}) {
		v, err := strconv.ParseFloat(f, 64)
		if err != nil || math.IsNaN(v) || math.Abs(v) > 1e9 {
			return out
		}
		out = append(out, v)
	}
	return out
}
