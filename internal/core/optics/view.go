package optics

import (
	"image"
	"math"

	"sodrik/internal/core/scene"
)

// view is where the camera stands: the turning of the object, and its middle.
type view struct {
	r      [3][3]float64 // object → camera
	cx, cy float64       // middle of the drawing
	c      Setup
}

func newView(s *scene.Scene, c Setup) view {
	rad := func(d float64) (sin, cos float64) { return math.Sincos(d * math.Pi / 180) }
	sx, cx := rad(c.TiltX)
	sy, cy := rad(c.TiltY)
	sz, cz := rad(c.Turn)
	x := [3][3]float64{{1, 0, 0}, {0, cx, -sx}, {0, sx, cx}}
	y := [3][3]float64{{cy, 0, sy}, {0, 1, 0}, {-sy, 0, cy}}
	z := [3][3]float64{{cz, -sz, 0}, {sz, cz, 0}, {0, 0, 1}}
	return view{r: times(z, times(x, y)), cx: s.Width / 2, cy: s.Height / 2, c: c}
}

func times(a, b [3][3]float64) (out [3][3]float64) {
	for i := range 3 {
		for j := range 3 {
			for k := range 3 {
				out[i][j] += a[i][k] * b[k][j]
			}
		}
	}
	return out
}

// project takes a point of the drawing to the sensor, the middle of the frame at 0, 0. ok is false behind the camera or round
// the bend.
func (v view) project(x, y float64) (u, w float64, ok bool) {
	p := [3]float64{x - v.cx, y - v.cy, 0}
	if v.c.Radius > 0 {
		angle := p[0] / v.c.Radius
		if math.Abs(angle) >= math.Pi/2 {
			return 0, 0, false
		}
		sin, cos := math.Sincos(angle)
		p[0], p[2] = v.c.Radius*sin, v.c.Radius*(1-cos)
	}
	var q [3]float64
	for i := range 3 {
		for k := range 3 {
			q[i] += v.r[i][k] * p[k]
		}
	}
	q[2] += v.c.Distance
	if q[2] <= 1 {
		return 0, 0, false
	}
	return v.c.Camera.Focal*q[0]/q[2] + v.c.ShiftX, v.c.Camera.Focal*q[1]/q[2] + v.c.ShiftY, true
}

// back takes a point of the sensor to the drawing; ok is false where the ray hits nothing of it.
func (v view) back(u, w float64) (x, y float64, ok bool) {
	d := [3]float64{(u - v.c.ShiftX) / v.c.Camera.Focal, (w - v.c.ShiftY) / v.c.Camera.Focal, 1}
	o := [3]float64{0, 0, -v.c.Distance}
	var dir, from [3]float64 // in the object's own frame
	for i := range 3 {
		for k := range 3 {
			dir[i] += v.r[k][i] * d[k]
			from[i] += v.r[k][i] * o[k]
		}
	}
	if v.c.Radius == 0 {
		if math.Abs(dir[2]) < 1e-9 {
			return 0, 0, false
		}
		t := -from[2] / dir[2]
		return from[0] + dir[0]*t + v.cx, from[1] + dir[1]*t + v.cy, t > 0
	}
	r := v.c.Radius // x² + (z − r)² = r²
	fz := from[2] - r
	a, b, c := dir[0]*dir[0]+dir[2]*dir[2], from[0]*dir[0]+fz*dir[2], from[0]*from[0]+fz*fz-r*r
	root := b*b - a*c
	if root < 0 || a == 0 {
		return 0, 0, false
	}
	t := (-b - math.Sqrt(root)) / a
	hx, hz := from[0]+dir[0]*t, from[2]+dir[2]*t
	return r*math.Atan2(hx, r-hz) + v.cx, from[1] + dir[1]*t + v.cy, t > 0
}

// frame is the part of the sensor with the drawing and a margin around it, within the camera's lines.
func (v view) frame(s *scene.Scene, margin float64, c Setup) image.Rectangle {
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	const steps = 12
	for i := range steps + 1 {
		for j := range steps + 1 {
			x := -margin + (s.Width+2*margin)*float64(i)/steps
			y := -margin + (s.Height+2*margin)*float64(j)/steps
			if u, w, ok := v.project(x, y); ok {
				x0, y0, x1, y1 = min(x0, u), min(y0, w), max(x1, u), max(y1, w)
			}
		}
	}
	if x0 > x1 {
		return image.Rectangle{}
	}
	half := float64(c.Camera.Lines) / 2
	r := image.Rect(int(math.Floor(max(x0, -half))), int(math.Floor(max(y0, -half))), int(math.Ceil(min(x1, half))),
		int(math.Ceil(min(y1, half))))
	return r
}

// take samples the object through the lens, nine times a pixel, in the light that falls on it.
func (v view) take(o *object, r image.Rectangle, c Setup, s *scene.Scene) []float64 {
	out := make([]float64, r.Dx()*r.Dy())
	level := c.Level
	if level == 0 {
		level = 1
	}
	even := c.Uneven == 0 && c.Shade == 0 && c.Glare == 0
	// Within a pixel the projection is as good as straight: the middle and how it moves across and down are enough.
	point := v.curved
	if c.Radius == 0 {
		point = v.flat()
	}
	fine, margin, third := o.fine, o.margin*o.fine, o.fine/3
	for j := range r.Dy() {
		for i := range r.Dx() {
			p, ok := point(float64(r.Min.X+i)+0.5, float64(r.Min.Y+j)+0.5)
			if !ok {
				out[j*r.Dx()+i] = o.ground * 0.5 * level // what lies behind
				continue
			}
			x, y := p.x*fine+margin, p.y*fine+margin
			xu, yu, xw, yw := p.xu*third, p.yu*third, p.xw*third, p.yw*third
			reach := math.Abs(xu) + math.Abs(yu) + math.Abs(xw) + math.Abs(yw)
			sum := 0.0
			if x > reach && y > reach && x < float64(o.width)-reach && y < float64(o.height)-reach {
				for b := -1.0; b <= 1; b++ {
					x, y := x+b*xw, y+b*yw
					sum += o.y[int(y-yu)*o.width+int(x-xu)] + o.y[int(y)*o.width+int(x)] + o.y[int(y+yu)*o.width+int(x+xu)]
				}
			} else {
				for b := -1.0; b <= 1; b++ {
					for a := -1.0; a <= 1; a++ {
						x, y := x+a*xu+b*xw, y+a*yu+b*yw
						if x < 0 || y < 0 || x >= float64(o.width) || y >= float64(o.height) {
							sum += o.ground
							continue
						}
						sum += o.y[int(y)*o.width+int(x)]
					}
				}
			}
			light := sum / 9
			if !even {
				x, y := p.x/s.Width, p.y/s.Height
				light = light*c.falls(x, y) + c.mirrored(x, y)
			}
			out[j*r.Dx()+i] = light * level
		}
	}
	return out
}

// spot is a point of the drawing that a pixel's middle sees, in millimetres, and how it moves from pixel to pixel across and
// down.
type spot struct{ x, y, xu, yu, xw, yw float64 }

// curved gives the spot by rays to the middle and to the edges.
func (v view) curved(u, w float64) (s spot, ok bool) {
	var ok1, ok2 bool
	var x1, y1, x2, y2 float64
	s.x, s.y, ok = v.back(u, w)
	x1, y1, ok1 = v.back(u+0.5, w)
	x2, y2, ok2 = v.back(u, w+0.5)
	s.xu, s.yu, s.xw, s.yw = 2*(x1-s.x), 2*(y1-s.y), 2*(x2-s.x), 2*(y2-s.y)
	return s, ok && ok1 && ok2
}

// flat is the same for a plane, as the projection that it is.
func (v view) flat() func(u, w float64) (spot, bool) {
	// A point x, y of the plane lies at r·(x, y, 0) + (0, 0, distance) before the camera; the columns of r and that are a
	// matrix whose inverse takes rays to the plane.
	f, d := v.c.Camera.Focal, v.c.Distance
	m := [3][3]float64{{v.r[0][0], v.r[0][1], 0}, {v.r[1][0], v.r[1][1], 0}, {v.r[2][0], v.r[2][1], d}}
	k := 1 / (m[0][0]*m[1][1] - m[0][1]*m[1][0]) // tilts stay below 85 degrees
	a, b := m[1][1]*k, -m[0][1]*k
	e, g := -m[1][0]*k, m[0][0]*k
	p, q := -(m[2][0]*a+m[2][1]*e)/d, -(m[2][0]*b+m[2][1]*g)/d
	return func(u, w float64) (s spot, ok bool) {
		u, w = (u-v.c.ShiftX)/f, (w-v.c.ShiftY)/f
		depth := p*u + q*w + 1/d
		if depth <= 0 {
			return s, false
		}
		t := 1 / depth
		x, y := (a*u+b*w)*t, (e*u+g*w)*t
		t /= f
		return spot{x + v.cx, y + v.cy, (a - x*p) * t, (e - y*p) * t, (b - x*q) * t, (g - y*q) * t}, true
	}
}

// falls is the share of light that falls on a point, given in shares of the drawing's sides.
func (c Setup) falls(x, y float64) float64 {
	light := 1 - c.Uneven*min(max(0.7*x+0.3*y, 0), 1)
	if c.Shade > 0 { // a shadow with a soft edge, aslant through the middle
		d := (x - 0.5) + 0.35*(y-0.5)
		light *= 1 - c.Shade*min(max(d/0.04+0.5, 0), 1)
	}
	return light
}

// mirrored is the light of a lamp that the surface throws back into the lens: a band aslant.
func (c Setup) mirrored(x, y float64) float64 {
	if c.Glare == 0 {
		return 0
	}
	d := ((x - 0.45) - 0.6*(y-0.5)) / 0.14
	return c.Glare * math.Exp(-d*d)
}
