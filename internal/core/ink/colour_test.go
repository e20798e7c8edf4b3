package ink

import (
	"math"
	"testing"
)

func TestParse(t *testing.T) {
	for text, want := range map[string]Colour{"#12352b": {0x12, 0x35, 0x2b}, "12352B": {0x12, 0x35, 0x2b}, " #fA0 ": {0xff, 0xaa, 0x00}} {
		c, ok := Parse(text)
		if !ok || c != want {
			t.Errorf("%q: %v %v", text, c, ok)
		}
		if again, _ := Parse(c.String()); again != c {
			t.Errorf("%v does not come back", c)
		}
	}
	for _, text := range []string{"", "#", "pine", "#12", "#12345", "#1234567", "#12g45f", "##12345", "+12345", "#-12345"} {
		if c, ok := Parse(text); ok {
			t.Errorf("%q was read as %v", text, c)
		}
	}
}

// Luminance is checked against values of the sRGB standard: linear 0.2140 for 50 %, and the weights of the primaries.
func TestLuminance(t *testing.T) {
	for c, want := range map[Colour]float64{Black: 0, White: 1, {128, 128, 128}: 0.2159, {255, 0, 0}: 0.2126, {0, 255, 0}: 0.7152, {0, 0, 255}: 0.0722, {119, 119, 119}: 0.1845} {
		if got := c.Luminance(); math.Abs(got-want) > 0.0001 {
			t.Errorf("%v reflects %.4f, want %.4f", c, got, want)
		}
	}
	for g := range 256 {
		c := Colour{uint8(g), uint8(g), uint8(g)}
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
