package layout

import (
	"math"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// Marked is a mark in its place on a symbol, in modules from the symbol's corner, quiet zone left out.
type Marked struct {
	Look       look.Mark
	Art        *artwork.Art
	X, Y, W, H float64 // where it lies
	Damage     Damage

	size    int
	cleared []bool // modules that make room and are not drawn
	covered []bool // modules that are drawn and lie under it
}

// Damage is what a mark takes from a symbol at worst: every codeword of which a module makes room or lies under it counts as
// lost, whatever it happens to say.
type Damage struct {
	Blocks  []Block
	Reserve float64 // share of correctable codewords left, of the worst block
	// Function patterns it touches: it may not lie on the protected ones, which are finder patterns with their light border,
	// format and version information, and the dark module.
	Protected  bool
	Timing     int // modules
	Alignments int // patterns touched
}

// Block is one error correction block.
type Block struct {
	Lost    int // codewords
	Correct int // codewords that can be corrected (ISO/IEC 18004:2015, clause 7.5.1)
}

// middle is how much of a module on each side of its middle readers look at, where it lies under a mark and is not cleared.
const middle = 0.25

// Place lays art onto a symbol. A module makes room where its middle lies in the mark's box, in the disc around it or on its
// outline, each grown by the padding.
func Place(s *symbol.Symbol, m look.Mark, art *artwork.Art) *Marked {
	n := float64(s.Size)
	p := &Marked{Look: m, Art: art, size: s.Size, W: m.Width * n}
	p.H = p.W
	if m.Crop != "round" {
		p.H = p.W * art.Height / art.Width
	}
	p.X, p.Y = m.X*n-p.W/2, m.Y*n-p.H/2
	p.cleared, p.covered = make([]bool, s.Size*s.Size), make([]bool, s.Size*s.Size)
	reach := m.Pad + 1
	if m.Clear == "disc" {
		reach += math.Hypot(p.W, p.H) / 2
	}
	for y := max(0, int(p.Y-reach)); y < min(s.Size, int(p.Y+p.H+reach)+1); y++ {
		for x := max(0, int(p.X-reach)); x < min(s.Size, int(p.X+p.W+reach)+1); x++ {
			i := y*s.Size + x
			p.cleared[i] = p.clears(float64(x)+0.5, float64(y)+0.5)
			p.covered[i] = !p.cleared[i] && p.near(float64(x)+0.5-middle, float64(y)+0.5-middle, float64(x)+0.5+middle,
				float64(y)+0.5+middle, 0)
		}
	}
	p.Damage = damage(s, func(i int) bool { return p.cleared[i] || p.covered[i] })
	return p
}

// clears says whether the module with its middle at x, y makes room.
func (p *Marked) clears(x, y float64) bool {
	const edge = 1e-9
	pad := p.Look.Pad
	switch p.Look.Clear {
	case "box":
		return x >= p.X-pad-edge && x <= p.X+p.W+pad+edge && y >= p.Y-pad-edge && y <= p.Y+p.H+pad+edge
	case "disc":
		r := math.Hypot(p.W, p.H) / 2
		if p.Look.Crop == "round" {
			r = p.W / 2
		}
		return math.Hypot(x-p.X-p.W/2, y-p.Y-p.H/2) <= r+pad+edge
	case "outline":
		return p.near(x, y, x, y, pad)
	}
	return false
}

// near says whether the mark comes closer than d to a rectangle.
func (p *Marked) near(x0, y0, x1, y1, d float64) bool {
	if p.Look.Crop == "round" {
		cx, cy, r := p.X+p.W/2, p.Y+p.H/2, p.W/2
		return math.Hypot(max(0, x0-cx, cx-x1), max(0, y0-cy, cy-y1)) <= r+d
	}
	k := p.Art.Width / p.W
	return p.Art.Near((x0-p.X)*k, (y0-p.Y)*k, (x1-p.X)*k, (y1-p.Y)*k, d*k)
}

// damage counts what is lost of a symbol where these modules are.
func damage(s *symbol.Symbol, lost func(i int) bool) Damage {
	b := symbol.BlocksOf(s.Version, s.Level)
	d := Damage{Blocks: make([]Block, b.Count), Reserve: 1}
	for _, w := range s.Codewords() {
		for _, i := range w.Modules {
			if lost(i) {
				d.Blocks[w.Block].Lost++
				break
			}
		}
	}
	for i := range d.Blocks {
		d.Blocks[i].Correct = b.Correct
		d.Reserve = min(d.Reserve, 1-float64(d.Blocks[i].Lost)/float64(b.Correct))
	}
	for y := range s.Size {
		for x := range s.Size {
			if !lost(y*s.Size + x) {
				continue
			}
			switch s.Role(x, y) {
			case symbol.RoleFinder, symbol.RoleSeparator, symbol.RoleFormat, symbol.RoleVersion, symbol.RoleDark:
				d.Protected = true
			case symbol.RoleTiming:
				d.Timing++
			}
		}
	}
	for _, c := range symbol.Alignments(s.Version) {
	pattern:
		for y := c[1] - 2; y <= c[1]+2; y++ {
			for x := c[0] - 2; x <= c[0]+2; x++ {
				if lost(y*s.Size + x) {
					d.Alignments++
					break pattern
				}
			}
		}
	}
	return d
}

// Cleared says whether a module makes room; Lost, whether it does or lies under the mark. Without a mark none does.
func (p *Marked) Cleared(x, y int) bool { return p != nil && p.cleared[y*p.size+x] }

// Lost says whether a reader cannot count on a module.
func (p *Marked) Lost(x, y int) bool {
	return p != nil && (p.cleared[y*p.size+x] || p.covered[y*p.size+x])
}

// items draws the mark; at takes modules to millimetres.
func (p *Marked) items(l look.Look, at scene.Transform) (out []scene.Item) {
	k := p.W / p.Art.Width
	dx, dy := p.X, p.Y
	var clip *scene.Path
	if p.Look.Crop == "round" { // it fills the disc
		k = max(p.W/p.Art.Width, p.H/p.Art.Height)
		dx, dy = p.X+(p.W-p.Art.Width*k)/2, p.Y+(p.H-p.Art.Height*k)/2
		r := p.W / 2 / k
		disc := rounded(p.Art.Width/2-r, p.Art.Height/2-r, 2*r, [4]float64{r, r, r, r}, false)
		clip = &disc
	}
	place := scene.At(k, dx, dy).Then(at)
	follows := false
	for _, it := range p.Art.Items {
		follows = follows || it.Current
	}
	for _, it := range p.Art.Items {
		it.Name, it.At = "mark", place
		if clip != nil {
			it.Clip = clip
		}
		switch {
		case it.Picture != nil:
		case p.Look.Inked && (it.Current || !follows):
			it.Fill, it.Shade = p.Look.Ink, nil
		case it.Current:
			it.Fill = l.Ink
			if s := scene.Across(l.Shade, float64(p.size)); s != nil { // the same shade in the mark's units
				s.X0, s.Y0, s.X1, s.Y1, s.Radius = (s.X0-dx)/k, (s.Y0-dy)/k, (s.X1-dx)/k, (s.Y1-dy)/k, s.Radius/k
				it.Shade = s
			}
		}
		it.Current = false
		out = append(out, it)
	}
	return out
}

// touches says whether some of the alignment pattern about a module makes room; it is then not drawn in a form of its own.
func (p *Marked) touches(c [2]int) bool {
	for y := c[1] - 2; y <= c[1]+2; y++ {
		for x := c[0] - 2; x <= c[0]+2; x++ {
			if p.Cleared(x, y) {
				return true
			}
		}
	}
	return false
}
