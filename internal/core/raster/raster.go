// Package raster turns a scene into pixels. It is the only rasteriser: bitmaps, thumbnails and the frames that readers see
// all come from here. Coverage is exact area coverage per pixel (golang.org/x/image/vector).
package raster

import (
	"fmt"
	"image"
	"image/draw"
	"math"

	"golang.org/x/image/vector"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// MaxPixels bounds one picture: 12,000 by 12,000.
const MaxPixels = 144_000_000

// View says which pixels: a picture of Width by Height, millimetres taken to pixels by Scale and then moved by X, Y.
type View struct {
	Width, Height int
	Scale         float64 // pixels a millimetre
	X, Y          float64 // pixels
}

// Fit is the view that shows a whole scene in width by width·(scene's proportion) pixels.
func Fit(s *scene.Scene, width int) View {
	scale := float64(width) / s.Width
	return View{Width: width, Height: int(math.Round(s.Height * scale)), Scale: scale}
}

// Draw paints the scene on a transparent picture; where nothing is painted, alpha stays 0.
func Draw(s *scene.Scene, v View) (*image.NRGBA, error) {
	if v.Width < 1 || v.Height < 1 || v.Width > MaxPixels/v.Height {
		return nil, fmt.Errorf("raster: %d by %d pixels is not between 1 and %d in all", v.Width, v.Height, MaxPixels)
	}
	out := image.NewNRGBA(image.Rect(0, 0, v.Width, v.Height))
	for _, it := range s.Items {
		if r, ok := wholeRectangle(it, v); ok && it.Shade == nil && it.Fade == 0 && it.Clip == nil {
			fill(out, r.Intersect(out.Rect), it.Fill)
			continue
		}
		mask, r := coverage(it, v)
		paint(out, r, mask, inkOf(it, v, r))
	}
	return out, nil
}

// fill paints a rectangle with one colour: one row by hand, the others copied from it.
func fill(dst *image.NRGBA, r image.Rectangle, c ink.Colour) {
	if r.Empty() {
		return
	}
	first := dst.Pix[dst.PixOffset(r.Min.X, r.Min.Y):][: 4*r.Dx() : 4*r.Dx()]
	for i := 0; i < len(first); i += 4 {
		*(*[4]uint8)(first[i:]) = [4]uint8{c.R, c.G, c.B, 255}
	}
	for y := r.Min.Y + 1; y < r.Max.Y; y++ {
		copy(dst.Pix[dst.PixOffset(r.Min.X, y):], first)
	}
}

// wholeRectangle says whether an item is one rectangle whose sides lie on pixel edges, which needs no rasterising: paper
// is the usual case.
func wholeRectangle(it scene.Item, v View) (image.Rectangle, bool) {
	p := it.Path
	if len(p.Points) != 4 || len(p.Ops) != 5 {
		return image.Rectangle{}, false
	}
	a, b, c, d := p.Points[0], p.Points[1], p.Points[2], p.Points[3]
	if a.Y != b.Y || b.X != c.X || c.Y != d.Y || d.X != a.X {
		return image.Rectangle{}, false
	}
	x0, y0 := pixel(it, a, v)
	x1, y1 := pixel(it, c, v)
	for _, f := range [4]float32{x0, y0, x1, y1} {
		if f != float32(math.Trunc(float64(f))) {
			return image.Rectangle{}, false
		}
	}
	return image.Rect(int(x0), int(y0), int(x1), int(y1)), true
}

// pixel takes a point of an item's path to pixels.
func pixel(it scene.Item, p scene.Point, v View) (x, y float32) {
	q := it.At.Point(p)
	return snap(q.X*v.Scale + v.X), snap(q.Y*v.Scale + v.Y)
}

// coverage is the share of every pixel within r that is seen of an item, 0 to 255; beyond r it is nothing.
func coverage(it scene.Item, v View) (mask *image.Alpha, r image.Rectangle) {
	path := it.Path
	if p := it.Picture; p != nil {
		path = scene.Rectangle(p.X, p.Y, p.Width, p.Height)
	}
	mask, r = covered(path, it, v, image.Rect(0, 0, v.Width, v.Height))
	if it.Clip != nil && !r.Empty() {
		seen, within := covered(*it.Clip, it, v, r)
		for y := range mask.Rect.Dy() {
			row := mask.Pix[y*mask.Stride:][:r.Dx()]
			for x := range row {
				c := uint32(0)
				if at := image.Pt(r.Min.X+x, r.Min.Y+y); at.In(within) {
					c = uint32(seen.Pix[(at.Y-within.Min.Y)*seen.Stride+at.X-within.Min.X])
				}
				row[x] = uint8((uint32(row[x])*c + 127) / 255)
			}
		}
	}
	if it.Fade > 0 {
		keep := uint32(math.Round((1 - it.Fade) * 255))
		for i, a := range mask.Pix {
			mask.Pix[i] = uint8((uint32(a)*keep + 127) / 255)
		}
	}
	return mask, r
}

// covered is the share of every pixel within r, which lies within bounds, that an outline covers.
func covered(path scene.Path, it scene.Item, v View, bounds image.Rectangle) (mask *image.Alpha, r image.Rectangle) {
	for i, p := range path.Points {
		x, y := pixel(it, p, v)
		at := image.Rect(int(math.Floor(float64(x))), int(math.Floor(float64(y))), int(math.Ceil(float64(x)))+1,
			int(math.Ceil(float64(y)))+1)
		if i == 0 {
			r = at
		}
		r = r.Union(at)
	}
	if r = r.Intersect(bounds); r.Empty() {
		return image.NewAlpha(image.Rectangle{}), r
	}
	z := vector.NewRasterizer(r.Dx(), r.Dy())
	at := func(p scene.Point) (float32, float32) {
		x, y := pixel(it, p, v)
		return x - float32(r.Min.X), y - float32(r.Min.Y)
	}
	points := path.Points
	var px, py float32 // where the pen stands
	for _, op := range path.Ops {
		switch op {
		case scene.Move:
			px, py = at(points[0])
			z.MoveTo(px, py)
			points = points[1:]
		case scene.Line:
			px, py = at(points[0])
			z.LineTo(px, py)
			points = points[1:]
		case scene.Cubic:
			curve := [4]point{{px, py}}
			for i := range 3 {
				curve[i+1].x, curve[i+1].y = at(points[i])
			}
			cubic(z, curve)
			px, py = curve[3].x, curve[3].y
			points = points[3:]
		case scene.Close:
			z.ClosePath()
		}
	}
	mask = image.NewAlpha(image.Rect(0, 0, r.Dx(), r.Dy()))
	z.DrawOp = draw.Src
	z.Draw(mask, mask.Bounds(), image.Opaque, image.Point{})
	return mask, r
}

// flatness is by how much of a pixel the chords of a curve lie off it at most. The rasteriser's own curves are coarser: a
// disc of six pixels lost a tenth of its area.
const flatness = 0.03

// point is one in pixels.
type point struct{ x, y float32 }

// cubic draws a curve as chords. The error of n chords is at most three quarters of the greatest second difference of the
// control points, by n².
func cubic(z *vector.Rasterizer, p [4]point) {
	bend := max(math.Hypot(float64(p[0].x-2*p[1].x+p[2].x), float64(p[0].y-2*p[1].y+p[2].y)),
		math.Hypot(float64(p[1].x-2*p[2].x+p[3].x), float64(p[1].y-2*p[2].y+p[3].y)))
	n := int(math.Ceil(math.Min(64, math.Sqrt(0.75*bend/flatness))))
	for i := 1; i < n; i++ {
		t := float32(i) / float32(n)
		s := 1 - t
		a, b, c, d := s*s*s, 3*s*s*t, 3*s*t*t, t*t*t
		z.LineTo(a*p[0].x+b*p[1].x+c*p[2].x+d*p[3].x, a*p[0].y+b*p[1].y+c*p[2].y+d*p[3].y)
	}
	z.LineTo(p[3].x, p[3].y)
}

// steps is how finely a gradient is looked up.
const steps = 1024

// rgba is a colour at a pixel, and how solid it is; not premultiplied.
type rgba [4]uint8

func solid(c ink.Colour) rgba { return rgba{c.R, c.G, c.B, 255} }

// inkOf gives the colour of an item at a pixel of r.
func inkOf(it scene.Item, v View, r image.Rectangle) func(x, y int) rgba {
	switch {
	case it.Picture != nil:
		return sampler(it, v, r)
	case it.Shade == nil:
		c := solid(it.Fill)
		return func(int, int) rgba { return c }
	}
	var table [steps + 1]rgba
	for i := range table {
		table[i] = solid(it.Shade.Colour(float64(i) / steps))
	}
	share := shareOf(it, v, r)
	return func(x, y int) rgba { return table[share(x, y)] }
}

// shareOf gives how far along its shade the middle of a pixel of r lies, in steps.
func shareOf(it scene.Item, v View, r image.Rectangle) func(x, y int) int {
	at := back(it, v, r)
	return func(x, y int) int {
		p := at.Point(scene.Point{X: float64(x), Y: float64(y)})
		return int(it.Shade.Share(p.X, p.Y)*steps + 0.5)
	}
}

// back takes the middle of the pixel x, y of r to the units of an item.
func back(it scene.Item, v View, r image.Rectangle) scene.Transform {
	x, y := (0.5+float64(r.Min.X)-v.X)/v.Scale, (0.5+float64(r.Min.Y)-v.Y)/v.Scale
	if it.At.Upright() {
		return scene.At(1/(v.Scale*it.At.A), (x-it.At.X)/it.At.A, (y-it.At.Y)/it.At.A)
	}
	units, _ := it.At.Back() // where there is no way back nothing is covered
	return scene.At(1/v.Scale, x, y).Then(units)
}

// paint lays a colour over a picture where the mask, which stands at r, says, by the over operator on values that are not
// premultiplied.
func paint(dst *image.NRGBA, r image.Rectangle, mask *image.Alpha, at func(x, y int) rgba) {
	for y := range mask.Rect.Dy() {
		row := dst.Pix[dst.PixOffset(r.Min.X, r.Min.Y+y):]
		for i, m := range mask.Pix[y*mask.Stride : y*mask.Stride+r.Dx()] {
			if m == 0 {
				continue
			}
			c := at(i, y)
			if c[3] < 255 {
				m = uint8((uint32(m)*uint32(c[3]) + 127) / 255)
				c[3] = 255
			}
			switch {
			case m == 0:
			case m == 255:
				*(*rgba)(row[4*i:]) = c
			default:
				p := (*[4]uint8)(row[4*i:])
				a := uint32(m)
				under := uint32(p[3]) * (255 - a) // in 255ths of alpha
				whole := a*255 + under
				for k := range 3 {
					p[k] = uint8((uint32(c[k])*a*255 + uint32(p[k])*under + whole/2) / whole)
				}
				p[3] = uint8((whole + 127) / 255)
			}
		}
	}
}

// snap takes coordinates within a thousandth of a pixel of a pixel edge onto it, so that edges meant to lie there do.
func snap(f float64) float32 {
	if r := math.Round(f); math.Abs(f-r) < 1e-3 {
		return float32(r)
	}
	return float32(f)
}

// Luminance renders what a camera would see of the scene, as relative luminance 0 to 1 a pixel, on a ground of luminance
// ground. Coverage is averaged in linear light, as a sensor does.
func Luminance(s *scene.Scene, v View, ground float64) ([]float64, error) {
	return Reflectance(s, v, ground, ink.Colour.Luminance)
}

// Reflectance is the same for another light: of tells how much of it a colour throws back.
func Reflectance(s *scene.Scene, v View, ground float64, of func(ink.Colour) float64) ([]float64, error) {
	if v.Width < 1 || v.Height < 1 || v.Width > MaxPixels/v.Height {
		return nil, fmt.Errorf("raster: %d by %d pixels is not between 1 and %d in all", v.Width, v.Height, MaxPixels)
	}
	out := make([]float64, v.Width*v.Height)
	for i := range out {
		out[i] = ground
	}
	for _, it := range s.Items {
		opaque := 1 - it.Fade
		it.Fade = 0 // what shows through is no matter of coverage
		mask, r := coverage(it, v)
		lum := reflectanceOf(it, v, r, of)
		for y := range mask.Rect.Dy() {
			row := out[(r.Min.Y+y)*v.Width+r.Min.X:]
			for i, a := range mask.Pix[y*mask.Stride : y*mask.Stride+r.Dx()] {
				if a != 0 {
					l, solid := lum(i, y)
					row[i] += (through(l, row[i], solid*opaque) - row[i]) * float64(a) / 255
				}
			}
		}
	}
	return out, nil
}

// through is what is seen of a thing over another where it is only so opaque. Files, viewers and presses mix encoded values
// (PDF 32000-1:2008, 11.3.3, in the colour space of the page), in which the half of black and white is a fifth of the light
// and not a half.
func through(top, below, opaque float64) float64 {
	if opaque >= 1 {
		return top
	}
	e := encodedOf(below)
	e += (encodedOf(top) - e) * opaque
	if e <= 0.04045 {
		return e / 12.92
	}
	return math.Pow((e+0.055)/1.055, 2.4)
}

// encodedOf is the value that sRGB stores for a share of light (IEC 61966-2-1, 5.2).
func encodedOf(l float64) float64 {
	if l = min(max(l, 0), 1); l <= 0.0031308 {
		return 12.92 * l
	}
	return 1.055*math.Pow(l, 1/2.4) - 0.055
}

// reflectanceOf gives what an item throws back at a pixel of r, and how solid it is there, 0 to 1.
func reflectanceOf(it scene.Item, v View, r image.Rectangle, of func(ink.Colour) float64) func(x, y int) (lum, solid float64) {
	switch {
	case it.Picture != nil:
		at := sampler(it, v, r)
		return func(x, y int) (float64, float64) {
			c := at(x, y)
			return of(ink.Colour{R: c[0], G: c[1], B: c[2]}), float64(c[3]) / 255
		}
	case it.Shade == nil:
		lum := of(it.Fill)
		return func(int, int) (float64, float64) { return lum, 1 }
	}
	var table [steps + 1]float64
	for i := range table {
		table[i] = of(it.Shade.Colour(float64(i) / steps))
	}
	share := shareOf(it, v, r)
	return func(x, y int) (float64, float64) { return table[share(x, y)], 1 }
}

// Gray stores relative luminances as a camera does, with the sRGB transfer function.
func Gray(y []float64, width int) *image.Gray {
	g := image.NewGray(image.Rect(0, 0, width, len(y)/width))
	for i, v := range y {
		g.Pix[i] = encoded[int(min(max(v, 0), 1)*4095+0.5)]
	}
	return g
}

var encoded = func() (t [4096]uint8) {
	for i := range t {
		t[i] = ink.Encoded(float64(i) / 4095)
	}
	return t
}()
