package inspect

import (
	"image"
	"math"
	"slices"

	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/symbol/detect"
)

// leastContrast is by how much light and dark have to differ, of the paper, in the drawing and in what is seen.
const leastContrast = 0.05

// per is how many points a module is looked at, each way.
const per = 8

// view is a code in a picture, looked at on a grid of points of the drawing.
type view struct {
	in      proof.Input
	f       detect.Found
	picture *image.Gray
	module  float64 // millimetres
	pixels  float64 // a module takes, the mean of both ways
	across  float64 // the same of either way
	down    float64
	around  int // modules of quiet zone that are looked at

	moved [2 * terms]float64 // by how many pixels the grid of the reader was moved

	paper, ink float64 // luminance of the drawing where it is lightest and darkest
	plane      [3]float64
	offset     float64 // of what is seen: offset + scale × luminance of the drawing, in parts of the paper
	scale      float64
	points     []point
	steps      [][]float64 // of growth: the luminance of the drawing at each point
	blind      float64     // pixels by which a growth may be off without any part of the code telling
	inkOff     float64     // two standard deviations of what is seen of the ink
}

// point is one that is looked at.
type point struct {
	x, y   float64 // modules from the symbol's corner
	seen   float64 // in parts of the paper beside it
	drawn  float64 // luminance of the drawing
	inside bool    // nothing else within reach of a soft lens
}

func newView(in proof.Input, f detect.Found, picture *image.Gray) *view {
	modules := float64(in.Symbol.Size + 2*in.QuietZone)
	v := &view{in: in, f: f, picture: picture, module: in.Scene.Width / modules, around: min(2, in.QuietZone)}
	v.size()
	return v
}

// size is how many pixels a module takes.
func (v *view) size() {
	n := float64(v.in.Symbol.Size)
	length := func(x0, y0, x1, y1 float64) float64 {
		ax, ay := v.at(x0, y0)
		bx, by := v.at(x1, y1)
		return math.Hypot(bx-ax, by-ay) / n
	}
	v.across = (length(0, 0, n, 0) + length(0, n, n, n)) / 2
	v.down = (length(0, 0, 0, n) + length(n, 0, n, n)) / 2
	v.pixels = (v.across + v.down) / 2
}

// axial is by how much modules are wider than high or higher than wide (ISO/IEC 15415:2011, 7.8.6); a view askew makes them
// so, too.
func (v *view) axial() float64 {
	return math.Round(math.Abs(v.across-v.down)/((v.across+v.down)/2)*1000) / 1000
}

// bent is how far the grid lies at most off the plane through its corners, in modules.
func (v *view) bent() (most float64) {
	n := float64(v.in.Symbol.Size)
	var c [4][2]float64
	for i, p := range [4][2]float64{{0, 0}, {n, 0}, {n, n}, {0, n}} {
		c[i][0], c[i][1] = v.at(p[0], p[1])
	}
	plane := projection(c, n)
	for y := 0.0; y <= n; y += n / 8 {
		for x := 0.0; x <= n; x += n / 8 {
			ax, ay := plane(x, y)
			bx, by := v.at(x, y)
			most = max(most, math.Hypot(ax-bx, ay-by)/v.pixels)
		}
	}
	return math.Round(most*100) / 100
}

// projection takes points of a square of so many modules to those of its corners, clockwise from the top left.
func projection(c [4][2]float64, n float64) func(x, y float64) (float64, float64) {
	x0, y0, x1, y1, x2, y2, x3, y3 := c[0][0], c[0][1], c[1][0], c[1][1], c[2][0], c[2][1], c[3][0], c[3][1]
	dx1, dy1, dx2, dy2 := x1-x2, y1-y2, x3-x2, y3-y2
	sx, sy := x0-x1+x2-x3, y0-y1+y2-y3
	den := dx1*dy2 - dx2*dy1
	g, h := (sx*dy2-dx2*sy)/den, (dx1*sy-sx*dy1)/den
	return func(x, y float64) (float64, float64) {
		s, t := x/n, y/n
		w := g*s + h*t + 1
		return ((x1-x0+g*x1)*s + (x3-x0+h*x3)*t + x0) / w, ((y1-y0+g*y1)*s + (y3-y0+h*y3)*t + y0) / w
	}
}

// light is the light of the picture at a point in modules.
func (v *view) light(x, y float64) float64 { return v.pixel(v.at(x, y)) }

// pixel is the same at a point in pixels.
func (v *view) pixel(px, py float64) float64 {
	px, py = px-0.5, py-0.5
	b := v.picture.Rect
	i, j := int(math.Floor(px)), int(math.Floor(py))
	at := func(i, j int) float64 {
		return linear[v.picture.Pix[min(max(j, 0), b.Dy()-1)*v.picture.Stride+min(max(i, 0), b.Dx()-1)]]
	}
	a, c := px-float64(i), py-float64(j)
	return (at(i, j)*(1-a)+at(i+1, j)*a)*(1-c) + (at(i, j+1)*(1-a)+at(i+1, j+1)*a)*c
}

// linear takes encoded values to light (IEC 61966-2-1).
var linear = func() (t [256]float64) {
	for i := range t {
		f := float64(i) / 255
		if f <= 0.04045 {
			t[i] = f / 12.92
		} else {
			t[i] = math.Pow((f+0.055)/1.055, 2.4)
		}
	}
	return t
}()

// printed is the drawing with dark edges spread by so many millimetres.
func (v *view) printed(growth float64) (*optics.Print, error) {
	ground := 1.0
	if b := v.in.Placement.Background; b != nil {
		ground = b.Luminance()
	}
	return optics.NewPrint(v.in.Scene, ground, 2*per/v.module, optics.Setup{Gain: growth, Even: true})
}

// drawn is the luminance of a print at a point in modules.
func (v *view) drawn(p *optics.Print, x, y float64) float64 {
	q := float64(v.in.QuietZone)
	return p.At((x+q)*v.module, (y+q)*v.module)
}

// reflected is what is seen at a point, in parts of the paper beside it.
func (v *view) reflected(x, y float64) float64 {
	return v.light(x, y) / v.fallen(x, y)
}

// fallen is how much light falls on a point: what paper there looks like.
func (v *view) fallen(x, y float64) float64 { return max(v.plane[0]+v.plane[1]*x+v.plane[2]*y, 1e-6) }

// look looks at all points of the drawing.
func (v *view) look() error {
	print, err := v.printed(0)
	if err != nil {
		return err
	}
	const reach = 0.45 // of a module, to either side
	n, a := v.in.Symbol.Size, v.around
	v.points = v.points[:0]
	for j := -a * per; j < (n+a)*per; j++ {
		for i := -a * per; i < (n+a)*per; i++ {
			p := point{x: (float64(i) + 0.5) / per, y: (float64(j) + 0.5) / per}
			p.drawn = v.drawn(print, p.x, p.y)
			p.inside = true
			for _, d := range [8][2]float64{{-reach, 0}, {reach, 0}, {0, -reach}, {0, reach}, {-reach, -reach}, {reach, -reach},
				{-reach, reach}, {reach, reach}} {
				if math.Abs(v.drawn(print, p.x+d[0], p.y+d[1])-p.drawn) > 0.02 {
					p.inside = false
					break
				}
			}
			v.points = append(v.points, p)
		}
	}
	v.paper, v.ink = math.Inf(-1), math.Inf(1)
	for _, p := range v.points {
		if p.inside {
			v.paper, v.ink = max(v.paper, p.drawn), min(v.ink, p.drawn)
		}
	}
	return nil
}

// level finds how light falls, and how what is seen follows from the drawing.
func (v *view) level() error {
	v.fall()
	var light, dark []float64
	for i := range v.points {
		p := &v.points[i]
		p.seen = v.reflected(p.x, p.y)
		switch {
		case !p.inside:
		case p.drawn > v.paper-0.02:
			light = append(light, p.seen)
		case p.drawn < v.ink+0.02:
			dark = append(dark, p.seen)
		}
	}
	if len(light) < 20 || len(dark) < 20 || v.paper-v.ink < leastContrast {
		return ErrFaint
	}
	l, d := median(light), median(dark)
	if l-d < leastContrast {
		return ErrFaint
	}
	v.scale = (l - d) / (v.paper - v.ink)
	v.offset = d - v.scale*v.ink
	v.inkOff = 2 * spread(dark, d)
	return nil
}

// fall fits a plane to the light that falls on the paper, twice: the second time without what lies far off the first.
func (v *view) fall() {
	v.plane = [3]float64{1, 0, 0}
	for pass := range 2 {
		m := equations(3)
		for _, p := range v.points {
			if !p.inside || p.drawn < v.paper-0.02 {
				continue
			}
			y := v.light(p.x, p.y)
			if pass > 0 && math.Abs(y/v.fallen(p.x, p.y)-1) > 0.1 {
				continue
			}
			row := [3]float64{1, p.x, p.y}
			for i := range 3 {
				for j := range 3 {
					m[i][j] += row[i] * row[j]
				}
				m[i][3] += row[i] * y
			}
		}
		if plane, ok := solve(m); ok {
			v.plane = [3]float64(plane)
		}
	}
}

func median(list []float64) float64 {
	slices.Sort(list)
	return list[len(list)/2]
}

// spread is the standard deviation of the mean of what lies around the middle of a list, as from as many points as there are
// modules' worth of them.
func spread(list []float64, middle float64) float64 {
	sum := 0.0
	for _, x := range list {
		sum += (x - middle) * (x - middle)
	}
	n := float64(len(list))
	return math.Sqrt(sum/n) / math.Sqrt(max(1, n/(per*per)))
}
