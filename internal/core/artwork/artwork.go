// Package artwork takes in drawings and pictures from outside: every upload enters here. An SVG is parsed and rebuilt from its
// geometry, so that no script, no reference to elsewhere, no style sheet and no entity lives on in what Sodrik writes; pixels are
// decoded within limits, turned upright, freed of their metadata, and encoded anew.
package artwork

import (
	"bytes"
	"fmt"
	"math"
	"sync"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
)

// Limits of what is taken in.
const (
	MaxBytes  = 10 << 20   // of a file
	MaxPixels = 26_000_000 // of a picture: any of 24 megapixels, whatever its shape
	MaxSide   = 20_000     // pixels of a side
	MaxAspect = 100        // of the longer side by the shorter
	keptSide  = 2400       // pixels of a side that are kept: 200 mm at 300 dpi
)

// Budget is the work that may go into opening files. What is spent on one is not there for the next that shares it.
type Budget struct {
	Steps  int // of drawings: nodes, rules and points looked at
	Pixels int // decoded
}

// NewBudget is that of one file.
func NewBudget() *Budget { return &Budget{Steps: maxSteps, Pixels: MaxPixels} }

// Art is a drawing or a picture, in units of its own, trimmed to what can be seen of it. It is immutable.
type Art struct {
	Width, Height float64
	Items         []scene.Item // a Current one takes the ink of whoever uses it
	Left          []string     // what of the file was left out, and what was changed, in words

	lines *lines
	cut   *cut
}

// Read takes in a file: SVG, PNG, JPEG or WebP. The error says what is wrong with it, as a sentence without its subject.
func Read(data []byte) (*Art, error) { return ReadWithin(data, NewBudget()) }

// ReadWithin is Read of one of several files that share a budget.
func ReadWithin(data []byte, budget *Budget) (*Art, error) {
	switch {
	case len(data) == 0:
		return nil, fmt.Errorf("is empty, 0 bytes; choose an SVG, PNG, JPEG or WebP file")
	case len(data) > MaxBytes:
		return nil, fmt.Errorf("is %.1f MB large; at most %d MB are taken", float64(len(data))/(1<<20), MaxBytes>>20)
	case isPixels(data):
		return readPixels(data, budget)
	case looksLikeSVG(data):
		return readSVG(data, budget)
	case typeface.Is(data):
		return nil, fmt.Errorf("is a typeface, no drawing; typefaces are taken in under House style")
	}
	return nil, fmt.Errorf("is none of SVG, PNG, JPEG and WebP")
}

// ReadFace takes in a typeface: TTF or OTF. The error says what is wrong with it, as a sentence without its subject.
func ReadFace(data []byte) (*Type, error) {
	if len(data) == 0 {
		return nil, fmt.Errorf("is empty, 0 bytes; choose a TTF or OTF file")
	}
	f, err := typeface.Parse(data)
	if err != nil {
		return nil, err
	}
	return &Type{f}, nil
}

// Kept reads back what Normal gave, whatever it is.
func Kept(data []byte) (Rebuilt, error) {
	if typeface.Is(data) {
		return ReadFace(data)
	}
	return Read(data)
}

// Normal is the typeface as a file of ours.
func (t *Type) Normal() []byte { return t.Data() }

func looksLikeSVG(data []byte) bool {
	head := bytes.TrimLeft(bytes.TrimPrefix(data[:min(len(data), 4096)], []byte("\xEF\xBB\xBF")), " \t\r\n")
	return bytes.HasPrefix(head, []byte("<")) && bytes.Contains(data, []byte("<svg"))
}

// Pixels says whether the art is a picture of pixels alone.
func (a *Art) Pixels() bool { return len(a.Items) == 1 && a.Items[0].Picture != nil }

// Normal is the art as a file of ours: what is stored in place of the file that came in. The same art gives the same bytes, and
// they read back as the same art.
func (a *Art) Normal() []byte {
	if a.Pixels() {
		return a.Items[0].Picture.PNG()
	}
	return svg.Encode(&scene.Scene{Width: a.Width, Height: a.Height, Items: a.Items}, export.Meta{})
}

// newArt trims items to what is seen of them within a frame, and moves them to the origin.
func newArt(items []scene.Item, frame box, left []string) (*Art, error) {
	seen := emptyBox
	var kept []scene.Item
	for _, it := range items {
		b := boxOf(it).and(frame)
		if b.empty() {
			continue
		}
		seen = seen.or(b)
		kept = append(kept, it)
	}
	if len(kept) == 0 || seen.x1-seen.x0 < 1e-9 || seen.y1-seen.y0 < 1e-9 {
		return nil, fmt.Errorf("shows nothing: there is no filled or stroked shape in it")
	}
	for i, it := range kept {
		kept[i] = moved(it, matrix{1, 0, 0, 1, -seen.x0, -seen.y0})
		if b := boxOf(it); it.Clip == nil && !frame.holds(b) {
			clip := scene.Rectangle(0, 0, seen.x1-seen.x0, seen.y1-seen.y0)
			kept[i].Clip = &clip
		}
	}
	return &Art{Width: seen.x1 - seen.x0, Height: seen.y1 - seen.y0, Items: kept, Left: left, lines: &lines{}, cut: &cut{}}, nil
}

// moved is an item under a transformation that pictures allow: scaled alike both ways, and moved.
func moved(it scene.Item, m matrix) scene.Item {
	it.Path = m.path(it.Path)
	if it.Clip != nil {
		c := m.path(*it.Clip)
		it.Clip = &c
	}
	if it.Shade != nil {
		it.Shade = m.shade(it.Shade)
	}
	if it.Picture != nil {
		p := *it.Picture
		p.X, p.Y = m.at(p.X, p.Y)
		p.Width, p.Height = p.Width*m[0], p.Height*m[3]
		it.Picture = &p
	}
	return it
}

// box is a rectangle from x0, y0 to x1, y1.
type box struct{ x0, y0, x1, y1 float64 }

var emptyBox = box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}

func (b box) empty() bool { return b.x0 > b.x1 || b.y0 > b.y1 }

func (b box) or(c box) box {
	return box{min(b.x0, c.x0), min(b.y0, c.y0), max(b.x1, c.x1), max(b.y1, c.y1)}
}

func (b box) and(c box) box {
	return box{max(b.x0, c.x0), max(b.y0, c.y0), min(b.x1, c.x1), min(b.y1, c.y1)}
}

func (b box) holds(c box) bool {
	const near = 1e-6
	return c.x0 >= b.x0-near && c.y0 >= b.y0-near && c.x1 <= b.x1+near && c.y1 <= b.y1+near
}

// boxOf is what an item covers at most. Curves are taken apart finely enough that the rest is below a thousandth of them.
func boxOf(it scene.Item) box {
	of := func(p scene.Path) box {
		b := emptyBox
		for _, l := range p.Polygons(24) {
			for _, q := range l {
				b = b.or(box{q.X, q.Y, q.X, q.Y})
			}
		}
		return b
	}
	b := of(it.Path)
	if p := it.Picture; p != nil {
		b = box{p.X, p.Y, p.X + p.Width, p.Y + p.Height}
	}
	if it.Clip != nil {
		b = b.and(of(*it.Clip))
	}
	return b
}

// lines are where the art is, row by row, found once.
type lines struct {
	once sync.Once
	rows []row
}
