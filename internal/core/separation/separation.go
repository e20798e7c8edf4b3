// Package separation takes a scene apart into its plates: how much of each ink lies where. A colour of screens becomes shares
// of cyan, magenta, yellow and black under a printing condition; one that has inks of its own keeps them; a spot ink is a
// plate of its own. There is no transparency in what comes out: what lets through was mixed with the paper.
package separation

import (
	"fmt"
	"math"
	"slices"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// Plate is one ink.
type Plate struct {
	Name      string
	Spot      bool
	Alternate [4]float64 // of a spot ink: what stands in for it, percent of cyan, magenta, yellow, black
}

// Process are the four plates that are always there, in their order.
var Process = []string{"Cyan", "Magenta", "Yellow", "Black"}

// Sheet is a scene as plates.
type Sheet struct {
	Width, Height float64 // mm
	Plates        []Plate // the four of process, then spots by name
	Items         []Item  // painted in order; each knocks out what lies beneath
	Condition     *press.Condition
	Off           float64    // the worst CIEDE2000 of a colour that the inks cannot give; 0 where all can
	OffOf         ink.Colour // that colour
}

// Item is one outline, gradient or picture in inks.
type Item struct {
	Name    string
	Path    scene.Path
	At      scene.Transform
	Letters []scene.Letter // of which Path is made, where that is known
	Clip    *scene.Path
	Shares  []float64 // percent by plate
	Shade   *scene.Shade
	Stops   []Stop // of a shade: between them shares change evenly
	Image   *Image
}

// Stop is shares at a place of a shade, 0 to 1.
type Stop struct {
	At     float64
	Shares []float64
}

// Image is a picture in the four process inks, a byte a pixel and ink, 255 being full. It fills the rectangle of its picture.
type Image struct {
	W, H   int
	CMYK   []byte
	Frame  *scene.Picture
	masked *image1 // pixels that are not there at all
}

type image1 struct{ solid []bool }

// Solid says whether a pixel of an image is there.
func (m *Image) Solid(i int) bool { return m.masked == nil || m.masked.solid[i] }

// ErrAlpha is a scene whose pictures let through what lies beneath where there is no paper to mix them with.
var ErrAlpha = fmt.Errorf(
	"has a picture that lets through what lies beneath it, and no paper; give the code a paper, or take a picture without " +
		"transparency")

// Separate takes a scene apart. paper is what lies under it, nil where that is not known.
func Separate(s *scene.Scene, c *press.Condition, paper *ink.Colour) (*Sheet, error) {
	out := &Sheet{Width: s.Width, Height: s.Height, Condition: c}
	for _, name := range Process {
		out.Plates = append(out.Plates, Plate{Name: name})
	}
	for _, it := range s.Items {
		one := Item{Name: it.Name, Path: it.Path, Letters: it.Letters, At: it.At, Clip: it.Clip}
		switch {
		case it.Picture != nil:
			image, err := separate(it, c, paper)
			if err != nil {
				return nil, err
			}
			one.Image = image
		case it.Shade != nil:
			if it.Fade > 0 {
				return nil, ErrAlpha
			}
			one.Shade = it.Shade
			one.Stops = out.stops(it.Shade.Stops)
		default:
			fill := it.Fill
			if it.Fade > 0 {
				if paper == nil {
					return nil, ErrAlpha
				}
				fill = mix(fill, *paper, it.Fade)
			}
			one.Shares = out.shares(fill)
		}
		out.Items = append(out.Items, one)
	}
	for i := range out.Items { // spots that came later
		one := &out.Items[i]
		one.Shares = padded(one.Shares, len(out.Plates))
		for k := range one.Stops {
			one.Stops[k].Shares = padded(one.Stops[k].Shares, len(out.Plates))
		}
	}
	return out, nil
}

func padded(list []float64, n int) []float64 {
	for list != nil && len(list) < n {
		list = append(list, 0)
	}
	return list
}

// mix is a colour through which some of the paper is seen, in encoded values, as screens mix them.
func mix(c, paper ink.Colour, fade float64) ink.Colour {
	one := func(a, b uint8) uint8 { return uint8(math.Round(float64(a)*(1-fade) + float64(b)*fade)) }
	return ink.Colour{R: one(c.R, paper.R), G: one(c.G, paper.G), B: one(c.B, paper.B)}
}

// shares are those of a colour, by plate.
func (s *Sheet) shares(c ink.Colour) []float64 {
	if c.Spot != "" {
		i := slices.IndexFunc(s.Plates, func(p Plate) bool { return p.Spot && p.Name == c.Spot })
		if i < 0 {
			i = len(s.Plates)
			s.Plates = append(s.Plates, Plate{c.Spot, true, [4]float64(c.Plates())})
		}
		out := make([]float64, len(s.Plates))
		out[i] = 100
		return out
	}
	inks := s.Condition.Separate(c)
	if inks.Off > s.Off {
		s.Off, s.OffOf = inks.Off, c
	}
	return append([]float64{}, inks.CMYK[:]...)
}

// finest is how far two stops lie apart at least, and off how far the inks between two stops may be from those of the colour
// there.
const (
	finest = 1.0 / 128
	off    = 1.0
)

// stops are those of a gradient of screens, with so many more between them that inks mixed evenly look like it. Spot inks at
// its ends are taken as what stands in for them.
func (s *Sheet) stops(list []ink.Stop) (out []Stop) {
	plain := func(c ink.Colour) ink.Colour { c.Spot = ""; return c }
	add := func(at float64, c ink.Colour) { out = append(out, Stop{at, s.shares(plain(c))}) }
	var between func(a, b float64, from, to [4]float64)
	between = func(a, b float64, from, to [4]float64) {
		mid := (a + b) / 2
		c := ink.Mix(list, mid)
		want := s.Condition.Separate(c)
		var even [4]float64
		for i := range even {
			even[i] = (from[i] + to[i]) / 2
		}
		if b-a <= 2*finest || press.DeltaE(s.Condition.Lab(even), s.Condition.Lab(want.CMYK)) < off {
			return
		}
		between(a, mid, from, want.CMYK)
		out = append(out, Stop{mid, append([]float64{}, want.CMYK[:]...)})
		between(mid, b, want.CMYK, to)
	}
	for i, st := range list {
		if i > 0 {
			a, b := s.Condition.Separate(plain(list[i-1].Colour)).CMYK, s.Condition.Separate(plain(st.Colour)).CMYK
			between(list[i-1].At, st.At, a, b)
		}
		add(st.At, st.Colour)
	}
	return out
}

// separate turns a picture into inks.
func separate(it scene.Item, c *press.Condition, paper *ink.Colour) (*Image, error) {
	p := it.Picture
	w, h := p.Pixels.Rect.Dx(), p.Pixels.Rect.Dy()
	out := &Image{W: w, H: h, CMYK: make([]byte, 4*w*h), Frame: p}
	var hole []bool
	last, lastInks := [3]uint8{}, c.Pixel(0, 0, 0)
	for y := range h {
		row := p.Pixels.Pix[y*p.Pixels.Stride:][:4*w]
		for x := range w {
			q := row[4*x : 4*x+4 : 4*x+4]
			a := float64(q[3]) / 255 * (1 - it.Fade)
			at := y*w + x
			if q[3] == 0 {
				if hole == nil {
					hole = make([]bool, w*h)
				}
				hole[at] = true
				continue
			}
			v := [3]uint8{q[0], q[1], q[2]}
			if a < 1 {
				if paper == nil {
					return nil, ErrAlpha
				}
				m := mix(ink.Colour{R: q[0], G: q[1], B: q[2]}, *paper, 1-a)
				v = [3]uint8{m.R, m.G, m.B}
			}
			if v != last {
				last, lastInks = v, c.Pixel(v[0], v[1], v[2])
			}
			copy(out.CMYK[4*at:], lastInks[:])
		}
	}
	if hole != nil {
		solid := make([]bool, len(hole))
		for i, gone := range hole {
			solid[i] = !gone
		}
		out.masked = &image1{solid}
	}
	return out, nil
}

// Plate is a plate as a scene of greys: black where all of the ink lies, white where none does.
func (s *Sheet) Plate(plate int) *scene.Scene {
	out := &scene.Scene{Width: s.Width, Height: s.Height}
	grey := func(share float64) ink.Colour {
		v := uint8(math.Round(255 * (1 - share/100)))
		return ink.Colour{R: v, G: v, B: v}
	}
	for _, it := range s.Items {
		one := scene.Item{Name: it.Name, Path: it.Path, At: it.At, Clip: it.Clip}
		switch {
		case it.Image != nil:
			one.Picture = it.Image.plate(plate)
		case it.Shade != nil:
			shade := *it.Shade
			shade.Stops = nil
			for _, st := range it.Stops {
				shade.Stops = append(shade.Stops, ink.Stop{At: st.At, Colour: grey(st.Shares[plate])})
			}
			one.Shade = &shade
		default:
			one.Fill = grey(it.Shares[plate])
		}
		out.Items = append(out.Items, one)
	}
	return out
}

// Raster draws every plate, dots wide: a byte a dot, 255 being full.
func (s *Sheet) Raster(dots int) (planes [][]byte, width, height int, err error) {
	for i := range s.Plates {
		plate := s.Plate(i)
		v := raster.Fit(plate, dots)
		img, err := raster.Draw(plate, v)
		if err != nil {
			return nil, 0, 0, err
		}
		width, height = v.Width, v.Height
		plane := make([]byte, width*height)
		for k := range plane {
			q := img.Pix[4*k : 4*k+4 : 4*k+4] // on paper, which has no ink
			plane[k] = uint8((uint32(255-q[0])*uint32(q[3]) + 127) / 255)
		}
		planes = append(planes, plane)
	}
	return planes, width, height, nil
}

// Figures are what plates need: the share of the sheet that each covers, and most of all inks in one place, both in percent.
type Figures struct {
	Coverage []float64
	Most     float64
}

// Figures measures the plates.
func (s *Sheet) Figures() (f Figures, err error) {
	planes, _, _, err := s.Raster(400)
	if err != nil || len(planes) == 0 {
		return f, err
	}
	for _, plane := range planes {
		sum := 0
		for _, v := range plane {
			sum += int(v)
		}
		f.Coverage = append(f.Coverage, float64(sum)/255/float64(len(plane))*100)
	}
	for k := range planes[0] {
		total := 0
		for _, plane := range planes {
			total += int(plane[k])
		}
		f.Most = max(f.Most, float64(total)/255*100)
	}
	return f, nil
}

// Used says whether any of a plate's ink lies on the sheet.
func (s *Sheet) Used(plate int) bool {
	return slices.ContainsFunc(s.Items, func(it Item) bool {
		return it.Shares != nil && it.Shares[plate] > 0 || slices.ContainsFunc(it.Stops, func(st Stop) bool {
			return st.Shares[plate] > 0
		}) || it.Image != nil && plate < 4
	})
}
