package tally

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// even is n scans spread over days as evenly as they go.
func even(n, days int) Days {
	d := make(Days, days)
	for i := range n {
		d[i%days]++
	}
	return d
}

// TestRate: exact limits of a Poisson mean as tables have them (Garwood 1936; Pearson and Hartley, table 40), for counts that lie
// no wider than Poisson's.
func TestRate(t *testing.T) {
	for n, want := range map[int]Interval{5: {1.62, 11.67}, 10: {4.80, 18.39}, 20: {12.22, 30.89}, 30: {20.24, 42.83},
		50:  {37.11, 65.92},
		100: {81.36, 121.63}} {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			d := even(n, 1)
			rate, in, ok := d.Rate()
			if !ok || rate != float64(n) || math.Abs(in.Low-want.Low) > 0.006 || math.Abs(in.High-want.High) > 0.006 {
				t.Errorf("%d: %v in %.2f to %.2f, want %v", n, rate, in.Low, in.High, want)
			}
			week := even(n, 7)
			if _, w, _ := week.Rate(); math.Abs(w.Low*7-in.Low) > 1e-9 || math.Abs(w.High*7-in.High) > 1e-9 {
				t.Errorf("%d in a week: %v", n, w)
			}
		})
	}
	if _, _, ok := even(4, 7).Rate(); ok {
		t.Error("four scans have an interval")
	}
	if _, _, ok := (Days{}).Rate(); ok {
		t.Error("no day has an interval")
	}
}

// poisson draws a Poisson number; wide draws one whose variance is spread times its mean (gamma-mixed).
func poisson(r *rand.Rand, mean float64) int {
	if mean > 30 {
		return max(0, int(math.Round(mean+math.Sqrt(mean)*r.NormFloat64())))
	}
	n, p, limit := 0, r.Float64(), math.Exp(-mean)
	for p > limit {
		n++
		p *= r.Float64()
	}
	return n
}

func wide(r *rand.Rand, mean, spread float64) int {
	if spread <= 1 {
		return poisson(r, mean)
	}
	return poisson(r, gamma(r, mean/(spread-1))*(spread-1))
}

// gamma draws from a gamma distribution of a shape and scale 1 (Marsaglia and Tsang 2000).
func gamma(r *rand.Rand, shape float64) float64 {
	if shape < 1 {
		return gamma(r, shape+1) * math.Pow(r.Float64(), 1/shape)
	}
	d := shape - 1.0/3
	for c := 1 / math.Sqrt(9*d); ; {
		x := r.NormFloat64()
		v := math.Pow(1+c*x, 3)
		if v > 0 && math.Log(r.Float64()) < 0.5*x*x+d-d*v+d*math.Log(v) {
			return d * v
		}
	}
}

func days(r *rand.Rand, n int, mean, spread float64) Days {
	d := make(Days, n)
	for i := range d {
		d[i] = wide(r, mean, spread)
	}
	return d
}

// TestCoverage: of intervals of 95 % at least 94 % hold the true rate, from a mean of 5 in all up, also where counts lie
// three times as wide as Poisson's.
func TestCoverage(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	const tries = 1000
	for _, spread := range []float64{1, 2, 3} {
		for _, n := range []int{7, 14, 28, 90} {
			for _, total := range []float64{5, 10, 30, 100, 1000} {
				mean, held, given := total/float64(n), 0, 0
				for range tries {
					d := days(r, n, mean, spread)
					_, in, ok := d.Rate()
					if !ok {
						continue
					}
					given++
					if in.Low <= mean && mean <= in.High {
						held++
					}
				}
				if share := float64(held) / float64(given); share < 0.94 {
					t.Errorf("spread %v, %d days, %v in all: %.1f %% of %d hold", spread, n, total, 100*share, given)
				}
			}
		}
	}
}

// TestLookedAtDaily: two places that are alike are told apart by chance at most one time in twenty, though somebody looks each
// day.
func TestLookedAtDaily(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for _, c := range []struct{ mean, spread float64 }{{1, 1}, {5, 1}, {20, 1}, {5, 3}} {
		t.Run(fmt.Sprint(c.mean), func(t *testing.T) {
			wrong := 0
			const tries = 400
			for range tries {
				a, b := days(r, 60, c.mean, c.spread), days(r, 60, c.mean, c.spread)
				for day := 1; day <= 60; day++ {
					if _, in, ok := Ratio(a[:day], b[:day], 1, 1, 1); ok && (in.Low > 1 || in.High < 1) {
						wrong++
						break
					}
				}
			}
			if share := float64(wrong) / tries; share > 0.06 {
				t.Errorf("a mean of %v, spread %v: %.1f %% are told apart that are alike", c.mean, c.spread, 100*share)
			}
		})
	}
}

// TestCompare: what is told apart is told the right way round, by day, by prints, and with a date where it cannot be yet.
func TestCompare(t *testing.T) {
	gate, till, rose := even(612, 28), even(318, 28), even(19, 28)
	if c := Compare(gate, till, 28, 28, 1); c.Verdict != First || c.In.Low < 1.5 || c.In.High > 2.5 ||
		math.Abs(c.Ratio-612.0/318) > 1e-9 {
		t.Errorf("gate against till: %+v", c)
	}
	if c := Compare(till, gate, 28, 28, 1); c.Verdict != Second {
		t.Errorf("till against gate: %+v", c)
	}
	if c := Compare(gate, till, 4000, 1000, 1); c.Verdict != Second { // by prints
		t.Errorf("by prints: %+v", c)
	}
	if c := Compare(even(31, 28), rose, 28, 28, 1); c.Verdict != NotYet || c.Until < 7 || c.Until > 365 {
		t.Errorf("too few: %+v", c)
	}
	if c := Compare(even(4, 28), even(5, 28), 28, 28, 1); c.Given || c.Verdict != NotYet {
		t.Errorf("nine scans: %+v", c)
	}
	if c := Compare(gate, gate, 28, 28, 1); c.Verdict != NotYet || c.Until != 0 || c.Ratio != 1 {
		t.Errorf("with itself: %+v", c)
	}
	one, six := Compare(even(120, 28), even(80, 28), 28, 28, 1), Compare(even(120, 28), even(80, 28), 28, 28, 6)
	if six.In.Low >= one.In.Low || six.In.High <= one.In.High {
		t.Errorf("six comparisons are no wider than one: %+v, %+v", six.In, one.In)
	}
	// What both have in common does not blur what differs: six times as many on Saturdays, at both places.
	x, y := make(Days, 28), make(Days, 28)
	for i := range x {
		x[i], y[i] = 4, 2
		if i%7 == 6 {
			x[i], y[i] = 24, 12
		}
	}
	if c := Compare(x, y, 28, 28, 1); c.Verdict != First || x.Spread() < 4 {
		t.Errorf("with Saturdays: %+v, spread %v", c, x.Spread())
	}
	if c := Compare(even(30, 10), make(Days, 10), 10, 10, 1); c.Verdict != First || !math.IsInf(c.Ratio, 1) ||
		!math.IsInf(c.In.High, 1) {
		t.Errorf("against nothing: %+v", c)
	}
	// What Until says comes true: at these rates it is told then, and not a day before.
	a, b := even(40, 20), even(28, 20)
	c := Compare(a, b, 20, 20, 1)
	more := func(d Days, days int) Days {
		n := len(d) + days
		return even(int(math.Round(float64(d.Sum())*float64(n)/float64(len(d)))), n)
	}
	if c.Until == 0 || Compare(more(a, c.Until+2), more(b, c.Until+2), 1, 1, 1).Verdict != First ||
		Compare(more(a, c.Until-3), more(b, c.Until-3), 1, 1, 1).Verdict != NotYet {
		t.Errorf("told in %d days", c.Until)
	}
}

// TestShare: the limits hold p where the mixture is exactly 20 times as likely (α = 0.05), found here by steps.
func TestShare(t *testing.T) {
	for _, c := range [][2]float64{{5, 5}, {50, 30}, {0, 12}, {300, 280}} {
		low, high := share(c[0], c[1], 0.05)
		likely := func(p float64) float64 {
			m := lbeta(c[0]+0.5, c[1]+0.5) - lbeta(0.5, 0.5)
			l := 0.0
			if c[0] > 0 {
				l += c[0] * math.Log(p)
			}
			return math.Exp(m - l - c[1]*math.Log(1-p))
		}
		if c[0] > 0 && math.Abs(likely(low)-20) > 1e-6 || math.Abs(likely(high)-20) > 1e-6 || c[0] == 0 && low != 0 {
			t.Errorf("%v: %v to %v, %v and %v times as likely", c, low, high, likely(low), likely(high))
		}
	}
}

func TestCourse(t *testing.T) {
	join := func(parts ...Days) (out Days) {
		for _, p := range parts {
			out = append(out, p...)
		}
		return out
	}
	for want, d := range map[Course]Days{
		Steady: even(600, 28), Rising: join(even(50, 14), even(150, 14)), Falling: join(even(150, 14), even(50, 14)),
		FellSilent: join(even(118, 17), make(Days, 11)), TooFew: join(even(3, 6), even(3, 6), even(2, 6), even(1, 6))} {
		t.Run(fmt.Sprint(want), func(t *testing.T) {
			if got := d.Course(); got != want {
				t.Errorf("%v is %q, want %q", d, got, want)
			}
		})
	}
	if days, chance, ok := join(even(130, 26), make(Days, 2)).Silence(); !ok || days != 2 ||
		math.Abs(chance-math.Exp(-2*5)) > 1e-12 {
		t.Errorf("two days of silence: %d %v %v", days, chance, ok)
	}
	if _, _, ok := join(even(125, 25), make(Days, 2)).Silence(); ok {
		t.Error("27 days are too few to say that a place fell silent")
	}
	if _, chance, ok := join(even(22, 22), make(Days, 6)).Silence(); ok || math.Abs(chance-math.Exp(-6)) > 1e-12 {
		t.Errorf("six days of silence at one a day may be chance: %v", chance)
	}
	if _, _, ok := join(even(21, 21), make(Days, 7)).Silence(); !ok { // e⁻⁷ < 1/1000
		t.Error("seven days of silence at one a day are chance")
	}
	if _, _, ok := make(Days, 30).Silence(); ok {
		t.Error("what was never scanned fell silent")
	}
	if _, _, ok := (Days{}).Silence(); ok || (Days{}).Course() != TooFew {
		t.Error("no days at all")
	}
}

func TestWeekday(t *testing.T) {
	d := make(Days, 28)
	for i := range d {
		d[i] = 2
		if (3+i)%7 == 6 {
			d[i] = 12
		}
	}
	if day, share, ok := d.Weekday(3); !ok || day != 6 || share != 0.5 {
		t.Errorf("Saturdays: %d %v %v", day, share, ok)
	}
	if _, _, ok := even(100, 28).Weekday(3); ok {
		t.Error("a day stands out of an even course")
	}
	if _, _, ok := d[:13].Weekday(3); ok {
		t.Error("a day stands out of less than two weeks")
	}
}

// TestSpread: Pearson's statistic over the quantile of the chi-squared distribution at one in four, as tables have it (1.2125 for
// three degrees of freedom), counted by hand.
func TestSpread(t *testing.T) {
	const quarter = 1.212533
	for _, c := range []struct {
		d    Days
		want float64
	}{{Days{2, 4, 6, 8}, 4 / quarter}, {Days{5, 5, 5, 5}, 1}, {Days{0, 9}, 1}, {Days{0, 0, 0}, 1}, {Days{}, 1},
		{Days{0, 6, 12}, 12 / 0.575364}} {
		t.Run(fmt.Sprint(c.d), func(t *testing.T) { // two degrees of freedom
			if got := c.d.Spread(); math.Abs(got-c.want) > 1e-4*c.want {
				t.Errorf("%v: %v, want %v", c.d, got, c.want)
			}
		})
	}
	// 10 of 10 and none of 10 in turn: each day is 10 off by its square over 2.5, which is 10.
	if got, known := apart(Days{10, 0, 10, 0}, Days{0, 10, 0, 10}); !known || math.Abs(got-40/quarter) > 1e-3 {
		t.Errorf("the share lies %v times as wide as chance", got)
	}
	if got, _ := apart(Days{99, 4, 4, 4, 4}, Days{2, 2, 2, 2}); got != 1 { // of the days that both have
		t.Errorf("a constant share lies %v times as wide as chance", got)
	}
}

// TestLimits: where each word begins.
func TestLimits(t *testing.T) {
	silent := make(Days, 56)
	for i := 0; i <= 20; i += 5 {
		silent[i] = 1
	}
	if _, chance, ok := silent.Silence(); !ok || math.Abs(chance-math.Exp(-35*5.0/21/silent[:21].Spread())) > 1e-12 {
		t.Errorf("five scans and five weeks of silence: %v %v", chance, ok)
	}
	if _, _, ok := silent[1:].Silence(); ok {
		t.Error("four scans may fall silent")
	}
	wide := append(slices.Repeat(Days{2, 4, 6, 8}, 7), 0, 0)
	want := math.Exp(-10 / wide[:28].Spread())
	if _, chance, _ := wide.Silence(); math.Abs(chance-want) > 1e-12 {
		t.Errorf("silence after counts that lie wide: %v", chance)
	}
	for n, want := range map[int]Course{9: TooFew, 10: Steady} {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			d := append(even(n, 6), 0)[:6]
			if got := d.Course(); got != want {
				t.Errorf("%d scans in six days: %s", n, got)
			}
		})
	}
	if got := even(20, 5).Course(); got != TooFew {
		t.Errorf("five days: %s", got)
	}
	week := func(day, other int) (d Days) {
		for i := range 14 {
			if i%7 == 2 {
				d = append(d, day)
			} else {
				d = append(d, other)
			}
		}
		return d
	}
	if day, share, ok := week(6, 2).Weekday(0); !ok || day != 2 || share != 1.0/3 { // 12 of 36
		t.Errorf("a third: %d %v %v", day, share, ok)
	}
	if _, _, ok := week(5, 2).Weekday(0); ok {
		t.Error("less than a third stands out")
	}
	if _, _, ok := week(15, 0).Weekday(0); !ok { // 30 scans
		t.Error("thirty scans are too few")
	}
	if _, _, ok := week(14, 0).Weekday(0); ok {
		t.Error("twenty-eight scans are enough")
	}
}

// TestSpreadKnown: how two places spread is known from three days on which anything was scanned; before that nothing is said of
// them, however far apart they seem, and it is said when it can be.
func TestSpreadKnown(t *testing.T) {
	for _, c := range []struct {
		name string
		a, b Days
		ok   bool
	}{
		{"two days", Days{90, 90}, Days{1, 1}, false},
		{"three days", Days{90, 90, 90}, Days{1, 1, 1}, true},
		{"two days of three", Days{90, 0, 90}, Days{1, 0, 1}, false},
		{"two days against nothing", Days{90, 90}, Days{0, 0}, false},
		{"three days against nothing", Days{90, 90, 90}, Days{0, 0, 0}, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			if _, _, ok := Ratio(c.a, c.b, 1, 1, 1); ok != c.ok {
				t.Errorf("told is %v", ok)
			}
		})
	}
	if days, ok := Until(Days{90, 90}, Days{1, 1}, 1, 365); !ok || days != 1 {
		t.Errorf("told in %d days, %v; the third day tells", days, ok)
	}
	if days, ok := Until(Days{90, 90, 90}, Days{1, 1, 1}, 1, 365); !ok || days != 0 {
		t.Errorf("told in %d days, %v; it is told now", days, ok)
	}
}
