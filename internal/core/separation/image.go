package separation

import (
	"image"

	"sodrik/internal/core/scene"
)

// plate is one ink of an image as a picture of greys.
func (m *Image) plate(plate int) *scene.Picture {
	pixels := image.NewNRGBA(image.Rect(0, 0, m.W, m.H))
	for i := range m.W * m.H {
		v := uint8(255)
		if plate < 4 {
			v -= m.CMYK[4*i+plate]
		}
		a := uint8(255)
		if !m.Solid(i) {
			a = 0
		}
		copy(pixels.Pix[4*i:], []byte{v, v, v, a})
	}
	out := scene.NewPicture(pixels)
	out.X, out.Y, out.Width, out.Height = m.Frame.X, m.Frame.Y, m.Frame.Width, m.Frame.Height
	return out
}
