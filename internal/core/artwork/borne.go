package artwork

import (
	"image"
	"math"

	"sodrik/internal/core/raster"
)

// Borne is a symbol that a sheet bears already: what it says, and its corners without the quiet zone, in millimetres, from the
// top left one clockwise.
type Borne struct {
	Payload string
	Corners [4][2]float64
}

// Middle is where a symbol lies.
func (b Borne) Middle() (x, y float64) {
	for _, c := range b.Corners {
		x, y = x+c[0]/4, y+c[1]/4
	}
	return x, y
}

// Side is how wide a symbol is, in millimetres: the mean of its sides.
func (b Borne) Side() (side float64) {
	for i, c := range b.Corners {
		d := b.Corners[(i+1)%4]
		side += math.Hypot(d[0]-c[0], d[1]-c[1]) / 4
	}
	return side
}

// Strays is how far a corner lies at most from that of an upright square of the same middle and side, as a share of the side;
// which of its corners is the top left one does not matter.
func (b Borne) Strays() (share float64) {
	x, y := b.Middle()
	side := b.Side()
	for _, c := range b.Corners {
		share = max(share, math.Abs(math.Abs(c[0]-x)-side/2)/side, math.Abs(math.Abs(c[1]-y)-side/2)/side)
	}
	return share
}

// A sheet is looked at in as many pixels as tell modules apart of what is printed small on it.
const (
	borneWide  = 3000 // pixels along the longer side at most
	bornePerMM = 12.0 // pixels
)

// Borne are the symbols that a sheet bears, which find looks for in its picture, corners in pixels. It is looked at once.
func (s *Sheet) Borne(find func(*image.Gray) []Borne) []Borne {
	s.onceBorne.Do(func() {
		scale := min(bornePerMM, borneWide/max(s.Width, s.Height))
		img, err := s.draw(raster.View{Width: max(1, int(s.Width*scale)), Height: max(1, int(s.Height*scale)), Scale: scale})
		if err != nil {
			return
		}
		grey := image.NewGray(img.Rect)
		for i := range grey.Pix {
			r, g, b := int(img.Pix[4*i]), int(img.Pix[4*i+1]), int(img.Pix[4*i+2])
			grey.Pix[i] = uint8((299*r + 587*g + 114*b + 500) / 1000) // luma of ITU-R BT.601
		}
		s.borne = find(grey)
		for i := range s.borne {
			for k := range s.borne[i].Corners {
				s.borne[i].Corners[k][0] /= scale
				s.borne[i].Corners[k][1] /= scale
			}
		}
	})
	return s.borne
}
