package press

import "math"

// DeltaE is CIEDE2000 (ISO/CIE 11664-6): 1 is just seen side by side.
func DeltaE(p, q Lab) float64 {
	c1, c2 := math.Hypot(p.A, p.B), math.Hypot(q.A, q.B)
	mean7 := math.Pow((c1+c2)/2, 7)
	g := 0.5 * (1 - math.Sqrt(mean7/(mean7+6103515625))) // 25 to the seventh
	a1, a2 := p.A*(1+g), q.A*(1+g)
	c1, c2 = math.Hypot(a1, p.B), math.Hypot(a2, q.B)
	hue := func(a, b float64) float64 {
		if a == 0 && b == 0 {
			return 0
		}
		h := math.Atan2(b, a) * 180 / math.Pi
		if h < 0 {
			h += 360
		}
		return h
	}
	h1, h2 := hue(a1, p.B), hue(a2, q.B)
	dl, dc, dh := q.L-p.L, c2-c1, h2-h1
	switch {
	case c1*c2 == 0:
		dh = 0
	case dh > 180:
		dh -= 360
	case dh < -180:
		dh += 360
	}
	rad := math.Pi / 180
	dH := 2 * math.Sqrt(c1*c2) * math.Sin(dh/2*rad)
	l, c, h := (p.L+q.L)/2, (c1+c2)/2, h1+h2
	switch {
	case c1*c2 == 0:
	case math.Abs(h1-h2) <= 180:
		h /= 2
	case h < 360:
		h = (h + 360) / 2
	default:
		h = (h - 360) / 2
	}
	t := 1 - 0.17*math.Cos((h-30)*rad) + 0.24*math.Cos(2*h*rad) + 0.32*math.Cos((3*h+6)*rad) - 0.20*math.Cos((4*h-63)*rad)
	c7 := math.Pow(c, 7)
	sl := 1 + 0.015*(l-50)*(l-50)/math.Sqrt(20+(l-50)*(l-50))
	sc, sh := 1+0.045*c, 1+0.015*c*t
	rt := -math.Sin(2*30*math.Exp(-math.Pow((h-275)/25, 2))*rad) * 2 * math.Sqrt(c7/(c7+6103515625))
	dl, dc, dH = dl/sl, dc/sc, dH/sh
	return math.Sqrt(dl*dl + dc*dc + dH*dH + rt*dc*dH)
}
