package artwork

import (
	"image"
	"image/color"
	"math"
)

// intake takes a picture in row by row, in eight bits a channel, and makes it smaller on the way where that is asked for, so
// that a large picture is never in memory twice. Each pixel of the smaller one is the mean of those it stands for, weighed by
// how solid they are.
type intake struct {
	w, h int // of what comes in
	y    int // rows taken
	out  *image.NRGBA
	same *image.NRGBA // what came in as it is to be kept

	by   int          // so many pixels a side are summed up first, which is quick
	sums []uint32     // of a row of such: red, green, blue by alpha, and alpha
	in   int          // rows in them
	mean []float64    // a row of means
	rest [][5]float64 // of a row that comes out: red, green, blue by alpha; alpha; share of the pixel that is known
}

// shrink asks for w × h pixels, no more than come in.
func (t *intake) shrink(w, h int) {
	t.out = image.NewNRGBA(image.Rect(0, 0, w, h))
	t.by = max(1, min(t.w/w, t.h/h))
	if t.by > 16 { // so that a sum of squares of pixels stays below 2³²
		t.by = 16
	}
	n := (t.w + t.by - 1) / t.by
	t.sums, t.mean, t.rest = make([]uint32, 4*n), make([]float64, 4*n), make([][5]float64, w)
}

// take takes a whole picture.
func (t *intake) take(img image.Image) {
	b := img.Bounds()
	if p, is := img.(*image.NRGBA); is && t.out == nil && b.Min == (image.Point{}) {
		t.same = p
		return
	}
	row := make([]uint8, 4*t.w)
	for y := range t.h {
		rowOf(row, img, b.Min.Y+y)
		t.push(row)
	}
}

// picture is what was taken.
func (t *intake) picture() *image.NRGBA {
	if t.same != nil {
		return t.same
	}
	return t.out
}

// push takes the next row: red, green, blue and alpha of each pixel.
func (t *intake) push(row []uint8) {
	defer func() { t.y++ }()
	if t.by == 0 {
		if t.out == nil {
			t.out = image.NewNRGBA(image.Rect(0, 0, t.w, t.h))
		}
		copy(t.out.Pix[t.y*t.out.Stride:], row)
		return
	}
	for x, at := 0, 0; x < t.w; at += 4 {
		s := t.sums[at : at+4 : at+4]
		for end := min(x+t.by, t.w); x < end; x++ {
			p := row[4*x : 4*x+4 : 4*x+4]
			a := uint32(p[3])
			s[0], s[1], s[2], s[3] = s[0]+uint32(p[0])*a, s[1]+uint32(p[1])*a, s[2]+uint32(p[2])*a, s[3]+a
		}
	}
	if t.in++; t.in == t.by || t.y == t.h-1 {
		t.sumUp()
	}
}

// sumUp gives the rows that were summed up to the rows that come out.
func (t *intake) sumUp() {
	w, h := t.out.Rect.Dx(), t.out.Rect.Dy()
	kx, ky := float64(w)/float64(t.w), float64(h)/float64(t.h)
	last := t.y + 1
	for i, v := range t.sums {
		t.mean[i] = float64(v)
	}
	rows := float64(t.in)
	for top, bottom := float64(last-t.in)*ky, float64(last)*ky; top < bottom-1e-9; { // they may lie in two that come out
		edge := math.Floor(top+1e-9) + 1
		to := min(bottom, edge)
		share := (to - top) / (ky * rows) // of what was summed up
		for i := 0; i < len(t.mean); i += 4 {
			first := i / 4 * t.by
			left, right := float64(first)*kx, float64(min(first+t.by, t.w))*kx
			x, part := min(int(left+1e-9), w-1), 1.0
			count := float64(min(t.by, t.w-first)) * rows * share
			if right > float64(x+1)+1e-9 && x+1 < w {
				part = (float64(x+1) - left) / (right - left)
				add(&t.rest[x+1], t.mean[i:i+4:i+4], share*(1-part), count*(1-part))
			}
			add(&t.rest[x], t.mean[i:i+4:i+4], share*part, count*part)
		}
		if to >= edge-1e-9 || last == t.h && to >= bottom-1e-9 {
			t.flush(min(h-1, int(top+1e-9)))
		}
		top = to
	}
	clear(t.sums)
	t.in = 0
}

func add(s *[5]float64, sum []float64, share, count float64) {
	s[0], s[1], s[2], s[3], s[4] = s[0]+sum[0]*share, s[1]+sum[1]*share, s[2]+sum[2]*share, s[3]+sum[3]*share, s[4]+count
}

// flush writes a row that is complete.
func (t *intake) flush(y int) {
	for x := range t.rest {
		if s := &t.rest[x]; s[3] > 0 {
			p := t.out.Pix[y*t.out.Stride+4*x:][:4:4]
			p[0], p[1], p[2], p[3] = uint8(s[0]/s[3]+0.5), uint8(s[1]/s[3]+0.5), uint8(s[2]/s[3]+0.5), uint8(s[3]/s[4]+0.5)
		}
	}
	clear(t.rest)
}

// rowOf reads a row of a picture in eight bits a channel. Of the kinds that decoders give, it knows the memory; package draw
// goes pixel by pixel through interfaces there, which takes ten times as long.
func rowOf(to []uint8, img image.Image, y int) {
	b := img.Bounds()
	switch p := img.(type) {
	case *image.NRGBA:
		copy(to, p.Pix[p.PixOffset(b.Min.X, y):][:len(to)])
	case *image.Gray:
		for x, v := range p.Pix[p.PixOffset(b.Min.X, y):][:b.Dx()] {
			*(*[4]uint8)(to[4*x:]) = [4]uint8{v, v, v, 255}
		}
	case *image.YCbCr:
		shift := 0 // how many pixels share a colour, as a power of two
		switch p.SubsampleRatio {
		case image.YCbCrSubsampleRatio420, image.YCbCrSubsampleRatio422:
			shift = 1
		case image.YCbCrSubsampleRatio410, image.YCbCrSubsampleRatio411:
			shift = 2
		}
		k := p.COffset(b.Min.X, y)
		cb, cr, odd := p.Cb[k:], p.Cr[k:], b.Min.X&(1<<shift-1)
		for x, v := range p.Y[p.YOffset(b.Min.X, y):][:b.Dx()] {
			i := (x + odd) >> shift
			r, g, bl := color.YCbCrToRGB(v, cb[i], cr[i])
			*(*[4]uint8)(to[4*x:]) = [4]uint8{r, g, bl, 255}
		}
	case *image.Paletted:
		var colours [256]color.NRGBA
		for i, c := range p.Palette[:min(len(p.Palette), 256)] {
			colours[i] = color.NRGBAModel.Convert(c).(color.NRGBA)
		}
		for x, v := range p.Pix[p.PixOffset(b.Min.X, y):][:b.Dx()] {
			c := colours[v]
			*(*[4]uint8)(to[4*x:]) = [4]uint8{c.R, c.G, c.B, c.A}
		}
	default:
		for x := range b.Dx() {
			c := color.NRGBAModel.Convert(img.At(b.Min.X+x, y)).(color.NRGBA)
			*(*[4]uint8)(to[4*x:]) = [4]uint8{c.R, c.G, c.B, c.A}
		}
	}
}
