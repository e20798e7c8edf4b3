package measure

import "testing"

func TestParseLength(t *testing.T) {
	for text, want := range map[string]float64{"160": 160, " 160 mm ": 160, "16cm": 160, "1,5 m": 1500, "6.3 in": 160.02,
		"2\"": 50.8, "2 inch": 50.8, "-5": -5, "−5 mm": -5, "0": 0, ".5": 0.5, "5.": 5} {
		t.Run(text, func(t *testing.T) {
			if got, ok := ParseLength(text, Millimetre); !ok || float64(got) < want-1e-9 || float64(got) > want+1e-9 {
				t.Errorf("%q is %v %v, want %g", text, float64(got), ok, want)
			}
		})
	}
	for _, text := range []string{"", "abc", "mm", "1 2", "1e3", "0x10", "NaN", "inf", "1,2,3", "5 miles", "--5", "5-"} {
		t.Run(text, func(t *testing.T) {
			if got, ok := ParseLength(text, Millimetre); ok {
				t.Errorf("%q was read as %v", text, got)
			}
		})
	}
}

func TestWriting(t *testing.T) {
	for got, want := range map[string]string{
		Length(160).String(): "160 mm", Length(3.9024).String(): "3.9 mm", Length(0.333).String(): "0.33 mm",
		Length(1500).Spoken(): "1.5 m",
		Length(350).Spoken():  "350 mm", Number(-0.001, 2): "0", Number(100, 0): "100", Count(2009): "2,009",
		Count(-1234567): "-1,234,567", Count(999): "999",
		Length(1449).Rounded().String(): "1400 mm", Length(1450).Rounded().String(): "1500 mm",
		Length(99.4).Rounded().String(): "99 mm", Length(99.5).Rounded().String(): "100 mm",
		Length(0.44).Rounded().String(): "0.4 mm",
	} {
		t.Run(got, func(t *testing.T) {
			if got != want {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
	if got := Inch.Pixels(300); got != 300 {
		t.Errorf("an inch at 300 dpi is %g pixels", got)
	}
}

func FuzzParseLength(f *testing.F) {
	f.Add("16,5 cm")
	f.Fuzz(func(t *testing.T, s string) {
		if l, ok := ParseLength(s, Millimetre); ok && l != l {
			t.Fatalf("%q is not a number", s)
		}
	})
}
