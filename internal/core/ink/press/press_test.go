package press

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"sodrik/internal/core/ink"
)

// TestForward holds the model against measured patches that it was not made from.
func TestForward(t *testing.T) {
	for _, c := range Conditions {
		g := c.measured()
		used := func(p patch) bool {
			for _, l := range g.levels {
				if l.black == p.inks[3] && slices.Contains(l.steps, p.inks[0]) && slices.Contains(l.steps, p.inks[1]) &&
					slices.Contains(l.steps, p.inks[2]) {
					return true
				}
			}
			return false
		}
		var sum, most float64
		n := 0
		for _, p := range c.read() {
			d := DeltaE(c.Lab(p.inks), p.lab)
			if used(p) {
				if d > 0.02 {
					t.Errorf("%s: a patch of the grid, %v, is off by %.3f", c.Key, p.inks, d)
				}
				continue
			}
			n++
			sum += d
			most = max(most, d)
		}
		for _, l := range g.levels {
			t.Logf("%s: black %g, steps %v", c.Key, l.black, l.steps)
		}
		t.Logf("%s: %d patches left out, mean ΔE00 %.2f, most %.2f", c.Key, n, sum/float64(n), most)
		if n < 50 || sum/float64(n) > 1.5 {
			t.Errorf("%s: mean of %d patches %.2f", c.Key, n, sum/float64(n))
		}
	}
}

// TestDifference holds CIEDE2000 against pairs of its authors (Sharma, Wu, Dalal 2005, table 1).
func TestDifference(t *testing.T) {
	for _, c := range []struct {
		p, q Lab
		want float64
	}{
		{Lab{50, 2.6772, -79.7751}, Lab{50, 0, -82.7485}, 2.0425}, {Lab{50, 3.1571, -77.2803}, Lab{50, 0, -82.7485}, 2.8615},
		{Lab{50, 2.8361, -74.0200}, Lab{50, 0, -82.7485}, 3.4412},
		{Lab{50, -1.3802, -84.2814}, Lab{50, 0, -82.7485}, 1}, {Lab{50, 0, 0}, Lab{50, -1, 2}, 2.3669},
		{Lab{50, 2.5, 0}, Lab{50, 0, -2.5}, 4.3065},
		{Lab{50, 2.5, 0}, Lab{73, 25, -18}, 27.1492}, {Lab{50, 2.5, 0}, Lab{61, -5, 29}, 22.8977},
		{Lab{50, 2.5, 0}, Lab{56, -27, -3}, 31.9030}, {Lab{50, 2.5, 0}, Lab{58, 24, 15}, 19.4535},
		{Lab{60.2574, -34.0099, 36.2677}, Lab{60.4626, -34.1751, 39.4387}, 1.2644},
		{Lab{90.8027, -2.0831, 1.4410}, Lab{91.1528, -1.6435, 0.0447}, 1.4441},
	} {
		t.Run(fmt.Sprint(c.p), func(t *testing.T) {
			if got := DeltaE(c.p, c.q); math.Abs(got-c.want) > 1e-4 {
				t.Errorf("%v to %v is %.4f, want %.4f", c.p, c.q, got, c.want)
			}
			if there, back := DeltaE(c.p, c.q), DeltaE(c.q, c.p); math.Abs(there-back) > 1e-9 {
				t.Errorf("%v to %v is %.4f there, %.4f back", c.p, c.q, there, back)
			}
		})
	}
}

// TestScreen: white and grey of screens are neutral under D50, and the way back gives the same colour.
func TestScreen(t *testing.T) {
	for _, c := range []ink.Colour{ink.White, ink.Black, {R: 128, G: 128, B: 128}, {R: 18, G: 53, B: 43},
		{R: 200, G: 30, B: 90}} {
		l := OnScreen(c)
		if c.R == c.G && math.Hypot(l.A, l.B) > 0.05 {
			t.Errorf("%v is no grey: %+v", c, l)
		}
		if back := l.screen(); !back.Same(c) {
			t.Errorf("%v comes back as %v", c, back)
		}
	}
}

// TestSeparate: colours come back from inks within what is seen, or are said not to; limits of ink are kept; greys are black
// alone.
func TestSeparate(t *testing.T) {
	for _, c := range Conditions {
		for r := 0; r <= 255; r += 51 {
			for g := 0; g <= 255; g += 51 {
				for b := 0; b <= 255; b += 51 {
					col := ink.Colour{R: uint8(r), G: uint8(g), B: uint8(b)}
					got := c.Separate(col)
					if got.Total() > c.Limit || slices.ContainsFunc(got.CMYK[:], func(f float64) bool {
						return f < 0 || f > 100 || f != math.Round(f)
					}) {
						t.Errorf("%s: %v is %v, %g %% in all", c.Key, col, got.CMYK, got.Total())
					}
					if r == g && g == b && (got.CMYK[0] != 0 || got.CMYK[1] != 0 || got.CMYK[2] != 0) {
						t.Errorf("%s: grey %v is printed from %v", c.Key, col, got.CMYK)
					}
				}
			}
		}
		for _, hex := range []string{"#12352b", "#5a2d0c", "#5b1f33", "#1f3a5a", "#a33f22", "#3d5a2c", "#f6f0e2", "#e9a820"} {
			t.Run(hex, func(t *testing.T) {
				col, _ := ink.Parse(hex)
				got := c.Separate(col)
				if c.Key == "coated" && got.Off > Seen {
					t.Errorf("%s: %s comes back off by %.2f from %v", c.Key, hex, got.Off, got.CMYK)
				}
				t.Logf("%s %s: %v, %g %%, off by %.2f, shows as %v", c.Key, hex, got.CMYK, got.Total(), got.Off, c.Shown(got.CMYK))
			})
		}
		if got := c.Separate(ink.Colour{G: 255}); got.Off < Seen {
			t.Errorf("%s: the green of screens is said to be printable, off by %.2f", c.Key, got.Off)
		}
		if got := c.Separate(ink.Black); got.CMYK != [4]float64{0, 0, 0, 100} {
			t.Errorf("%s: black is %v", c.Key, got.CMYK)
		}
		own, _ := ink.Typed("cmyk(84, 40, 70, 62)")
		if got := c.Separate(own); got.CMYK != [4]float64{84, 40, 70, 62} || got.Off != 0 {
			t.Errorf("%s: inks of its own become %v", c.Key, got.CMYK)
		}
	}
}

func BenchmarkSeparate(b *testing.B) {
	c := Conditions[0]
	c.measured()
	for i := 0; b.Loop(); i++ {
		c.separate(ink.Colour{R: uint8(i), G: uint8(i * 7), B: uint8(i * 31)})
	}
}

// TestPixel holds the table against solving.
func TestPixel(t *testing.T) {
	for _, c := range Conditions {
		sum, n := 0.0, 0
		for r := 8; r < 256; r += 61 {
			for g := 8; g < 256; g += 61 {
				for b := 8; b < 256; b += 61 {
					p := c.Pixel(uint8(r), uint8(g), uint8(b))
					var inks [4]float64
					for i, v := range p {
						inks[i] = float64(v) / 2.55
					}
					want := c.Separate(ink.Colour{R: uint8(r), G: uint8(g), B: uint8(b)})
					sum += DeltaE(c.Lab(inks), c.Lab(want.CMYK))
					n++
				}
			}
		}
		if mean := sum / float64(n); mean > 2 {
			t.Errorf("%s: pixels are off by %.2f on average", c.Key, mean)
		}
		if got := c.Pixel(255, 255, 255); got != [4]uint8{} {
			t.Errorf("%s: white is %v", c.Key, got)
		}
		if got := c.Pixel(0, 0, 0); got != [4]uint8{0, 0, 0, 255} {
			t.Errorf("%s: black is %v", c.Key, got)
		}
	}
}
