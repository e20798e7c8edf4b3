// Package detect finds QR Code symbols in a picture and reads them with symbol/decode: a reader of our own, written from the
// reference decoding algorithm of ISO/IEC 18004:2015, clause 12, and independent of any other engine. Unlike others it says
// how many codewords it had to correct, and where the symbol lies.
//
// It works on grey levels, not on a picture of black and white: edges of finder patterns are placed between pixels, the grid
// is fitted to the known modules of the function patterns, also where the surface is bent, and a module is what the middle of
// it weighs. Spread of ink cancels out, since like edges are compared with like.
package detect

import (
	"cmp"
	"context"
	"image"
	"slices"

	"sodrik/internal/core/symbol/decode"
)

// Found is one symbol in a picture.
type Found struct {
	*decode.Result
	Corners  [4][2]float64 // pixels: top left, top right, bottom right, bottom left of the symbol without its quiet zone
	Inverted bool          // light on dark

	fit fitted
}

// At takes a point, in modules from the top left corner of the symbol, to pixels of the picture. A symbol seen from behind
// has its rows and columns exchanged.
func (f Found) At(x, y float64) (px, py float64) {
	if f.Mirrored {
		x, y = y, x
	}
	return f.fit.at(x, y)
}

// minAgreement is how well the known modules have to be where a grid puts them for three finder patterns to be taken for
// those of a symbol.
const minAgreement = 0.1

// likely is how well they are where the grid is certainly right.
const likely = 0.6

// maxEffort bounds how many modules are weighed in the search of one picture, so that no picture, however full of what looks
// like finder patterns, takes longer than some tenths of a second.
const (
	maxEffort      = 12_000_000
	maxEffortExact = 8_000_000
)

// maxConfirmed bounds how many candidates for a finder pattern are looked at closer in one view of a picture.
const maxConfirmed = 20_000

// maxTriples bounds how many sets of three finder patterns are tried in one view of a picture.
const maxTriples = 8

// Find reads up to most symbols, dark on light; none is an empty list. Corners may be off by half a module.
func Find(img *image.Gray, most int) []Found {
	out, _ := find(context.Background(), img, most, false, []view{{plain, 16}, {sharp, 16}, {plain, 6}, {soft, 16}}, nil)
	return out
}

// Thorough are the ways in which Photo looks at a picture, and Quick those that find most.
const (
	Thorough = 6
	Quick    = 1
)

// Photo reads every symbol of a picture taken of anything, small symbols and light ones on dark among them, up to 64 of each.
// It stops soon after ctx has ended, with what it has found. A picture is crowded where it is so full of what looks like
// finder patterns that not all were looked at: then a finer look at it tells no more, and its negative is looked at quickly.
func Photo(ctx context.Context, img *image.Gray, ways int) (out []Found, crowded bool) {
	const most = 64
	views := []view{{plain, 16}, {plain, 40}, {plain, 6}, {plain, 90}, {sharp, 40}, {soft, 16}}
	views = views[:ways]
	if out, crowded = find(ctx, img, most, true, views, nil); crowded && len(out) == 0 {
		views = views[:Quick]
	}
	light, too := find(ctx, Inverse(img), most, true, views, out)
	for i := range light {
		light[i].Inverted = true
	}
	return append(out, light...), crowded || too
}

// Inverse exchanges dark and light.
func Inverse(img *image.Gray) *image.Gray {
	b := img.Bounds()
	out := image.NewGray(image.Rect(0, 0, b.Dx(), b.Dy()))
	for y := range b.Dy() {
		for x, v := range img.Pix[y*img.Stride:][:b.Dx()] {
			out.Pix[y*out.Stride+x] = 255 - v
		}
	}
	return out
}

// view is a way to look at a picture: as it is or filtered, with thresholds over so many parts a side.
type view struct {
	filter
	parts int
}

// filter is what is done to a picture before.
type filter int

const (
	plain filter = iota
	sharp        // modules of two pixels run into each other
	soft         // noise
)

// find looks at the picture in several ways until it has found enough, but not where something was found before.
func find(ctx context.Context, img *image.Gray, most int, exact bool, views []view, before []Found) (out []Found, crowded bool) {
	b := img.Bounds()
	if b.Dx() < 21 || b.Dy() < 21 {
		return nil, false
	}
	v := valuesOf(img)
	effort := maxEffort
	if exact {
		effort = maxEffortExact
	}
	filtered := [3][]float32{plain: v}
	for _, way := range views {
		if ctx.Err() != nil {
			return out, crowded
		}
		if filtered[way.filter] == nil {
			filtered[soft] = smooth(v, b.Dx())
			if way.filter == sharp {
				filtered[sharp] = sharpen(v, filtered[soft])
			}
		}
		l := weigh(filtered[way.filter], b.Dx(), b.Dy(), way.parts)
		l.effort = &effort
		out = append(out, l.symbols(most-len(out), exact, slices.Concat(before, out))...)
		crowded = crowded || l.crowded
		if len(out) >= most {
			break
		}
	}
	return out, crowded
}

// holds says whether a point lies within the symbol.
func (f Found) holds(x, y float64) bool {
	for i, a := range f.Corners {
		b := f.Corners[(i+1)%4]
		if (b[0]-a[0])*(y-a[1])-(b[1]-a[1])*(x-a[0]) < 0 { // corners go clockwise
			return false
		}
	}
	return true
}

// symbols reads what one way of telling dark from light shows.
func (l *light) symbols(most int, exact bool, before []Found) (out []Found) {
	eyes := slices.DeleteFunc(l.eyes(), func(e eye) bool {
		return slices.ContainsFunc(before, func(f Found) bool { return f.holds(e.x, e.y) })
	})
	used := make([]bool, len(eyes))
	tried := 0
	for _, t := range triples(eyes) {
		if len(out) >= most || tried >= maxTriples+8*len(out) || *l.effort < 0 {
			break
		}
		if used[t.at[0]] || used[t.at[1]] || used[t.at[2]] {
			continue
		}
		tried++
		fit, r := l.read(eyes[t.at[0]], eyes[t.at[1]], eyes[t.at[2]])
		if r == nil {
			continue
		}
		if exact {
			fit = fit.g.exact(fit.pose)
		}
		out = append(out, Found{Result: r, Corners: fit.corners(), fit: fit})
		for _, i := range t.at {
			used[i] = true
		}
	}
	return out
}

// read takes three finder patterns, the middle one first, for those of one symbol; the result is nil where they are not. The
// fourth corner is looked for only where a surface square to the camera does not do.
func (l *light) read(a, b, c eye) (fitted, *decode.Result) {
	if (b.x-a.x)*(c.y-a.y)-(b.y-a.y)*(c.x-a.x) < 0 { // clockwise: right, then down
		b, c = c, b
	}
	try := func(f fitted) *decode.Result {
		if r, err := decode.Matrix(f.g.n, f.dark); err == nil {
			return r
		}
		if r, err := decode.Matrix(f.g.n, f.apart()); err == nil {
			return r
		}
		if f.agreement < likely { // where the grid is sure: modules that only keep their middle, between parts of a picture
			return nil
		}
		r, err := decode.Matrix(f.g.n, f.middle)
		if err != nil {
			return nil
		}
		return r
	}
	var flat []fitted
	for i, n := range l.sizes(a, b, c) {
		if *l.effort < 0 {
			return fitted{}, nil
		}
		g := newGrid(l, n, a, b, c)
		f := g.fit(g.first, false)
		flat = append(flat, f)
		if i == 0 && f.agreement > likely {
			if r := try(f); r != nil {
				return f, r
			}
		}
	}
	grids := flat // in the order of how likely their sizes are, where perspective or a bend hides which agrees
	byAgreement := slices.Clone(flat)
	slices.SortStableFunc(byAgreement, func(a, b fitted) int { return cmp.Compare(b.agreement, a.agreement) })
	if len(flat) == 0 || byAgreement[0].agreement < minAgreement {
		return fitted{}, nil
	}
	for _, f := range byAgreement[:min(2, len(flat))] {
		if r := try(f); r != nil {
			return f, r
		}
	}
	if byAgreement[0].agreement > likely {
		grids = byAgreement[:1]
	}
	for _, f := range grids[:min(2, len(grids))] {
		g := f.g
		for _, start := range g.starts() {
			if *l.effort < 0 {
				return fitted{}, nil
			}
			f := g.fit(start, false)
			if f.agreement < 2*minAgreement {
				continue
			}
			if r := try(f); r != nil {
				return f, r
			}
			f = g.fit(f.pose, true)
			if r := try(f); r != nil {
				return f, r
			}
		}
	}
	return fitted{}, nil
}
