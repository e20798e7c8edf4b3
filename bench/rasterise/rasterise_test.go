// Package rasterise compares ways to turn one symbol's outlines into 2,009 pixels.
package rasterise

import (
	"image"
	"image/color"
	"testing"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/rasterizer"

	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

const pixels = 2009

func drawing(b *testing.B) *scene.Scene {
	s, err := symbol.Encode("https://marrowby.example/fair?utm_source=gate", symbol.Options{})
	if err != nil {
		b.Fatal(err)
	}
	return layout.Draw(s, look.Default(), 4, 160, nil)
}

func BenchmarkRasterise(b *testing.B) {
	b.Run("sodrik on x-image-vector", func(b *testing.B) {
		s := drawing(b)
		b.ReportAllocs()
		for b.Loop() {
			if _, err := raster.Draw(s, raster.Fit(s, pixels)); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("tdewolff-canvas", func(b *testing.B) {
		s := drawing(b)
		b.ReportAllocs()
		for b.Loop() {
			var img image.Image = viaCanvas(s)
			if img.Bounds().Dx() < pixels-1 {
				b.Fatal(img.Bounds())
			}
		}
	})
}

func viaCanvas(s *scene.Scene) image.Image {
	c := canvas.New(s.Width, s.Height)
	ctx := canvas.NewContext(c)
	for _, it := range s.Items {
		p := &canvas.Path{}
		points := it.Path.Points
		at := func(q scene.Point) (float64, float64) {
			q = it.At.Point(q)
			return q.X, s.Height - q.Y
		}
		for _, op := range it.Path.Ops {
			switch op {
			case scene.Move:
				p.MoveTo(at(points[0]))
				points = points[1:]
			case scene.Line:
				p.LineTo(at(points[0]))
				points = points[1:]
			case scene.Close:
				p.Close()
			}
		}
		ctx.SetFillColor(color.RGBA{it.Fill.R, it.Fill.G, it.Fill.B, 255})
		ctx.DrawPath(0, 0, p)
	}
	return rasterizer.Draw(c, canvas.DPMM(pixels/s.Width), canvas.DefaultColorSpace)
}
