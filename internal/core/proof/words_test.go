package proof

import (
	"strings"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
)

// TestPaleWords: words need 4.5 : 1 on a screen (WCAG 2.2, 1.4.3), where #767676 on white has 4.54 and #777777 has 4.48; in
// print 50 of L* at the least size of type for the distance, 25 at twice that size. Of greys, #777777 has L* 50.0, #b9b9b9
// 75.0.
func TestPaleWords(t *testing.T) {
	colour := func(hex string) ink.Colour {
		c, ok := ink.Parse(hex)
		if !ok {
			t.Fatal(hex)
		}
		return c
	}
	for _, c := range []struct {
		name, ink, ground string
		printed           bool
		least, vary       float64
		want, fix         string
	}{
		{"a screen, just enough", "#767676", "#ffffff", false, 4, 0, "", ""},
		{"a screen, just too little", "#777777", "#ffffff", false, 4, 0, "4.5 to 1; screens need 4.5", "Print the words black"},
		{"print at the least size", "#767676", "#ffffff", true, 4, 0, "", ""},
		{"print at the least size, too little", "#797979", "#ffffff", true, 4, 0, "they need 50", "Print the words black"},
		{"print at twice the size", "#b8b8b8", "#ffffff", true, 8, 0, "", ""},
		{"print at twice the size, too little", "#bbbbbb", "#ffffff", true, 8, 0, "they need 25", "Print the words black"},
		{"larger still is not better", "#bbbbbb", "#ffffff", true, 40, 0, "they need 25", "Print the words black"},
		{"black on the dark", "#000000", "#14271f", true, 4, 0, "they need 50", "Print the words white"},
		{"a busy ground", "#000000", "#ffffff", true, 4, 0.5, "varies by 50 %", ""},
		{"no words", "#ffffff", "#ffffff", true, 0, 0, "", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			in := Input{Placement: &place.Placement{Distance: 1000}, Surface: &Surface{Least: c.least, WordsInk: colour(c.ink),
				WordsGround: colour(c.ground), WordsVary: c.vary}}
			f := paleWords(in, c.printed, func(key string, v any) patch.Op {
				return patch.Op{Op: "add", Path: "/" + key,
					Value: v}
			})
			switch {
			case (f != nil) != (c.want != ""):
				t.Errorf("%+v", f)
			case f == nil:
			case !strings.Contains(f.Message, c.want) || (f.Fix == nil) != (c.fix == "") || f.Fix != nil && f.Fix.Label != c.fix:
				t.Errorf("%s, %+v", f.Message, f.Fix)
			}
		})
	}
}
