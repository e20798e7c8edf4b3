package layout

import (
	"math"
	"slices"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// Ground is a picture behind a symbol, prepared once. nil is none.
type Ground struct {
	Look look.Backdrop
	Art  *artwork.Art

	size   int
	opaque float64   // of a picture beneath, how solid it is drawn
	grey   []float64 // luminance of the picture in three by three parts a module, 0 to 1; of a halftone
}

// cuts is how many parts a side of a module has in a halftone; the one in the middle is the module's own.
const cuts = 3

// Lay lays a picture behind a symbol of size modules a side: it covers the symbol, cropped where its proportions differ, and
// leaves the quiet zone free.
func Lay(size int, b look.Backdrop, art *artwork.Art) (*Ground, error) {
	g := &Ground{Look: b, Art: art, size: size}
	n := size * cuts
	s := &scene.Scene{Width: float64(n), Height: float64(n)}
	for _, it := range art.Items {
		k, dx, dy := g.cover(float64(n))
		it.At = scene.At(k, dx, dy)
		it.Current = false
		s.Items = append(s.Items, it)
	}
	grey, err := raster.Luminance(s, raster.View{Width: n, Height: n, Scale: 1}, 1)
	if err != nil {
		return nil, err
	}
	if b.Mode == "halftone" {
		g.grey = grey
		return g, nil
	}
	// At full strength the dark tones of the picture, the tenth part of it that is darkest, still reflect minGround.
	slices.Sort(grey)
	dark, least := float64(ink.Encoded(grey[len(grey)/10]))/255, float64(ink.Encoded(minGround))/255
	g.opaque = 1
	if dark < least {
		g.opaque = (1 - least) / (1 - dark)
	}
	g.opaque *= b.Strength
	return g, nil
}

// minGround is how much light the dark tones of a picture beneath throw back at full strength, so that modules stand out
// against it.
const minGround = 0.3

// cover is how art comes to cover a square of a side from the origin: as large as the look says, the point that it says in
// the middle, or as near to it as the picture's edges allow.
func (g *Ground) cover(side float64) (k, dx, dy float64) {
	k = side / min(g.Art.Width, g.Art.Height) * max(1, g.Look.Scale)
	at := func(length, share float64) float64 { return min(0, max(side-length*k, side/2-length*k*share)) }
	return k, at(g.Art.Width, g.Look.X), at(g.Art.Height, g.Look.Y)
}

// Focus is the point of the picture that lies in the middle, as shares of its sides, and how much of it a module covers.
func (g *Ground) Focus() (x, y, moduleX, moduleY float64) {
	side := float64(g.size)
	k, dx, dy := g.cover(side)
	w, h := g.Art.Width*k, g.Art.Height*k
	return (side/2 - dx) / w, (side/2 - dy) / h, 1 / w, 1 / h
}

// items draws a picture that lies under the modules; at takes modules to millimetres.
func (g *Ground) items(fill ink.Colour, at scene.Transform) (out []scene.Item) {
	if g == nil || g.Look.Mode != "under" {
		return nil
	}
	k, dx, dy := g.cover(float64(g.size))
	window := scene.Rectangle(-dx/k, -dy/k, float64(g.size)/k, float64(g.size)/k)
	for _, it := range g.Art.Items {
		it.Name, it.Clip = "backdrop", &window
		it.At = scene.At(k, dx, dy).Then(at)
		if it.Current {
			it.Fill, it.Current = fill, false
		}
		it.Fade = math.Round((1-(1-it.Fade)*g.opaque)*1e4) / 1e4
		out = append(out, it)
	}
	return out
}

// halftone draws everything dark that no eye is: every module keeps its middle, and what is around it follows the picture, as
// far as its strength goes; function patterns stay whole. Tone that a part cannot take goes on to those not yet decided
// (Floyd and Steinberg's weights), so that a grey stays a grey over some modules.
func (g *Ground) halftone(s *symbol.Symbol, dark func(x, y int) bool, drawn func(x, y int) bool) scene.Path {
	n := s.Size * cuts
	want := make([]float64, n*n)
	is := make([]bool, n*n)
	for y := range n {
		for x := range n {
			own := 1.0
			if s.Dark(x/cuts, y/cuts) {
				own = 0
			}
			want[y*n+x] = own + g.Look.Strength*(g.grey[y*n+x]-own)
		}
	}
	for y := range n {
		for x := range n {
			i, mx, my := y*n+x, x/cuts, y/cuts
			if !drawn(mx, my) || s.Role(mx, my).Function() { // what it lacks is not made up for around it
				is[i] = dark(mx, my)
				continue
			}
			if is[i] = want[i] < 0.5; x%cuts == 1 && y%cuts == 1 {
				is[i] = dark(mx, my)
			}
			left := want[i]
			if !is[i] {
				left--
			}
			for _, to := range [4]struct {
				dx, dy int
				share  float64
			}{{1, 0, 7. / 16}, {-1, 1, 3. / 16}, {0, 1, 5. / 16}, {1, 1, 1. / 16}} {
				if tx, ty := x+to.dx, y+to.dy; tx >= 0 && tx < n && ty < n {
					want[ty*n+tx] += left * to.share
				}
			}
		}
	}
	return Outline(n, func(x, y int) bool { return is[y*n+x] }).Scaled(1./cuts, 0, 0)
}
