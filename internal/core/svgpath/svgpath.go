// Package svgpath reads the path data of SVG (SVG 2, clause 9.3) into outlines.
package svgpath

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"sodrik/internal/core/scene"
)

// Parse reads a path in SVG's syntax (SVG 2, clause 9.3): M L H V C S Q T A Z, in capitals absolute, in small letters relative.
// Quadratic curves and arcs become cubic ones. closed says for each outline whether it ends with Z: a stroke goes on there, where
// filling closes it in any case. More steps than most are refused.
func Parse(text string, most int) (p scene.Path, closed []bool, err error) {
	r, pen := reader{s: text}, pen{}
	for steps := 1; ; steps++ {
		command, more := r.command(pen.last)
		if !more {
			pen.end(false)
			return pen.path, pen.closed, nil
		}
		if command == 0 {
			return pen.path, pen.closed, fmt.Errorf("has %q where a letter such as M or L is expected", r.rest())
		}
		if steps > most {
			return pen.path, pen.closed, fmt.Errorf("has more than %d steps", most)
		}
		upper := command &^ 0x20
		var a [7]float64
		for i := range numbers[upper] {
			flag := upper == 'A' && (i == 3 || i == 4)
			if a[i], err = r.number(flag); err != nil {
				return pen.path, pen.closed, fmt.Errorf("has %q behind %c, where a number is expected", r.rest(), command)
			}
		}
		if command != upper {
			pen.absolute(upper, &a)
		}
		if upper != 'M' && upper != 'Z' && !pen.goesOn() {
			return pen.path, pen.closed, fmt.Errorf("begins with %c; it has to begin with M", command)
		}
		pen.draw(upper, a)
		if pen.last = command; upper == 'M' {
			pen.last -= 'M' - 'L' // further pairs are lines
		}
	}
}

// numbers is how many each command takes.
var numbers = map[byte]int{'M': 2, 'L': 2, 'H': 1, 'V': 1, 'C': 6, 'S': 4, 'Q': 4, 'T': 2, 'A': 7, 'Z': 0}

// pen draws a path, command by command.
type pen struct {
	path               scene.Path
	closed             []bool // of each outline
	x, y               float64
	startX, startY     float64 // of the outline
	controlX, controlY float64 // the last of the curve before
	last               byte    // command
	open               bool    // an outline is begun
}

// absolute adds where the pen stands to numbers that are relative to it.
func (p *pen) absolute(upper byte, a *[7]float64) {
	switch upper {
	case 'H':
		a[0] += p.x
	case 'V':
		a[0] += p.y
	case 'A':
		a[5], a[6] = a[5]+p.x, a[6]+p.y
	default:
		for i := 0; i+1 < numbers[upper]; i += 2 {
			a[i], a[i+1] = a[i]+p.x, a[i+1]+p.y
		}
	}
}

// goesOn says whether an outline is begun; behind a closed one the next begins where that did.
func (p *pen) goesOn() bool {
	if !p.open && len(p.path.Ops) > 0 {
		p.open = true
		p.path.MoveTo(p.x, p.y)
	}
	return p.open
}

// end ends the outline that is begun, if any.
func (p *pen) end(closed bool) {
	if p.open {
		p.path.Close()
		p.closed, p.open = append(p.closed, closed), false
	}
}

// reflected is the last control point of the curve before, seen from the other side, where that was one of these two commands.
func (p *pen) reflected(one, other byte) (x, y float64) {
	if u := p.last &^ 0x20; u == one || u == other {
		return 2*p.x - p.controlX, 2*p.y - p.controlY
	}
	return p.x, p.y
}

// draw carries out a command whose numbers are absolute.
func (p *pen) draw(upper byte, a [7]float64) {
	switch upper {
	case 'M':
		p.end(false)
		p.x, p.y, p.startX, p.startY, p.open = a[0], a[1], a[0], a[1], true
		p.path.MoveTo(p.x, p.y)
	case 'L':
		p.line(a[0], a[1])
	case 'H':
		p.line(a[0], p.y)
	case 'V':
		p.line(p.x, a[0])
	case 'C':
		p.cubic(a[0], a[1], [4]float64(a[2:6]))
	case 'S':
		x, y := p.reflected('C', 'S')
		p.cubic(x, y, [4]float64(a[:4]))
	case 'Q':
		p.quadratic(a[0], a[1], a[2], a[3])
	case 'T':
		x, y := p.reflected('Q', 'T')
		p.quadratic(x, y, a[0], a[1])
	case 'A':
		arc(&p.path, p.x, p.y, a)
		p.x, p.y = a[5], a[6]
	case 'Z':
		p.end(true)
		p.x, p.y = p.startX, p.startY
	}
}

func (p *pen) line(x, y float64) {
	p.x, p.y = x, y
	p.path.LineTo(x, y)
}

// cubic draws a curve by its first control point, its second and its end.
func (p *pen) cubic(x1, y1 float64, to [4]float64) {
	p.path.CubicTo(x1, y1, to[0], to[1], to[2], to[3])
	p.controlX, p.controlY, p.x, p.y = to[0], to[1], to[2], to[3]
}

// quadratic draws a curve of one control point as one of two.
func (p *pen) quadratic(qx, qy, x, y float64) {
	p.path.CubicTo(p.x+2*(qx-p.x)/3, p.y+2*(qy-p.y)/3, x+2*(qx-x)/3, y+2*(qy-y)/3, x, y)
	p.controlX, p.controlY, p.x, p.y = qx, qy, x, y
}

// arc follows an elliptical arc by cubic curves of at most a quarter (SVG 2, implementation notes B.2).
func arc(p *scene.Path, x1, y1 float64, a [7]float64) {
	rx, ry, phi, large, sweep, x2, y2 := math.Abs(a[0]), math.Abs(a[1]), a[2]*math.Pi/180, a[3] != 0, a[4] != 0, a[5], a[6]
	if rx == 0 || ry == 0 || x1 == x2 && y1 == y2 {
		p.LineTo(x2, y2)
		return
	}
	sin, cos := math.Sincos(phi)
	dx, dy := (x1-x2)/2, (y1-y2)/2
	ux, uy := cos*dx+sin*dy, -sin*dx+cos*dy
	if k := ux*ux/(rx*rx) + uy*uy/(ry*ry); k > 1 {
		rx, ry = rx*math.Sqrt(k), ry*math.Sqrt(k)
	}
	k := math.Sqrt(math.Max(0, (rx*rx*ry*ry-rx*rx*uy*uy-ry*ry*ux*ux)/(rx*rx*uy*uy+ry*ry*ux*ux)))
	if large == sweep {
		k = -k
	}
	cx, cy := k*rx*uy/ry, -k*ry*ux/rx
	mx, my := cos*cx-sin*cy+(x1+x2)/2, sin*cx+cos*cy+(y1+y2)/2
	from := math.Atan2((uy-cy)/ry, (ux-cx)/rx)
	turn := math.Atan2((-uy-cy)/ry, (-ux-cx)/rx) - from
	if sweep && turn < 0 {
		turn += 2 * math.Pi
	} else if !sweep && turn > 0 {
		turn -= 2 * math.Pi
	}
	n := int(math.Ceil(math.Abs(turn)/(math.Pi/2) - 1e-9))
	step := turn / float64(n)
	t := 4 / 3.0 * math.Tan(step/4)
	at := func(angle, along float64) (float64, float64) {
		s, c := math.Sincos(angle)
		ex, ey := rx*(c-along*s), ry*(s+along*c)
		return mx + cos*ex - sin*ey, my + sin*ex + cos*ey
	}
	for i := range n {
		a0, a1 := from+step*float64(i), from+step*float64(i+1)
		x, y := at(a0, t)
		u, v := at(a1, -t)
		ex, ey := at(a1, 0)
		if i == n-1 {
			ex, ey = x2, y2
		}
		p.CubicTo(x, y, u, v, ex, ey)
	}
}

// reader takes commands and numbers off a text.
type reader struct {
	s string
	i int
}

func (r *reader) skip() {
	for r.i < len(r.s) && strings.IndexByte(" \t\r\n,", r.s[r.i]) >= 0 {
		r.i++
	}
}

func (r *reader) rest() string { r.skip(); return r.s[r.i:min(len(r.s), r.i+12)] }

// command gives the next command; numbers without one repeat the last. It is 0 where there is neither.
func (r *reader) command(last byte) (byte, bool) {
	r.skip()
	if r.i >= len(r.s) {
		return 0, false
	}
	c := r.s[r.i]
	if strings.IndexByte("MmLlHhVvCcSsQqTtAaZz", c) >= 0 {
		r.i++
		return c, true
	}
	if last != 0 && last != 'Z' && last != 'z' && strings.IndexByte("0123456789.+-", c) >= 0 {
		return last, true
	}
	return 0, true
}

func (r *reader) number(flag bool) (float64, error) {
	r.skip()
	if flag && r.i < len(r.s) && (r.s[r.i] == '0' || r.s[r.i] == '1') {
		r.i++
		return float64(r.s[r.i-1] - '0'), nil
	}
	from := r.i
	digits, point, exponent := false, false, false
	for ; r.i < len(r.s); r.i++ {
		switch c := r.s[r.i]; {
		case c >= '0' && c <= '9':
			digits = true
			continue
		case c == '.' && !point && !exponent:
			point = true
			continue
		case (c == 'e' || c == 'E') && digits && !exponent:
			exponent = true
			continue
		case (c == '+' || c == '-') && (r.i == from || r.s[r.i-1] == 'e' || r.s[r.i-1] == 'E'):
			continue
		}
		break
	}
	f, err := strconv.ParseFloat(r.s[from:r.i], 64)
	if err == nil && (math.IsInf(f, 0) || math.Abs(f) > 1e6) {
		err = strconv.ErrRange
	}
	return f, err
}
