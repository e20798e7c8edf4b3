package compose

import (
	"context"
	"fmt"
	"strings"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/job"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
)

// brought is what the placements of a job bring: artwork by its source, typefaces that came in by their key.
type brought struct {
	sheets map[string]*artwork.Sheet
	faces  map[string]*typeface.Face
}

// Sheet finds artwork by its source.
func (find Assets) Sheet(source string) (*artwork.Sheet, error) {
	bare, _, _ := strings.Cut(source, "#")
	if strings.HasPrefix(bare, "data:") {
		data, err := dataOf(bare)
		if err != nil {
			return nil, err
		}
		return artwork.ReadSheet(data)
	}
	if find != nil {
		u, ok := find(source)
		if s, isSheet := u.(*artwork.Sheet); ok && isSheet {
			return s, nil
		}
	}
	return nil, fmt.Errorf("is not among the artwork here; upload the file again")
}

// bring finds what the placements need.
func bring(j *job.Job, find Assets) (b brought, problems problem.List) {
	b = brought{map[string]*artwork.Sheet{}, map[string]*typeface.Face{}}
	for i, p := range j.Placements {
		at := fmt.Sprintf("/placements/%d", i)
		if s := p.Artwork.Source; s != "" && b.sheets[s] == nil {
			sheet, err := find.Sheet(s)
			if err != nil {
				problems.Add(at+"/artwork/source", "artwork.missing", "%v", err)
			} else {
				b.sheets[s] = sheet
			}
		}
		if p.Words.None() {
			continue
		}
		face, ok := find.Face(p.Words.Font)
		if !ok {
			if face, ok = typeface.Of(p.Words.Font); !ok {
				problems.Add(at+"/words/font", "typeface.missing",
					"is not among the typefaces here; choose another, or take it in under House style again")
				continue
			}
		}
		b.faces[p.Words.Font] = face
		for key, text := range map[string]string{"headline": p.Words.Headline, "help": p.Words.Help, "address": p.Words.Address} {
			if says := look.Lacks(face, text); says != "" {
				problems.Add(at+"/words/"+key, "frame.glyph", "%s", says)
			}
		}
	}
	return b, problems
}

// Sheet is the artwork of a placement, nil where it has none that is a file.
func (m *Rendition) Sheet(p *place.Placement) *artwork.Sheet {
	if p == nil {
		return nil
	}
	return m.brought.sheets[p.Artwork.Source]
}

// WordFace is the typeface of the words of a placement.
func (m *Rendition) WordFace(p *place.Placement) *typeface.Face {
	if f := m.brought.faces[p.Words.Font]; f != nil {
		return f
	}
	return typeface.Faces[0]
}

// Surface is how large the thing is that a placement's code lies on, in mm: as its artwork says, else as its medium usually
// is. ok is false where nothing is known of it.
func (m *Rendition) Surface(p *place.Placement) (width, height float64, ok bool) {
	if p == nil {
		return 0, 0, false
	}
	a := p.Artwork
	if s := m.Sheet(p); s != nil {
		if a.Width > 0 {
			return float64(a.Width), float64(a.Width) * s.Height / s.Width, true
		}
		if medium, known := place.MediumOf(p.Medium); known && medium.Size[0] > 0 && !s.Said {
			width := fitted(s, float64(medium.Size[0]), float64(medium.Size[1]))
			return width, width * s.Height / s.Width, true
		}
		return s.Width, s.Height, true
	}
	if !a.None() && a.Width > 0 {
		return float64(a.Width), float64(a.Height), true
	}
	if medium, known := place.MediumOf(p.Medium); known && medium.Size[0] > 0 {
		return float64(medium.Size[0]), float64(medium.Size[1]), true
	}
	return 0, 0, false
}

// fitted is the width of artwork that does not say how large it is on a medium of a size: as large as fits on it, upright or
// across as it is itself.
func fitted(s *artwork.Sheet, width, height float64) float64 {
	if (s.Width > s.Height) != (width > height) {
		width, height = height, width
	}
	return min(width, height*s.Width/s.Height)
}

// Composed is a code on the thing that it lies on.
type Composed struct {
	Scene         *scene.Scene // all of it
	Added         *scene.Scene // what is added to the artwork, from AddedX, AddedY: panel, code and words
	AddedX        float64
	AddedY        float64
	Code, Whole   artwork.Rect // the code with its border, and with its frame too
	Words         artwork.Rect
	Least         float64 // the smallest type beside the code, mm; 0 without words
	Scale         float64 // millimetres of the thing for one of the artwork's file
	Outside       bool    // some of the code lies beyond the thing
	WordsOutside  bool    // some of the words do, or they lie on the code
	Width, Height float64
}

// HasSurface says whether a placement says what its code lies on or what stands beside it; what follows from the medium alone
// is not said.
func HasSurface(p *place.Placement) bool { return p != nil && (!p.Artwork.None() || !p.Words.None()) }

// Compose lays the code of a placement on the thing that it lies on, with the words beside it; ok is false where nothing is
// known of the thing and there are no words.
func (m *Rendition) Compose(p *place.Placement) (c Composed, ok bool) {
	framed := m.Framed(p)
	w, h, known := m.Surface(p)
	if !known {
		if p == nil || p.Words.None() {
			return c, false
		}
		w, h = 0, 0
	}
	code := m.Unframed(p)
	x, y := (w-framed.Scene.Width)/2, (h-framed.Scene.Height)/2
	if a := p.Artwork; a.X != nil {
		x = float64(*a.X) - framed.Left
	}
	if a := p.Artwork; a.Y != nil {
		y = float64(*a.Y) - framed.Top
	}
	c.Whole = artwork.Rect{X: x, Y: y, W: framed.Scene.Width, H: framed.Scene.Height}
	c.Code = artwork.Rect{X: x + framed.Left, Y: y + framed.Top, W: code.Width, H: code.Height}
	var beside layout.Beside
	if words := p.Words; !words.None() {
		room := w - x - framed.Scene.Width - 2*code.Width*0.08
		if words.Side == "left" {
			room = x - 2*code.Width*0.08
		}
		if !known {
			room = code.Width * 1.9
		}
		fill := m.Job.Look.Ink
		if words.Ink != nil {
			fill = *words.Ink
		}
		beside = layout.SetBeside(layout.Wording{Parts: []layout.Part{
			{Text: words.Headline, Size: layout.HeadlineSize},
			{Text: words.Help, Size: layout.HelpSize},
			{Text: words.Address, Size: layout.AddressSize},
		}, Size: words.Size, Face: m.WordFace(p), Fill: fill},
			layout.Neighbour{Side: words.Side, Width: framed.Scene.Width, Height: framed.Scene.Height, Code: code.Width,
				Room: room})
		c.Words = artwork.Rect{X: x + beside.X, Y: y + beside.Y, W: beside.Width, H: beside.Height}
		c.Least = beside.Least
	}
	if !known { // the code and its words, and no more
		all := union(c.Whole, c.Words)
		margin := 0.0
		if !p.Words.None() {
			margin = code.Width * 0.08
		}
		dx, dy := margin-all.X, margin-all.Y
		w, h = all.W+2*margin, all.H+2*margin
		x, y = x+dx, y+dy
		for _, r := range []*artwork.Rect{&c.Whole, &c.Code, &c.Words} {
			r.X, r.Y = r.X+dx, r.Y+dy
		}
	}
	c.Width, c.Height = w, h
	const near = 1e-6
	outside := func(r artwork.Rect) bool { return r.X < -near || r.Y < -near || r.X+r.W > w+near || r.Y+r.H > h+near }
	c.Outside = outside(c.Code)
	c.WordsOutside = c.Least > 0 && outside(c.Words)

	all := union(c.Whole, c.Words)
	c.AddedX, c.AddedY = all.X, all.Y
	c.Added = &scene.Scene{Width: all.W, Height: all.H}
	if panel := p.Artwork.Panel; panel != nil {
		c.Added.Items = append(c.Added.Items,
			scene.Item{Name: "panel", Path: scene.Rectangle(c.Code.X-all.X, c.Code.Y-all.Y, c.Code.W, c.Code.H), At: scene.Unit,
				Fill: *panel})
	}
	put := func(items []scene.Item, dx, dy float64) {
		for _, it := range items {
			it.At.X, it.At.Y = it.At.X+dx, it.At.Y+dy
			c.Added.Items = append(c.Added.Items, it)
		}
	}
	put(framed.Scene.Items, x-all.X, y-all.Y)
	put(beside.Items, x-all.X, y-all.Y)
	c.Scene = &scene.Scene{Width: w, Height: h, Items: append(m.underneath(p, w, h, &c.Scale),
		moved(c.Added.Items, all.X, all.Y)...)}
	return c, true
}

// underneath is the thing itself.
func (m *Rendition) underneath(p *place.Placement, w, h float64, scale *float64) (out []scene.Item) {
	*scale = 1
	if s := m.Sheet(p); s != nil {
		k := w / s.Width
		*scale = k
		return scene.Transformed(s.Items, scene.At(k, 0, 0))
	}
	if p.Artwork.None() && p.Words.None() {
		return nil
	}
	fill := ink.White
	if c := p.Artwork.Colour; c != nil {
		fill = *c
	} else if p.Background != nil {
		fill = *p.Background
	}
	return []scene.Item{{Name: "sheet", Path: scene.Rectangle(0, 0, w, h), At: scene.Unit, Fill: fill}}
}

// wordsOn says in which ink the words beside a code stand, and on which ground.
func (m *Rendition) wordsOn(s *proof.Surface, at *place.Placement, c Composed) {
	if at.Words.None() {
		return
	}
	s.WordsInk, s.WordsGround = m.Job.Look.Ink, ink.White
	if at.Words.Ink != nil {
		s.WordsInk = *at.Words.Ink
	}
	switch sheet := m.Sheet(at); {
	case sheet != nil:
		k := 1 / c.Scale
		s.WordsGround, s.WordsVary = sheet.Ground(artwork.Rect{X: c.Words.X * k, Y: c.Words.Y * k, W: c.Words.W * k,
			H: c.Words.H * k})
	case at.Artwork.Colour != nil:
		s.WordsGround = *at.Artwork.Colour
	case at.Artwork.None() && at.Background != nil:
		s.WordsGround = *at.Background
	}
}

func moved(items []scene.Item, dx, dy float64) []scene.Item {
	out := make([]scene.Item, len(items))
	for i, it := range items {
		it.At.X, it.At.Y = it.At.X+dx, it.At.Y+dy
		out[i] = it
	}
	return out
}

// union is the least rectangle around two; one without a size is none.
func union(a, b artwork.Rect) artwork.Rect {
	if b.W == 0 && b.H == 0 {
		return a
	}
	x0, y0, x1, y1 := min(a.X, b.X), min(a.Y, b.Y), max(a.X+a.W, b.X+b.W), max(a.Y+a.H, b.Y+b.H)
	return artwork.Rect{X: x0, Y: y0, W: x1 - x0, H: y1 - y0}
}

// Bounds of the picture of what lies under and around a code that goes into its proof.
const (
	proofAround = 0.2 // of the width of the code, on every side
	proofPixels = 700
)

// maxCovered is the share of what lies under a code in which something may be drawn before it is worth a word: a rule or a
// fold is less.
const maxCovered = 0.04

// emptyPart is where the code of a placement lies in the middle of the largest part of its artwork that is empty and has room
// for it, in mm.
func emptyPart(sheet *artwork.Sheet, c Composed) (x, y float64, ok bool) {
	for _, r := range sheet.Free() {
		if w, h := r.W*c.Scale, r.H*c.Scale; w >= c.Code.W && h >= c.Code.H {
			return r.X*c.Scale + (w-c.Code.W)/2, r.Y*c.Scale + (h-c.Code.H)/2, true
		}
	}
	return 0, 0, false
}

// Figures are what follows of a placement without any reader, on the ground that its code lies on.
func (m *Rendition) Figures(i int) proof.Figures { return proof.Measure(m.asDrawn(i)) }

// Drawn reads the code of a placement back from its drawing, −1 for none, before any ink or camera: reserve is the share of
// error correction left in the worst block, reads says that it says what it should.
func (m *Rendition) Drawn(i int) (reserve float64, reads bool) {
	payload, reserve, err := proof.Drawn(m.asDrawn(i))
	return reserve, err == nil && payload == m.For(m.Place(i)).Payload
}

// asDrawn is what is known of the drawing for a placement.
func (m *Rendition) asDrawn(i int) proof.Input {
	p := m.Place(i)
	at := m.For(p)
	in := proof.Input{Symbol: at.Symbol, Look: at.Job.Look, Mark: at.Mark, QuietZone: at.Job.Symbol.QuietZone, Placement: p,
		Scene: at.Unframed(p)}
	if in.Look.Paper.None {
		if ground, known := m.groundOf(p); known {
			with := *p
			with.Background = &ground
			in.Placement = &with
		}
	}
	return in
}

// groundOf is what a code without paper lies on at a placement; known is false where nothing says so.
func (m *Rendition) groundOf(p *place.Placement) (ground ink.Colour, known bool) {
	if p == nil {
		return ink.White, false
	}
	switch panel, sheet := p.Artwork.Panel, m.Sheet(p); {
	case panel != nil:
		return *panel, true
	case sheet != nil:
		if c, ok := m.Compose(p); ok {
			k := 1 / c.Scale
			ground, _ = sheet.Ground(artwork.Rect{X: c.Code.X * k, Y: c.Code.Y * k, W: c.Code.W * k, H: c.Code.H * k})
			return ground, true
		}
	case p.Artwork.Colour != nil:
		return *p.Artwork.Colour, true
	case p.Background != nil:
		return *p.Background, true
	}
	return ink.White, false
}

// darkArtwork is the luminance up to which artwork under a code is dark.
const darkArtwork = 0.3

// DarkArtwork says whether the artwork under the code of placement i is dark; known is false where there is none.
func (m *Rendition) DarkArtwork(i int) (dark, known bool) {
	p := m.Place(i)
	if p == nil || p.Artwork.None() {
		return false, false
	}
	ground, known := m.groundOf(p)
	return ground.Luminance() <= darkArtwork, known
}

// night is the ground on which light ink is shown where nothing says what it lies on.
var night = ink.Colour{R: 0x16, G: 0x24, B: 0x1f}

// lightInk is the luminance from which ink is not to be seen on white.
const lightInk = 0.6

// ShownOn is what the code is shown on: its paper, else what it lies on at placement i, or for −1 at its first; where nothing
// is said of it white, or dark for light ink.
func (m *Rendition) ShownOn(i int) ink.Colour {
	if paper := m.Job.Look.Paper; !paper.None {
		return paper.Colour
	}
	if len(m.Job.Placements) > 0 {
		if ground, known := m.groundOf(m.Place(max(i, 0))); known {
			return ground
		}
	}
	if m.Job.Look.Ink.Luminance() > lightInk {
		return night
	}
	return ink.White
}

// tileDots says how large the pixels are that a round tile is shown with.
func tileDots(s *proof.Surface, m place.Medium) {
	if m.Screen[0] > 0 {
		s.Dot = s.Round / float64(m.Screen[0])
	}
}

// underProof lays what the code lies on under the scene of a proof, and says what the proof has to know of it.
func (m *Rendition) underProof(in *proof.Input) {
	at := in.Placement
	if at == nil {
		return
	}
	if medium, _ := place.MediumOf(at.Medium); !HasSurface(at) {
		if medium.Round && medium.Size[0] > 0 {
			in.Surface = &proof.Surface{Round: float64(medium.Size[0])}
			tileDots(in.Surface, medium)
		}
		return
	}
	c, ok := m.Compose(at)
	if !ok {
		return
	}
	medium, _ := place.MediumOf(at.Medium)
	s := &proof.Surface{Width: c.Width, Height: c.Height, X: c.Code.X, Y: c.Code.Y, Outside: c.Outside,
		WordsOutside: c.WordsOutside, Least: c.Least, Wordless: at.Words.None()}
	m.wordsOn(s, at, c)
	if medium.Round {
		s.Round = min(c.Width, c.Height)
		tileDots(s, medium)
	}
	in.Surface = s
	if at.Artwork.None() {
		s.Width, s.Height = 0, 0
		return
	}
	ground, varies := ink.White, 0.0
	if sheet := m.Sheet(at); sheet != nil {
		k := 1 / c.Scale
		under := artwork.Rect{X: c.Code.X * k, Y: c.Code.Y * k, W: c.Code.W * k, H: c.Code.H * k}
		ground, varies = sheet.Ground(under)
		if at.Artwork.Panel == nil && sheet.Drawn(under) > maxCovered {
			s.Covers = true
			s.EmptyX, s.EmptyY, s.Empty = emptyPart(sheet, c)
		}
		for _, b := range m.Borne(context.Background(), at) {
			switch {
			case b.Hidden: // it is what is to be covered
				s.Covers = false
			case !s.Other:
				if s.Other = true; b.Why == "" {
					s.Over = b.Over(in.Index)
				}
			}
		}
		margin := proofAround * c.Code.W
		r := artwork.Rect{X: c.Code.X - margin, Y: c.Code.Y - margin, W: c.Code.W + 2*margin, H: c.Code.H + 2*margin}
		if pic := sheet.Cut(artwork.Rect{X: r.X * k, Y: r.Y * k, W: r.W * k, H: r.H * k}, proofPixels); pic != nil {
			pic.X, pic.Y, pic.Width, pic.Height = -margin, -margin, r.W, r.H
			in.Scene = &scene.Scene{Width: in.Scene.Width, Height: in.Scene.Height,
				Items: append([]scene.Item{{Name: "artwork", Picture: pic, At: scene.Unit}}, in.Scene.Items...)}
		}
	} else if col := at.Artwork.Colour; col != nil {
		ground = *col
	}
	if panel := at.Artwork.Panel; panel != nil {
		if in.Look.Paper.None {
			in.Look.Paper = look.Paper{Colour: *panel}
			items := in.Scene.Items
			first := 0
			if len(items) > 0 && items[0].Name == "artwork" {
				first = 1
			}
			item := scene.Item{Name: "paper", Path: scene.Rectangle(0, 0, in.Scene.Width, in.Scene.Height), At: scene.Unit,
				Fill: *panel}
			in.Scene = &scene.Scene{Width: in.Scene.Width, Height: in.Scene.Height,
				Items: append(append(append([]scene.Item{}, items[:first]...), item), items[first:]...)}
		}
		return
	}
	if in.Look.Paper.None {
		s.Varies = varies
		with := *at
		with.Background = &ground
		in.Placement = &with
	}
}
