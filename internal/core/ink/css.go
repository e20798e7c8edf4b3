package ink

import (
	"math"
	"strconv"
	"strings"

	"golang.org/x/image/colornames"
)

// Name is one of the named colours of style sheets (CSS Color 4, 6.1), in letters of any size; blanks in it do not count.
func Name(s string) (Colour, bool) {
	name := strings.ToLower(strings.Join(strings.Fields(s), ""))
	if name == "rebeccapurple" { // in CSS Color 4, and not in SVG 1.1, whose names colornames has
		return Colour{R: 0x66, G: 0x33, B: 0x99}, true
	}
	n, ok := colornames.Map[name]
	return Colour{R: n.R, G: n.G, B: n.B}, ok
}

// CSS reads a colour as style sheets write it (CSS Color 4): hexadecimal with three, four, six or eight digits, rgb(),
// rgba(), hsl(), hsla() with commas or blanks, or one of the named colours. alpha is 0 to 1.
func CSS(s string) (c Colour, alpha float64, ok bool) {
	s = strings.ToLower(strings.TrimSpace(s))
	if c, ok = Name(s); ok {
		return c, 1, true
	}
	if h, is := strings.CutPrefix(s, "#"); is {
		alpha = 1
		if len(h) == 4 || len(h) == 8 {
			cut := len(h) / 4 * 3
			a := h[cut:]
			if len(a) == 1 {
				a += a
			}
			v, err := strconv.ParseUint(a, 16, 8)
			if err != nil {
				return c, 0, false
			}
			h, alpha = h[:cut], float64(v)/255
		}
		c, ok = Parse(h)
		return c, alpha, ok
	}
	name, args, is := strings.Cut(s, "(")
	args, closed := strings.CutSuffix(args, ")")
	if !is || !closed {
		return c, 0, false
	}
	part := strings.FieldsFunc(args, func(r rune) bool { return r == ',' || r == ' ' || r == '/' || r == '\t' })
	if len(part) != 3 && len(part) != 4 {
		return c, 0, false
	}
	number := func(i int, whole float64) float64 { // percent are shares of whole
		p, percent := strings.CutSuffix(part[i], "%")
		v, err := strconv.ParseFloat(strings.TrimSuffix(p, "deg"), 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return math.NaN()
		}
		if percent {
			v = v * whole / 100
		}
		return v
	}
	alpha = 1
	if len(part) == 4 {
		if alpha = min(max(number(3, 1), 0), 1); math.IsNaN(alpha) {
			return c, 0, false
		}
	}
	var r, g, b float64
	switch name {
	case "rgb", "rgba":
		r, g, b = number(0, 255), number(1, 255), number(2, 255)
	case "hsl", "hsla":
		r, g, b = fromHSL(number(0, 360), number(1, 1), number(2, 1))
	default:
		return c, 0, false
	}
	if math.IsNaN(r + g + b) {
		return c, 0, false
	}
	channel := func(v float64) uint8 { return uint8(math.Round(min(max(v, 0), 255))) }
	return Colour{R: channel(r), G: channel(g), B: channel(b)}, alpha, true
}

// fromHSL turns hue in degrees, saturation and lightness from 0 to 1 into channels from 0 to 255 (CSS Color 4, clause 7.1).
func fromHSL(h, s, l float64) (r, g, b float64) {
	h = math.Mod(math.Mod(h, 360)+360, 360)
	s, l = min(max(s, 0), 1), min(max(l, 0), 1)
	f := func(n float64) float64 {
		k := math.Mod(n+h/30, 12)
		return 255 * (l - s*min(l, 1-l)*max(-1, min(k-3, 9-k, 1)))
	}
	return f(0), f(8), f(4)
}
