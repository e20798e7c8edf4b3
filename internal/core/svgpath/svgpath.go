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
	r := reader{s: text}
	var x, y, startX, startY, controlX, controlY float64
	var last byte
	open := false
	steps := 0
	for {
		command, more := r.command(last)
		if !more {
			break
		}
		if command == 0 {
			return p, closed, fmt.Errorf("has %q where a letter such as M or L is expected", r.rest())
		}
		if steps++; steps > most {
			return p, closed, fmt.Errorf("has more than %d steps", most)
		}
		upper := command &^ 0x20
		n := map[byte]int{'M': 2, 'L': 2, 'H': 1, 'V': 1, 'C': 6, 'S': 4, 'Q': 4, 'T': 2, 'A': 7, 'Z': 0}[upper]
		var a [7]float64
		for i := range n {
			flag := upper == 'A' && (i == 3 || i == 4)
			if a[i], err = r.number(flag); err != nil {
				return p, closed, fmt.Errorf("has %q behind %c, where a number is expected", r.rest(), command)
			}
		}
		if command != upper { // relative
			switch upper {
			case 'H':
				a[0] += x
			case 'V':
				a[0] += y
			case 'A':
				a[5], a[6] = a[5]+x, a[6]+y
			default:
				for i := 0; i+1 < n; i += 2 {
					a[i], a[i+1] = a[i]+x, a[i+1]+y
				}
			}
		}
		if upper != 'M' && upper != 'Z' && !open && len(p.Ops) > 0 { // goes on from where the last outline began
			open = true
			p.MoveTo(x, y)
		}
		if upper != 'M' && upper != 'Z' && !open {
			return p, closed, fmt.Errorf("begins with %c; it has to begin with M", command)
		}
		switch upper {
		case 'M':
			if open {
				p.Close()
				closed = append(closed, false)
			}
			x, y, startX, startY, open = a[0], a[1], a[0], a[1], true
			p.MoveTo(x, y)
			command -= 'M' - 'L' // further pairs are lines
		case 'L', 'H', 'V':
			switch upper {
			case 'L':
				x, y = a[0], a[1]
			case 'H':
				x = a[0]
			case 'V':
				y = a[0]
			}
			p.LineTo(x, y)
		case 'C', 'S':
			c := a[:6]
			if upper == 'S' {
				reflectedX, reflectedY := x, y
				if u := last &^ 0x20; u == 'C' || u == 'S' {
					reflectedX, reflectedY = 2*x-controlX, 2*y-controlY
				}
				c = []float64{reflectedX, reflectedY, a[0], a[1], a[2], a[3]}
			}
			p.CubicTo(c[0], c[1], c[2], c[3], c[4], c[5])
			controlX, controlY, x, y = c[2], c[3], c[4], c[5]
		case 'Q', 'T':
			qx, qy, ex, ey := a[0], a[1], a[2], a[3]
			if upper == 'T' {
				qx, qy, ex, ey = x, y, a[0], a[1]
				if u := last &^ 0x20; u == 'Q' || u == 'T' {
					qx, qy = 2*x-controlX, 2*y-controlY
				}
			}
			p.CubicTo(x+2*(qx-x)/3, y+2*(qy-y)/3, ex+2*(qx-ex)/3, ey+2*(qy-ey)/3, ex, ey)
			controlX, controlY, x, y = qx, qy, ex, ey
		case 'A':
			arc(&p, x, y, a)
			x, y = a[5], a[6]
		case 'Z':
			if open {
				p.Close()
				closed = append(closed, true)
				open = false
			}
			x, y = startX, startY
		}
		last = command
	}
	if open {
		p.Close()
		closed = append(closed, false)
	}
	return p, closed, nil
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
