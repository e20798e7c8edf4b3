// Package ink holds colour values and what can be computed from them alone: luminance and contrast. What a press makes of a
// colour is not decided here.
package ink

import (
	"fmt"
	"math"
	"strings"
)

// Colour is a colour in sRGB (IEC 61966-2-1), eight bits a channel. The zero value is black.
type Colour struct {
	R, G, B uint8

	Inks      CMYK   // of a colour that is given by its inks; R, G and B are what screens show of it
	Separated bool   // has Inks
	Spot      string // name of the ink that prints it on a plate of its own; Inks then are what stands in for it; "" for none
	Style     string // its key in a house style, "" for none
}

// Same says that screens show the same, whatever prints it.
func (c Colour) Same(d Colour) bool { return c.R == d.R && c.G == d.G && c.B == d.B }

// Black and White are the ends of the scale.
var (
	Black = Colour{}
	White = Colour{R: 255, G: 255, B: 255}
)

// Parse reads "#rrggbb" or "#rgb", the number sign optional, in either case.
func Parse(s string) (Colour, bool) {
	h := strings.TrimPrefix(strings.TrimSpace(s), "#")
	if len(h) == 3 {
		h = string([]byte{h[0], h[0], h[1], h[1], h[2], h[2]})
	}
	if len(h) != 6 || strings.Trim(h, "0123456789abcdefABCDEF") != "" {
		return Colour{}, false
	}
	var c Colour
	_, err := fmt.Sscanf(h, "%02x%02x%02x", &c.R, &c.G, &c.B)
	return c, err == nil
}

// linear undoes the transfer function of sRGB (IEC 61966-2-1, 5.2).
var linear = func() (t [256]float64) {
	for i := range t {
		if v := float64(i) / 255; v <= 0.04045 {
			t[i] = v / 12.92
		} else {
			t[i] = math.Pow((v+0.055)/1.055, 2.4)
		}
	}
	return t
}()

// Luminance is relative luminance Y, 0 for black to 1 for white. It stands in for reflectance under white light; what a
// red laser sees does not follow from it.
func (c Colour) Luminance() float64 {
	return 0.2126*linear[c.R] + 0.7152*linear[c.G] + 0.0722*linear[c.B]
}

// Encoded is the sRGB value, 0 to 255, of a relative luminance: the grey a camera would store for it.
func Encoded(y float64) uint8 {
	y = min(max(y, 0), 1)
	if y <= 0.0031308 {
		return uint8(math.Round(y * 12.92 * 255))
	}
	return uint8(math.Round((1.055*math.Pow(y, 1/2.4) - 0.055) * 255))
}

// Red is the red part as light, 0 to 1 (IEC 61966-2-1).
func (c Colour) Red() float64 { return Colour{R: c.R, G: c.R, B: c.R}.Luminance() }

// Contrast is the difference of luminance, paper less ink, −1 to 1: the symbol contrast of ISO/IEC 15415 with luminance in
// place of measured reflectance. It is negative where the ink is the lighter of the two.
func Contrast(ink, paper Colour) float64 { return paper.Luminance() - ink.Luminance() }

// Linear is the red, green and blue parts as light, 0 to 1 (IEC 61966-2-1).
func (c Colour) Linear() (r, g, b float64) { return linear[c.R], linear[c.G], linear[c.B] }
