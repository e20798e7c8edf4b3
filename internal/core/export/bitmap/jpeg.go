package bitmap

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"math"

	"github.com/HugoSmits86/nativewebp"

	"sodrik/internal/core/export"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// JPEG draws the scene pixels wide, on a ground where it is transparent, and writes a JPEG of a quality from 1 to 100 with
// its resolution and title in Exif (CIPA DC-008, 4.6.4), which holds a resolution exactly.
func JPEG(s *scene.Scene, pixels, quality int, ground ink.Colour, m export.Meta) ([]byte, error) {
	img, err := raster.Draw(s, raster.Fit(s, pixels))
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	var flat image.Image = on(img, ground)
	if g := grey(flat.(*image.RGBA)); g != nil {
		flat = g
	}
	if err := jpeg.Encode(&b, flat, &jpeg.Options{Quality: quality}); err != nil {
		return nil, err
	}
	file := b.Bytes()
	segment := exif(float64(pixels)/s.Width*25.4, m.Title)
	out := append([]byte{0xFF, 0xD8, 0xFF, 0xE1}, binary.BigEndian.AppendUint16(nil, uint16(2+len(segment)))...)
	return append(append(out, segment...), file[2:]...), nil
}

// on is the picture without alpha.
func on(img *image.NRGBA, ground ink.Colour) *image.RGBA {
	if img.Opaque() {
		return &image.RGBA{Pix: img.Pix, Stride: img.Stride, Rect: img.Rect} // the same bytes, which the encoder reads faster
	}
	out := image.NewRGBA(img.Rect)
	draw.Draw(out, out.Rect, image.NewUniform(color.NRGBA{ground.R, ground.G, ground.B, 255}), image.Point{}, draw.Src)
	draw.Draw(out, out.Rect, img, image.Point{}, draw.Over)
	return out
}

// grey is an opaque picture in which no pixel has a colour, as one channel, which is a third of the work and of the
// file; nil where one has.
func grey(img *image.RGBA) image.Image {
	out := image.NewGray(img.Rect)
	for y := range img.Rect.Dy() {
		row, to := img.Pix[y*img.Stride:][:4*img.Rect.Dx()], out.Pix[y*out.Stride:]
		for i := 0; i < len(row); i += 4 {
			if row[i] != row[i+1] || row[i] != row[i+2] {
				return nil
			}
			to[i/4] = row[i]
		}
	}
	return out
}

// exif is an Exif segment with a resolution in dots an inch, and a description in ASCII.
func exif(dpi float64, title string) []byte {
	ascii := make([]byte, 0, len(title)+1)
	for _, r := range title {
		if r >= ' ' && r <= '~' {
			ascii = append(ascii, byte(r))
		} else {
			ascii = append(ascii, '?')
		}
	}
	ascii = append(ascii[:min(len(ascii), 500)], 0)
	type field struct {
		tag, kind uint16
		data      []byte
		count     uint32
	}
	be := binary.BigEndian
	const over = 1000
	rational := be.AppendUint32(be.AppendUint32(nil, uint32(math.Round(dpi*over))), over)
	fields := []field{{0x010E, 2, ascii, uint32(len(ascii))}, {0x011A, 5, rational, 1}, {0x011B, 5, rational, 1},
		{0x0128, 3, []byte{0, 2, 0, 0}, 1}, {0x0131, 2, append([]byte(export.Producer), 0), uint32(len(export.Producer) + 1)}}
	out := []byte("Exif\x00\x00MM\x00\x2A\x00\x00\x00\x08")
	out = be.AppendUint16(out, uint16(len(fields)))
	at := 8 + 2 + 12*len(fields) + 4
	var rest []byte
	for _, f := range fields {
		out = be.AppendUint32(be.AppendUint16(be.AppendUint16(out, f.tag), f.kind), f.count)
		if len(f.data) <= 4 {
			out = append(out, append(f.data[:len(f.data):len(f.data)], make([]byte, 4-len(f.data))...)...)
			continue
		}
		out = be.AppendUint32(out, uint32(at+len(rest)))
		rest = append(rest, f.data...)
		if len(rest)%2 == 1 {
			rest = append(rest, 0)
		}
	}
	return append(append(out, 0, 0, 0, 0), rest...)
}

// WebP draws the scene pixels wide and writes a WebP without loss (RFC 9649, 3). It holds no resolution: the format has none.
func WebP(s *scene.Scene, pixels int) ([]byte, error) {
	img, err := raster.Draw(s, raster.Fit(s, pixels))
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = nativewebp.Encode(&b, img, nil)
	return b.Bytes(), err
}

// Dots draws the scene in dots of a printer, each dark or light, one bit a pixel; dark parts lose thin dots at their right
// and lower edges, which is what heat or ink adds.
func Dots(s *scene.Scene, dots, dpi, thin int, m export.Meta) ([]byte, error) {
	y, err := raster.Luminance(s, raster.Fit(s, dots), 1)
	if err != nil {
		return nil, err
	}
	w := dots
	h := len(y) / w
	p := image.NewPaletted(image.Rect(0, 0, w, h), color.Palette{color.NRGBA{255, 255, 255, 255}, color.NRGBA{0, 0, 0, 255}})
	dark := func(x, row int) bool { return x < w && row < h && y[row*w+x] < 0.5 }
	for row := range h {
		for x := range w {
			on := dark(x, row)
			for d := 1; on && d <= thin; d++ {
				on = dark(x+d, row) && dark(x, row+d)
			}
			if on {
				p.Pix[row*p.Stride+x] = 1
			}
		}
	}
	file, err := twoColours(p)
	if err != nil {
		return nil, err
	}
	return described(file, float64(dpi)/25.4*1000, m), nil
}
