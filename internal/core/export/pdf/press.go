package pdf

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/ps"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/separation"
	"sodrik/internal/core/typeface"
)

// Press says what stands around the trimmed sheet, and how inks behave.
type Press struct {
	Bleed     float64 // mm
	Marks     bool    // crop and registration marks, colour bar, a line that says what it is
	Slug      string  // that line
	Overprint bool    // black alone and spot inks print over what lies beneath, and do not knock it out
}

// Lengths of what stands around the sheet, mm.
const (
	markGap    = 3.0 // from trim to marks, at least; more where the bleed is wider
	markLength = 5.0
	markWeight = 0.25 / 72 * 25.4
	markRoom   = 5.0 // for the bar and the line beyond the marks
	barSide    = 4.0
)

// ErrDate is a file without a date, which PDF/X asks for.
var ErrDate = errors.New("needs the date of the version, which PDF/X holds")

// EncodeX writes plates as PDF/X-1a:2003 (ISO 15930-4): DeviceCMYK and Separation alone, no transparency, no fonts, trim and
// bleed box, the output condition by its registered name. m.Created must not be zero. The file is checked by Preflight before
// it is given.
func EncodeX(s *separation.Sheet, p Press, m export.Meta) ([]byte, error) {
	var b bytes.Buffer // takes everything
	d, err := NewDocumentX(&b, m)
	if err != nil {
		return nil, err
	}
	d.cache.alone = true
	if err := d.AddX(s, p); err != nil {
		return nil, err
	}
	if err := d.Close(); err != nil {
		return nil, err
	}
	if wrong := Preflight(b.Bytes()); len(wrong) > 0 {
		return nil, fmt.Errorf("does not pass for PDF/X-1a: %s", wrong[0])
	}
	return b.Bytes(), nil
}

// plates is a page in inks while it is written.
type plates struct {
	parts
	sheet  *separation.Sheet
	press  Press
	spaces resource
	names  map[int]string // colour spaces of spots, by plate
	all4   string         // that of every plate at once
	over   string         // the state that overprints
}

// all are the resources.
func (x *plates) all(number func(i int) int) string {
	return strings.TrimSuffix(x.resources(number), ">>") + x.spaces.written("ColorSpace", number) + " >>"
}

// name writes a name object (ISO 32000-1, 7.3.5).
func name(s string) string {
	var b strings.Builder
	b.WriteByte('/')
	for _, c := range []byte(s) {
		if c > ' ' && c < 0x7f && !strings.ContainsRune("#/()<>[]{}%", rune(c)) {
			b.WriteByte(c)
		} else {
			fmt.Fprintf(&b, "#%02X", c)
		}
	}
	return b.String()
}

// space is a Separation colour space whose full tint is alternate, in shares of 1 (8.6.6.4).
func (x *plates) space(ink string, alternate [4]float64) string {
	n := x.add(fmt.Appendf(nil, "[/Separation %s /DeviceCMYK << /FunctionType 2 /Domain [0 1] /C0 [0 0 0 0] /C1 [%s] /N 1 >>]",
		name(ink), four(alternate)))
	return x.named(&x.spaces, "C", n)
}

func four(v [4]float64) string {
	return number(v[0]) + " " + number(v[1]) + " " + number(v[2]) + " " + number(v[3])
}

func (x *plates) spot(plate int) string {
	if x.names == nil {
		x.names = map[int]string{}
	}
	if x.names[plate] == "" {
		p := x.sheet.Plates[plate]
		var alternate [4]float64
		for i, v := range p.Alternate {
			alternate[i] = v / 100
		}
		x.names[plate] = x.space(p.Name, alternate)
	}
	return x.names[plate]
}

func (x *plates) everyPlate() string {
	if x.all4 == "" {
		x.all4 = x.space("All", [4]float64{1, 1, 1, 1})
	}
	return x.all4
}

// fill sets the colour of an item: one spot ink, or the four of process.
func (x *plates) fill(shares []float64) string {
	for i := 4; i < len(shares); i++ {
		if shares[i] > 0 {
			return fmt.Sprintf("%s%s cs %s scn\n", x.overprints(true), x.spot(i), number(shares[i]/100))
		}
	}
	alone := shares[0] == 0 && shares[1] == 0 && shares[2] == 0 && shares[3] > 0
	return x.overprints(alone) + four([4]float64{shares[0] / 100, shares[1] / 100, shares[2] / 100, shares[3] / 100}) + " k\n"
}

func (x *plates) overprints(may bool) string {
	if !may || !x.press.Overprint {
		return ""
	}
	if x.over == "" {
		x.over = x.named(&x.states, "F", x.add([]byte("<< /Type /ExtGState /OP true /op true /OPM 1 >>")))
	}
	return x.over + " gs\n"
}

func (x *plates) content(around float64) []byte {
	var b bytes.Buffer
	s := x.sheet
	for _, it := range s.Items {
		b.WriteString("q " + ps.Matrix(it.At, s.Height, around, 8) + " cm\n")
		path := it.Path
		if x.press.Bleed > 0 && covers(it, s) {
			k := it.At.A
			d := x.press.Bleed / k
			path = scene.Rectangle(-it.At.X/k-d, -it.At.Y/k-d, s.Width/k+2*d, s.Height/k+2*d)
		}
		if it.Clip != nil {
			outline(&b, *it.Clip)
			b.WriteString("W n\n")
		}
		switch {
		case it.Image != nil:
			pic := it.Image.Frame
			fmt.Fprintf(&b, "%s 0 0 %s %s %s cm %s Do Q\n", precise(pic.Width), precise(-pic.Height), precise(pic.X),
				precise(pic.Y+pic.Height), x.image(it.Image))
		case it.Shade != nil:
			outline(&b, path)
			fmt.Fprintf(&b, "W n %s sh Q\n", x.named(&x.shadings, "S", x.add([]byte(ps.Shading(it)))))
		default:
			b.WriteString(x.fill(it.Shares))
			x.filled(&b, &path, it.Letters)
			b.WriteString("Q\n")
		}
	}
	if x.press.Marks {
		x.marks(&b, around)
	}
	return b.Bytes()
}

// covers says whether an item is one colour over all of the sheet, which then goes on into the bleed.
func covers(it separation.Item, s *separation.Sheet) bool {
	if it.Shares == nil || len(it.Path.Points) != 4 || !it.At.Upright() {
		return false
	}
	for _, p := range it.Path.Points {
		q := it.At.Point(p)
		x, y := q.X, q.Y
		if math.Min(math.Abs(x), math.Abs(x-s.Width)) > 1e-6 || math.Min(math.Abs(y), math.Abs(y-s.Height)) > 1e-6 {
			return false
		}
	}
	return true
}

// image is a picture in DeviceCMYK, with a stencil where some of its pixels are not there (8.9.6.3).
func (x *plates) image(m *separation.Image) string {
	head := fmt.Sprintf("/Type /XObject /Subtype /Image /Width %d /Height %d", m.W, m.H)
	holes := false
	stencil := make([]byte, (m.W+7)/8*m.H)
	for y := range m.H {
		for i := range m.W {
			if !m.Solid(y*m.W + i) {
				holes = true
				stencil[y*((m.W+7)/8)+i/8] |= 1 << (7 - i%8)
			}
		}
	}
	var mask []byte
	if holes {
		mask = pdfpage.Stream(head+" /ImageMask true /BitsPerComponent 1", stencil)
		head += " /Mask " + maskHere
	}
	return x.named(&x.pictures, "P",
		x.masked(masked(mask, pdfpage.Stream(head+" /BitsPerComponent 8 /ColorSpace /DeviceCMYK", m.CMYK))))
}

// marks draws what helps to cut and to lay plates over one another, on every plate: crop marks at the corners, registration
// marks in the middle of the sides; below, a field of every ink and a line that says what it is.
func (x *plates) marks(b *bytes.Buffer, around float64) {
	s := x.sheet
	fmt.Fprintf(b, "q %s CS 1 SCN %s w\n", x.everyPlate(), number(markWeight*point))
	line := func(x0, y0, x1, y1 float64) {
		fmt.Fprintf(b, "%s %s m %s %s l S\n", number(x0*point), number(y0*point), number(x1*point), number(y1*point))
	}
	gap := max(x.press.Bleed, markGap)
	left, right, foot, top := around, around+s.Width, around, around+s.Height
	for _, v := range [2]float64{left, right} {
		line(v, foot-gap, v, foot-gap-markLength)
		line(v, top+gap, v, top+gap+markLength)
	}
	for _, v := range [2]float64{foot, top} {
		line(left-gap, v, left-gap-markLength, v)
		line(right+gap, v, right+gap+markLength, v)
	}
	const r = 1.6
	for _, at := range [4][2]float64{{(left + right) / 2, foot - gap - markLength/2},
		{(left + right) / 2, top + gap + markLength/2}, {left - gap - markLength/2, (foot + top) / 2},
		{right + gap + markLength/2, (foot + top) / 2}} {
		line(at[0]-markLength/2, at[1], at[0]+markLength/2, at[1])
		line(at[0], at[1]-markLength/2, at[0], at[1]+markLength/2)
		ring := scene.RoundRectangle((at[0]-r)*point, (at[1]-r)*point, 2*r*point, 2*r*point, r*point, r*point)
		outline(b, ring)
		b.WriteString("S\n")
	}
	b.WriteString("Q\n")
	px := left
	for i := range s.Plates {
		shares := make([]float64, len(s.Plates))
		shares[i] = 100
		fmt.Fprintf(b, "q %s%s %s %s %s re f Q\n", x.fill(shares), number(px*point),
			number((foot-gap-markLength-markRoom+0.5)*point), number(barSide*point), number(barSide*point))
		px += barSide
	}
	if x.press.Slug == "" {
		return
	}
	face := typeface.Faces[0]
	set := face.Set(x.press.Slug)
	size := 2.1 // 6 points
	if room := right - px - 2; set.Width*size > room {
		size = max(0.5, room/set.Width)
	}
	fmt.Fprintf(b, "q %s 0 0 %s %s %s cm 0 0 0 1 k\n", precise(size*point), precise(-size*point), precise((px+2)*point),
		precise((foot-gap-markLength-markRoom+1.6)*point))
	outline(b, set.Path)
	b.WriteString("f Q\n")
}
