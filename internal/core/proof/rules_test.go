package proof

import (
	"fmt"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/look"
	"sodrik/internal/core/place"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// TestPasses: a circumstance is met where every family reads three pictures of five, that from afar where all but one do
// (docs/proof.md, the rule).
func TestPasses(t *testing.T) {
	for _, c := range []struct {
		name      string
		condition string
		draws     int
		hits      map[string]int
		met       bool
	}{
		{"three of five", "slant", 5, map[string]int{"a": 3, "b": 5, "c": 3}, true},
		{"two of five by one", "slant", 5, map[string]int{"a": 2, "b": 5, "c": 5}, false},
		{"one of two is too few, by three of five", "slant", 2, map[string]int{"a": 1}, false},
		{"both of two", "slant", 2, map[string]int{"a": 2}, true},
		{"from afar, one family short", farther, 5, map[string]int{"a": 0, "b": 3, "c": 3}, true},
		{"from afar, two families short", farther, 5, map[string]int{"a": 0, "b": 2, "c": 5}, false},
		{"from afar, one of two", farther, 5, map[string]int{"a": 0, "b": 3}, true},
		{"from afar, none of two", farther, 5, map[string]int{"a": 0, "b": 2}, false},
		{"from afar, the only one short", farther, 5, map[string]int{"a": 2}, false},
		{"elsewhere one short is one too many", "hand", 5, map[string]int{"a": 0, "b": 5, "c": 5}, false},
		{"with a poor phone, two of five", poorPhone, 5, map[string]int{"a": 2, "b": 5}, false},
		{"nobody was asked", "slant", 5, map[string]int{}, false},
		{"nobody was asked from afar", farther, 5, map[string]int{}, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := (Outcome{Condition: c.condition, Draws: c.draws, Hits: c.hits}).Passes(); got != c.met {
				t.Errorf("met %v, want %v", got, c.met)
			}
		})
	}
}

// severities lists findings as "severity code".
func severities(list []Finding) (out []string) {
	for _, f := range list {
		out = append(out, fmt.Sprint(f.Severity, " ", f.Code))
	}
	return out
}

// TestModuleLimits: a module below what is sound on what it is printed on is a note, below 0.85 of it care, below 0.7 of it
// no code to print; the sizes are those of the table in docs/proof.md.
func TestModuleLimits(t *testing.T) {
	const modules = 29 + 8
	for substrate, least := range map[string]float64{"coated": 0.30, "film": 0.40, "thermal": 0.375, "uncoated": 0.45,
		"screen": 0.50, "newsprint": 0.70, "kraft": 0.70, "textile": 1.00} {
		t.Run(substrate, func(t *testing.T) {
			for share, want := range map[float64]string{1: "[]", 0.99: "[note module-size]", 0.86: "[note module-size]",
				0.84: "[care module-size]", 0.71: "[care module-size]", 0.69: "[stop module-size]", 0.3: "[stop module-size]"} {
				in := Input{Symbol: &symbol.Symbol{Size: 29}, QuietZone: 4, Scene: &scene.Scene{Width: modules * least * share},
					Placement: &place.Placement{Substrate: substrate}}
				got := moduleSize(in, nil, Panel{})
				if fmt.Sprint(severities(got)) != want {
					t.Errorf("%s, %g of %g mm: %v, want %s", substrate, share, least, severities(got), want)
				}
				if len(got) > 0 && got[0].Fix == nil {
					t.Errorf("%s: no fix", substrate)
				}
			}
		})
	}
	if got := moduleSize(Input{Symbol: &symbol.Symbol{Size: 29}, Scene: &scene.Scene{Width: 1}}, nil, Panel{}); got != nil {
		t.Errorf("without a place: %v", got)
	}
}

// TestInkLimits: more ink than a paper takes is care; the limits are those of the table in docs/press.md. Black over 30 % of
// other inks is rich.
func TestInkLimits(t *testing.T) {
	total := func(key string, sum float64) string {
		c, ok := press.Of(key)
		if !ok {
			t.Fatal(key)
		}
		inks := ink.CMYK{90, 90, sum - 230, 50} // no black to speak of, so that it is not rich
		in := Input{Press: &Printing{Condition: c}, Look: look.Look{Ink: ink.OfCMYK(inks), Paper: look.Paper{None: true}}}
		for _, f := range pressRule(in, nil, Panel{}) {
			if f.Code == "press.total" {
				return string(f.Severity)
			}
		}
		return ""
	}
	for key, limit := range map[string]float64{"coated": 300, "uncoated": 260, "web-coated": 300, "us-coated": 300} {
		t.Run(key, func(t *testing.T) {
			if got := total(key, limit); got != "" {
				t.Errorf("%s: %g %% is %s", key, limit, got)
			}
			if got := total(key, limit+1); got != string(SeverityCare) {
				t.Errorf("%s: %g %% is %q", key, limit+1, got)
			}
		})
	}
	c, _ := press.Of("coated")
	for inks, rich := range map[ink.CMYK]bool{{10, 10, 10, 100}: true, {10, 10, 9, 100}: false, {30, 0, 0, 95}: true,
		{30, 0, 0, 94}: false} {
		t.Run(fmt.Sprint(inks), func(t *testing.T) {
			in := Input{Press: &Printing{Condition: c}, Look: look.Look{Ink: ink.OfCMYK(inks), Paper: look.Paper{None: true}}}
			got := false
			for _, f := range pressRule(in, nil, Panel{}) {
				got = got || f.Code == "press.rich"
			}
			if got != rich {
				t.Errorf("%v: rich %v, want %v", inks, got, rich)
			}
		})
	}
}

// TestUnplaced: without a place a code says at once where it is too dense for a business card of 22 mm, read from 200 mm and
// half as far again: its modules take two pixels there of a picture of 1,080 lines whose focal length is 1,170 pixels, which
// is 0.51 mm each.
func TestUnplaced(t *testing.T) {
	for _, c := range []struct {
		modules int // of the symbol, its border of 8 apart
		says    string
	}{{25, ""}, {33, ""}, {37, "Dense: on a business card it would need 24 mm."},
		{49, "Dense: on a business card it would need 30 mm."}} {
		t.Run(fmt.Sprint(c.modules), func(t *testing.T) {
			found := unplaced(Input{Symbol: &symbol.Symbol{Size: c.modules}, QuietZone: 4}, nil, Panel{})
			got := ""
			for _, f := range found {
				got += f.Message
			}
			if got != c.says {
				t.Errorf("%d modules: %q, want %q", c.modules, got, c.says)
			}
		})
	}
}
