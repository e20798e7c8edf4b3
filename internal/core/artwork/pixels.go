package artwork

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"image/draw"
	"image/jpeg"
	"image/png"

	xdraw "golang.org/x/image/draw"
	"golang.org/x/image/webp"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/scene"
)

func isPixels(data []byte) bool { return kindOf(data) != "" }

// kindOf tells the formats of pixels by their first bytes.
func kindOf(data []byte) string {
	switch {
	case bytes.HasPrefix(data, []byte("\x89PNG\r\n\x1a\n")):
		return "PNG"
	case bytes.HasPrefix(data, []byte("\xFF\xD8\xFF")):
		return "JPEG"
	case len(data) >= 12 && string(data[:4]) == "RIFF" && string(data[8:12]) == "WEBP":
		return "WebP"
	case bytes.HasPrefix(data, []byte("GIF8")):
		return "GIF"
	}
	return ""
}

// readPixels decodes a picture and trims it.
func readPixels(data []byte) (*Art, error) {
	pixels, left, err := decodePixels(data)
	if err != nil {
		return nil, err
	}
	return pictureArt(pixels, left)
}

// decodePixels decodes a picture, upright. Its size is looked at before its pixels are.
func decodePixels(data []byte) (pixels *image.NRGBA, left []string, err error) {
	kind := kindOf(data)
	var config image.Config
	var decode func() (image.Image, error)
	r := func() *bytes.Reader { return bytes.NewReader(data) }
	switch kind {
	case "PNG":
		config, err = png.DecodeConfig(r())
		decode = func() (image.Image, error) { return png.Decode(r()) }
	case "JPEG":
		config, err = jpeg.DecodeConfig(r())
		decode = func() (image.Image, error) { return jpeg.Decode(r()) }
	case "WebP":
		if len(data) > 20 && string(data[12:16]) == "VP8X" && data[20]&2 != 0 { // the flag of animations (RFC 9649, 2.7)
			return nil, nil, fmt.Errorf("is an animated WebP; a printed mark is one picture: save a single frame")
		}
		config, err = webp.DecodeConfig(r())
		decode = func() (image.Image, error) { return webp.Decode(r()) }
	default:
		return nil, nil, fmt.Errorf("is a %s; save it as PNG, JPEG, WebP or, best, SVG", kind)
	}
	if err != nil {
		return nil, nil, fmt.Errorf("cannot be read as %s: the file is damaged or cut off", kind)
	}
	if w, h := config.Width, config.Height; w < 1 || h < 1 || w > MostPixels/h {
		return nil, nil, fmt.Errorf("has %s × %s pixels; at most %d megapixels are taken", measure.Count(w), measure.Count(h), MostPixels/1_000_000)
	}
	img, err := decode()
	if err != nil {
		return nil, nil, fmt.Errorf("cannot be read as %s: the file is damaged or cut off", kind)
	}
	if _, is := img.(*image.CMYK); is {
		left = append(left, "Its CMYK colours were turned into screen colours, without a profile; compare them.")
	}
	pixels = image.NewNRGBA(image.Rect(0, 0, img.Bounds().Dx(), img.Bounds().Dy()))
	draw.Draw(pixels, pixels.Rect, img, img.Bounds().Min, draw.Src)
	if kind == "JPEG" {
		pixels = upright(pixels, orientation(data))
	}
	return pixels, left, nil
}

// pictureArt trims pixels to those that are seen, and keeps no more of them than print needs.
func pictureArt(pixels *image.NRGBA, left []string) (*Art, error) {
	seen := solid(pixels)
	if seen.Empty() {
		return nil, fmt.Errorf("shows nothing: every pixel is transparent")
	}
	pixels, left = kept(crop(pixels, seen), left)
	p := scene.NewPicture(pixels)
	return newArt([]scene.Item{{Name: "picture", Picture: p, At: scene.Place{Scale: 1}}}, box{0, 0, p.Width, p.Height}, left)
}

// kept makes a picture smaller that has more pixels than print needs.
func kept(pixels *image.NRGBA, left []string) (*image.NRGBA, []string) {
	if most := max(pixels.Rect.Dx(), pixels.Rect.Dy()); most > keptSide {
		w, h := max(1, pixels.Rect.Dx()*keptSide/most), max(1, pixels.Rect.Dy()*keptSide/most)
		small := image.NewNRGBA(image.Rect(0, 0, w, h))
		xdraw.CatmullRom.Scale(small, small.Rect, pixels, pixels.Rect, draw.Src, nil)
		pixels = small
		left = append(left, fmt.Sprintf("It was made smaller, to %s × %s pixels, which print 200 mm wide at 300 dpi.", measure.Count(w), measure.Count(h)))
	}
	return pixels, left
}

// solid is the least rectangle outside which nothing is seen.
func solid(p *image.NRGBA) (r image.Rectangle) {
	if p.Opaque() {
		return p.Rect
	}
	for y := range p.Rect.Dy() {
		row := p.Pix[y*p.Stride:][:4*p.Rect.Dx()]
		for x := range p.Rect.Dx() {
			if row[4*x+3] > 2 {
				r = r.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	return r
}

func crop(p *image.NRGBA, r image.Rectangle) *image.NRGBA {
	if r == p.Rect {
		return p
	}
	out := image.NewNRGBA(image.Rect(0, 0, r.Dx(), r.Dy()))
	draw.Draw(out, out.Rect, p, r.Min, draw.Src)
	return out
}

// orientation is the value of tag 274 in the Exif data of a JPEG, 1 where there is none (Exif 2.32, 4.6.4 A).
func orientation(data []byte) int {
	for i := 2; i+4 <= len(data) && data[i] == 0xFF; {
		marker, size := data[i+1], int(binary.BigEndian.Uint16(data[i+2:]))
		if marker == 0xDA || size < 2 || i+2+size > len(data) {
			return 1
		}
		part := data[i+4 : i+2+size]
		i += 2 + size
		if marker != 0xE1 || !bytes.HasPrefix(part, []byte("Exif\x00\x00")) || len(part) < 14 {
			continue
		}
		tiff := part[6:]
		var order binary.ByteOrder = binary.BigEndian
		if tiff[0] == 'I' {
			order = binary.LittleEndian
		}
		at := int(order.Uint32(tiff[4:]))
		if at < 8 || at+2 > len(tiff) {
			return 1
		}
		for k := range int(order.Uint16(tiff[at:])) {
			e := at + 2 + 12*k
			if e+12 > len(tiff) {
				return 1
			}
			if order.Uint16(tiff[e:]) == 274 {
				if v := int(order.Uint16(tiff[e+8:])); v >= 1 && v <= 8 {
					return v
				}
				return 1
			}
		}
		return 1
	}
	return 1
}

// upright turns pixels stored in one of the eight orientations.
func upright(p *image.NRGBA, orientation int) *image.NRGBA {
	if orientation == 1 {
		return p
	}
	w, h := p.Rect.Dx(), p.Rect.Dy()
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	if orientation > 4 {
		out = image.NewNRGBA(image.Rect(0, 0, h, w))
	}
	for y := range out.Rect.Dy() {
		for x := range out.Rect.Dx() {
			sx, sy := x, y
			switch orientation {
			case 2:
				sx = w - 1 - x
			case 3:
				sx, sy = w-1-x, h-1-y
			case 4:
				sy = h - 1 - y
			case 5:
				sx, sy = y, x
			case 6:
				sx, sy = y, h-1-x
			case 7:
				sx, sy = w-1-y, h-1-x
			case 8:
				sx, sy = w-1-y, x
			}
			copy(out.Pix[y*out.Stride+4*x:][:4], p.Pix[sy*p.Stride+4*sx:][:4])
		}
	}
	return out
}
