// Package bitmap writes pixel files of a scene: module edges on pixel edges, the real size told.
package bitmap

import (
	"bytes"
	"encoding/binary"
	"github.com/klauspost/compress/zlib"
	"hash/crc32"
	"image"
	"image/color"
	"image/png"
	"math"
	"slices"
	"strings"

	"sodrik/internal/core/export"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// Size says how many pixels a symbol gets.
type Size struct {
	PerModule int // pixels along one side of a module
	Pixels    int // along one side of the picture
}

// SizeFor gives the least whole number of pixels a module with at least least pixels in all. modules counts the quiet zone.
func SizeFor(modules int, least float64) Size {
	per := max(1, int(math.Ceil(least/float64(modules)-1e-9)))
	return Size{per, per * modules}
}

// Resolution is the pixels an inch at which a picture of so many pixels is side millimetres wide.
func (s Size) Resolution(side float64) float64 { return float64(s.Pixels) / side * 25.4 }

// PNG draws the scene pixels wide and writes a PNG (ISO/IEC 15948) with pHYs, title and description. Up to 256 colours
// become a palette, so that two-colour symbols take one bit a pixel.
func PNG(s *scene.Scene, pixels int, m export.Meta) ([]byte, error) {
	img, err := raster.Draw(s, raster.Fit(s, pixels))
	if err != nil {
		return nil, err
	}
	file, err := encode(img)
	if err != nil {
		return nil, err
	}
	return described(file, float64(pixels)/s.Width*1000, m), nil
}

// described puts resolution, title and description into a PNG, in front of its pixels.
func described(file []byte, pixelsAMetre float64, m export.Meta) []byte {
	perMetre := uint32(math.Round(pixelsAMetre))
	phys := binary.BigEndian.AppendUint32(nil, perMetre)
	phys = append(binary.BigEndian.AppendUint32(phys, perMetre), 1)
	extra := chunk("pHYs", phys)
	for _, t := range [][2]string{{"Title", m.Title}, {"Description", m.Payload}, {"Software", export.Producer}} {
		if t[1] != "" {
			extra = append(extra, text(t[0], t[1])...)
		}
	}
	const afterIHDR = 8 + 25
	return append(append(append([]byte(nil), file[:afterIHDR]...), extra...), file[afterIHDR:]...)
}

// encode writes the picture with the fewest bits a pixel: one with two colours, eight with up to 256, else full colour.
func encode(img *image.NRGBA) ([]byte, error) {
	p := palette(img)
	if p != nil && len(p.Palette) <= 2 {
		return twoColours(p)
	}
	if p == nil {
		return fullColour(img)
	}
	var b bytes.Buffer
	e := png.Encoder{CompressionLevel: png.DefaultCompression}
	err := e.Encode(&b, p)
	return b.Bytes(), err
}

// fullColour writes eight bits a channel, without alpha where all is opaque. Every row is written as its difference from the
// one above (filter type 2, Up; clause 9): in drawings most of that is zero, and trying all five types on each row, as
// encoders do, takes longer than packing them.
func fullColour(img *image.NRGBA) ([]byte, error) {
	w, h := img.Rect.Dx(), img.Rect.Dy()
	channels, kind := 4, byte(6)
	if img.Opaque() {
		channels, kind = 3, 2
	}
	header := binary.BigEndian.AppendUint32(nil, uint32(w))
	header = append(binary.BigEndian.AppendUint32(header, uint32(h)), 8, kind, 0, 0, 0)
	var packed bytes.Buffer
	z, err := zlib.NewWriterLevel(&packed, zlib.BestSpeed)
	if err != nil {
		return nil, err
	}
	row := make([]byte, 1+channels*w)
	row[0] = 2
	above := make([]byte, 4*w)
	for y := range h {
		line := img.Pix[y*img.Stride : y*img.Stride+4*w]
		if channels == 4 {
			for i := range line {
				row[1+i] = line[i] - above[i]
			}
		} else {
			for i, o := 0, 1; i < len(line); i, o = i+4, o+3 {
				row[o], row[o+1], row[o+2] = line[i]-above[i], line[i+1]-above[i+1], line[i+2]-above[i+2]
			}
		}
		above = line
		if _, err := z.Write(row); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	out := append([]byte(signature), chunk("IHDR", header)...)
	out = append(out, chunk("IDAT", packed.Bytes())...)
	return append(out, chunk("IEND", nil)...), nil
}

const signature = "\x89PNG\r\n\x1a\n"

// twoColours writes one bit a pixel. Rows inside a module are alike, so that a row like the one before is written as no
// difference (filter type 2, Up; clause 9), which packs to almost nothing.
func twoColours(p *image.Paletted) ([]byte, error) {
	w, h := p.Bounds().Dx(), p.Bounds().Dy()
	header := binary.BigEndian.AppendUint32(nil, uint32(w))
	header = append(binary.BigEndian.AppendUint32(header, uint32(h)), 1, 3, 0, 0, 0) // depth 1, palette
	var colours, alpha []byte
	for _, c := range p.Palette {
		n := c.(color.NRGBA)
		colours, alpha = append(colours, n.R, n.G, n.B), append(alpha, n.A)
	}
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	row, same := make([]byte, 1+(w+7)/8), make([]byte, 1+(w+7)/8)
	same[0] = 2
	for y := range h {
		line := p.Pix[y*p.Stride : y*p.Stride+w]
		out := same
		if y == 0 || !bytes.Equal(line, p.Pix[(y-1)*p.Stride:(y-1)*p.Stride+w]) {
			out = row
			clear(row)
			for x, v := range line {
				row[1+x>>3] |= v << (7 - x&7)
			}
		}
		if _, err := z.Write(out); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	out := append([]byte(signature), chunk("IHDR", header)...)
	out = append(out, chunk("PLTE", colours)...)
	if slices.Min(alpha) < 255 {
		out = append(out, chunk("tRNS", alpha)...)
	}
	out = append(out, chunk("IDAT", packed.Bytes())...)
	return append(out, chunk("IEND", nil)...), nil
}

// chunk frames data (clause 5.3).
func chunk(kind string, data []byte) []byte {
	out := binary.BigEndian.AppendUint32(nil, uint32(len(data)))
	out = append(append(out, kind...), data...)
	return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(out[4:]))
}

// text is an uncompressed iTXt chunk (clause 11.3.3.4), which holds UTF-8.
func text(key, value string) []byte {
	value = strings.ReplaceAll(strings.ToValidUTF8(value, "\uFFFD"), "\x00", "")
	return chunk("iTXt", append([]byte(key+"\x00\x00\x00\x00\x00"), value...))
}

// palette gives img with a palette, or nil where it has more than 256 colours.
func palette(img *image.NRGBA) *image.Paletted {
	index := map[uint32]uint8{}
	var colours color.Palette
	out := image.NewPaletted(img.Bounds(), nil)
	last, lastIndex := ^uint32(0), uint8(0)
	w := out.Stride
	for i := 0; i < len(out.Pix); i++ {
		if i%w == 0 && i > 0 && bytes.Equal(img.Pix[i*4:(i+w)*4], img.Pix[(i-w)*4:i*4]) {
			copy(out.Pix[i:i+w], out.Pix[i-w:i])
			i += w - 1
			continue
		}
		p := img.Pix[i*4 : i*4+4 : i*4+4]
		c := binary.LittleEndian.Uint32(p)
		if c != last || i == 0 {
			k, ok := index[c]
			if !ok {
				if len(colours) == 256 {
					return nil
				}
				k = uint8(len(colours))
				index[c] = k
				colours = append(colours, color.NRGBA{p[0], p[1], p[2], p[3]})
			}
			last, lastIndex = c, k
		}
		out.Pix[i] = lastIndex
	}
	out.Palette = colours
	return out
}
