package standin

import (
	"context"
	"math"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
	"sodrik/internal/shelf"
)

// poster is the artwork of the fair: an A2 sheet with three tulips, as its designer handed it over, without a code.
func poster() *scene.Scene {
	s := &scene.Scene{Width: 420, Height: 594}
	hex := func(v uint32) ink.Colour { return ink.Colour{R: uint8(v >> 16), G: uint8(v >> 8), B: uint8(v)} }
	put := func(p scene.Path, c ink.Colour) {
		s.Items = append(s.Items, scene.Item{Path: p, At: scene.Unit, Fill: c})
	}
	put(scene.Rectangle(0, 0, 420, 594), hex(0xf6f0e2))
	put(scene.Rectangle(0, 0, 420, 330), hex(0x12352b))
	for i := range 9 { // furrows
		var p scene.Path
		y := 196 + float64(i)*15
		p.MoveTo(0, y)
		p.CubicTo(140, y-24+float64(i)*2, 280, y+24-float64(i)*2, 420, y)
		p.LineTo(420, y+4)
		p.CubicTo(280, y+28-float64(i)*2, 140, y-20+float64(i)*2, 0, y+4)
		p.Close()
		put(p, hex(0x1d4a3c))
	}
	for i, c := range []uint32{0x5b1f33, 0xe9a820, 0xa33f22} {
		x, tall := 92+float64(i)*118, 214-float64((i+1)%2)*34
		put(scene.Rectangle(x-3, 330-tall+60, 6, tall-60), hex(0x8fc3a0))
		for _, side := range [2]float64{-1, 1} {
			var leaf scene.Path
			leaf.MoveTo(x, 330)
			leaf.CubicTo(x+side*44, 300, x+side*46, 250, x+side*34, 226)
			leaf.CubicTo(x+side*16, 250, x+side*6, 290, x, 318)
			leaf.Close()
			put(leaf, hex(0x5f9d78))
		}
		top := 330 - tall
		var cup scene.Path
		cup.MoveTo(x-34, top)
		cup.CubicTo(x-24, top+10, x-18, top+14, x-14, top+22)
		cup.CubicTo(x-10, top+8, x-4, top-2, x, top-10)
		cup.CubicTo(x+4, top-2, x+10, top+8, x+14, top+22)
		cup.CubicTo(x+18, top+14, x+24, top+10, x+34, top)
		cup.CubicTo(x+42, top+44, x+24, top+72, x, top+74)
		cup.CubicTo(x-24, top+72, x-42, top+44, x-34, top)
		cup.Close()
		put(cup, hex(c))
	}
	words := func(face, text string, size, x, y float64, c ink.Colour) {
		f, _ := typeface.Of(face)
		line := f.Set(text)
		s.Items = append(s.Items, scene.Item{Path: line.Path, At: scene.At(size, x, y), Fill: c})
	}
	words("alegreya", "Bulb Fair", 78, 30, 408, hex(0x12352b))
	words("alegreya", "20 March, ten to four", 25, 32, 440, hex(0x5a2d0c))
	words("instrument-sans", "Show garden, Marrowby", 15, 32, 464, hex(0x16241f))
	words("instrument-sans", "Marrowby Seed House", 9, 290, 556, hex(0x54625b))
	for i := range 40 { // a row of seed along the foot
		x, y := 150+float64(i)*6.2, 569+math.Sin(float64(i))*2
		put(scene.RoundRectangle(x, y, 3.2, 2.2, 1.6, 1.1), hex(0x8a6a3a))
	}
	return s
}

// uploadPoster takes the poster in as its designer's PDF, or as SVG where nothing here draws pages.
func uploadPoster(ctx context.Context, s *code.Store, actor access.Actor) (shelf.Asset, error) {
	meta := export.Meta{Title: "Bulb Fair, A2"}
	if s.Pages != nil {
		if a, err := s.UploadArtwork(ctx, actor, "bulb-fair-a2.pdf", pdf.Encode(poster(), meta)); err == nil {
			return a, nil
		}
	}
	return s.UploadArtwork(ctx, actor, "bulb-fair-a2.svg", svg.Encode(poster(), meta))
}
