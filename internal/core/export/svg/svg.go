// Package svg writes a scene as SVG 1.1, true to size: width and height in millimetres, the view box in the units of the
// scene's outlines, so that coordinates stay short.
package svg

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"hash/fnv"
	"html"
	"math"
	"strconv"
	"strings"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/ps"
	"sodrik/internal/core/scene"
)

// Encode writes a whole file.
func Encode(s *scene.Scene, m export.Meta) []byte {
	var b bytes.Buffer
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" width="` + number(s.Width) + `mm" height="` + number(s.Height) +
		`mm" ` + viewBox(s) + ">\n")
	if m.Title != "" {
		fmt.Fprintf(&b, "<title>%s</title>\n", escape(m.Title))
	}
	if m.Payload != "" {
		fmt.Fprintf(&b, "<desc>%s</desc>\n", escape(m.Payload))
	}
	items(&b, s)
	b.WriteString("</svg>\n")
	return b.Bytes()
}

// Inline writes the scene for a page: no size, no words but the given label, and attributes as given, which must be safe.
func Inline(s *scene.Scene, label, attributes string) string {
	var b bytes.Buffer
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" ` + viewBox(s) + ` role="img" aria-label="` + escape(label) + `" ` +
		attributes + ">")
	items(&b, s)
	b.WriteString("</svg>")
	return b.String()
}

// escape makes text fit for XML; characters that XML 1.0 cannot hold are left out.
func escape(s string) string {
	return html.EscapeString(strings.Map(func(r rune) rune {
		if r < ' ' && r != '\t' && r != '\n' || r == 0xFFFE || r == 0xFFFF {
			return -1
		}
		return r
	}, strings.ToValidUTF8(s, "\uFFFD")))
}

// unit is the scale of the first item that is not paper, which is the modules': their coordinates stay short.
func unit(s *scene.Scene) float64 {
	for _, it := range s.Items {
		if k := it.At.Size(); k != 0 {
			return k
		}
	}
	return 1
}

func viewBox(s *scene.Scene) string {
	u := unit(s)
	return `viewBox="0 0 ` + number(s.Width/u) + ` ` + number(s.Height/u) + `"`
}

func items(b *bytes.Buffer, s *scene.Scene) {
	u := unit(s)
	for _, it := range s.Items {
		if it.At.Upright() {
			item(b, it, it.At.A/u, it.At.X/u, it.At.Y/u)
			continue
		}
		// What is turned is drawn upright at its size, and then turned, so that coordinates stay short.
		k := it.At.Size()
		if k == 0 {
			continue // it falls onto a line
		}
		fmt.Fprintf(b, `<g transform="matrix(%s)">`+"\n",
			numbers(it.At.A/k, it.At.B/k, it.At.C/k, it.At.D/k, it.At.X/u, it.At.Y/u))
		item(b, it, k/u, 0, 0)
		b.WriteString("</g>\n")
	}
}

// numbers writes a matrix; an error in it is multiplied by every coordinate.
func numbers(list ...float64) string {
	out := make([]string, len(list))
	for i, f := range list {
		out[i] = ps.Number(f, 8)
	}
	return strings.Join(out, " ")
}

func item(b *bytes.Buffer, it scene.Item, scale, dx, dy float64) {
	rest := ""
	if it.Fade > 0 {
		rest = ` opacity="` + number(1-it.Fade) + `"`
	}
	if it.Clip != nil {
		rest += ` clip-path="url(#` + clip(b, *it.Clip, scale, dx, dy) + `)"`
	}
	if p := it.Picture; p != nil {
		fmt.Fprintf(b, `<image x="%s" y="%s" width="%s" height="%s" preserveAspectRatio="none"%s href="data:image/png;base64,`,
			number(p.X*scale+dx), number(p.Y*scale+dy), number(p.Width*scale), number(p.Height*scale), rest)
		b.WriteString(base64.StdEncoding.EncodeToString(p.PNG()))
		b.WriteString("\"/>\n")
		return
	}
	fill := it.Fill.String()
	if it.Current {
		fill = "currentColor"
	}
	if it.Shade != nil {
		fill = gradient(b, it, scale, dx, dy)
	}
	b.WriteString(`<path fill="` + fill + `"` + rest + ` d="`)
	path(b, it.Path, scale, dx, dy)
	b.WriteString("\"/>\n")
}

// named gives a definition a name that follows from what it says, so that drawings on one page do not take each other's.
func named(letter string, said ...any) string {
	h := fnv.New32a()
	fmt.Fprint(h, said...)
	return fmt.Sprintf("%s%x", letter, h.Sum32())
}

// clip writes the definition of a clip and gives its name.
func clip(b *bytes.Buffer, p scene.Path, scale, dx, dy float64) string {
	var d bytes.Buffer
	path(&d, p, scale, dx, dy)
	id := named("c", d.String())
	fmt.Fprintf(b, `<clipPath id="%s"><path d="%s"/></clipPath>`+"\n", id, d.String())
	return id
}

// gradient writes a definition and gives the reference to it.
func gradient(b *bytes.Buffer, it scene.Item, scale, dx, dy float64) string {
	g := it.Shade
	at := func(x, y float64) (string, string) { return number(round(x*scale + dx)), number(round(y*scale + dy)) }
	var d strings.Builder
	tag := "linearGradient"
	if g.Radial {
		tag = "radialGradient"
		x, y := at(g.X0, g.Y0)
		fmt.Fprintf(&d, `gradientUnits="userSpaceOnUse" cx="%s" cy="%s" r="%s">`, x, y, number(round(g.Radius*scale)))
	} else {
		ax, ay := at(g.X0, g.Y0)
		bx, by := at(g.X1, g.Y1)
		fmt.Fprintf(&d, `gradientUnits="userSpaceOnUse" x1="%s" y1="%s" x2="%s" y2="%s">`, ax, ay, bx, by)
	}
	for _, s := range g.Stops {
		fmt.Fprintf(&d, `<stop offset="%s" stop-color="%s"/>`, number(s.At), s.Colour)
	}
	id := named("g", d.String(), len(it.Path.Points))
	b.WriteString("<" + tag + ` id="` + id + `" ` + d.String() + "</" + tag + ">\n")
	return "url(#" + id + ")"
}

// path writes relative coordinates, with h and v for sides along an axis. Positions are rounded to a ten-thousandth before
// they are subtracted, so that rounding does not add up.
func path(b *bytes.Buffer, p scene.Path, scale, dx, dy float64) {
	var x, y, startX, startY float64 // where the pen stands
	at := func(q scene.Point) (float64, float64) { return round(q.X*scale + dx), round(q.Y*scale + dy) }
	points := p.Points
	for i, op := range p.Ops {
		switch op {
		case scene.Move:
			nx, ny := at(points[0])
			if i == 0 {
				b.WriteString("M" + pair(nx, ny))
			} else {
				b.WriteString("m" + pair(nx-x, ny-y))
			}
			x, y, startX, startY = nx, ny, nx, ny
			points = points[1:]
		case scene.Line:
			nx, ny := at(points[0])
			switch {
			case ny == y:
				b.WriteString("h" + number(nx-x))
			case nx == x:
				b.WriteString("v" + number(ny-y))
			default:
				b.WriteString("l" + pair(nx-x, ny-y))
			}
			x, y = nx, ny
			points = points[1:]
		case scene.Cubic:
			x1, y1 := at(points[0])
			x2, y2 := at(points[1])
			nx, ny := at(points[2])
			b.WriteString("c" + pair(x1-x, y1-y) + " " + pair(x2-x, y2-y) + " " + pair(nx-x, ny-y))
			x, y = nx, ny
			points = points[3:]
		case scene.Close:
			b.WriteByte('z')
			x, y = startX, startY
		}
	}
}

func round(f float64) float64 { return math.Round(f*1e4) / 1e4 }

func pair(x, y float64) string {
	if s := number(y); strings.HasPrefix(s, "-") {
		return number(x) + s
	} else {
		return number(x) + " " + s
	}
}

// number writes at most four decimals, without zeros that say nothing.
func number(f float64) string {
	f = round(f)
	if f == 0 {
		return "0"
	}
	s := strconv.FormatFloat(f, 'f', -1, 64)
	if strings.HasPrefix(s, "0.") {
		return s[1:]
	}
	if strings.HasPrefix(s, "-0.") {
		return "-" + s[2:]
	}
	return s
}
