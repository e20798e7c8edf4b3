// Package pdf writes a scene as a PDF 1.4 file (ISO 32000-1 where the same): one page of the trim size, vector outlines in
// DeviceRGB, no fonts, no transparency.
package pdf

import (
	"bytes"
	"crypto/sha256"
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

// Encode writes a whole file.
func Encode(s *scene.Scene, m export.Meta) []byte {
	w := &writer{}
	w.out.WriteString("%PDF-1.4\n%\xE2\xE3\xCF\xD3\n")
	box := fmt.Sprintf("[0 0 %s %s]", number(s.Width*point), number(s.Height*point))
	w.raw([]byte("<< /Type /Catalog /Pages 2 0 R >>"))
	w.raw([]byte("<< /Type /Pages /Kids [3 0 R] /Count 1 >>"))
	p := &parts{first: firstPart}
	drawn := content(s, p)
	w.raw([]byte("<< /Type /Page /Parent 2 0 R /MediaBox " + box + " /TrimBox " + box + " /Resources " + p.resources() + " /Contents 4 0 R >>"))
	w.raw(pdfpage.Stream("", drawn))
	w.raw([]byte(info(m)))
	for _, o := range p.objects {
		w.raw(o)
	}
	return w.close(1, 5)
}

// firstPart is the object number of the first part that the page refers to.
const firstPart = 6

// parts are the objects beside the page's content: gradients, pictures, states.
type parts struct {
	first                      int // number of the first
	objects                    [][]byte
	shadings, pictures, states strings.Builder // resources
}

// add takes an object and gives its number.
func (p *parts) add(body []byte) int {
	p.objects = append(p.objects, body)
	return p.first + len(p.objects) - 1
}

func (p *parts) resources() string {
	out := ""
	for _, r := range []struct {
		kind string
		list *strings.Builder
	}{{"Shading", &p.shadings}, {"XObject", &p.pictures}, {"ExtGState", &p.states}} {
		if r.list.Len() > 0 {
			out += " /" + r.kind + " <<" + r.list.String() + " >>"
		}
	}
	return "<<" + out + " >>"
}

func (p *parts) shading(it scene.Item) string {
	n := p.add([]byte(shading(it)))
	fmt.Fprintf(&p.shadings, " /S%d %d 0 R", n, n)
	return fmt.Sprintf("/S%d", n)
}

// picture is an image in DeviceRGB, with its alpha as a soft mask where it has some (ISO 32000-1, 8.9.5 and 11.6.5.3).
func (p *parts) picture(pic *scene.Picture) string {
	w, h := pic.Pixels.Rect.Dx(), pic.Pixels.Rect.Dy()
	head := fmt.Sprintf("/Type /XObject /Subtype /Image /Width %d /Height %d /BitsPerComponent 8", w, h)
	colours, alpha := make([]byte, 0, 3*w*h), make([]byte, 0, w*h)
	for y := range h {
		row := pic.Pixels.Pix[y*pic.Pixels.Stride:][:4*w]
		for i := 0; i < len(row); i += 4 {
			colours, alpha = append(colours, row[i:i+3]...), append(alpha, row[i+3])
		}
	}
	mask := ""
	if !pic.Opaque() {
		mask = fmt.Sprintf(" /SMask %d 0 R", p.add(pdfpage.Stream(head+" /ColorSpace /DeviceGray", alpha)))
	}
	n := p.add(pdfpage.Stream(head+" /ColorSpace /DeviceRGB"+mask, colours))
	fmt.Fprintf(&p.pictures, " /P%d %d 0 R", n, n)
	return fmt.Sprintf("/P%d", n)
}

// fade is a state in which what is painted lets through what lies beneath (ISO 32000-1, 11.6.4.4).
func (p *parts) fade(f float64) string {
	n := p.add(fmt.Appendf(nil, "<< /Type /ExtGState /ca %s >>", number(1-f)))
	fmt.Fprintf(&p.states, " /F%d %d 0 R", n, n)
	return fmt.Sprintf("/F%d", n)
}

// shading is a gradient in the units of its item's path: axial or radial, its stops as one stitched function (ISO 32000-1, 8.7.4.5 and
// 7.10.4).
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
		functions = append(functions, "<< /FunctionType 2 /Domain [0 1] /C0 "+colour(stops[i-1].Colour)+" /C1 "+colour(stops[i].Colour)+" /N 1 >>")
		encode = append(encode, "0 1")
		if i < len(stops)-1 {
			bounds = append(bounds, precise(stops[i].At))
		}
	}
	function := "<< /FunctionType 3 /Domain [0 1] /Functions [" + strings.Join(functions, " ") + "] /Bounds [" + strings.Join(bounds, " ") + "] /Encode [" + strings.Join(encode, " ") + "] >>"
	kind, coords := 2, ""
	if g.Radial {
		middle := precise(g.X0) + " " + precise(g.Y0)
		kind, coords = 3, middle+" 0 "+middle+" "+precise(g.Radius)
	} else {
		coords = precise(g.X0) + " " + precise(g.Y0) + " " + precise(g.X1) + " " + precise(g.Y1)
	}
	return fmt.Sprintf("<< /ShadingType %d /ColorSpace /DeviceRGB /Coords [%s] /Extend [true true] /Function %s >>", kind, coords, function)
}

// writer remembers where each object starts.
type writer struct {
	out     bytes.Buffer
	offsets []int
}

// raw writes the next object.
func (w *writer) raw(body []byte) {
	w.offsets = append(w.offsets, w.out.Len())
	fmt.Fprintf(&w.out, "%d 0 obj\n%s\nendobj\n", len(w.offsets), body)
}

func (w *writer) close(root, info int) []byte {
	id := sha256.Sum256(w.out.Bytes())
	start := w.out.Len()
	fmt.Fprintf(&w.out, "xref\n0 %d\n0000000000 65535 f \n", len(w.offsets)+1)
	for _, at := range w.offsets {
		fmt.Fprintf(&w.out, "%010d 00000 n \n", at)
	}
	fmt.Fprintf(&w.out, "trailer\n<< /Size %d /Root %d 0 R /Info %d 0 R /ID [<%X> <%X>] >>\nstartxref\n%d\n%%%%EOF\n",
		len(w.offsets)+1, root, info, id[:16], id[:16], start)
	return w.out.Bytes()
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
		k := it.At.Scale * point
		fmt.Fprintf(&b, "q %s 0 0 %s %s %s cm\n", precise(k), precise(-k), precise(it.At.X*point), precise((s.Height-it.At.Y)*point))
		if it.Fade > 0 {
			b.WriteString(p.fade(it.Fade) + " gs\n")
		}
		if it.Clip != nil {
			outline(&b, *it.Clip)
			b.WriteString("W n\n")
		}
		if pic := it.Picture; pic != nil { // a unit square whose first row lies on top
			fmt.Fprintf(&b, "%s 0 0 %s %s %s cm %s Do Q\n", precise(pic.Width), precise(-pic.Height), precise(pic.X), precise(pic.Y+pic.Height), p.picture(pic))
			continue
		}
		fmt.Fprintf(&b, "%s %s %s rg\n", channel(it.Fill.R), channel(it.Fill.G), channel(it.Fill.B))
		outline(&b, it.Path)
		if it.Shade == nil {
			b.WriteString("f Q\n")
			continue
		}
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
