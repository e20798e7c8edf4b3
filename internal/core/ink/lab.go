package ink

import "math"

// Lab is the colour in CIE Lab for the white of sRGB, D65 (CIE 15:2018, 8.2.1.1): L from 0 to 100, a and b around 0.
func (c Colour) Lab() (l, a, b float64) {
	r, g, bl := linear[c.R], linear[c.G], linear[c.B]
	f := func(t float64) float64 { // CIE 15:2018, 8.2.1.1
		if t > 216.0/24389 {
			return math.Cbrt(t)
		}
		return (24389.0/27*t + 16) / 116
	}
	x, y, z := f((0.4124*r+0.3576*g+0.1805*bl)/0.9505), f(0.2126*r+0.7152*g+0.0722*bl), f((0.0193*r+0.1192*g+0.9505*bl)/1.089)
	return 116*y - 16, 500 * (x - y), 200 * (y - z)
}

// Distance is how far two colours lie from one another in CIE Lab (1976); about 2 is seen.
func Distance(c, d Colour) float64 {
	l1, a1, b1 := c.Lab()
	l2, a2, b2 := d.Lab()
	return math.Hypot(l1-l2, math.Hypot(a1-a2, b1-b2))
}
