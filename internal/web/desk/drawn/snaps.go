package drawn

import (
	"math"
	"slices"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
)

// Snaps are the places that a code is drawn to while it is moved: left and top edges of it, in mm.
type Snaps struct {
	X []float64 `json:"x"`
	Y []float64 `json:"y"`
}

// snapsOf are the edges of the thing, its middle, its margins, and the edges and middles of its empty parts.
func snapsOf(sheet *artwork.Sheet, c compose.Composed) (s Snaps) {
	add := func(list *[]float64, from, room, size float64) {
		if size <= room {
			*list = append(*list, from, from+(room-size)/2, from+room-size)
		}
	}
	w, h := c.Code.W, c.Code.H
	margin := math.Min(10, math.Min(c.Width, c.Height)*0.05)
	for _, m := range []float64{0, margin} {
		add(&s.X, m, c.Width-2*m, w)
		add(&s.Y, m, c.Height-2*m, h)
	}
	if sheet != nil {
		for _, r := range sheet.Free() {
			add(&s.X, r.X*c.Scale, r.W*c.Scale, w)
			add(&s.Y, r.Y*c.Scale, r.H*c.Scale, h)
		}
	}
	for _, list := range []*[]float64{&s.X, &s.Y} {
		for i, v := range *list {
			(*list)[i] = math.Round(v*100) / 100
		}
		slices.Sort(*list)
		*list = slices.Compact(*list)
	}
	return s
}
