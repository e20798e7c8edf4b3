package artwork

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"golang.org/x/image/webp"
	"image"
	"image/jpeg"
	"image/png"

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
func readPixels(data []byte, budget *Budget) (*Art, error) {
	pixels, left, err := decodePixels(data, keptSide, budget)
	if err != nil {
		return nil, err
	}
	return pictureArt(pixels, left)
}

// errManyPixels says that a file shows more pixels than its budget allows.
var errManyPixels = errors.New("shows pictures of more pixels in all than are taken; make them smaller")

// Measure refuses a picture by its size: more pixels than are decoded, a side that is too long, a shape that is no picture's.
// The error is a sentence without its subject.
func Measure(w, h int) error {
	switch {
	case w < 1 || h < 1 || w > MaxPixels/h:
		return fmt.Errorf("has %s × %s pixels; at most %d megapixels are taken", measure.Count(w), measure.Count(h),
			MaxPixels/1_000_000)
	case max(w, h) > MaxSide:
		return fmt.Errorf("has %s × %s pixels; a side has %s at most", measure.Count(w), measure.Count(h), measure.Count(MaxSide))
	case max(w, h) > MaxAspect*min(w, h):
		return fmt.Errorf("has %s × %s pixels, which is a strip; a side is at most %d times as long as the other",
			measure.Count(w), measure.Count(h), MaxAspect)
	}
	return nil
}

// decodePixels decodes a picture, upright. Its size is looked at before its pixels are. A side of more than most pixels is
// made smaller on the way, so that the picture is never in memory twice; 0 keeps all.
func decodePixels(data []byte, most int, budget *Budget) (pixels *image.NRGBA, left []string, err error) {
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
	if err := Measure(config.Width, config.Height); err != nil {
		return nil, nil, err
	}
	if budget.Pixels -= config.Width * config.Height; budget.Pixels < 0 {
		return nil, nil, errManyPixels
	}
	to := &intake{w: config.Width, h: config.Height}
	if side := max(config.Width, config.Height); most > 0 && side > most {
		to.shrink(max(1, config.Width*most/side), max(1, config.Height*most/side))
		w, h := to.out.Rect.Dx(), to.out.Rect.Dy()
		if kind == "JPEG" && orientation(data) > 4 {
			w, h = h, w
		}
		left = append(left, fmt.Sprintf("It was made smaller, to %s × %s pixels, which print 200 mm wide at 300 dpi.",
			measure.Count(w), measure.Count(h)))
	}
	if kind == "PNG" && deep(config) {
		err = deepRows(data, to)
	} else {
		var img image.Image
		if img, err = decode(); err == nil {
			to.take(img)
			if _, is := img.(*image.CMYK); is {
				left = append(left, "Its CMYK colours were turned into screen colours, without a profile; compare them.")
			}
		}
	}
	if err != nil {
		if errors.Is(err, errInterlaced) {
			return nil, nil, err
		}
		return nil, nil, fmt.Errorf("cannot be read as %s: the file is damaged or cut off", kind)
	}
	pixels = to.picture()
	if kind == "JPEG" {
		pixels = upright(pixels, orientation(data))
	}
	return pixels, left, nil
}

// pictureArt trims pixels to those that are seen.
func pictureArt(pixels *image.NRGBA, left []string) (*Art, error) {
	seen := solid(pixels)
	if seen.Empty() {
		return nil, fmt.Errorf("shows nothing: every pixel is transparent")
	}
	p := scene.NewPicture(crop(pixels, seen))
	return newArt([]scene.Item{{Name: "picture", Picture: p, At: scene.Unit}}, box{0, 0, p.Width, p.Height}, left)
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
	for y := range r.Dy() {
		copy(out.Pix[y*out.Stride:][:4*r.Dx()], p.Pix[p.PixOffset(r.Min.X, r.Min.Y+y):])
	}
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
