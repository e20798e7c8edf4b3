// Package onpage sets lines and paragraphs on a page, as outlines: in millimetres, points for sizes of letters.
package onpage

import (
	"strings"

	"sodrik/internal/core/glyph"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
)

// Graphite and Hair are the second ink of a page and its lines.
var (
	Graphite = ink.Colour{R: 0x54, G: 0x62, B: 0x5b}
	Hair     = ink.Colour{R: 0xc3, G: 0xca, B: 0xc2}
)

// Page is what is drawn on.
type Page struct{ *scene.Scene }

// Fill fills a path, unless it is empty.
func (p *Page) Fill(path scene.Path, c ink.Colour) {
	if len(path.Ops) > 0 {
		p.Items = append(p.Items, scene.Item{Name: "text", Path: path, At: scene.Unit, Fill: c})
	}
}

// Line sets one line with its top at y and gives where the next begins.
func (p *Page) Line(f *glyph.Face, text string, points, x, y float64, c ink.Colour) float64 {
	if !f.Has(text) { // a name in another script, if any face has it
		for _, face := range typeface.Faces {
			if l := face.Set(text); len(l.Missing) == 0 {
				size := points * glyph.Point
				p.Items = append(p.Items, scene.Item{Name: "text", Path: l.Path, At: scene.At(size, x, y+size), Fill: c})
				return y + size*1.35
			}
		}
	}
	_, path := f.Outline(text, points, x, y+points*glyph.Point)
	p.Fill(path, c)
	return y + points*glyph.Point*1.35
}

// Lettering is how words are set: face, size in points, colour.
type Lettering struct {
	Face   *glyph.Face
	Points float64
	Colour ink.Colour
}

// Set is letters of a face, a size in points and a colour.
func Set(f *glyph.Face, points float64, c ink.Colour) Lettering { return Lettering{f, points, c} }

// Words sets a paragraph and gives where the next begins; at most lines, the last with three dots where there are more.
func (p *Page) Words(t Lettering, text string, x, y, width float64, lines int) float64 {
	all := t.Face.Wrap(text, t.Points, width)
	if len(all) > lines {
		all = append(all[:lines-1:lines-1], strings.TrimRight(all[lines-1], " .,")+" …")
	}
	for _, l := range all {
		y = p.Line(t.Face, l, t.Points, x, y, t.Colour)
	}
	return y
}

// New is an empty page of a size in millimetres, white.
func New(width, height float64) *Page {
	p := &Page{&scene.Scene{Width: width, Height: height}}
	p.Items = append(
		p.Items,
		scene.Item{Name: "paper", Path: scene.Rectangle(0, 0, width, height), At: scene.Unit, Fill: ink.White},
	)
	return p
}

// Rule draws a hair line.
func (p *Page) Rule(x, y, width float64) { p.Fill(scene.Rectangle(x, y, width, 0.15), Hair) }
