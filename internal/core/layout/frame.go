package layout

import (
	"math"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
)

// Framed is a drawing with a frame around it.
type Framed struct {
	Scene     *scene.Scene
	Left, Top float64 // of the code within it, mm
	Words     float64 // size of the type, mm; 0 without words
}

// FrameMargins are how many modules a frame of a shape takes to the left and right of a code of n modules, quiet zone
// included: whole ones, so that pixels a module stay whole.
func FrameMargins(f look.Frame, n int) int {
	if f.None() {
		return 0
	}
	return int(newFrame(f, float64(n), float64(n)).side)
}

// frame is being drawn, in modules; the code lies at 0, 0 and is w by h.
type frame struct {
	look.Frame
	w, h              float64
	side, top, bottom float64 // margins
	ink               scene.Path
	onInk             bool // the words stand on ink
	ground            scene.Path
	at                [2]float64 // middle of the words
	wide, tall        float64    // room for them
	bend              float64    // radius of the circle they stand on; 0 is straight
	words             scene.Path
	em                float64
}

// newFrame works out margins and outlines of a shape.
func newFrame(f look.Frame, w, h float64) *frame {
	p := &frame{Frame: f, w: w, h: h}
	band := math.Ceil(w * 0.17 * max(f.Size, 1)) // height of what carries the words
	if f.Text == "" {
		band = math.Ceil(w * 0.05)
	}
	m := max(2, math.Ceil(w*0.05)) // free beside the code
	p.side, p.top, p.bottom = m, m, band+m
	thick := w * 0.02
	below := func() { p.at, p.wide, p.tall = [2]float64{w / 2, h + m*0.25 + band/2}, w*0.94, band }
	switch f.Shape {
	case "rule":
		p.side, p.top = 0, 0
		p.bottom = band + 1
		p.ink.Rectangle(w*0.1, h, w*0.8, thick/2)
		p.at, p.wide, p.tall = [2]float64{w / 2, h + 0.5 + band/2 + thick/2}, w*0.94, band
	case "brackets":
		p.bottom = band + m
		arm := w * 0.18
		for _, c := range [4][2]float64{{-1, -1}, {1, -1}, {-1, 1}, {1, 1}} {
			x, y := w/2+c[0]*(w/2+m/2), h/2+c[1]*(h/2+m/2)
			p.bar(x, y, x-c[0]*arm, y-c[1]*thick)
			p.bar(x, y-c[1]*thick, x-c[0]*thick, y-c[1]*arm)
		}
		p.at, p.wide, p.tall = [2]float64{w / 2, h + m/2 + band/2 + thick/2}, w*0.94, band
	case "packet": // a packet: a flap above, a filled foot with the words
		p.top = math.Ceil(w * 0.12)
		p.ring(w*0.03, thick)
		p.ink.Append(scene.RoundRectangle(-m, h+1, w+2*m, band+m-1, 0, 0))
		for i := range 12 { // the flap is stitched down
			x := -m + (w+2*m)*(float64(i)+0.3)/12
			p.ink.Rectangle(x, -p.top*0.45, (w+2*m)/12*0.4, thick/2)
		}
		p.onInk = true
		p.at, p.wide, p.tall = [2]float64{w / 2, h + 1 + (band+m-1)/2}, w*0.94, band
	case "flag": // a filled band above
		p.side, p.top, p.bottom = 1, band+1, 1
		p.ink = scene.RoundRectangle(-1, -band-1, w+2, band, w*0.02, w*0.02)
		p.onInk = true
		p.at, p.wide, p.tall = [2]float64{w / 2, -1 - band/2}, w*0.94, band
	case "label": // corners cut above, a hole between
		p.top = math.Ceil(w * 0.2)
		cut := p.top * 0.8
		outer := [][2]float64{{-m + cut, -p.top}, {w + m - cut, -p.top}, {w + m, -p.top + cut}, {w + m, h + p.bottom},
			{-m, h + p.bottom}, {-m, -p.top + cut}}
		p.outline(outer, thick)
		disc(&p.ink, w/2, -p.top*0.55, w*0.045, false)
		disc(&p.ink, w/2, -p.top*0.55, w*0.045-thick, true)
		below()
	case "plant-tag": // a stake
		p.bottom = band + m + math.Ceil(w*0.35)
		outer := [][2]float64{{-m, -m}, {w + m, -m}, {w + m, h + m/2 + band}, {w/2 + w*0.05, h + p.bottom},
			{w/2 - w*0.05, h + p.bottom}, {-m, h + m/2 + band}}
		p.outline(outer, thick)
		below()
	case "stamp": // bites all around
		p.side, p.top, p.bottom = m+1, m+1, band+m+1
		p.stamp()
		below()
	case "arch": // a round head with the words in it
		p.top = math.Ceil(w*0.3 + band*0.4)
		p.bottom = m
		p.arch(thick)
		p.at, p.wide, p.tall = [2]float64{w / 2, -p.top * 0.34}, w*0.66, band
	case "ribbon":
		p.side, p.top = math.Ceil(w*0.08), 0
		p.bottom = band + m
		y0, y1, tail := h+0.5, h+0.5+band, p.side
		poly(&p.ink, [][2]float64{{0, y0}, {w, y0}, {w, y1}, {0, y1}})
		for _, s := range [2]float64{-1, 1} {
			x := w/2 + s*w/2
			poly(&p.ink, [][2]float64{{x - s*0.01, y0 + 1}, {x + s*tail, y0 + 1}, {x + s*tail*0.5, (y0+y1)/2 + 0.75},
				{x + s*tail, y1 + 1.4}, {x - s*0.01, y1 + 1.4}})
		}
		p.onInk = true
		p.at, p.wide, p.tall = [2]float64{w / 2, (y0 + y1) / 2}, w*0.92, band
	case "circle": // around the whole
		r := math.Hypot(w, h) / 2
		out := r + band + 1
		p.side = math.Ceil(out - w/2)
		p.top, p.bottom = math.Ceil(out-h/2), math.Ceil(out-h/2)
		disc(&p.ink, w/2, h/2, out, false)
		disc(&p.ink, w/2, h/2, r+0.5, true)
		p.onInk = true
		p.bend = r + 0.5 + (band+0.5)/2
		p.at, p.wide, p.tall = [2]float64{w / 2, h/2 - p.bend}, math.Pi*p.bend*0.85, band
	}
	if len(p.ground.Ops) == 0 {
		p.ground = scene.Rectangle(-p.side, -p.top, w+2*p.side, p.top+h+p.bottom)
	}
	p.set()
	return p
}

// set sets the words into the room they have: as large as its height allows, smaller where they are long.
func (p *frame) set() {
	if p.Text == "" {
		return
	}
	line := p.Face().Set(p.Text)
	p.em = p.tall * 0.62 * p.Size / max(p.Size, 1)
	if line.Width*p.em > p.wide {
		p.em = p.wide / line.Width
	}
	x, y := p.at[0]-line.Width*p.em/2, p.at[1]+p.em*middleOf(p.Face())
	p.words = scene.Path{Ops: line.Path.Ops, Points: make([]scene.Point, len(line.Path.Points))}
	for i, q := range line.Path.Points {
		px, py := x+q.X*p.em, y+q.Y*p.em
		if p.bend > 0 { // along the circle: across becomes an angle, up becomes away from its middle
			cx, cy := p.at[0], p.at[1]+p.bend
			angle, r := (px-p.at[0])/p.bend, p.bend-(py-p.at[1])
			px, py = cx+r*math.Sin(angle), cy-r*math.Cos(angle)
		}
		p.words.Points[i] = scene.Point{X: px, Y: py}
	}
}

// middleOf is how far below the middle of capitals the baseline lies, in ems.
func middleOf(f *typeface.Face) float64 { return -f.Set("H").Top / 2 }

// bar is a rectangle between two corners.
func (p *frame) bar(x0, y0, x1, y1 float64) {
	p.ink.Rectangle(min(x0, x1), min(y0, y1), math.Abs(x1-x0), math.Abs(y1-y0))
}

// ring is a rounded border of a thickness around everything.
func (p *frame) ring(r, thick float64) {
	x, y, w, h := -p.side, -p.top, p.w+2*p.side, p.top+p.h+p.bottom
	p.ground = scene.RoundRectangle(x, y, w, h, r, r)
	p.ink.Append(p.ground)
	p.ink.Append(reversed(scene.RoundRectangle(x+thick, y+thick, w-2*thick, h-2*thick, max(0, r-thick), max(0, r-thick))))
}

// outline is a border of a thickness along a convex polygon, clockwise.
func (p *frame) outline(corners [][2]float64, thick float64) {
	poly(&p.ground, corners)
	poly(&p.ink, corners)
	var inner scene.Path
	poly(&inner, inset(corners, thick))
	p.ink.Append(reversed(inner))
}

// stamp is a border with half discs bitten out.
func (p *frame) stamp() {
	x0, y0, x1, y1 := -p.side, -p.top, p.w+p.side, p.h+p.bottom
	var edge scene.Path
	const bite = 0.62 // radius against half a step
	side := func(ax, ay, bx, by float64) {
		length := math.Hypot(bx-ax, by-ay)
		n := max(3, math.Round(length/(p.w*0.07)))
		dx, dy := (bx-ax)/n, (by-ay)/n
		for i := range int(n) {
			sx, sy := ax+dx*float64(i), ay+dy*float64(i)
			g := (1 - bite) / 2
			// A half disc inwards, which is to the right of the way around; its two quarters as curves.
			px, py := sx+dx*g, sy+dy*g
			qx, qy := sx+dx*(1-g), sy+dy*(1-g)
			nx, ny := -dy*bite/2, dx*bite/2
			mx, my := (px+qx)/2+nx, (py+qy)/2+ny
			const k = 0.5523
			hx, hy := dx*bite/2, dy*bite/2
			edge.LineTo(px, py)
			edge.CubicTo(px+nx*k, py+ny*k, mx-hx*k, my-hy*k, mx, my)
			edge.CubicTo(mx+hx*k, my+hy*k, qx+nx*k, qy+ny*k, qx, qy)
		}
		edge.LineTo(bx, by)
	}
	edge.MoveTo(x0, y0)
	side(x0, y0, x1, y0)
	side(x1, y0, x1, y1)
	side(x1, y1, x0, y1)
	side(x0, y1, x0, y0)
	edge.Close()
	p.ground = edge
	p.ink.Append(edge)
	m := p.side * 0.75
	p.ink.Append(reversed(scene.Rectangle(x0+m, y0+m, x1-x0-2*m, y1-y0-2*m)))
}

// arch is a border whose head is half an ellipse.
func (p *frame) arch(thick float64) {
	shape := func(d float64) (out scene.Path) {
		x0, x1, y0, y1 := -p.side+d, p.w+p.side-d, -p.top+d, p.h+p.bottom-d
		const k = 0.5523
		cx, rx, ry := (x0+x1)/2, (x1-x0)/2, p.top-d
		out.MoveTo(x0, y1)
		out.LineTo(x0, 0)
		out.CubicTo(x0, -ry*k, cx-rx*k, y0, cx, y0)
		out.CubicTo(cx+rx*k, y0, x1, -ry*k, x1, 0)
		out.LineTo(x1, y1)
		out.Close()
		return out
	}
	p.ground = shape(0)
	p.ink.Append(p.ground)
	p.ink.Append(reversed(shape(thick)))
}

func poly(p *scene.Path, corners [][2]float64) {
	for i, c := range corners {
		if i == 0 {
			p.MoveTo(c[0], c[1])
		} else {
			p.LineTo(c[0], c[1])
		}
	}
	p.Close()
}

// inset moves the sides of a convex polygon, clockwise, inwards.
func inset(corners [][2]float64, d float64) [][2]float64 {
	n := len(corners)
	out := make([][2]float64, n)
	for i, c := range corners {
		a, b := corners[(i+n-1)%n], corners[(i+1)%n]
		normal := func(p, q [2]float64) (x, y float64) {
			l := math.Hypot(q[0]-p[0], q[1]-p[1])
			return -(q[1] - p[1]) / l, (q[0] - p[0]) / l
		}
		ax, ay := normal(a, c)
		bx, by := normal(c, b)
		k := d / (1 + ax*bx + ay*by)
		out[i] = [2]float64{c[0] + (ax+bx)*k, c[1] + (ay+by)*k}
	}
	return out
}

// disc adds a disc, or with hole one the other way round.
func disc(p *scene.Path, x, y, r float64, hole bool) {
	d := scene.RoundRectangle(x-r, y-r, 2*r, 2*r, r, r)
	if hole {
		d = reversed(d)
	}
	p.Append(d)
}

// reversed goes around the other way, so that what it encloses is left out.
func reversed(p scene.Path) (out scene.Path) {
	var outlines [][]scene.Point // with the controls of curves, three a step
	var curves [][]bool
	points := p.Points
	for _, op := range p.Ops {
		last := len(outlines) - 1
		switch op {
		case scene.Move:
			outlines, curves = append(outlines, []scene.Point{points[0]}), append(curves, nil)
			points = points[1:]
		case scene.Line:
			outlines[last], curves[last] = append(outlines[last], points[0]), append(curves[last], false)
			points = points[1:]
		case scene.Cubic:
			outlines[last], curves[last] = append(outlines[last], points[:3]...), append(curves[last], true)
			points = points[3:]
		}
	}
	for i, list := range outlines {
		at := len(list) - 1
		out.MoveTo(list[at].X, list[at].Y)
		for s := len(curves[i]) - 1; s >= 0; s-- {
			if curves[i][s] {
				a, b, c := list[at-1], list[at-2], list[at-3]
				out.CubicTo(a.X, a.Y, b.X, b.Y, c.X, c.Y)
				at -= 3
			} else {
				at--
				out.LineTo(list[at].X, list[at].Y)
			}
		}
		out.Close()
	}
	return out
}

// Frame draws the frame of a look around a drawing whose code is n modules wide, quiet zone included. paper is nil where
// there is none.
func Frame(s *scene.Scene, l look.Look, n int, paper *ink.Colour) Framed {
	f, modules, shade := l.Frame, l.Ink, l.Shade
	if f.Inked {
		shade = f.Shade
	}
	unit := s.Width / float64(n)
	p := newFrame(f, float64(n), s.Height/unit)
	left, top := p.side*unit, p.top*unit
	at := scene.At(unit, left, top)
	out := &scene.Scene{Width: s.Width + 2*left, Height: s.Height + top + p.bottom*unit}
	colour, words := modules, modules
	if f.Inked {
		colour, words = f.Ink, f.Ink
	}
	if p.onInk {
		if words = ink.White; paper != nil {
			words = *paper
		}
	}
	if f.TextInked {
		words = f.TextInk
	}
	if paper != nil {
		out.Items = append(out.Items, scene.Item{Name: "paper", Path: p.ground, At: at, Fill: *paper})
	}
	if len(p.ink.Ops) > 0 {
		out.Items = append(out.Items, scene.Item{Name: "frame", Path: p.ink, At: at, Fill: colour,
			Shade: scene.Across(shade, float64(n))})
	}
	out.Items = append(out.Items, scene.Transformed(s.Items, scene.At(1, left, top))...)
	if len(p.words.Ops) > 0 {
		item := scene.Item{Name: "words", Path: p.words, At: at, Fill: words}
		if !p.onInk && !f.TextInked {
			item.Shade = scene.Across(shade, float64(n))
		}
		out.Items = append(out.Items, item)
	}
	return Framed{out, left, top, p.em * unit}
}
