// Package pdf writes a scene as a PDF 1.4 file (ISO 32000-1 where the same): one page of the trim size, vector outlines in
// DeviceRGB, no fonts, no transparency.
package pdf

import (
	"bytes"
	"compress/zlib"
	"crypto/sha256"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf16"

	"sodrik/internal/core/export"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// point is millimetres to points, of which 72 make an inch.
const point = 72 / 25.4

// Encode writes a whole file.
func Encode(s *scene.Scene, m export.Meta) []byte {
	w := &writer{}
	w.out.WriteString("%PDF-1.4\n%\xE2\xE3\xCF\xD3\n")
	box := fmt.Sprintf("[0 0 %s %s]", number(s.Width*point), number(s.Height*point))
	w.object(1, "<< /Type /Catalog /Pages 2 0 R >>")
	w.object(2, "<< /Type /Pages /Kids [3 0 R] /Count 1 >>")
	w.object(3, "<< /Type /Page /Parent 2 0 R /MediaBox "+box+" /TrimBox "+box+" /Resources "+resources(s)+" /Contents 4 0 R >>")
	w.stream(4, content(s))
	w.object(5, info(m))
	n := firstShading
	for _, it := range s.Items {
		if !it.Shade.None() {
			w.object(n, shading(it))
			n++
		}
	}
	return w.close(1, 5)
}

// firstShading is the object number of the first gradient.
const firstShading = 6

func resources(s *scene.Scene) string {
	out, n := "", firstShading
	for _, it := range s.Items {
		if !it.Shade.None() {
			out += fmt.Sprintf(" /S%d %d 0 R", n, n)
			n++
		}
	}
	if out == "" {
		return "<< >>"
	}
	return "<< /Shading <<" + out + " >> >>"
}

// shading is a gradient in the units of its item's path: axial or radial, its stops as one stitched function (ISO 32000-1, 8.7.4.5 and
// 7.10.4).
func shading(it scene.Item) string {
	g := it.Shade
	var functions, bounds, encode []string
	stops := g.Stops[:g.N]
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
	if g.Kind == "radial" {
		middle := precise(it.Side / 2)
		kind, coords = 3, middle+" "+middle+" 0 "+middle+" "+middle+" "+precise(ink.Radius*it.Side)
	} else {
		x0, y0, x1, y1 := g.Line()
		coords = precise(x0*it.Side) + " " + precise(y0*it.Side) + " " + precise(x1*it.Side) + " " + precise(y1*it.Side)
	}
	return fmt.Sprintf("<< /ShadingType %d /ColorSpace /DeviceRGB /Coords [%s] /Extend [true true] /Function %s >>", kind, coords, function)
}

// writer remembers where each object starts.
type writer struct {
	out     bytes.Buffer
	offsets []int
}

func (w *writer) object(n int, body string) {
	w.offsets = append(w.offsets, w.out.Len())
	fmt.Fprintf(&w.out, "%d 0 obj\n%s\nendobj\n", n, body)
}

func (w *writer) stream(n int, data []byte) {
	var z bytes.Buffer
	c, _ := zlib.NewWriterLevel(&z, zlib.BestCompression)
	c.Write(data) // a bytes.Buffer takes everything
	c.Close()
	w.object(n, fmt.Sprintf("<< /Length %d /Filter /FlateDecode >>\nstream\n%s\nendstream", z.Len(), z.Bytes()))
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
func content(s *scene.Scene) []byte {
	var b bytes.Buffer
	shade := firstShading
	for _, it := range s.Items {
		k := it.At.Scale * point
		fmt.Fprintf(&b, "q %s 0 0 %s %s %s cm\n", precise(k), precise(-k), precise(it.At.X*point), precise((s.Height-it.At.Y)*point))
		fmt.Fprintf(&b, "%s %s %s rg\n", channel(it.Fill.R), channel(it.Fill.G), channel(it.Fill.B))
		points := it.Path.Points
		put := func(n int, op string) {
			for _, p := range points[:n] {
				b.WriteString(number(p.X) + " " + number(p.Y) + " ")
			}
			b.WriteString(op + "\n")
			points = points[n:]
		}
		for _, op := range it.Path.Ops {
			switch op {
			case scene.Move:
				put(1, "m")
			case scene.Line:
				put(1, "l")
			case scene.Cubic:
				put(3, "c")
			case scene.Close:
				put(0, "h")
			}
		}
		if it.Shade.None() {
			b.WriteString("f Q\n")
			continue
		}
		fmt.Fprintf(&b, "W n /S%d sh Q\n", shade) // the path clips the gradient
		shade++
	}
	return b.Bytes()
}

func channel(v uint8) string  { return trim(strconv.FormatFloat(float64(v)/255, 'f', 4, 64)) }
func number(f float64) string { return trim(strconv.FormatFloat(f, 'f', 4, 64)) }

// precise is for matrices: an error there is multiplied by every coordinate.
func precise(f float64) string { return trim(strconv.FormatFloat(f, 'f', 8, 64)) }

func trim(s string) string {
	s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	if s == "" || s == "-0" {
		return "0"
	}
	return s
}
