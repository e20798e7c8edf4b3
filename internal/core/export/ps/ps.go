// Package ps holds what PDF and PostScript write alike: paths, and gradients in four inks as a shading with one stitched
// function (ISO 32000-1, 7.10.4 and 8.7.4.5; PostScript Language Reference, third edition, 4.9.3).
package ps

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"

	"sodrik/internal/core/scene"
	"sodrik/internal/core/separation"
)

// Number writes f with at most digits decimals, and no zeros behind.
func Number(f float64, digits int) string {
	s := strconv.FormatFloat(f, 'f', digits, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	if s == "" || s == "-0" {
		return "0"
	}
	return s
}

// point is millimetres to points, of which 72 make an inch.
const point = 72 / 25.4

// Matrix takes the units of an item to points, y pointing up from the foot of a sheet of height millimetres that lies around
// millimetres from the edges, as the six numbers of cm and concat.
func Matrix(t scene.Transform, height, around float64, digits int) string {
	out := ""
	for i, f := range [6]float64{t.A * point, -t.B * point, t.C * point, -t.D * point, (around + t.X) * point,
		(around + height - t.Y) * point} {
		if i > 0 {
			out += " "
		}
		out += Number(f, digits)
	}
	return out
}

// Outline writes the steps of a path as m, l, c and h, its points with at most digits decimals.
func Outline(b *bytes.Buffer, path scene.Path, digits int) {
	points := path.Points
	put := func(n int, op string) {
		for _, p := range points[:n] {
			b.WriteString(Number(p.X, digits) + " " + Number(p.Y, digits) + " ")
		}
		b.WriteString(op + "\n")
		points = points[n:]
	}
	for _, op := range path.Ops {
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
}

// Shading is the gradient of an item in DeviceCMYK.
func Shading(it separation.Item) string {
	n := func(f float64) string { return Number(f, 8) }
	colour := func(s []float64) string {
		return "[" + n(s[0]/100) + " " + n(s[1]/100) + " " + n(s[2]/100) + " " + n(s[3]/100) + "]"
	}
	stops := it.Stops
	if stops[0].At > 0 { // functions begin at 0 and end at 1
		stops = append([]separation.Stop{{At: 0, Shares: stops[0].Shares}}, stops...)
	}
	if last := stops[len(stops)-1]; last.At < 1 {
		stops = append(stops[:len(stops):len(stops)], separation.Stop{At: 1, Shares: last.Shares})
	}
	var functions, bounds, encode []string
	for i := 1; i < len(stops); i++ {
		functions = append(functions,
			"<< /FunctionType 2 /Domain [0 1] /C0 "+colour(stops[i-1].Shares)+" /C1 "+colour(stops[i].Shares)+" /N 1 >>")
		encode = append(encode, "0 1")
		if i < len(stops)-1 {
			bounds = append(bounds, n(stops[i].At))
		}
	}
	g := it.Shade
	kind, coords := 2, n(g.X0)+" "+n(g.Y0)+" "+n(g.X1)+" "+n(g.Y1)
	if g.Radial {
		middle := n(g.X0) + " " + n(g.Y0)
		kind, coords = 3, middle+" 0 "+middle+" "+n(g.Radius)
	}
	return fmt.Sprintf(
		"<< /ShadingType %d /ColorSpace /DeviceCMYK /Coords [%s] /Extend [true true] /Function << /FunctionType 3 /Domain [0 "+
			"1] /Functions [%s] /Bounds [%s] /Encode [%s] >> >>",
		kind, coords, strings.Join(functions, "\n"), strings.Join(bounds, " "), strings.Join(encode, " "))
}
