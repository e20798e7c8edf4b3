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

// project takes a point of the drawing to the sensor, the middle of the frame at 0, 0. ok is false behind the camera or round the bend.
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
	r := image.Rect(int(math.Floor(max(x0, -half))), int(math.Floor(max(y0, -half))), int(math.Ceil(min(x1, half))), int(math.Ceil(min(y1, half))))
	return r
}

// take samples the object through the lens, several times a pixel, in the light that falls on it.
func (v view) take(o *object, r image.Rectangle, c Setup, s *scene.Scene) []float64 {
	out := make([]float64, r.Dx()*r.Dy())
	n := 3
	level := c.Level
	if level == 0 {
		level = 1
	}
	for j := range r.Dy() {
		for i := range r.Dx() {
			sum := 0.0
			for b := range n {
				for a := range n {
					u := float64(r.Min.X+i) + (float64(a)+0.5)/float64(n)
					w := float64(r.Min.Y+j) + (float64(b)+0.5)/float64(n)
					x, y, ok := v.back(u, w)
					if !ok {
						sum += o.ground * level * 0.5 // what lies behind
						continue
					}
					sum += o.at(x, y)*level*c.falls(x/s.Width, y/s.Height) + c.mirrored(x/s.Width, y/s.Height)*level
				}
			}
			out[j*r.Dx()+i] = sum / float64(n*n)
		}
	}
	return out
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
