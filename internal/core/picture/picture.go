// Package picture brings pictures of any kind to greys of a size that can be looked at.
package picture

import (
	"image"
	"image/draw"
	"math"
)

// Greys are the brightnesses of a picture on white.
func Greys(img image.Image) *image.Gray {
	b := img.Bounds()
	out := image.NewGray(image.Rect(0, 0, b.Dx(), b.Dy()))
	if grey, ok := img.(*image.Gray); ok {
		for y := range b.Dy() {
			copy(out.Pix[y*out.Stride:][:b.Dx()], grey.Pix[y*grey.Stride:])
		}
		return out
	}
	line := image.NewRGBA(image.Rect(0, 0, b.Dx(), 1)) // for which package draw knows the kinds that decoders give
	opaque, op := false, draw.Over
	if o, ok := img.(interface{ Opaque() bool }); ok && o.Opaque() {
		opaque, op = true, draw.Src
	}
	for y := range b.Dy() {
		if !opaque {
			draw.Draw(line, line.Rect, image.White, image.Point{}, draw.Src)
		}
		draw.Draw(line, line.Rect, img, image.Pt(b.Min.X, b.Min.Y+y), op)
		row := out.Pix[y*out.Stride:][:b.Dx()]
		for x := range row {
			p := line.Pix[4*x : 4*x+3 : 4*x+3]
			row[x] = uint8((2126*int(p[0]) + 7152*int(p[1]) + 722*int(p[2]) + 5000) / 10000)
		}
	}
	return out
}

// Scaled is a picture with most pixels at most: each is the light between the middles of four. x/image/draw knows no
// fast way to grey pixels: it asks an interface for each.
func Scaled(img *image.Gray, most int) *image.Gray {
	b := img.Rect
	if len(img.Pix) <= most {
		return img
	}
	k := math.Sqrt(float64(len(img.Pix)) / float64(most))
	out := image.NewGray(image.Rect(0, 0, max(1, int(float64(b.Dx())/k)), max(1, int(float64(b.Dy())/k))))
	columns, shares := make([]int, out.Rect.Dx()), make([]int, out.Rect.Dx())
	at := func(i int, size int) (int, int) {
		f := min(max((float64(i)+0.5)*k-0.5, 0), float64(size)-1.001)
		return int(f), int(256 * (f - math.Floor(f)))
	}
	for x := range columns {
		columns[x], shares[x] = at(x, b.Dx())
	}
	for y := range out.Rect.Dy() {
		j, t := at(y, b.Dy())
		top, bottom := img.Pix[j*img.Stride:][:b.Dx()], img.Pix[min(j+1, b.Dy()-1)*img.Stride:][:b.Dx()]
		row := out.Pix[y*out.Stride:]
		for x, i := range columns {
			s, next := shares[x], min(i+1, b.Dx()-1)
			a := int(top[i])*(256-s) + int(top[next])*s
			c := int(bottom[i])*(256-s) + int(bottom[next])*s
			row[x] = uint8((a*(256-t) + c*t + 1<<15) >> 16)
		}
	}
	return out
}
