package proof

import (
	"fmt"
	"strings"
	"testing"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/job"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/symbol"
)

// found gives the codes of the rules on content and trade, for a content at a width, in a look.
func found(t *testing.T, values map[string]any, width float64, use string, l look.Look) (codes string, fixes map[string]string) {
	t.Helper()
	c, problems := content.New(values)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	s, err := symbol.Encode(c.Payload(), symbol.Options{Level: symbol.M, NoBoost: true})
	if err != nil {
		t.Fatal(err)
	}
	p := &place.Placement{Name: "a", Substrate: "coated", Width: measure.Length(width), Distance: 300, Light: "indoor", Use: use}
	in := Input{Payload: c.Payload(), Content: c, Symbol: s, Look: l, QuietZone: 4, Placement: p,
		Scene: layout.Draw(s, l, 4, p.Width, nil)}
	fixes = map[string]string{}
	for _, f := range append(prescribed(in, nil, Panel{}), scanners(in, nil, Panel{})...) {
		codes += f.Code + " "
		if f.Fix != nil {
			fixes[f.Code] = f.Fix.Label
		}
	}
	return strings.TrimSpace(codes), fixes
}

func TestTrade(t *testing.T) {
	product := map[string]any{"kind": "gs1link", "gtin": "9521234500018"} // 29 × 29 and the border: 37 modules
	bill := map[string]any{"kind": "swiss", "iban": "CH8599999000012345678", "currency": "CHF",
		"creditor": map[string]any{"name": "a", "postcode": "1", "city": "b", "country": "CH"}}
	data := map[string]any{"kind": "gs1data", "elements": "(01)09521234500018"}
	colour := func(s string) look.Look {
		l := look.Default()
		l.Ink, _ = ink.Parse(s)
		return l
	}
	formed, shaded, reddish := look.Default(), look.Default(), look.Default()
	formed.Modules.Corner = 1
	shaded.Shade = ink.Gradient{Kind: "linear", N: 2, Stops: [ink.MaxStops]ink.Stop{{}, {At: 1, Colour: ink.Colour{G: 40}}}}
	reddish.Eyes.All.Core.Ink, reddish.Eyes.All.Core.Inked = ink.Colour{R: 200}, true
	for _, c := range []struct {
		values map[string]any
		width  float64
		use    string
		look   look.Look
		want   string
		fix    string
	}{
		{product, 20, "till", look.Default(), "", ""},
		{product, 12, "till", look.Default(), "scanner.size", "Print 14.7 mm wide"},
		{product, 45, "till", look.Default(), "scanner.size", "Print 36.6 mm wide"},
		{product, 20, "distribution", look.Default(), "scanner.size", "Print 27.5 mm wide"},
		{product, 30, "distribution", look.Default(), "", ""}, {product, 12, "", look.Default(), "", ""},
		{product, 20, "till", colour("#d02020"), "look.plain scanner.red", "Print black on white"},
		{product, 20, "till", colour("#12352b"), "", ""},
		{product, 20, "till", reddish, "look.plain scanner.red", "Print black on white"},
		{product, 20, "till", formed, "look.plain", "Print black on white"},
		{product, 20, "till", shaded, "look.plain", "Print black on white"},
		{data, 20, "till", look.Default(), "scanner.till", ""},
		{bill, 52, "", look.Default(), "size.prescribed", ""},
		{map[string]any{"kind": "url", "url": "m.example"}, 20, "", colour("#b02020"), "", ""},
		{map[string]any{"kind": "sepa", "name": "a", "iban": "DE37999999990123456789"}, 40, "", colour("#5b1f33"), "", ""},
		{map[string]any{"kind": "sepa", "name": "a", "iban": "DE37999999990123456789"}, 40, "", colour("#b04060"), "look.plain",
			"Print black on white"},
	} {
		t.Run(fmt.Sprint(c.values), func(t *testing.T) {
			got, fixes := found(t, c.values, c.width, c.use, c.look)
			if got != c.want {
				t.Errorf("%v at %v mm for %q in %v: %q, want %q", c.values["kind"], c.width, c.use, c.look.Ink, got, c.want)
			}
			if first, _, _ := strings.Cut(got, " "); c.fix != "" && fixes[first] != c.fix {
				t.Errorf("%v at %v mm: the fix is %q, want %q", c.values["kind"], c.width, fixes[first], c.fix)
			}
		})
	}
}

// TestNeighbours: what is printed beside a code counts where its own border is narrower than four modules.
func TestNeighbours(t *testing.T) {
	s, err := symbol.Encode("https://m.example", symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		quiet int
		free  float64 // millimetres; a module is 1 mm
		want  string
	}{{4, 0, ""}, {2, 2, ""}, {2, 1.5, "care"}, {0, 1, "stop"}, {0, 4, ""}, {1, -1, "stop"}} {
		t.Run(fmt.Sprint(c.quiet), func(t *testing.T) {
			p := &place.Placement{Name: "a", Width: measure.Length(s.Size + 2*c.quiet)}
			if free := measure.Length(c.free); c.free >= 0 {
				p.Clear = &free
			}
			in := Input{Symbol: s, Look: look.Default(), QuietZone: c.quiet, Placement: p,
				Scene: layout.Draw(s, look.Default(), c.quiet, p.Width, nil)}
			got := ""
			for _, f := range quietZone(in, nil, Panel{}) {
				got = string(f.Severity)
			}
			if got != c.want {
				t.Errorf("border %d, %v mm free: %q, want %q", c.quiet, c.free, got, c.want)
			}
		})
	}
}

// TestPaleParts: whatever ink is too pale is named, and the fix darkens that one alone, down to where nothing is found.
func TestPaleParts(t *testing.T) {
	for look, want := range map[string]string{
		`{"ink":"#cccccc"}`:                                                           "Darken ink to #949494",
		`{"eyes":{"core":{"ink":"#e0e0e0"}}}`:                                         "Darken the core of an eye to #949494",
		`{"eyes":{"each":[{},{"ring":{"ink":"#ffffff"}}]}}`:                           "Darken the ring of an eye to #949494",
		`{"eyes":{"core":{"ink":"#e0e0e0"},"ring":{"ink":"#e0e0e0"}}}`:                "Darken the inks that are pale",
		`{"ink":{"stops":[{"at":0,"colour":"#000000"},{"at":1,"colour":"#e0e0e0"}]}}`: "Darken the palest part of the ink to #949494",
		`{"ink":"#000000","paper":"#606060"}`:                                         "Print on white",
		`{"ink":"#c0c0c0","paper":"#cccccc"}`:                                         "Print black on white",
	} {
		t.Run(look, func(t *testing.T) {
			doc, err := fields.Decode([]byte(`{"content":{"kind":"url","url":"m.example"},"look":` + look + `}`))
			if err != nil {
				t.Fatal(err)
			}
			for round := range 2 {
				made, problems := job.Read(doc)
				if len(problems) > 0 {
					t.Fatalf("%s: %v", look, problems)
				}
				in := Input{Look: made.Look}
				found := contrastRule(in, &Proof{Contrast: contrast(in)}, Panel{})
				if round == 1 && len(found) > 0 {
					t.Errorf("%s: the fix leaves %q", look, found[0].Message)
				}
				if round == 1 {
					break
				}
				if len(found) != 1 || found[0].Fix == nil || found[0].Fix.Label != want {
					t.Fatalf("%s: %+v, want the fix %q", look, found, want)
				}
				if doc, _, err = job.Complete(doc, found[0].Fix.Patch).Apply(doc); err != nil {
					t.Fatal(err)
				}
			}
		})
	}
}
