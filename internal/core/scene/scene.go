// Package scene is the display list between what a code is and the files it becomes: filled outlines, in millimetres, the
// origin at the top left and y pointing down. One scene, many writers; nothing here knows a file format.
package scene

import "sodrik/internal/core/ink"

// Scene is a finished drawing.
type Scene struct {
	Width, Height float64 // millimetres
	Items         []Item  // painted in order
}

// Item is one outline filled with an ink, or a picture.
type Item struct {
	Name string // "paper", "modules": an identifier for writers that keep names
	Path Path
	At   Transform
	Fill ink.Colour

	Shade   *Shade   // instead of Fill
	Fade    float64  // 0 solid to 1 not there at all
	Clip    *Path    // what is seen of it, in the units of Path; nil is all
	Picture *Picture // instead of an outline
	Letters []Letter // what Path is made of, where that is known: a writer of many pages need not write a letter twice
	Current bool     // has no ink of its own: takes that of whoever uses the drawing
}

// Letter is an outline that may stand in many places, moved to one of them, in the units of its item's path.
type Letter struct {
	Outline *Path
	X, Y    float64
}

// Op is a step of a path.
type Op uint8

// Steps, with the number of points each takes from Points.
const (
	Move  Op = iota // 1
	Line            // 1
	Cubic           // 3: two controls, then the end
	Close           // 0
)

// Point is a position in the units of its path.
type Point struct{ X, Y float64 }

// Path is a sequence of closed outlines, filled by the non-zero rule.
type Path struct {
	Ops    []Op
	Points []Point
}

// MoveTo starts an outline.
func (p *Path) MoveTo(x, y float64) {
	p.Ops, p.Points = append(p.Ops, Move), append(p.Points, Point{x, y})
}

// LineTo adds a straight side.
func (p *Path) LineTo(x, y float64) {
	p.Ops, p.Points = append(p.Ops, Line), append(p.Points, Point{x, y})
}

// CubicTo adds a Bézier curve with two control points.
func (p *Path) CubicTo(x1, y1, x2, y2, x, y float64) {
	p.Ops, p.Points = append(p.Ops, Cubic), append(p.Points, Point{x1, y1}, Point{x2, y2}, Point{x, y})
}

// Close ends an outline with a straight side to its start.
func (p *Path) Close() { p.Ops = append(p.Ops, Close) }

// Rectangle adds a closed rectangle, clockwise.
func (p *Path) Rectangle(x, y, w, h float64) {
	p.MoveTo(x, y)
	p.LineTo(x+w, y)
	p.LineTo(x+w, y+h)
	p.LineTo(x, y+h)
	p.Close()
}

// Append adds the outlines of another path.
func (p *Path) Append(q Path) {
	p.Ops, p.Points = append(p.Ops, q.Ops...), append(p.Points, q.Points...)
}

// Rectangle is one closed rectangle.
func Rectangle(x, y, w, h float64) (p Path) {
	p.Rectangle(x, y, w, h)
	return p
}

// RoundRectangle is a rectangle with elliptical corners of radii rx and ry; with radii of half its sides an ellipse.
func RoundRectangle(x, y, w, h, rx, ry float64) (p Path) {
	if rx <= 0 || ry <= 0 {
		return Rectangle(x, y, w, h)
	}
	const k = 1 - 0.5522847498 // a quarter of a circle as one curve, within 0.03 %
	p.MoveTo(x+rx, y)
	p.LineTo(x+w-rx, y)
	p.CubicTo(x+w-rx*k, y, x+w, y+ry*k, x+w, y+ry)
	p.LineTo(x+w, y+h-ry)
	p.CubicTo(x+w, y+h-ry*k, x+w-rx*k, y+h, x+w-rx, y+h)
	p.LineTo(x+rx, y+h)
	p.CubicTo(x+rx*k, y+h, x, y+h-ry*k, x, y+h-ry)
	p.LineTo(x, y+ry)
	p.CubicTo(x, y+ry*k, x+rx*k, y, x+rx, y)
	p.Close()
	return p
}

// Scaled is the path larger by k about a point.
func (p Path) Scaled(k, x, y float64) Path {
	out := Path{Ops: p.Ops, Points: make([]Point, len(p.Points))}
	for i, q := range p.Points {
		out.Points[i] = Point{x + (q.X-x)*k, y + (q.Y-y)*k}
	}
	return out
}
