package bitmap

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"

	"github.com/hhrutter/lzw"

	"sodrik/internal/core/export"
	"sodrik/internal/core/separation"
)

// TIFF draws plates dots wide and writes them as a TIFF 6.0 in CMYK (section 16), a byte an ink, packed by LZW (section 13),
// its resolution in dots an inch. Spot inks lie in samples of their own behind the four, with their names among the inks
// (section 16, InkNames).
func TIFF(s *separation.Sheet, dots int, m export.Meta) ([]byte, error) {
	planes, w, h, err := s.Raster(dots)
	if err != nil {
		return nil, err
	}
	n := len(planes)
	var strips [][]byte
	const rows = 64
	for y := 0; y < h; y += rows {
		var raw bytes.Buffer
		for k := y * w; k < min(y+rows, h)*w; k++ {
			for _, plane := range planes {
				raw.WriteByte(plane[k])
			}
		}
		packed, err := lzwPacked(raw.Bytes())
		if err != nil {
			return nil, err
		}
		strips = append(strips, packed)
	}
	var names []byte
	for _, p := range s.Plates {
		names = append(append(names, p.Name...), 0)
	}
	bits := make([]uint16, n)
	for i := range bits {
		bits[i] = 8
	}
	t := &tiff{}
	t.shorts(258, bits...)
	t.shorts(259, 5) // LZW
	t.shorts(262, 5) // separated
	t.shorts(277, uint16(n))
	t.shorts(284, 1) // chunky
	t.shorts(332, map[bool]uint16{true: 1, false: 2}[n == 4])
	t.bytes(333, names)
	t.shorts(334, uint16(n))
	if n > 4 {
		extra := make([]uint16, n-4) // not said to be alpha
		t.shorts(338, extra...)
	}
	return t.write(w, h, rows, strips, float64(dots)/s.Width*25.4, m), nil
}

func lzwPacked(raw []byte) ([]byte, error) {
	var out bytes.Buffer
	z := lzw.NewWriter(&out, true)
	if _, err := z.Write(raw); err != nil {
		return nil, fmt.Errorf("lzw: %w", err)
	}
	if err := z.Close(); err != nil {
		return nil, fmt.Errorf("lzw: %w", err)
	}
	return out.Bytes(), nil
}

// tiff is a directory of tags while it is written, big endian.
type tiff struct{ fields []tiffField }

type tiffField struct {
	tag, kind uint16
	count     int
	data      []byte
}

func (t *tiff) shorts(tag uint16, v ...uint16) {
	var b []byte
	for _, x := range v {
		b = binary.BigEndian.AppendUint16(b, x)
	}
	t.fields = append(t.fields, tiffField{tag, 3, len(v), b})
}

func (t *tiff) longs(tag uint16, v ...uint32) {
	var b []byte
	for _, x := range v {
		b = binary.BigEndian.AppendUint32(b, x)
	}
	t.fields = append(t.fields, tiffField{tag, 4, len(v), b})
}

func (t *tiff) bytes(tag uint16, b []byte) {
	t.fields = append(t.fields, tiffField{tag, 2, len(b), b})
}

// rational is a resolution to a ten thousandth.
func (t *tiff) rational(tag uint16, f float64) {
	b := binary.BigEndian.AppendUint32(nil, uint32(math.Round(f*10000)))
	t.fields = append(t.fields, tiffField{tag, 5, 1, binary.BigEndian.AppendUint32(b, 10000)})
}

func (t *tiff) write(w, h, rows int, strips [][]byte, dpi float64, m export.Meta) []byte {
	t.longs(256, uint32(w))
	t.longs(257, uint32(h))
	t.longs(278, uint32(rows))
	t.rational(282, dpi)
	t.rational(283, dpi)
	t.shorts(296, 2) // inch
	t.bytes(305, append([]byte(export.Producer), 0))
	if m.Title != "" {
		t.bytes(270, append([]byte(m.Title), 0))
	}
	offsets, counts := make([]uint32, len(strips)), make([]uint32, len(strips))
	at := uint32(8)
	for i, s := range strips {
		offsets[i], counts[i] = at, uint32(len(s))
		at += uint32(len(s))
	}
	pad := at % 2
	at += pad
	t.longs(273, offsets...)
	t.longs(279, counts...)
	for i := 1; i < len(t.fields); i++ { // by tag
		for k := i; k > 0 && t.fields[k].tag < t.fields[k-1].tag; k-- {
			t.fields[k], t.fields[k-1] = t.fields[k-1], t.fields[k]
		}
	}
	be := binary.BigEndian
	out := append([]byte("MM\x00\x2A"), be.AppendUint32(nil, at)...)
	for _, s := range strips {
		out = append(out, s...)
	}
	out = append(out, make([]byte, pad)...)
	out = be.AppendUint16(out, uint16(len(t.fields)))
	beyond := at + 2 + uint32(12*len(t.fields)) + 4
	var rest []byte
	for _, f := range t.fields {
		out = be.AppendUint32(be.AppendUint16(be.AppendUint16(out, f.tag), f.kind), uint32(f.count))
		if len(f.data) <= 4 {
			out = append(out, append(f.data[:len(f.data):len(f.data)], make([]byte, 4-len(f.data))...)...)
			continue
		}
		out = be.AppendUint32(out, beyond+uint32(len(rest)))
		rest = append(rest, f.data...)
		if len(rest)%2 == 1 {
			rest = append(rest, 0)
		}
	}
	return append(append(out, 0, 0, 0, 0), rest...)
}
