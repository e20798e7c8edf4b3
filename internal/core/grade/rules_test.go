package grade

import (
	"math"
	"testing"

	"sodrik/internal/core/symbol"
)

// TestSegments: which modules belong to which part, counted on the figures of ISO/IEC 18004, and how parts make a whole
// (annex G.2).
func TestSegments(t *testing.T) {
	one := encoded(t, 0) // the smallest that holds it: version 3, 29 modules, an alignment pattern about (22, 22)
	small, err := symbol.Encode("SOW", symbol.Options{Level: symbol.M, NoBoost: true})
	if err != nil || small.Version != 1 || one.Version != 3 {
		t.Fatal(err, small.Version, one.Version)
	}
	row := func(y, from, to int) (out []module) {
		for x := from; x <= to; x++ {
			out = append(out, module{x, y})
		}
		return out
	}
	for name, c := range map[string]struct {
		s      *symbol.Symbol
		broken []module
		want   Grade
	}{
		"version 1 has no alignment pattern to lose":           {small, nil, 4},
		"the separator beside the timing pattern is no timing": {small, []module{{13, 6}}, 3},
		"one of five timing modules is a fifth":                {small, []module{{12, 6}}, 0},
		"a corner each: the average of 3, 3, 3, 4, 4 is 3.4":   {small, []module{{0, 0}, {20, 0}, {0, 20}}, 2},
		"the last row of an alignment pattern is a fifth":      {one, row(24, 20, 24), 2},
		"the row below it is nobody's":                         {one, row(25, 20, 24), 4},
	} {
		t.Run(name, func(t *testing.T) {
			if got := gradeOf(t, picture(c.s, 0, 1, turned(c.broken...)), FixedPattern); got != c.want {
				t.Errorf("%d, want %d", got, c.want)
			}
		})
	}
}

// TestVersionCopies: of version 7, 45 modules wide, version information stands in columns 34 to 36 of the first six rows, and
// mirrored (ISO/IEC 18004, 7.10).
func TestVersionCopies(t *testing.T) {
	want := map[module]bool{}
	for y := range 6 {
		for x := 34; x <= 36; x++ {
			want[module{x, y}] = true
		}
	}
	for k, list := range versionCopies(45) {
		seen := map[module]bool{}
		for _, m := range list {
			if k == 1 {
				m = module{m.y, m.x}
			}
			seen[m] = true
			if !want[m] {
				t.Errorf("copy %d: %v", k, m)
			}
		}
		if len(seen) != len(want) {
			t.Errorf("copy %d has %d modules", k, len(seen))
		}
	}
}

// TestAperture: the spot is round, as wide as it is said to be, and sits in the middle of the module.
func TestAperture(t *testing.T) {
	s := encoded(t, 3)
	spoilt := func(from, to float64) Input {
		in := picture(s, 0, 1, nil)
		clean := in.At
		in.At = func(x, y float64) float64 {
			if d := math.Hypot(x-math.Floor(x)-0.5, y-math.Floor(y)-0.5); d >= from && d <= to {
				return 1 - clean(x, y)
			}
			return clean(x, y)
		}
		return in
	}
	for name, c := range map[string]struct {
		from, to float64
		whole    bool
	}{"outside of 0.4": {0.405, 1, true}, "just within": {0.32, 0.4, false}, "the middle": {0, 0.05, false}} {
		t.Run(name, func(t *testing.T) {
			if p, _ := Evaluate(spoilt(c.from, c.to)).Of(SymbolContrast); (p.Value == 1) != c.whole {
				t.Errorf("contrast %.3f", p.Value)
			}
		})
	}
}

// TestQuietZoneCounts: the quiet zone is part of what is examined, on each side, where there is one.
func TestQuietZoneCounts(t *testing.T) {
	s := encoded(t, 3)
	n := float64(s.Size)
	for side, bright := range map[string]func(x, y float64) bool{
		"above": func(_, y float64) bool { return y < 0 }, "below": func(_, y float64) bool { return y > n },
		"left": func(x, _ float64) bool { return x < 0 }, "right": func(x, _ float64) bool { return x > n },
	} {
		t.Run(side, func(t *testing.T) {
			in := picture(s, 0.1, 0.6, nil)
			clean := in.At
			in.At = func(x, y float64) float64 {
				if bright(x, y) {
					return 0.9
				}
				return clean(x, y)
			}
			for zone, want := range map[int]float64{4: 0.8, 0: 0.5} {
				in.QuietZone = zone
				if p, _ := Evaluate(in).Of(SymbolContrast); math.Abs(p.Value-want) > 1e-9 {
					t.Errorf("with a quiet zone of %d the contrast is %.2f, want %.2f", zone, p.Value, want)
				}
			}
		})
	}
}

// TestPaleSymbol: the threshold lies between the two reflectances, and modulation is a share of the contrast, however small
// that is.
func TestPaleSymbol(t *testing.T) {
	r := Evaluate(picture(encoded(t, 3), 0.4, 0.9, nil))
	for key, want := range map[string]float64{Decode: 1, SymbolContrast: 0.5, Modulation: 1, Margin: 1} {
		t.Run(key, func(t *testing.T) {
			if p, _ := r.Of(key); math.Abs(p.Value-want) > 1e-9 {
				t.Errorf("%s is %.2f, want %.2f", key, p.Value, want)
			}
		})
	}
	// and not what 0/0 is
	if p, _ := Evaluate(picture(encoded(t, 3), 0.5, 0.5, nil)).Of(Modulation); p.Value != 0 || p.Grade != 0 {
		t.Errorf("nothing to see: %v", p)
	}
}
