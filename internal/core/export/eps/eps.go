// Package eps writes plates as an Encapsulated PostScript file, version 3.0 of the format, level 3 of the language
// (PostScript Language Reference, third edition; Technical Note 5002): outlines in CMYK and spot inks, gradients as shadings,
// no fonts.
package eps

import (
	"bytes"
	"compress/zlib"
	"encoding/ascii85"
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/ps"
	"sodrik/internal/core/separation"
)

// point is millimetres to points.
const point = 72 / 25.4

// Encode writes a whole file.
func Encode(s *separation.Sheet, m export.Meta) []byte {
	var b bytes.Buffer
	w, h := s.Width*point, s.Height*point
	fmt.Fprintf(&b, "%%!PS-Adobe-3.0 EPSF-3.0\n%%%%BoundingBox: 0 0 %d %d\n%%%%HiResBoundingBox: 0 0 %s %s\n",
		int(math.Ceil(w-1e-6)), int(math.Ceil(h-1e-6)), number(w), number(h))
	fmt.Fprintf(&b, "%%%%Creator: (%s)\n%%%%Title: (%s)\n", export.Producer, ascii(m.Title))
	if !m.Created.IsZero() {
		fmt.Fprintf(&b, "%%%%CreationDate: (%s)\n", m.Created.UTC().Format("2006-01-02 15:04:05"))
	}
	var process, spots []string
	for i, p := range s.Plates {
		if !s.Used(i) {
			continue
		}
		if p.Spot {
			spots = append(spots, "("+ascii(p.Name)+")")
		} else {
			process = append(process, p.Name)
		}
	}
	if len(process) > 0 {
		fmt.Fprintf(&b, "%%%%DocumentProcessColors: %s\n", strings.Join(process, " "))
	}
	if len(spots) > 0 {
		fmt.Fprintf(&b, "%%%%DocumentCustomColors: %s\n", strings.Join(spots, "\n%%+ "))
	}
	b.WriteString("%%LanguageLevel: 3\n%%Pages: 1\n%%EndComments\n%%Page: 1 1\ngsave\n")
	b.WriteString("/m {moveto} bind def /l {lineto} bind def /c {curveto} bind def /h {closepath} bind def\n")
	for _, it := range s.Items {
		b.WriteString("gsave [" + ps.Matrix(it.At, s.Height, 0, 6) + "] concat\n")
		if it.Clip != nil {
			ps.Outline(&b, *it.Clip, 6)
			b.WriteString("clip newpath\n")
		}
		switch {
		case it.Image != nil:
			picture(&b, it.Image)
		case it.Shade != nil:
			ps.Outline(&b, it.Path, 6)
			b.WriteString("clip newpath\n" + ps.Shading(it) + " shfill\n")
		default:
			b.WriteString(ink(s, it.Shares))
			ps.Outline(&b, it.Path, 6)
			b.WriteString("fill\n")
		}
		b.WriteString("grestore\n")
	}
	b.WriteString("grestore\nshowpage\n%%EOF\n")
	return b.Bytes()
}

// ink sets the colour of an item: one spot ink, or the four of process.
func ink(s *separation.Sheet, shares []float64) string {
	for i := 4; i < len(shares); i++ {
		if shares[i] > 0 {
			p := s.Plates[i]
			var scale []string
			for k := range p.Alternate {
				last := "dup " + number(p.Alternate[k]/100) + " mul exch"
				if k == 3 {
					last = number(p.Alternate[k]/100) + " mul"
				}
				scale = append(scale, last)
			}
			return fmt.Sprintf("[/Separation (%s) /DeviceCMYK {%s}] setcolorspace %s setcolor\n", ascii(p.Name),
				strings.Join(scale, " "), number(shares[i]/100))
		}
	}
	return fmt.Sprintf("%s %s %s %s setcmykcolor\n", number(shares[0]/100), number(shares[1]/100), number(shares[2]/100),
		number(shares[3]/100))
}

// picture writes an image in four inks; pixels that are not there are masked by a stencil (image dictionary type 3).
func picture(b *bytes.Buffer, m *separation.Image) {
	f := m.Frame
	fmt.Fprintf(b, "%s %s translate %s %s scale\n", number(f.X), number(f.Y), number(f.Width), number(f.Height))
	data := make([]byte, 0, 5*m.W*m.H)
	for i := range m.W * m.H { // interleaved by sample, the mask first
		v := byte(255)
		if m.Solid(i) {
			v = 0
		}
		data = append(data, v)
		data = append(data, m.CMYK[4*i:4*i+4]...)
	}
	matrix := fmt.Sprintf("/ImageMatrix [%d 0 0 %d 0 0]", m.W, m.H)
	fmt.Fprintf(b,
		"/DeviceCMYK setcolorspace\n<< /ImageType 3 /InterleaveType 1 /DataDict << /ImageType 1 /Width %d /Height %d %s "+
			"/BitsPerComponent 8 /Decode [0 1 0 1 0 1 0 1]\n/DataSource currentfile /ASCII85Decode filter /FlateDecode filter "+
			">> /MaskDict << /ImageType 1 /Width %d /Height %d %s /BitsPerComponent 8 /Decode [0 1] >> >> image\n",
		m.W, m.H, matrix, m.W, m.H, matrix)
	var z, text bytes.Buffer
	c := zlib.NewWriter(&z)
	c.Write(data) // a bytes.Buffer takes everything
	c.Close()
	e := ascii85.NewEncoder(&text)
	e.Write(z.Bytes())
	e.Close()
	for t := text.Bytes(); len(t) > 0; {
		n := min(len(t), 76)
		if t[0] == '%' { // a line that begins with it would be taken for a comment
			b.WriteByte(' ')
		}
		b.Write(t[:n])
		b.WriteByte('\n')
		t = t[n:]
	}
	b.WriteString("~>\n")
}

func number(f float64) string { return ps.Number(f, 6) }

// ascii is text for a comment or a string: what is none becomes a question mark, brackets are kept apart.
func ascii(s string) string {
	var b strings.Builder
	for _, r := range s {
		switch {
		case r == '(' || r == ')' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r >= ' ' && r <= '~':
			b.WriteRune(r)
		default:
			b.WriteByte('?')
		}
	}
	return b.String()[:min(b.Len(), 200)]
}
