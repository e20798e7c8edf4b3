// Package pdf writes a scene as a PDF 1.4 file (ISO 32000-1 where the same): one page of the trim size, vector outlines in
// DeviceRGB, no fonts, no transparency.
package pdf

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf16"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/ps"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
)

// point is millimetres to points, of which 72 make an inch.
const point = 72 / 25.4

// Encode writes a whole file of one page.
func Encode(s *scene.Scene, m export.Meta) []byte {
	var b bytes.Buffer // takes everything
	d := NewDocument(&b, m)
	d.cache.alone = true
	d.Add(s)
	d.Close()
	return b.Bytes()
}

func (p *parts) shading(it scene.Item) string {
	return p.named(&p.shadings, "S", p.add([]byte(shading(it))))
}

// picture is an image in DeviceRGB, with its alpha as a soft mask where it has some (ISO 32000-1, 8.9.5 and 11.6.5.3).
func (p *parts) picture(pic *scene.Picture) string {
	made := p.cache.picture(pic, func() (mask, colours []byte) { return pixels(pic) })
	return p.named(&p.pictures, "P", p.masked(made))
}

// pixels makes the objects of a picture: its mask, nil where it has none, and its colours.
func pixels(pic *scene.Picture) (mask, colours []byte) {
	w, h := pic.Pixels.Rect.Dx(), pic.Pixels.Rect.Dy()
	head := fmt.Sprintf("/Type /XObject /Subtype /Image /Width %d /Height %d /BitsPerComponent 8", w, h)
	all, alpha := make([]byte, 0, 3*w*h), make([]byte, 0, w*h)
	for y := range h {
		row := pic.Pixels.Pix[y*pic.Pixels.Stride:][:4*w]
		for i := 0; i < len(row); i += 4 {
			all, alpha = append(all, row[i:i+3]...), append(alpha, row[i+3])
		}
	}
	if !pic.Opaque() {
		mask = pdfpage.Stream(head+" /ColorSpace /DeviceGray", alpha)
		head += " /SMask " + maskHere
	}
	return mask, pdfpage.Stream(head+" /ColorSpace /DeviceRGB", all)
}

// fade is a state in which what is painted lets through what lies beneath (ISO 32000-1, 11.6.4.4).
func (p *parts) fade(f float64) string {
	return p.named(&p.states, "F", p.add(fmt.Appendf(nil, "<< /Type /ExtGState /ca %s >>", number(1-f))))
}

// shading is a gradient in the units of its item's path: axial or radial, its stops as one stitched function (ISO 32000-1,
// 8.7.4.5 and 7.10.4).
func shading(it scene.Item) string {
	g := it.Shade
	var functions, bounds, encode []string
	stops := g.Stops
	if stops[0].At > 0 { // functions begin at 0 and end at 1
		stops = append([]ink.Stop{{At: 0, Colour: stops[0].Colour}}, stops...)
	}
	if last := stops[len(stops)-1]; last.At < 1 {
		stops = append(stops[:len(stops):len(stops)], ink.Stop{At: 1, Colour: last.Colour})
	}
	colour := func(c ink.Colour) string { return "[" + channel(c.R) + " " + channel(c.G) + " " + channel(c.B) + "]" }
	for i := 1; i < len(stops); i++ {
		functions = append(functions,
			"<< /FunctionType 2 /Domain [0 1] /C0 "+colour(stops[i-1].Colour)+" /C1 "+colour(stops[i].Colour)+" /N 1 >>")
		encode = append(encode, "0 1")
		if i < len(stops)-1 {
			bounds = append(bounds, precise(stops[i].At))
		}
	}
	function := "<< /FunctionType 3 /Domain [0 1] /Functions [" + strings.Join(functions, " ") + "] /Bounds [" +
		strings.Join(bounds, " ") + "] /Encode [" + strings.Join(encode, " ") + "] >>"
	kind, coords := 2, ""
	if g.Radial {
		middle := precise(g.X0) + " " + precise(g.Y0)
		kind, coords = 3, middle+" 0 "+middle+" "+precise(g.Radius)
	} else {
		coords = precise(g.X0) + " " + precise(g.Y0) + " " + precise(g.X1) + " " + precise(g.Y1)
	}
	return fmt.Sprintf("<< /ShadingType %d /ColorSpace /DeviceRGB /Coords [%s] /Extend [true true] /Function %s >>", kind,
		coords, function)
}

func info(m export.Meta) string {
	s := "<< /Producer " + text(export.Producer)
	if m.Title != "" {
		s += " /Title " + text(m.Title)
	}
	if m.Payload != "" {
		s += " /Subject " + text(m.Payload)
	}
	if !m.Created.IsZero() {
		d := text(m.Created.UTC().Format("D:20060102150405Z"))
		s += " /CreationDate " + d + " /ModDate " + d
	}
	return s + " >>"
}

// text writes a text string: PDFDocEncoding where ASCII does, else UTF-16BE with its mark (ISO 32000-1, 7.9.2.2).
func text(s string) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	if strings.IndexFunc(s, func(r rune) bool { return r < ' ' || r > '~' }) < 0 {
		return "(" + strings.NewReplacer(`\`, `\\`, "(", `\(`, ")", `\)`).Replace(s) + ")"
	}
	var b strings.Builder
	b.WriteString("<FEFF")
	for _, u := range utf16.Encode([]rune(s)) {
		fmt.Fprintf(&b, "%04X", u)
	}
	return b.String() + ">"
}

// content turns the y axis over and scales each item's own units to points with a matrix, so that outlines on whole units
// keep whole numbers.
func content(s *scene.Scene, p *parts) []byte {
	var b bytes.Buffer
	for _, it := range s.Items {
		b.WriteString("q " + ps.Matrix(it.At, s.Height, 0, 8) + " cm\n")
		if it.Fade > 0 {
			b.WriteString(p.fade(it.Fade) + " gs\n")
		}
		if it.Clip != nil {
			outline(&b, *it.Clip)
			b.WriteString("W n\n")
		}
		if pic := it.Picture; pic != nil { // a unit square whose first row lies on top
			fmt.Fprintf(&b, "%s 0 0 %s %s %s cm %s Do Q\n", precise(pic.Width), precise(-pic.Height), precise(pic.X),
				precise(pic.Y+pic.Height), p.picture(pic))
			continue
		}
		fmt.Fprintf(&b, "%s %s %s rg\n", channel(it.Fill.R), channel(it.Fill.G), channel(it.Fill.B))
		if it.Shade == nil {
			p.filled(&b, &it.Path, it.Letters)
			b.WriteString("Q\n")
			continue
		}
		outline(&b, it.Path)
		b.WriteString("W n " + p.shading(it) + " sh Q\n") // the path clips the gradient
	}
	return b.Bytes()
}

// outline writes the steps of a path.
func outline(b *bytes.Buffer, path scene.Path) { ps.Outline(b, path, 4) }

func channel(v uint8) string  { return ps.Number(float64(v)/255, 4) }
func number(f float64) string { return ps.Number(f, 4) }

// precise is for matrices: an error there is multiplied by every coordinate.
func precise(f float64) string { return ps.Number(f, 8) }
