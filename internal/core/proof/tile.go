package proof

import (
	"math"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// page is what lies around a round tile: pages are light or dark as people set them.
type page uint8

// Pages that tiles are shown on; the zero value is none.
const (
	pageLight page = iota + 1
	pageDark
)

func (p page) colour() ink.Colour {
	if p == pageDark {
		return ink.Colour{R: 0x16, G: 0x18, B: 0x1c}
	}
	return ink.White
}

// roundTile is the disc of which alone is shown what a code lies on; ok is false where all of it is shown. Its middle is given in
// millimetres from the code's top left corner.
func roundTile(in Input) (x, y, radius float64, ok bool) {
	s := in.Surface
	if s == nil || s.Round == 0 {
		return 0, 0, 0, false
	}
	x, y = in.Scene.Width/2, in.Scene.Height/2
	if s.Width > 0 {
		x, y = s.Width/2-s.X, s.Height/2-s.Y
	}
	return x, y, s.Round / 2, true
}

// tileAround is how much around the code shows all of its tile, as a share of the code's longer side.
func tileAround(in Input) float64 {
	x, y, r, _ := roundTile(in)
	side := max(in.Scene.Width, in.Scene.Height)
	beyond := max(r-x, r-y, x+r-in.Scene.Width, y+r-in.Scene.Height)
	return max(0.1, in.Around, beyond/side+0.05)
}

// onPage is the drawing with all but its round tile covered by the page.
func (p page) onPage(in Input) *scene.Scene {
	x, y, r, ok := roundTile(in)
	if !ok || p == 0 {
		return in.Scene
	}
	far := 2 * (r + in.Scene.Width + math.Hypot(x, y))
	cover := scene.Rectangle(x-far, y-far, 2*far, 2*far)
	hole := scene.RoundRectangle(x-r, y-r, 2*r, 2*r, r, r)
	for i, q := range hole.Points { // the other way about, so that it is left free
		hole.Points[i] = scene.Point{X: 2*x - q.X, Y: q.Y}
	}
	cover.Append(hole)
	out := *in.Scene
	out.Items = append(append([]scene.Item{}, in.Scene.Items...),
		scene.Item{Name: "page", Path: cover, At: scene.Unit, Fill: p.colour()})
	return &out
}
