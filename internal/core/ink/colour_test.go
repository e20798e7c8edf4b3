package ink

import (
	"fmt"
	"math"
	"testing"
)

func TestParse(t *testing.T) {
	for text, want := range map[string]Colour{"#12352b": {R: 0x12, G: 0x35, B: 0x2b}, "12352B": {R: 0x12, G: 0x35, B: 0x2b},
		" #fA0 ": {R: 0xff, G: 0xaa, B: 0x00}} {
		t.Run(text, func(t *testing.T) {
			c, ok := Parse(text)
			if !ok || c != want {
				t.Errorf("%q: %v %v", text, c, ok)
			}
			if again, _ := Parse(c.String()); again != c {
				t.Errorf("%v does not come back", c)
			}
		})
	}
	for _, text := range []string{"", "#", "pine", "#12", "#12345", "#1234567", "#12g45f", "##12345", "+12345", "#-12345"} {
		t.Run(text, func(t *testing.T) {
			if c, ok := Parse(text); ok {
				t.Errorf("%q was read as %v", text, c)
			}
		})
	}
}

// Luminance is checked against values of the sRGB standard: linear 0.2140 for 50 %, and the weights of the primaries.
func TestLuminance(t *testing.T) {
	for c, want := range map[Colour]float64{Black: 0, White: 1, {R: 128, G: 128, B: 128}: 0.2159, {R: 255, G: 0, B: 0}: 0.2126,
		{R: 0, G: 255, B: 0}: 0.7152, {R: 0, G: 0, B: 255}: 0.0722, {R: 119, G: 119, B: 119}: 0.1845} {
		t.Run(fmt.Sprint(c), func(t *testing.T) {
			if got := c.Luminance(); math.Abs(got-want) > 0.0001 {
				t.Errorf("%v reflects %.4f, want %.4f", c, got, want)
			}
		})
	}
	for g := range 256 {
		c := Colour{R: uint8(g), G: uint8(g), B: uint8(g)}
		if got := Encoded(c.Luminance()); got != uint8(g) {
			t.Errorf("grey %d comes back as %d", g, got)
		}
	}
	if Contrast(Black, White) != 1 || Contrast(White, Black) != -1 {
		t.Error("contrast of black and white")
	}
	if Encoded(-1) != 0 || Encoded(2) != 255 {
		t.Error("beyond the ends")
	}
}

func TestTyped(t *testing.T) {
	for text, want := range map[string]string{"#12352b": "#12352b", "12352b": "#12352b", "rgb(18, 53, 43)": "#12352b",
		"rgb(18 53 43)": "#12352b", "rgb(50% 0% 100%)": "#8000ff", "hsl(120, 100%, 25%)": "#008000",
		"HSL(200 60% 30%)": "#1f5c7a",
		"pine":             "#12352b", " Pale Green ": "#e9efdf", "red": "#ff0000", "Rebecca Purple": "#663399",
		"cmyk(80, 20, 60, 40)": "cmyk(80, 20, 60, 40)",
		"cmyk 0 50 100 0":      "cmyk(0, 50, 100, 0)", "CMYK(12.5% 0% 0% 0%)": "cmyk(12.5, 0, 0, 0)"} {
		t.Run(text, func(t *testing.T) {
			if c, ok := Typed(text); !ok || c.Words() != want {
				t.Errorf("%q is read as %s, %v, want %s", text, c.Words(), ok, want)
			}
		})
	}
	for _, text := range []string{"", "redd", "rgb(1,2)", "rgb(a,b,c)", "rgba(1,2,3,.5)", "cmyk(1,2,3)", "cmyk(1,2,3,101)",
		"hsl()", "lab(1 2 3)", "#12345"} {
		t.Run(text, func(t *testing.T) {
			if c, ok := Typed(text); ok {
				t.Errorf("%q was read as %v", text, c)
			}
		})
	}
	if c, alpha, ok := CSS("#a805"); !ok || c != (Colour{R: 0xaa, G: 0x88}) || math.Abs(alpha-1.0/3) > 0.001 {
		t.Error(c, alpha, ok)
	}
}
