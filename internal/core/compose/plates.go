package compose

import (
	"image"
	"math"
	"slices"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/place"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/separation"
)

// platesWide is how many dots wide plates are drawn for looking at them.
const platesWide = 900

// DrawPlates draws plates over one another as paper shows them.
func DrawPlates(s *separation.Sheet) (*image.NRGBA, error) {
	planes, w, h, err := s.Raster(platesWide)
	if err != nil {
		return nil, err
	}
	return overlaid(s, planes, w, h, nil), nil
}

// overlaid lays plates over one another, each moved by so many dots to the right and down; nil is none.
func overlaid(s *separation.Sheet, planes [][]byte, w, h int, moved [][2]int) *image.NRGBA {
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	seen := map[[4]uint8]ink.Colour{}
	for y := range h {
		for x := range w {
			var inks [4]float64
			for k, plane := range planes {
				px, py := x, y
				if moved != nil {
					px, py = x-moved[k][0], y-moved[k][1]
				}
				if px < 0 || py < 0 || px >= w || py >= h {
					continue
				}
				share := float64(plane[py*w+px]) / 255
				if k < 4 {
					inks[k] += share * 100
					continue
				}
				for j, a := range s.Plates[k].Alternate {
					inks[j] += share * a
				}
			}
			var key [4]uint8
			for j := range inks {
				inks[j] = math.Min(inks[j], 100)
				key[j] = uint8(inks[j]*2 + 0.5)
			}
			c, ok := seen[key]
			if !ok {
				c = s.Condition.Shown(inks)
				seen[key] = c
			}
			copy(out.Pix[4*(y*w+x):], []byte{c.R, c.G, c.B, 255})
		}
	}
	return out
}

// misplaced is by how much a plate lies off the others in the picture of it, mm: a tenth is what good sheet-fed offset keeps.
const misplaced = 0.1

// Misplaced draws an eye of a code with its second heaviest plate off by a tenth of a millimetre; nil where only one plate
// has ink, or the code has no size.
func (m *Rendition) Misplaced(i int, s *separation.Sheet) (*image.NRGBA, string, error) {
	p := m.Place(i)
	if p == nil {
		return nil, "", nil
	}
	framed := m.Framed(p)
	const side = 9 // modules
	module := float64(p.Width) / float64(m.For(p).Modules())
	from := float64(m.Job.Symbol.QuietZone)*module - module
	cut := *s
	cut.Width, cut.Height = side*module, side*module
	cut.Items = nil
	for _, it := range s.Items {
		it.At.X -= framed.Left + from
		it.At.Y -= framed.Top + from
		cut.Items = append(cut.Items, it)
	}
	const dots = 360
	planes, w, h, err := cut.Raster(dots)
	if err != nil {
		return nil, "", err
	}
	heavy, second, sums := -1, -1, make([]int, len(planes))
	for k, plane := range planes {
		for _, v := range plane {
			sums[k] += int(v)
		}
		switch {
		case sums[k] == 0:
		case heavy < 0 || sums[k] > sums[heavy]:
			heavy, second = k, heavy
		case second < 0 || sums[k] > sums[second]:
			second = k
		}
	}
	if second < 0 {
		return nil, "", nil
	}
	moved := make([][2]int, len(planes))
	d := max(1, int(misplaced*dots/(side*module)+0.5))
	moved[second] = [2]int{d, d}
	return overlaid(&cut, planes, w, h, moved), s.Plates[second].Name, nil
}

// OnPaper is a scene in the colours that inks will have on the paper of a placement, where the job is made for a press; else
// the scene itself. Pictures stay as they are: what they become is seen among the plates.
func (m *Rendition) OnPaper(s *scene.Scene, p *place.Placement) *scene.Scene {
	if !m.Pressed() {
		return s
	}
	c := m.Condition(p)
	shown := func(col ink.Colour) ink.Colour {
		if col.Spot != "" { // what it looks like is the house's to say
			return col
		}
		v := c.Shown(c.Separate(col).CMYK)
		return ink.Colour{R: v.R, G: v.G, B: v.B}
	}
	out := &scene.Scene{Width: s.Width, Height: s.Height, Items: slices.Clone(s.Items)}
	for i, it := range out.Items {
		if it.Picture != nil {
			continue
		}
		out.Items[i].Fill = shown(it.Fill)
		if it.Shade != nil {
			shade := *it.Shade
			shade.Stops = slices.Clone(shade.Stops)
			for k, st := range shade.Stops {
				shade.Stops[k].Colour = shown(st.Colour)
			}
			out.Items[i].Shade = &shade
		}
	}
	return out
}

// PaperWhite is the colour of the unprinted sheet: that of the paper where the job is made for a press, else white.
func (m *Rendition) PaperWhite(p *place.Placement) ink.Colour {
	if !m.Pressed() {
		return ink.White
	}
	return m.Condition(p).Shown([4]float64{})
}
