package raster

import (
	"image"

	"sodrik/internal/core/scene"
)

// sampler gives the colour of a picture at a pixel of r: between four of its own pixels, at a level of detail that has about
// as many as are wanted, so that nothing is left out. Colours are weighed by how opaque they are.
func sampler(it scene.Item, v View, r image.Rectangle) func(x, y int) rgba {
	p := it.Picture
	at := back(it, v, r)
	img := p.Level(at.Size() * float64(p.Pixels.Rect.Dx()) / p.Width)
	w, h := img.Rect.Dx(), img.Rect.Dy()
	perX, perY := float64(w)/p.Width, float64(h)/p.Height
	return func(x, y int) rgba {
		q := at.Point(scene.Point{X: float64(x), Y: float64(y)})
		fx, fy := (q.X-p.X)*perX-0.5, (q.Y-p.Y)*perY-0.5
		fx, fy = min(max(fx, 0), float64(w-1)), min(max(fy, 0), float64(h-1))
		x0, y0 := int(fx), int(fy)
		x1, y1 := min(x0+1, w-1), min(y0+1, h-1)
		kx, ky := uint32((fx-float64(x0))*256), uint32((fy-float64(y0))*256)
		var sum [3]uint32
		alpha := uint32(0)
		for _, c := range [4]struct {
			x, y int
			k    uint32
		}{{x0, y0, (256 - kx) * (256 - ky)}, {x1, y0, kx * (256 - ky)}, {x0, y1, (256 - kx) * ky}, {x1, y1, kx * ky}} {
			px := img.Pix[c.y*img.Stride+4*c.x:][:4:4]
			a := c.k * uint32(px[3]) >> 8 // up to 255 · 256
			alpha += a
			for i := range 3 {
				sum[i] += uint32(px[i]) * a
			}
		}
		if alpha == 0 {
			return rgba{}
		}
		return rgba{uint8((sum[0] + alpha/2) / alpha), uint8((sum[1] + alpha/2) / alpha), uint8((sum[2] + alpha/2) / alpha),
			uint8((alpha + 128) >> 8)}
	}
}
