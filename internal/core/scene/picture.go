package scene

import (
	"bytes"
	"image"
	"image/png"
	"sync"
)

// Picture is pixels in a scene: they fill the rectangle from X, Y, Width wide and Height high in the units of their item. Its
// methods are safe for concurrent use; Pixels must not be changed.
type Picture struct {
	Pixels              *image.NRGBA
	X, Y, Width, Height float64

	shared *encoded
}

// encoded is what is made of the pixels once, however often the picture is drawn.
type encoded struct {
	oncePNG sync.Once
	png     []byte

	onceLevels sync.Once
	levels     []*image.NRGBA

	mu      sync.Mutex
	reduced map[*image.NRGBA]*Picture // by level
}

// NewPicture is a picture one unit a pixel, from the origin.
func NewPicture(pixels *image.NRGBA) *Picture {
	b := pixels.Bounds()
	return &Picture{Pixels: pixels, Width: float64(b.Dx()), Height: float64(b.Dy()), shared: &encoded{}}
}

// PNG is the pixels as a PNG file.
func (p *Picture) PNG() []byte {
	p.shared.oncePNG.Do(func() {
		var b bytes.Buffer
		if err := png.Encode(&b, p.Pixels); err == nil { // a bytes.Buffer takes everything
			p.shared.png = b.Bytes()
		}
	})
	return p.shared.png
}

// Opaque says that no pixel lets through what lies beneath.
func (p *Picture) Opaque() bool { return p.Pixels.Opaque() }

// Level is the pixels at half, a quarter and so on of their number each way: the smallest that still has a pixel for each of
// those wanted. ratio is how many of the picture's own pixels fall on one that is wanted.
func (p *Picture) Level(ratio float64) *image.NRGBA {
	p.shared.onceLevels.Do(func() {
		img := p.Pixels
		for p.shared.levels = append(p.shared.levels, img); min(img.Rect.Dx(),
			img.Rect.Dy()) > 8; p.shared.levels = append(p.shared.levels, img) {
			img = halve(img)
		}
	})
	at := 0
	for ; ratio >= 2 && at < len(p.shared.levels)-1; ratio /= 2 {
		at++
	}
	return p.shared.levels[at]
}

// halve averages four pixels into one, weighed by how opaque they are.
func halve(src *image.NRGBA) *image.NRGBA {
	w, h := (src.Rect.Dx()+1)/2, (src.Rect.Dy()+1)/2
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			var sum [3]uint32
			var alpha, n uint32
			for dy := range 2 {
				for dx := range 2 {
					sx, sy := 2*x+dx, 2*y+dy
					if sx >= src.Rect.Dx() || sy >= src.Rect.Dy() {
						continue
					}
					p := src.Pix[sy*src.Stride+4*sx:][:4:4]
					a := uint32(p[3])
					for k := range 3 {
						sum[k] += uint32(p[k]) * a
					}
					alpha, n = alpha+a, n+1
				}
			}
			to := out.Pix[y*out.Stride+4*x:][:4:4]
			if alpha > 0 {
				for k := range 3 {
					to[k] = uint8((sum[k] + alpha/2) / alpha)
				}
			}
			to[3] = uint8((alpha + n/2) / n)
		}
	}
	return out
}

// small is a picture of fewer pixels, for screens.
func (p *Picture) small(most int) *Picture {
	side := max(p.Pixels.Rect.Dx(), p.Pixels.Rect.Dy())
	if side <= most {
		return p
	}
	level := p.Level(float64(side) / float64(most) * 1.001)
	p.shared.mu.Lock()
	defer p.shared.mu.Unlock()
	if p.shared.reduced == nil {
		p.shared.reduced = map[*image.NRGBA]*Picture{}
	}
	one := p.shared.reduced[level]
	if one == nil {
		one = NewPicture(level)
		p.shared.reduced[level] = one
	}
	out := *one
	out.X, out.Y, out.Width, out.Height = p.X, p.Y, p.Width, p.Height
	return &out
}

// Reduced is the scene with pictures of about so many pixels a side at most, so that a page does not carry what only print needs.
func (s *Scene) Reduced(most int) *Scene {
	out := &Scene{Width: s.Width, Height: s.Height, Items: append([]Item(nil), s.Items...)}
	for i, it := range out.Items {
		if it.Picture != nil {
			out.Items[i].Picture = it.Picture.small(most)
		}
	}
	return out
}
