package grade

import (
	"fmt"
	"math"
	"testing"

	"sodrik/internal/core/symbol"
)

func encoded(t *testing.T, version int) *symbol.Symbol {
	t.Helper()
	s, err := symbol.Encode("https://marrowby.example/fair", symbol.Options{MinVersion: version, Level: symbol.M, NoBoost: true})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// picture reflects as told: dark modules dark, others light, but for those changed.
func picture(s *symbol.Symbol, dark, light float64, change func(x, y int, v float64) float64) Input {
	return Input{Symbol: s, QuietZone: 4, Aperture: 0.8, Width: 1, At: func(fx, fy float64) float64 {
		x, y := int(math.Floor(fx)), int(math.Floor(fy))
		if x < 0 || y < 0 || x >= s.Size || y >= s.Size {
			return light
		}
		v := light
		if s.Dark(x, y) {
			v = dark
		}
		if change != nil {
			v = change(x, y, v)
		}
		return v
	}}
}

func gradeOf(t *testing.T, in Input, key string) Grade {
	t.Helper()
	p, ok := Evaluate(in).Of(key)
	if !ok {
		t.Fatalf("no %s", key)
	}
	return p.Grade
}

// TestContrast: each limit from both sides.
func TestContrast(t *testing.T) {
	s := encoded(t, 3)
	for _, c := range []struct {
		contrast float64
		want     Grade
	}{{0.90, 4}, {0.70, 4}, {0.69, 3}, {0.55, 3}, {0.54, 2}, {0.40, 2}, {0.39, 1}, {0.20, 1}, {0.19, 0}} {
		t.Run(fmt.Sprint(c.contrast), func(t *testing.T) {
			if got := gradeOf(t, picture(s, 0.05, 0.05+c.contrast, nil), SymbolContrast); got != c.want {
				t.Errorf("contrast %.2f: %d, want %d", c.contrast, got, c.want)
			}
		})
	}
	if r := Evaluate(picture(s, 0.04, 0.9, nil)); r.Overall != 4 || r.Overall.Letter() != "A" {
		t.Errorf("a perfect picture: %+v", r)
	}
}

// faint moves the modules of so many codewords of the first block towards the threshold, until their modulation is m.
func faint(s *symbol.Symbol, codewords int, m float64) func(x, y int, v float64) float64 {
	hit := map[int]bool{}
	for _, w := range s.Codewords() {
		if w.Block == 0 && codewords > 0 {
			codewords--
			for _, i := range w.Modules {
				hit[i] = true
			}
		}
	}
	return func(x, y int, v float64) float64 {
		if hit[y*s.Size+x] {
			return 0.5 + (v-0.5)*m
		}
		return v
	}
}

// TestModulation: a codeword below a grade is an error at that grade, which costs as much as it takes of the error correction.
func TestModulation(t *testing.T) {
	s := encoded(t, 3) // 3-M: one block, 13 correctable
	if n := symbol.BlocksOf(s.Version, s.Level).Correct; n != 13 {
		t.Fatal(n)
	}
	for _, c := range []struct {
		codewords int
		m         float64
		want      Grade
	}{
		{0, 1, 4},
		{70, 0.50, 4},
		{70, 0.49, 3},
		{70, 0.39, 2},
		{70, 0.29, 1},
		{70, 0.19, 0},
		{4, 0.19, 4}, // 9 of 13 left is 69 %
		{5, 0.19, 3}, // 62 % less a little: 61.5 %
		{6, 0.19, 3}, // 53.8 %
		{7, 0.19, 2}, // 46.2 %
		{8, 0.19, 2}, // 38.5 %
		{9, 0.19, 1}, // 30.8 %
		{10, 0.19, 0},
		{10, 0.35, 2}, // below 4 and 3, and at 2 none is an error
	} {
		t.Run(fmt.Sprint(c.codewords), func(t *testing.T) {
			if got := gradeOf(t, picture(s, 0, 1, faint(s, c.codewords, c.m)), Modulation); got != c.want {
				t.Errorf("%d codewords at %.2f: %d, want %d", c.codewords, c.m, got, c.want)
			}
		})
	}
}

// TestMargin: wrong modules have none, though their modulation is whole.
func TestMargin(t *testing.T) {
	s := encoded(t, 3)
	for n, want := range map[int]Grade{0: 4, 4: 4, 5: 3, 7: 2, 9: 1, 10: 0} {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			in := picture(s, 0, 1, faint(s, n, -1))
			if got := gradeOf(t, in, Margin); got != want {
				t.Errorf("%d codewords turned: margin %d, want %d", n, got, want)
			}
			if got := gradeOf(t, in, Modulation); got != 4 {
				t.Errorf("%d codewords turned: modulation %d", n, got)
			}
			if got := gradeOf(t, in, UnusedEC); got != want {
				t.Errorf("%d codewords turned: unused error correction %d, want %d", n, got, want)
			}
		})
	}
	if r := Evaluate(picture(s, 0, 1, faint(s, 14, -1))); r.Overall != 0 || r.Parameters[0].Grade != 0 {
		t.Errorf("beyond repair: %+v", r)
	}
}

// turned exchanges dark and light of modules.
func turned(list ...module) func(x, y int, v float64) float64 {
	return func(x, y int, v float64) float64 {
		for _, m := range list {
			if m.x == x && m.y == y {
				return 1 - v
			}
		}
		return v
	}
}

// TestFixedPatterns: damage of each segment, up to each limit; one damaged segment lowers the average too.
func TestFixedPatterns(t *testing.T) {
	s := encoded(t, 7)
	var finder, timing, alignment []module
	for i := range 8 {
		finder = append(finder, module{i, 0})
	}
	for i := 8; i < s.Size-8; i++ { // 29 of them
		timing = append(timing, module{i, 6})
	}
	for i := range 25 { // one of six patterns: 150 modules
		alignment = append(alignment, module{20 + i%5, 20 + i/5})
	}
	for _, c := range []struct {
		what string
		list []module
		n    int
		want Grade
	}{
		{"finder", finder, 0, 4}, {"finder", finder, 1, 3}, {"finder", finder, 2, 2}, {"finder", finder, 3, 1},
		{"finder", finder, 4, 0},
		{"timing", timing, 2, 3}, {"timing", timing, 3, 2}, {"timing", timing, 4, 1}, {"timing", timing, 5, 0},
		{"alignment", alignment, 15, 3}, {"alignment", alignment, 16, 2},
	} {
		t.Run(c.what, func(t *testing.T) {
			if got := gradeOf(t, picture(s, 0, 1, turned(c.list[:c.n]...)), FixedPattern); got != c.want {
				t.Errorf("%d modules of the %s: %d, want %d", c.n, c.what, got, c.want)
			}
		})
	}
	format, version := formatCopies(s.Size), versionCopies(s.Size)
	for n, want := range map[int]Grade{0: 4, 1: 4, 2: 3, 3: 3, 4: 2} {
		t.Run(fmt.Sprint(n), func(t *testing.T) { // one copy; the other is whole
			if got := gradeOf(t, picture(s, 0, 1, turned(format[0][:n]...)), Format); got != want {
				t.Errorf("%d modules of the format information: %d, want %d", n, got, want)
			}
			if got := gradeOf(t, picture(s, 0, 1, turned(version[1][:n]...)), Version); got != want {
				t.Errorf("%d modules of the version information: %d, want %d", n, got, want)
			}
		})
	}
	for k := range 2 {
		if len(format[k]) != 15 || len(version[k]) != 18 {
			t.Errorf("copy %d: %d and %d modules", k, len(format[k]), len(version[k]))
		}
		for _, m := range format[k] {
			if r := s.Role(m.x, m.y); r != symbol.RoleFormat {
				t.Errorf("%v is %v", m, r)
			}
		}
	}
}

// TestAxial: modules wider than high.
func TestAxial(t *testing.T) {
	s := encoded(t, 2)
	for width, want := range map[float64]Grade{1: 4, 1.06: 4, 1.07: 3, 1.1: 2, 0.89: 1, 1.2: 0} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			in := picture(s, 0, 1, nil)
			in.Width = width
			if got := gradeOf(t, in, Axial); got != want {
				t.Errorf("%.2f: %d, want %d", width, got, want)
			}
		})
	}
}
