package artwork

import (
	"image"
	"sync"

	"sodrik/internal/core/ink"
)

// How far a pixel may lie off the ground, in the channel that differs most: up to near it is ground; where something differs
// by far, what lies between the two is an edge.
const (
	near = 14
	far  = 70
)

// cut is the art without its ground, made once.
type cut struct {
	once sync.Once
	art  *Art
}

// Ground is the one colour on which a picture stands: nearly all of its border is solid and of that colour. ok is false where
// there is none, and for drawings.
func (a *Art) Ground() (c ink.Colour, ok bool) {
	if !a.Pixels() {
		return c, false
	}
	p := a.Items[0].Picture.Pixels
	var count [4096]int // by the upper four bits of each channel
	var sum [4096][3]int
	total := 0
	each := func(x, y int) {
		q := p.Pix[y*p.Stride+4*x:][:4:4]
		total++
		if q[3] == 255 {
			k := int(q[0]>>4)<<8 | int(q[1]>>4)<<4 | int(q[2]>>4)
			count[k]++
			for i := range 3 {
				sum[k][i] += int(q[i])
			}
		}
	}
	border(p, each)
	best := 0
	for k, n := range count {
		if n > count[best] {
			best = k
		}
	}
	if count[best] == 0 {
		return c, false
	}
	n := count[best]
	c = ink.Colour{R: uint8(sum[best][0] / n), G: uint8(sum[best][1] / n), B: uint8(sum[best][2] / n)}
	like := 0
	border(p, func(x, y int) {
		if q := p.Pix[y*p.Stride+4*x:][:4:4]; q[3] == 255 && off(q, c) <= near {
			like++
		}
	})
	return c, like*20 >= total*19
}

// border visits the pixels of the outermost rows and columns.
func border(p *image.NRGBA, each func(x, y int)) {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	for x := range w {
		each(x, 0)
		each(x, h-1)
	}
	for y := range h {
		each(0, y)
		each(w-1, y)
	}
}

// off is by how much a pixel differs from a colour, in the channel that differs most.
func off(q []uint8, c ink.Colour) int {
	d := func(a, b uint8) int { return max(int(a)-int(b), int(b)-int(a)) }
	return max(d(q[0], c.R), d(q[1], c.G), d(q[2], c.B))
}

// CutOut is the art without the ground it stands on: what of that colour can be reached from the border becomes transparent, and
// edges are freed of it. Holes inside stay. Art without a ground comes back as it is.
func (a *Art) CutOut() *Art {
	ground, ok := a.Ground()
	if !ok {
		return a
	}
	a.cut.once.Do(func() {
		a.cut.art = a
		p := a.Items[0].Picture.Pixels
		w, h := p.Rect.Dx(), p.Rect.Dy()
		out := image.NewNRGBA(p.Rect)
		copy(out.Pix, p.Pix)
		gone := make([]bool, w*h)
		var todo []int
		reach := func(x, y int) {
			if x < 0 || y < 0 || x >= w || y >= h || gone[y*w+x] || off(p.Pix[y*p.Stride+4*x:][:4:4], ground) > near {
				return
			}
			gone[y*w+x] = true
			out.Pix[y*out.Stride+4*x+3] = 0
			todo = append(todo, y*w+x)
		}
		border(p, reach)
		for len(todo) > 0 {
			at := todo[len(todo)-1]
			todo = todo[:len(todo)-1]
			x, y := at%w, at/w
			reach(x-1, y)
			reach(x+1, y)
			reach(x, y-1)
			reach(x, y+1)
		}
		for y := range h {
			for x := range w {
				if !gone[y*w+x] {
					soften(out, p, gone, ground, x, y)
				}
			}
		}
		if art, err := pictureArt(out, nil); err == nil {
			a.cut.art = art
		}
	})
	return a.cut.art
}

// edge is how far from the ground pixels may hold a part of it.
const edge = 2

// soften makes a pixel close to where the ground was as transparent as it holds of the ground, in the colour of the pixel
// nearby that differs most from it.
func soften(out, p *image.NRGBA, gone []bool, ground ink.Colour, x, y int) {
	w, h := p.Rect.Dx(), p.Rect.Dy()
	beside := false
	most, from := 0, 0
	for dy := -edge; dy <= edge; dy++ {
		for dx := -edge; dx <= edge; dx++ {
			nx, ny := x+dx, y+dy
			if nx < 0 || ny < 0 || nx >= w || ny >= h {
				continue
			}
			if gone[ny*w+nx] {
				beside = true
				continue
			}
			if d := off(p.Pix[ny*p.Stride+4*nx:][:4:4], ground); d > most {
				most, from = d, ny*p.Stride+4*nx
			}
		}
	}
	q := p.Pix[y*p.Stride+4*x:][:4:4]
	d := off(q, ground)
	if !beside || most < far || d*20 >= most*19 {
		return
	}
	to := out.Pix[y*out.Stride+4*x:][:4:4]
	copy(to[:3], p.Pix[from:from+3])
	to[3] = uint8(d * int(q[3]) / most)
}
