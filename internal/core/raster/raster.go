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

// MostPixels bounds one picture: 12,000 by 12,000.
const MostPixels = 144_000_000

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
	if v.Width < 1 || v.Height < 1 || v.Width > MostPixels/v.Height {
		return nil, fmt.Errorf("raster: %d by %d pixels is not between 1 and %d in all", v.Width, v.Height, MostPixels)
	}
	out := image.NewNRGBA(image.Rect(0, 0, v.Width, v.Height))
	for _, it := range s.Items {
		paint(out, coverage(it, v), it.Fill)
	}
	return out, nil
}

// coverage is the share of every pixel that an outline covers, 0 to 255.
func coverage(it scene.Item, v View) []uint8 {
	z := vector.NewRasterizer(v.Width, v.Height)
	trace(z, it, v)
	mask := image.NewAlpha(image.Rect(0, 0, v.Width, v.Height))
	z.DrawOp = draw.Src
	z.Draw(mask, mask.Bounds(), image.Opaque, image.Point{})
	return mask.Pix
}

// paint lays a colour over a picture where the mask says, by the over operator on values that are not premultiplied.
func paint(dst *image.NRGBA, mask []uint8, c ink.Colour) {
	solid := [4]uint8{c.R, c.G, c.B, 255}
	for i, m := range mask {
		switch {
		case m == 0:
		case m == 255:
			*(*[4]uint8)(dst.Pix[4*i:]) = solid
		default:
			p := (*[4]uint8)(dst.Pix[4*i:])
			a := uint32(m)
			under := uint32(p[3]) * (255 - a) // in 255ths of alpha
			whole := a*255 + under
			for k := range 3 {
				p[k] = uint8((uint32(solid[k])*a*255 + uint32(p[k])*under + whole/2) / whole)
			}
			p[3] = uint8((whole + 127) / 255)
		}
	}
}

func trace(z *vector.Rasterizer, it scene.Item, v View) {
	sx := it.At.Scale * v.Scale
	dx, dy := it.At.X*v.Scale+v.X, it.At.Y*v.Scale+v.Y
	at := func(p scene.Point) (float32, float32) { return snap(p.X*sx + dx), snap(p.Y*sx + dy) }
	points := it.Path.Points
	for _, op := range it.Path.Ops {
		switch op {
		case scene.Move:
			z.MoveTo(at(points[0]))
			points = points[1:]
		case scene.Line:
			z.LineTo(at(points[0]))
			points = points[1:]
		case scene.Cubic:
			x1, y1 := at(points[0])
			x2, y2 := at(points[1])
			x3, y3 := at(points[2])
			z.CubeTo(x1, y1, x2, y2, x3, y3)
			points = points[3:]
		case scene.Close:
			z.ClosePath()
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
	if v.Width < 1 || v.Height < 1 || v.Width > MostPixels/v.Height {
		return nil, fmt.Errorf("raster: %d by %d pixels is not between 1 and %d in all", v.Width, v.Height, MostPixels)
	}
	out := make([]float64, v.Width*v.Height)
	for i := range out {
		out[i] = ground
	}
	for _, it := range s.Items {
		y := it.Fill.Luminance()
		for i, a := range coverage(it, v) {
			if a != 0 {
				out[i] += (y - out[i]) * float64(a) / 255
			}
		}
	}
	return out, nil
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
