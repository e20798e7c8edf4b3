package artwork

import (
	"image"
	"math"
	"slices"
	"sync"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// Rect is a rectangle of a sheet, in millimetres.
type Rect struct{ X, Y, W, H float64 }

// free are the empty rectangles of a sheet, found once.
type free struct {
	once sync.Once
	list []Rect

	busy       []bool // cells in which something is drawn, row by row
	wide, high int
	cell       float64 // mm a side

	onceInks sync.Once
	inks     []ink.Colour

	mu      sync.Mutex
	grounds map[Rect]ground // what rectangles show
}

// ground is what a rectangle shows.
type ground struct {
	colour ink.Colour
	varies float64
}

// Pixels is how many a sheet is wide that is one picture, 0 for any other.
func (s *Sheet) Pixels() int {
	if s.PDF == nil && len(s.Items) == 1 && s.Items[0].Picture != nil {
		return s.Items[0].Picture.Pixels.Rect.Dx()
	}
	return 0
}

// Drawn is the share of a rectangle of a sheet in which something is drawn: what is not of one colour.
func (s *Sheet) Drawn(r Rect) float64 {
	s.Free()
	f := &s.free
	if f.cell == 0 {
		return 0
	}
	n, drawn := 0, 0
	for y := max(0, int(r.Y/f.cell)); y < min(f.high, int(math.Ceil((r.Y+r.H)/f.cell))); y++ {
		for x := max(0, int(r.X/f.cell)); x < min(f.wide, int(math.Ceil((r.X+r.W)/f.cell))); x++ {
			if n++; f.busy[y*f.wide+x] {
				drawn++
			}
		}
	}
	return float64(drawn) / float64(max(1, n))
}

const (
	freeCells = 160  // along the longer side
	freeLeast = 0.1  // of the shorter side, that a rectangle is long at least
	freeMost  = 5    // rectangles
	even      = 10.0 // steps of 255 by which pixels of an empty cell differ at most
)

// Free are the largest rectangles of a sheet in which nothing is drawn, largest first: one colour from edge to edge. Each
// begins a little inside what is drawn around it.
func (s *Sheet) Free() []Rect {
	s.free.once.Do(func() { s.free.list = s.findFree() })
	return s.free.list
}

func (s *Sheet) findFree() (out []Rect) {
	const per = 4 // pixels a cell
	cell := max(s.Width, s.Height) / freeCells
	w, h := max(1, int(s.Width/cell)), max(1, int(s.Height/cell))
	img, err := s.draw(raster.View{Width: w * per, Height: h * per, Scale: per / cell})
	if err != nil {
		return nil
	}
	busy := make([]bool, w*h)
	for y := range h {
		for x := range w {
			busy[y*w+x] = uneven(img, image.Rect(x*per-1, y*per-1, x*per+per+1, y*per+per+1))
		}
	}
	s.free.busy, s.free.wide, s.free.high, s.free.cell = slices.Clone(busy), w, h, cell
	least := freeLeast * min(s.Width, s.Height) / cell
	for len(out) < freeMost {
		r := largest(busy, w, h)
		if float64(min(r.Dx(), r.Dy())) < least {
			break
		}
		out = append(out, Rect{float64(r.Min.X) * cell, float64(r.Min.Y) * cell, float64(r.Dx()) * cell, float64(r.Dy()) * cell})
		for y := r.Min.Y; y < r.Max.Y; y++ {
			for x := r.Min.X; x < r.Max.X; x++ {
				busy[y*w+x] = true
			}
		}
	}
	return out
}

// uneven says whether pixels differ by more than what pictures are taken with.
func uneven(img *image.NRGBA, r image.Rectangle) bool {
	r = r.Intersect(img.Rect)
	low, high := [3]uint8{255, 255, 255}, [3]uint8{}
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			for k, v := range img.Pix[img.PixOffset(x, y):][:3] {
				low[k], high[k] = min(low[k], v), max(high[k], v)
			}
		}
	}
	for k := range 3 {
		if float64(high[k])-float64(low[k]) > even {
			return true
		}
	}
	return false
}

// largest is the largest rectangle without a busy cell: for every row the heights of what is free above, and the widest run
// for each height.
func largest(busy []bool, w, h int) (best image.Rectangle) {
	heights := make([]int, w+1)
	for y := range h {
		for x := range w {
			if heights[x]++; busy[y*w+x] {
				heights[x] = 0
			}
		}
		var open []int // columns whose rectangle is not closed yet
		for x := 0; x <= w; x++ {
			for len(open) > 0 && heights[open[len(open)-1]] >= heights[x] {
				tall, left := heights[open[len(open)-1]], 0
				if open = open[:len(open)-1]; len(open) > 0 {
					left = open[len(open)-1] + 1
				}
				if tall*(x-left) > best.Dx()*best.Dy() {
					best = image.Rect(left, y-tall+1, x, y+1)
				}
			}
			open = append(open, x)
		}
	}
	return best
}

// draw draws a part of a sheet on white.
func (s *Sheet) draw(v raster.View) (*image.NRGBA, error) {
	ground := scene.Item{Path: scene.Rectangle(0, 0, s.Width, s.Height), At: scene.Unit, Fill: ink.White}
	return raster.Draw(&scene.Scene{Width: s.Width, Height: s.Height, Items: append([]scene.Item{ground}, s.Items...)}, v)
}

// Ground is what a rectangle of a sheet shows: its mean colour, and by how much of full brightness it varies from its darkest
// to its palest tenth.
func (s *Sheet) Ground(r Rect) (c ink.Colour, varies float64) {
	s.free.mu.Lock()
	kept, ok := s.free.grounds[r]
	s.free.mu.Unlock()
	if ok {
		return kept.colour, kept.varies
	}
	c, varies = s.findGround(r)
	s.free.mu.Lock()
	defer s.free.mu.Unlock()
	if s.free.grounds == nil || len(s.free.grounds) >= maxGrounds {
		s.free.grounds = map[Rect]ground{}
	}
	s.free.grounds[r] = ground{c, varies}
	return c, varies
}

// maxGrounds is of how many rectangles it is kept what they show.
const maxGrounds = 64

func (s *Sheet) findGround(r Rect) (c ink.Colour, varies float64) {
	const side = 64
	k := side / max(r.W, r.H)
	w, h := max(1, int(r.W*k)), max(1, int(r.H*k))
	img, err := s.draw(raster.View{Width: w, Height: h, Scale: k, X: -r.X * k, Y: -r.Y * k})
	if err != nil {
		return ink.White, 0
	}
	var sum [3]float64
	var bright []float64
	for i := 0; i < len(img.Pix); i += 4 {
		p := img.Pix[i : i+4 : i+4]
		if p[3] == 0 { // beyond its edge
			continue
		}
		one := ink.Colour{R: p[0], G: p[1], B: p[2]}
		bright = append(bright, one.Luminance())
		for j := range sum {
			sum[j] += float64(p[j])
		}
	}
	if len(bright) == 0 {
		return ink.White, 0
	}
	mean := func(j int) uint8 { return uint8(math.Round(sum[j] / float64(len(bright)))) }
	slices.Sort(bright)
	return ink.Colour{R: mean(0), G: mean(1), B: mean(2)}, bright[len(bright)*9/10] - bright[len(bright)/10]
}

// maxInks is how many colours of a sheet are told.
const maxInks = 5

// Inks are the colours that a sheet is mostly made of besides white, those of the largest parts first.
func (s *Sheet) Inks() []ink.Colour {
	s.free.onceInks.Do(func() { s.free.inks = s.findInks() })
	return s.free.inks
}

func (s *Sheet) findInks() (out []ink.Colour) {
	k := 96 / max(s.Width, s.Height)
	img, err := s.draw(raster.View{Width: max(1, int(s.Width*k)), Height: max(1, int(s.Height*k)), Scale: k})
	if err != nil {
		return nil
	}
	type heap struct{ n, r, g, b int }
	heaps := map[[3]uint8]*heap{}
	for i := 0; i < len(img.Pix); i += 4 {
		p := img.Pix[i : i+4 : i+4]
		key := [3]uint8{p[0] >> 5, p[1] >> 5, p[2] >> 5}
		if heaps[key] == nil {
			heaps[key] = &heap{}
		}
		h := heaps[key]
		h.n, h.r, h.g, h.b = h.n+1, h.r+int(p[0]), h.g+int(p[1]), h.b+int(p[2])
	}
	list := make([]*heap, 0, len(heaps))
	for _, h := range heaps {
		list = append(list, h)
	}
	slices.SortFunc(list, func(a, b *heap) int {
		if a.n != b.n {
			return b.n - a.n
		}
		return a.r + a.g*3 + a.b*7 - b.r - b.g*3 - b.b*7
	})
	for _, h := range list {
		c := ink.Colour{R: uint8(h.r / h.n), G: uint8(h.g / h.n), B: uint8(h.b / h.n)}
		if h.n < len(img.Pix)/4/400 || len(out) == maxInks {
			break
		}
		near := func(d ink.Colour) bool { return ink.Distance(c, d) < 12 }
		if !near(ink.White) && !slices.ContainsFunc(out, near) {
			out = append(out, c)
		}
	}
	return out
}

// Cut is a picture of a part of a sheet, pixels along its longer side; nil where it cannot be drawn.
func (s *Sheet) Cut(r Rect, pixels int) *scene.Picture {
	k := float64(pixels) / max(r.W, r.H)
	img, err := s.draw(raster.View{Width: max(1, int(math.Round(r.W*k))), Height: max(1, int(math.Round(r.H*k))), Scale: k,
		X: -r.X * k, Y: -r.Y * k})
	if err != nil {
		return nil
	}
	return scene.NewPicture(img)
}
