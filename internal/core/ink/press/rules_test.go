package press

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"sodrik/internal/core/ink"
)

// TestDifferencePairs is the rest of the pairs of Sharma, Wu, Dalal 2005, table 1, and three whose hues lie on both sides of
// red, worked out apart from this code with the bisector of the two directions as the mean of hues.
func TestDifferencePairs(t *testing.T) {
	for _, c := range [][7]float64{
		{50, -1.1848, -84.8006, 50, 0, -82.7485, 1}, {50, -0.9009, -85.5211, 50, 0, -82.7485, 1},
		{50, 2.49, -0.001, 50, -2.49, 0.0009, 7.1792}, {50, 2.49, -0.001, 50, -2.49, 0.001, 7.1792},
		{50, 2.49, -0.001, 50, -2.49, 0.0011, 7.2195}, {50, 2.49, -0.001, 50, -2.49, 0.0012, 7.2195},
		{50, -0.001, 2.49, 50, 0.0009, -2.49, 4.8045}, {50, -0.001, 2.49, 50, 0.001, -2.49, 4.8045},
		{50, -0.001, 2.49, 50, 0.0011, -2.49, 4.7461},
		{50, 2.5, 0, 50, 3.1736, 0.5854, 1}, {50, 2.5, 0, 50, 3.2972, 0, 1}, {50, 2.5, 0, 50, 1.8634, 0.5757, 1},
		{50, 2.5, 0, 50, 3.2592, 0.3350, 1},
		{63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.2630},
		{61.2901, 3.7196, -5.3901, 61.4292, 2.2480, -4.9620, 1.8731},
		{35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645},
		{22.7233, 20.0904, -46.6940, 23.0331, 14.9730, -42.5619, 2.0373},
		{36.4612, 47.8580, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146},
		{90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381},
		{6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377}, {2.0776, 0.0795, -1.1350, 0.9033, -0.0636, -0.5514, 0.9082},
		{50, 40, -8, 60, 30, 12, 15.8413}, {50, 30, 12, 60, 40, -8, 15.8413}, {30, 60, -1, 40, 20, 20, 24.0715},
	} {
		p, q := Lab{c[0], c[1], c[2]}, Lab{c[3], c[4], c[5]}
		if got := DeltaE(p, q); math.Abs(got-c[6]) > 1e-4 {
			t.Errorf("%v to %v is %.4f, want %.4f", p, q, got, c[6])
		}
	}
}

// TestPrimaries: the primaries of sRGB in Lab for D50, as ICC profiles of sRGB have them.
func TestPrimaries(t *testing.T) {
	for _, c := range []struct {
		of   ink.Colour
		want Lab
	}{{ink.Colour{R: 255}, Lab{54.29, 80.81, 69.89}}, {ink.Colour{G: 255}, Lab{87.82, -79.28, 80.99}},
		{ink.Colour{B: 255}, Lab{29.57, 68.30, -112.03}}} {
		t.Run(fmt.Sprint(c.of), func(t *testing.T) {
			if got := OnScreen(c.of); math.Abs(got.L-c.want.L) > 0.05 || math.Abs(got.A-c.want.A) > 0.05 ||
				math.Abs(got.B-c.want.B) > 0.05 {
				t.Errorf("%v is %.2f, want %.2f", c.of, got, c.want)
			}
		})
	}
}

// TestWeights: the cubic goes through its steps, gives back any straight line everywhere and any parabola between inner
// steps, and ends flat beyond.
func TestWeights(t *testing.T) {
	for name, steps := range map[string][]float64{"uneven": {0, 10, 30, 40, 70, 100}, "even": {0, 25, 50, 75, 100},
		"three": {0, 40, 100}, "two": {0, 100}} {
		t.Run(name, func(t *testing.T) {
			n := len(steps)
			value := func(v float64, f func(float64) float64) (sum float64) {
				from, w := weights(steps, v)
				for j, share := range w {
					if share != 0 {
						sum += share * f(steps[from+j])
					}
				}
				return sum
			}
			for v := -10.0; v <= 110; v += 1.25 {
				at := min(max(v, 0), 100)
				if got := value(v, func(x float64) float64 { return 3 - 2*x }); math.Abs(got-(3-2*at)) > 1e-9 {
					t.Errorf("a line at %g is %g, want %g", v, got, 3-2*at)
				}
				if inner := n > 3 && v >= steps[1] && v <= steps[n-2]; inner || slices.Contains(steps, v) {
					if got := value(v, func(x float64) float64 { return x*x - 7*x }); math.Abs(got-(v*v-7*v)) > 1e-8 {
						t.Errorf("a parabola at %g is %g, want %g", v, got, v*v-7*v)
					}
				}
			}
		})
	}
}

// TestGrids: every level is a full grid of measured patches, from nothing to the full ink, which no further share fits into.
func TestGrids(t *testing.T) {
	for _, c := range Conditions {
		t.Run(c.Key, func(t *testing.T) {
			if got, ok := Of(c.Key); !ok || got != c {
				t.Errorf("%s is found as %v", c.Key, got)
			}
			have := map[[4]float64]Lab{}
			shares := map[float64]bool{}
			for _, p := range c.read() {
				have[p.inks] = p.lab
				shares[p.inks[0]] = true
			}
			full := func(steps []float64, black float64) bool {
				for _, a := range steps {
					for _, b := range steps {
						for _, d := range steps {
							if _, ok := have[[4]float64{a, b, d, black}]; !ok {
								return false
							}
						}
					}
				}
				return true
			}
			for i, l := range c.measured().levels {
				if l.steps[0] != 0 || l.steps[len(l.steps)-1] != 100 || !full(l.steps, l.black) || i > 0 &&
					l.black <= c.grid.levels[i-1].black {
					t.Errorf("black %g has the steps %v", l.black, l.steps)
				}
				for v := range shares {
					if !slices.Contains(l.steps, v) && full(append(slices.Clone(l.steps), v), l.black) {
						t.Errorf("black %g could have %g too, beside %v", l.black, v, l.steps)
					}
				}
			}
		})
	}
	if _, ok := Of("newsprint"); ok {
		t.Error("there is a condition for newsprint")
	}
}

// TestPaperAndDeepest: white of screens is the paper, and black as light as all inks together within their limit (ISO 18619).
func TestPaperAndDeepest(t *testing.T) {
	for _, c := range Conditions {
		t.Run(c.Key, func(t *testing.T) {
			if d := DeltaE(c.onPaper(ink.White), c.Paper()); d > 0.05 { // what the rounded matrices leave
				t.Errorf("white is off the paper by %.3f", d)
			}
			other := map[string]float64{"coated": 200. / 3, "uncoated": 160. / 3, "web-coated": 200. / 3,
				"us-coated": 200. / 3}[c.Key]
			deepest := c.Lab([4]float64{other, other, other, 100})
			if got := c.Deepest(); got != deepest {
				t.Errorf("the deepest is %v, want %v", got, deepest)
			}
			if got := c.onPaper(ink.Black); math.Abs(got.L-deepest.L) > 0.01 {
				t.Errorf("black is as light as %.3f, want %.3f", got.L, deepest.L)
			}
		})
	}
}

// TestGreys: channels that differ by up to three are a grey, of black ink alone; black as good as black is all of it.
func TestGreys(t *testing.T) {
	c := Conditions[0]
	for of, alone := range map[ink.Colour]bool{{R: 120, G: 120, B: 120}: true, {R: 120, G: 123, B: 121}: true,
		{R: 120, G: 124, B: 121}: false} {
		t.Run(fmt.Sprint(of), func(t *testing.T) {
			if got := c.separate(of).CMYK; (got[0]+got[1]+got[2] == 0) != alone {
				t.Errorf("%v is printed from %v", of, got)
			}
		})
	}
	for of, want := range map[ink.Colour]float64{{R: 3, G: 3, B: 3}: 0, {R: 0, G: 3, B: 2}: 0} {
		t.Run(fmt.Sprint(of), func(t *testing.T) {
			if got := c.separate(of); got.CMYK != [4]float64{0, 0, 0, 100} || got.Off != want {
				t.Errorf("%v is %v", of, got)
			}
		})
	}
	for _, l := range []float64{30, 50, 80} {
		if got := c.Lab([4]float64{0, 0, 0, c.blackFor(l)}).L; math.Abs(got-l) > 0.01 {
			t.Errorf("black for a lightness of %g gives %g", l, got)
		}
	}
}

// TestBlackShare: among inks that come as near, the darker the colour the more of it is black.
func TestBlackShare(t *testing.T) {
	c := Conditions[0]
	light, middle, dark := c.separate(ink.Colour{R: 205, G: 180, B: 160}).CMYK[3],
		c.separate(ink.Colour{R: 120, G: 95, B: 80}).CMYK[3], c.separate(ink.Colour{R: 50, G: 36, B: 30}).CMYK[3]
	t.Logf("black of a light, a middle and a dark brown: %g, %g, %g", light, middle, dark)
	if light > 10 || middle <= light || dark <= middle || dark < 50 {
		t.Errorf("black is %g of a light, %g of a middle and %g of a dark brown", light, middle, dark)
	}
}

// TestTidy: what does next to nothing goes, what is seen stays, and rounding keeps the limit.
func TestTidy(t *testing.T) {
	c := Conditions[0] // 300 %
	for _, row := range []struct {
		name       string
		want, inks [4]float64
		tidied     [4]float64
	}{
		{"half a percent of magenta goes", [4]float64{50, 0, 60, 0}, [4]float64{50, 0.5, 60, 0}, [4]float64{50, 0, 60, 0}},
		{"three percent stay", [4]float64{50, 3, 60, 0}, [4]float64{50, 3, 60, 0}, [4]float64{50, 3, 60, 0}},
		{"a veil of black on paper is seen", [4]float64{0, 0, 0, 2.6}, [4]float64{0, 0, 0, 2.6}, [4]float64{0, 0, 0, 3}},
		{"rounded up to 301", [4]float64{99.6, 60.5, 39.6, 100}, [4]float64{99.6, 60.5, 39.6, 100}, [4]float64{99, 61, 40, 100}},
		{"rounded up to 301, magenta the most", [4]float64{60.5, 99.6, 39.6, 100}, [4]float64{60.5, 99.6, 39.6, 100},
			[4]float64{61, 99, 40, 100}},
		{"300 are no more than 300", [4]float64{100, 60, 40, 100}, [4]float64{100, 60, 40, 100}, [4]float64{100, 60, 40, 100}},
	} {
		t.Run(row.name, func(t *testing.T) {
			want := c.Lab(row.want)
			if got := c.tidy(want, row.inks, DeltaE(want, c.Lab(row.inks))); got != row.tidied {
				t.Errorf("%v, want %v", got, row.tidied)
			}
		})
	}
}

// TestSolve3: systems of three, by putting the answer back in, and one that is only two.
func TestSolve3(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for n := range 200 {
		var m [3][4]float64
		x := [3]float64{r.Float64()*20 - 10, r.Float64()*20 - 10, r.Float64()*20 - 10}
		for i := range 3 {
			for k := range 3 {
				m[i][k] = r.Float64()*4 - 2
				m[i][3] += m[i][k] * x[k]
			}
		}
		if n%3 == 0 { // the first equation does not hold the first unknown
			m[0][3] -= m[0][0] * x[0]
			m[0][0] = 0
		}
		got, ok := solve3(m)
		for i := range 3 {
			if !ok || math.Abs(got[i]-x[i]) > 1e-6 {
				t.Fatalf("%v: %v %v, want %v", m, got, ok, x)
			}
		}
	}
	if _, ok := solve3([3][4]float64{{1, 2, 3, 4}, {2, 4, 6, 8}, {0, 1, 0, 1}}); ok {
		t.Error("two equations are solved as three")
	}
}

// TestSolveWithin: within the limit of inks, colours that the inks give are found again.
func TestSolveWithin(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for _, c := range Conditions {
		for range 40 {
			k := float64(r.IntN(60))
			inks := [4]float64{5 + r.Float64()*60, 5 + r.Float64()*60, 5 + r.Float64()*60, k}
			want := c.Lab(inks)
			got := c.solve(want, k, [3]float64{30, 30, 30})
			if d := DeltaE(want, c.Lab(got)); d > 0.05 || got[3] != k {
				t.Errorf("%s: %v is found as %v, off by %.2f", c.Key, inks, got, d)
			}
		}
	}
}

// TestPixelRounds holds the whole numbers of Pixel against the same table in floating point.
func TestPixelRounds(t *testing.T) {
	c := Conditions[1]
	table := c.table()
	r := rand.New(rand.NewPCG(5, 6))
	for range 2000 {
		v := [3]uint8{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256))}
		var sum [4]float64
		for corner := range 8 {
			share, at := 1.0, 0
			for axis := range 3 {
				p := float64(v[axis]) / 255 * 16
				low := min(math.Floor(p), 15)
				if corner>>axis&1 == 1 {
					share, at = share*(p-low), at*17+int(low)+1
				} else {
					share, at = share*(1-p+low), at*17+int(low)
				}
			}
			for k := range 4 {
				sum[k] += share * float64(table[at*4+k])
			}
		}
		for k, got := range c.Pixel(v[0], v[1], v[2]) {
			if math.Abs(float64(got)-sum[k]) > 0.5+1e-6 {
				t.Fatalf("%v: plate %d is %d, want %.2f", v, k, got, sum[k])
			}
		}
	}
}
