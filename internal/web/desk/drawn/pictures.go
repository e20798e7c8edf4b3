package drawn

import (
	"bytes"
	"encoding/base64"
	"html/template"
	"image"
	"image/png"

	"golang.org/x/image/draw"
)

// contactSide is the side of a picture in the list.
const contactSide = 88

// Contact is a picture as small as a list shows it.
func Contact(img *image.Gray) *image.Gray {
	b := img.Bounds()
	k := float64(contactSide) / float64(max(b.Dx(), b.Dy()))
	if k >= 1 {
		return img
	}
	out := image.NewGray(image.Rect(0, 0, max(1, int(float64(b.Dx())*k)), max(1, int(float64(b.Dy())*k))))
	draw.ApproxBiLinear.Scale(out, out.Rect, img, b, draw.Src, nil)
	return out
}

// PNG is a picture within a page.
func PNG(img image.Image) (template.URL, error) {
	var b bytes.Buffer
	err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, img)
	return template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())), err
}
