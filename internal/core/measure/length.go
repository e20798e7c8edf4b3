// Package measure holds lengths and the decimal numbers people type, and how both are written. It is a leaf.
package measure

import (
	"math"
	"strconv"
	"strings"
)

// Length is a physical length in millimetres.
type Length float64

// Units that ParseLength takes, in millimetres each.
const (
	Millimetre Length = 1
	Centimetre Length = 10
	Metre      Length = 1000
	Inch       Length = 25.4
)

var units = []struct {
	name string
	size Length
}{{"mm", Millimetre}, {"cm", Centimetre}, {"inch", Inch}, {"in", Inch}, {"\"", Inch}, {"″", Inch}, {"m", Metre}}

// ParseLength reads "160", "160 mm", "16 cm", "6.3 in", "1.5 m"; a comma may stand for the point. Without a unit, unit
// is meant. The result may be negative or zero: what is allowed is the caller's rule. ok is false where no length is there.
func ParseLength(text string, unit Length) (l Length, ok bool) {
	s := strings.ToLower(strings.TrimSpace(text))
	for _, u := range units {
		if rest, found := strings.CutSuffix(s, u.name); found {
			s, unit = strings.TrimSpace(rest), u.size
			break
		}
	}
	f, ok := ParseDecimal(s)
	return Length(f) * unit, ok
}

// ParseDecimal reads a plain decimal number with point or comma; no exponent, no thousands marks, no NaN.
func ParseDecimal(s string) (float64, bool) {
	s = strings.Replace(strings.TrimSpace(s), ",", ".", 1)
	s = strings.Replace(s, "−", "-", 1)
	if s == "" || strings.Trim(s, "0123456789.-") != "" {
		return 0, false
	}
	f, err := strconv.ParseFloat(s, 64)
	return f, err == nil
}

// Number writes f with at most digits decimals and no trailing zeros: 160, 3.9, 0.33.
func Number(f float64, digits int) string {
	s := strconv.FormatFloat(f, 'f', digits, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	if s == "-0" {
		return "0"
	}
	return s
}

// String writes millimetres, to a hundredth: "160 mm".
func (l Length) String() string { return Number(float64(l), 2) + " mm" }

// Spoken writes the length in the unit a person would use: metres from one metre on, else millimetres.
func (l Length) Spoken() string {
	if math.Abs(float64(l)) >= 1000 {
		return Number(float64(l)/1000, 2) + " m"
	}
	return Number(float64(l), 1) + " mm"
}

// Rounded keeps two figures.
func (l Length) Rounded() Length {
	unit := math.Pow(10, math.Floor(math.Log10(max(float64(l), 1)))-1)
	return Length(math.Round(float64(l)/unit) * unit)
}

// Pixels is how many pixels l takes at dpi pixels an inch, not rounded.
func (l Length) Pixels(dpi float64) float64 { return float64(l/Inch) * dpi }

// Plural writes a count with its noun: "1 module", "2 modules".
func Plural(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return Count(n) + " " + noun + "s"
}

// Count writes a whole number with commas between thousands: 2,009.
func Count(n int) string {
	s := strconv.Itoa(n)
	neg := strings.HasPrefix(s, "-")
	s = strings.TrimPrefix(s, "-")
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	if neg {
		return "-" + s
	}
	return s
}

// Share writes a part of a whole, 0.225 as "22.5 %".
func Share(f float64) string { return Number(f*100, 1) + " %" }
