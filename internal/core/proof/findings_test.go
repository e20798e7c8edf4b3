package proof

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"sodrik/internal/core/content"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
)

// told are findings as "severity code: message [fix]".
func told(list []Finding) string {
	var out []string
	for _, f := range list {
		line := fmt.Sprintf("%s %s: %s", f.Severity, f.Code, f.Message)
		if f.Fix != nil {
			line += " [" + f.Fix.Label + "]"
		}
		out = append(out, line)
	}
	return strings.Join(out, "\n")
}

func grey(v uint8) ink.Colour { return ink.Colour{R: v, G: v, B: v} }

// TestContrastRule: the steps B, C and D of symbol contrast in ISO/IEC 15415:2011, table 2, 55, 40 and 20 %; the fix darkens
// to 70 %, step A: a grey of #949494, whose luminance is 0.296, on white.
func TestContrastRule(t *testing.T) {
	pale := sits(40, 300)
	pale.Look.Ink = grey(0xc0)
	for _, c := range []struct {
		contrast float64
		want     string
	}{
		{0.55, ""},
		{0.549,
			"note contrast: Ink and paper differ by 55 %. That will do; 55 % leaves room for ink that fades. [Darken ink to " +
				"#949494]"},
		{0.40,
			"note contrast: Ink and paper differ by 40 %. That will do; 55 % leaves room for ink that fades. [Darken ink to " +
				"#949494]"},
		{0.399,
			"care contrast: Pale: ink and paper differ by only 40 %. Shade, glare and fading ink ask for 40 %. [Darken ink to " +
				"#949494]"},
		{0.20,
			"care contrast: Pale: ink and paper differ by only 20 %. Shade, glare and fading ink ask for 40 %. [Darken ink to " +
				"#949494]"},
		{0.199, "stop contrast: Too pale: ink and paper differ by only 20 %. Phones need at least 40 %. [Darken ink to #949494]"},
	} {
		t.Run(fmt.Sprint(c.contrast), func(t *testing.T) {
			if got := told(contrastRule(pale, &Proof{Contrast: c.contrast}, Panel{})); got != c.want {
				t.Errorf("%g: %s\nwant %s", c.contrast, got, c.want)
			}
		})
	}
	// On a paper too dark for any ink to differ by 70 %, white paper helps ink that is dark enough, and else black on white.
	dim := sits(40, 300)
	dim.Look.Ink, dim.Look.Paper.Colour = grey(0x40), grey(0x80)
	if got := told(contrastRule(dim, &Proof{Contrast: 0.3}, Panel{})); !strings.HasSuffix(got, "[Print on white]") {
		t.Error(got)
	}
	dim.Look.Ink, dim.Look.Paper.Colour = grey(0xa0), grey(0xc0) // 0.352 is more than the 0.3 that would differ enough from white
	if got := told(contrastRule(dim, &Proof{Contrast: 0.17}, Panel{})); !strings.HasSuffix(got, "[Print black on white]") {
		t.Error(got)
	}
	// A gradient both of whose ends are pale is darkened at both.
	graded := pale
	graded.Look.Shade = ink.Gradient{Kind: "linear", N: 2}
	graded.Look.Shade.Stops[0].Colour, graded.Look.Shade.Stops[1].Colour = grey(0xc0), grey(0xd0)
	if got := contrastRule(graded, &Proof{Contrast: 0.3},
		Panel{}); told(
		got) != "care contrast: Pale: the palest part of the ink and paper differ by only 30 %. Shade, glare and fading ink "+
		"ask for 40 %. [Darken the inks that are pale]" || len(got[0].Fix.Patch) != 2 {
		t.Errorf("%s %+v", told(got), got[0].Fix)
	}
}

// TestReversedRule: light on dark stops a print, and says how many kinds of reader refuse it and how many exchange dark and
// light.
func TestReversedRule(t *testing.T) {
	in := sits(40, 300)
	in.Look.Ink, in.Look.Paper.Colour = ink.White, ink.Black
	picture := func(family string, inverted bool) Reading {
		return Reading{Reader: family, Family: family, Condition: "picture", Inverted: inverted}
	}
	read := func(family string) Reading {
		return Reading{Reader: family, Family: family, Condition: "picture", Read: true}
	}
	const begins = "stop contrast.reversed: The ink is lighter than its ground. Many phones only look for dark on light."
	for _, c := range []struct {
		name     string
		readings []Reading
		want     string
	}{
		{"nobody was asked", nil, " [Swap ink and paper]"},
		{"one of three refuses", []Reading{picture("a", false), read("b"), read("c")},
			" Here one of three kinds of phone reader cannot read it. [Swap ink and paper]"},
		{"one exchanges", []Reading{picture("a", true), read("b"), read("c")},
			" One of three kinds of phone reader reads it only with dark and light exchanged. [Swap ink and paper]"},
		{"two exchange", []Reading{picture("a", true), picture("b", true), read("c")},
			" Two of three kinds of phone reader read it only with dark and light exchanged. [Swap ink and paper]"},
		{"all exchange", []Reading{picture("a", true), picture("b", true)},
			" Every kind of phone reader reads it only with dark and light exchanged. [Swap ink and paper]"},
		{"both", []Reading{picture("a", false), picture("b", true), read("c")},
			" Here one of three kinds of phone reader cannot read it. One of three kinds of phone reader reads it only with " +
				"dark and light exchanged. [Swap ink and paper]"},
		{"one engine of a family exchanges", []Reading{picture("a", false), picture("a", true), read("b")},
			" One of two kinds of phone reader reads it only with dark and light exchanged. [Swap ink and paper]"},
		{"it could not work", []Reading{{Reader: "a", Family: "a", Condition: "picture", Error: "slow"}, read("b")},
			" [Swap ink and paper]"},
		{"another circumstance", []Reading{{Reader: "a", Family: "a", Condition: "slant"}, read("b")}, " [Swap ink and paper]"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := told(contrastRule(in, &Proof{Readings: c.readings}, Panel{})); got != begins+c.want {
				t.Errorf("%s\nwant\n%s", got, begins+c.want)
			}
		})
	}
}

// TestDarken: the lightest of the same hue that is dark enough, and none where nothing is.
func TestDarken(t *testing.T) {
	for _, c := range []struct {
		from ink.Colour
		y    float64
		want string
		ok   bool
	}{
		{grey(0xff), 1, "#ffffff", true}, {grey(0xff), 0.3, "#949494", true}, {ink.Colour{R: 0xff}, 0.1, "#b60000", true},
		{grey(0xff), 0, "#000000", true}, {grey(0x30), -0.1, "#303030", false},
	} {
		t.Run(fmt.Sprint(c.from), func(t *testing.T) {
			if got, ok := darken(c.from, c.y); got.String() != c.want || ok != c.ok || ok && got.Luminance() > c.y {
				t.Errorf("%v to %g: %v %v, want %s", c.from, c.y, got, ok, c.want)
			}
		})
	}
	brighter := ink.Colour{R: 0xb7}
	if brighter.Luminance() <= 0.1 {
		t.Error("a lighter red would have done")
	}
}

// TestQuietZoneRule: four modules are asked for (ISO/IEC 18004:2015, 5.3.8), fewer are care, fewer than two stop; where it is
// known how near others come, what is free beyond counts.
func TestQuietZoneRule(t *testing.T) {
	mm := func(f float64) *measure.Length { l := measure.Length(f); return &l }
	for _, c := range []struct {
		name  string
		quiet int
		clear *measure.Length // millimetres beyond the border; a module is one
		want  string
	}{
		{"four", 4, nil, ""},
		{"three", 3, nil,
			"care quiet-zone: The clear border is 3 modules wide. Phones need 4 to tell the code from what lies around it. " +
				"[Widen border to 4 modules]"},
		{"two", 2, nil,
			"care quiet-zone: The clear border is 2 modules wide. Phones need 4 to tell the code from what lies around it. " +
				"[Widen border to 4 modules]"},
		{"one", 1, nil,
			"stop quiet-zone: The clear border is 1 modules wide. Phones need 4 to tell the code from what lies around it. " +
				"[Widen border to 4 modules]"},
		{"two and two free", 2, mm(2), ""},
		{"one and two free", 1, mm(2),
			"care quiet-zone.neighbour: Print comes within 3 modules of the code. Phones need 4 clear modules around it: 4 mm " +
				"here. [Widen border to 4 modules]"},
		{"one and one free", 1, mm(1),
			"care quiet-zone.neighbour: Print comes within 2 modules of the code. Phones need 4 clear modules around it: 4 mm " +
				"here. [Widen border to 4 modules]"},
		{"one and half of one free", 1, mm(0.5),
			"stop quiet-zone.neighbour: Print comes within 1.5 modules of the code. Phones need 4 clear modules around it: 4 " +
				"mm here. [Widen border to 4 modules]"},
	} {
		t.Run(c.name, func(t *testing.T) {
			in := sits(float64(29+2*c.quiet), 400)
			in.QuietZone, in.Placement.Clear = c.quiet, c.clear
			if got := told(quietZone(in, nil, Panel{})); got != c.want {
				t.Errorf("%s\nwant\n%s", got, c.want)
			}
		})
	}
}

// TestModuleFix: the width that is offered is the least whole number of millimetres at which a module is as large as coated
// paper asks for, 0.30 mm: 37 of them are 11.1 mm.
func TestModuleFix(t *testing.T) {
	in := sits(9, 100)
	if got := told(moduleSize(in, nil,
		Panel{})); got != "care module-size: Small for coated paper: a module is 0.24 mm wide and should have 0.3 mm, because "+
		"ink spreads about 0.03 mm at each edge. [Print 12 mm wide]" {
		t.Error(got)
	}
	if got := moduleSize(sits(37*0.3*0.9985, 100), nil, Panel{}); len(got) != 1 {
		t.Errorf("1.5 thousandths too small: %s", told(got))
	}
	if got := moduleSize(sits(37*0.3*0.9995, 100), nil, Panel{}); got != nil {
		t.Errorf("half a thousandth too small: %s", told(got))
	}
}

// asks is a content whose standard prescribes something.
type asks struct {
	*content.Text
	p content.Prescription
}

func (a asks) Prescribes() content.Prescription { return a.p }

// TestPrescribedRule: the side of a symbol may differ by half a millimetre from what its standard prescribes (the Swiss
// QR-bill: 46 mm without its border); a code that is meant plain is told where it is not.
func TestPrescribedRule(t *testing.T) {
	in := sits(46*37.0/29, 400)
	in.Content = asks{&content.Text{}, content.Prescription{Name: "a Swiss bill", Side: 46}}
	for side, want := range map[float64]string{46: "", 46.49: "", 45.51: "",
		46.6: "stop size.prescribed: A Swiss bill is 46 mm wide without its border; this one is 46.6 mm. [Print 58.7 mm wide]",
		45.4: "stop size.prescribed: A Swiss bill is 46 mm wide without its border; this one is 45.4 mm. [Print 58.7 mm wide]"} {
		t.Run(fmt.Sprint(side), func(t *testing.T) {
			in.Scene.Width = side * 37 / 29
			if got := told(prescribed(in, nil, Panel{})); got != want {
				t.Errorf("%g mm: %s, want %s", side, got, want)
			}
		})
	}
	in.Scene.Width = 46.6 * 37 / 29
	// 46 × 37/29 to a thousandth
	if f := prescribed(in, nil, Panel{})[0].Fix.Patch[0]; f.Path != "/placements/0/width_mm" || f.Value != 58.69 {
		t.Errorf("%+v", f)
	}
	in.Placement = nil
	if got := prescribed(in, nil, Panel{}); got != nil {
		t.Errorf("without a place: %s", told(got))
	}
	in = sits(46, 400)
	in.Content = asks{&content.Text{}, content.Prescription{Name: "a product code", Plain: true}}
	plainLook := in.Look
	paper := func(c ink.Colour) look.Paper { return look.Paper{Colour: c} }
	for name, c := range map[string]struct {
		change func(*Input)
		plain  bool
	}{
		"black on white":         {func(*Input) {}, true},
		"as dark as may be":      {func(in *Input) { in.Look.Ink = grey(0x3f) }, true},  // 0.0497
		"lighter":                {func(in *Input) { in.Look.Ink = grey(0x40) }, false}, // 0.0513
		"tinted paper":           {func(in *Input) { in.Look.Paper = paper(grey(0xf0)) }, false},
		"no paper, ground white": {func(in *Input) { in.Look.Paper = look.Paper{None: true} }, true},
		"no paper, ground grey": {func(in *Input) {
			in.Look.Paper = look.Paper{None: true}
			g := grey(0xd0)
			in.Placement.Background = &g
		}, false},
		"no paper, no place": {func(in *Input) { in.Look.Paper = look.Paper{None: true}; in.Placement = nil }, false},
		"in a disc":          {func(in *Input) { in.Look.Outline = "round" }, false},
	} {
		t.Run(name, func(t *testing.T) {
			in.Look, in.Placement = plainLook, sits(46, 400).Placement
			c.change(&in)
			got := told(prescribed(in, nil, Panel{}))
			if want := "care look.plain: A product code is meant dark on white, in plain modules; scanners at tills and in banks " +
				"may refuse another dress. [Print black on white]"; (got == "") != c.plain || !c.plain && got != want {
				t.Errorf("%s: %q", name, got)
			}
		})
	}
}

// identifies is a content with GS1 identifiers.
type identifies struct {
	*content.Text
	kind string
}

func (identifies) Interpretation() []string { return nil }
func (i identifies) Kind() string           { return i.kind }

// TestScannersRule: the module for scanners is 0.396 to 0.990 mm at the till and 0.743 to 1.500 mm in distribution (GS1
// General Specifications, 5.12); red light is asked of every ink.
func TestScannersRule(t *testing.T) {
	in := sits(37*0.5, 200)
	in.Content, in.Placement.Use = identifies{&content.Text{}, "gs1link"}, "till"
	for module, want := range map[float64]string{
		0.396: "", 0.990: "", 0.3957: "", 0.9905: "",
		0.39: "stop scanner.size: A module is 0.39 mm wide. For the till it has to be 0.396 to 0.99 mm. [Print 14.7 mm wide]",
		1.0:  "stop scanner.size: A module is 1 mm wide. For the till it has to be 0.396 to 0.99 mm. [Print 36.6 mm wide]",
		0.1:  "stop scanner.size: A module is 0.1 mm wide. For the till it has to be 0.396 to 0.99 mm. [Print 14.7 mm wide]",
	} {
		t.Run(fmt.Sprint(module), func(t *testing.T) {
			in.Scene.Width = 37 * module
			if got := told(scanners(in, nil, Panel{})); got != want {
				t.Errorf("%g mm: %s, want %s", module, got, want)
			}
		})
	}
	in.Scene.Width = 37 * 0.5
	in.Content = identifies{&content.Text{}, "gs1data"}
	if got := told(scanners(in, nil,
		Panel{})); got != "care scanner.till: Tills read a product from a GS1 Digital Link; an element string in a QR code is "+
		"not among the symbols for the point of sale." {
		t.Error(got)
	}
	in.Content, in.Placement.Use = identifies{&content.Text{}, "gs1link"}, ""
	in.Scene.Width = 37 * 0.1
	if got := scanners(in, nil, Panel{}); got != nil {
		t.Errorf("for no scanner: %s", told(got))
	}
	in.Placement.Use = "lighthouse"
	if got := scanners(in, nil, Panel{}); got != nil {
		t.Errorf("for an unknown one: %s", told(got))
	}
	in.Placement.Use = ""
	in.Look.Ink = ink.Colour{R: 0xb4} // its red part as light is 0.456, which leaves 0.544
	if got := told(scanners(in, nil,
		Panel{})); got != "care scanner.red: Scanners light with red, in which this ink and its ground differ by about 54 %. "+
		"Safe is 70 %; the printed ink has the last word. [Print black on white]" {
		t.Error(got)
	}
	in.Look.Ink = ink.Colour{R: 0xb2} // 0.445
	if got := scanners(in, nil, Panel{}); got != nil {
		t.Errorf("%s", told(got))
	}
	in.Look.Ink = ink.Colour{R: 0xff}
	in.Look.Paper.Colour = grey(0xe0)
	if got := told(scanners(in, nil, Panel{})); !strings.Contains(got, "differ by about 0 %") {
		t.Error(got)
	}
	in.Content = &content.Text{}
	if got := scanners(in, nil, Panel{}); got != nil {
		t.Errorf("without identifiers: %s", told(got))
	}
}

// TestEyesRule: cores that are too narrow on or off their middle or too wide, and rings too thin; widths are shares of three
// modules.
func TestEyesRule(t *testing.T) {
	core := func(motif string, scale float64) Input {
		in := sits(40, 300)
		in.Look.Eyes.All.Core.Motif, in.Look.Eyes.All.Core.Scale = motif, scale
		return in
	}
	for _, c := range []struct {
		name, want string
		in         Input
	}{
		{"square", "", core("square", 1)},
		{"disc", "", core("disc", 1)},
		{"a square of eight tenths", "", core("square", 0.8)},
		{"of a little less",
			"care eye.core: Phones find a code by its eyes. Across its middle this core is only 79 % as wide as a square one; " +
				"some phones need 80 %.", core("square", 0.79)},
		{"of 1.15", "", core("square", 1.15)},
		{"of 1.16",
			"care eye.core: Phones find a code by its eyes. Off its middle this core is only 116 % as wide as a square one; " +
				"many phones need 70 %.", core("square", 1.16)},
		{"of 0.69",
			"care eye.core: Phones find a code by its eyes. Off its middle this core is only 69 % as wide as a square one; " +
				"many phones need 70 %.", core("square", 0.69)},
		{"diamond",
			"care eye.core: Phones find a code by its eyes. Off its middle this core is only 50 % as wide as a square one; " +
				"many phones need 70 %. [Use a square core]", core("diamond", 1)},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := told(eyesRule(c.in, nil, Panel{})); got != c.want {
				t.Errorf("%s\nwant\n%s", got, c.want)
			}
		})
	}
	ring := func(scale float64) Input {
		in := sits(40, 300)
		in.Look.Eyes.All.Ring.Texture, in.Look.Modules.Join, in.Look.Modules.Motif, in.Look.Modules.Scale = "modules", "none",
			"square", scale
		return in
	}
	if got := eyesRule(ring(0.75), nil, Panel{}); got != nil {
		t.Errorf("a ring of three quarters: %s", told(got))
	}
	if got := told(eyesRule(ring(0.7), nil,
		Panel{})); got != "care eye.ring: Phones find a code by its eyes. Built of these modules their ring is only 70 % as "+
		"thick as it should be; 75 % is needed. [Make the rings solid]" {
		t.Error(got)
	}
	own := ring(0.7)
	own.Look.Eyes.Own[0], own.Look.Eyes.Each[0] = true, own.Look.Eyes.All
	if got := told(eyesRule(own, nil, Panel{})); strings.Contains(got, "[") || got == "" {
		t.Errorf("eyes of their own: %s", got)
	}
}

// TestFindingsOrder: stop before care before notes, and the rules' own order within; no other rule offers a width where a
// standard prescribes one.
func TestFindingsOrder(t *testing.T) {
	in := sits(46*37.0/29, 400)
	in.QuietZone = 4
	in.Look.Ink, in.Look.Paper.Colour = grey(0x90), ink.White // 0.279: nothing against it
	in.Placement.Substrate = "newsprint"                      // modules of 1.59 mm are large enough
	in.Content = asks{&content.Text{}, content.Prescription{Name: "a Swiss bill", Side: 60}}
	p := were(t, "picture 1 1,distance 2 5")
	p.Readings = []Reading{{Reader: "x", Family: "a"}}
	got := findings(in, p, Panel{Families: []string{"a"}})
	var order []string
	for _, f := range got {
		order = append(order, string(f.Severity))
		if f.Code != "size.prescribed" && f.Fix != nil && strings.HasSuffix(f.Fix.Patch[0].Path, "/width_mm") {
			t.Errorf("%s offers another width: %s", f.Code, f.Fix.Label)
		}
	}
	if len(order) < 2 || order[0] != "stop" || order[1] != "care" {
		t.Errorf("%v", order)
	}
	for i, s := range []Severity{SeverityStop, SeverityCare, SeverityNote} {
		if weight(Finding{Severity: s}) != i {
			t.Errorf("%s weighs %d", s, weight(Finding{Severity: s}))
		}
	}
	if w, ok := wider(sits(20, 300)); !ok || w != 30 {
		t.Errorf("%g %v", w, ok)
	}
	// 1,170 × 200 / 37 / 4,500 is 1.405 pixels; 2.1 of them take 298.8 mm
	if w, ok := wider(sits(200, 3000)); !ok || w != 299 {
		t.Errorf("%g %v", w, ok)
	}
	// 1,170 pixels of focal length, a module of 1 mm from 585 mm
	if place.MaxWidth != 3000 || math.Abs(perFar(sits(37, 390))-2) > 1e-9 {
		t.Error(perFar(sits(37, 390)))
	}
}

// TestExactWidths: a width that comes out to the tenth or the whole millimetre is taken as it is: 40 modules of 0.45 mm are
// 18 mm, 40 of 0.990 are 39.6, 25 of 0.396 are 9.9.
func TestExactWidths(t *testing.T) {
	in := sits(10, 100)
	in.Symbol.Size, in.QuietZone, in.Placement.Substrate = 32, 4, "uncoated"
	if got := moduleSize(in, nil, Panel{}); len(got) != 1 || got[0].Fix.Label != "Print 18 mm wide" {
		t.Errorf("%s", told(got))
	}
	in.Content, in.Placement.Use = identifies{&content.Text{}, "gs1link"}, "till"
	in.Scene.Width = 60
	if got := scanners(in, nil, Panel{}); len(got) != 1 || got[0].Fix.Label != "Print 39.6 mm wide" {
		t.Errorf("%s", told(got))
	}
	in.Symbol.Size, in.QuietZone, in.Scene.Width = 21, 2, 5
	if got := scanners(in, nil, Panel{}); len(got) != 1 || got[0].Fix.Label != "Print 9.9 mm wide" {
		t.Errorf("%s", told(got))
	}
}

// TestWideModules: what is free beside a code counts in its modules: 4 mm are two of 2 mm.
func TestWideModules(t *testing.T) {
	in := sits(2*31, 400)
	free := measure.Length(4)
	in.QuietZone, in.Placement.Clear = 1, &free
	if got := told(quietZone(in, nil,
		Panel{})); got != "care quiet-zone.neighbour: Print comes within 3 modules of the code. Phones need 4 clear modules "+
		"around it: 8 mm here. [Widen border to 4 modules]" {
		t.Error(got)
	}
}

// TestReversedPanel: light on dark without a paper gets a pale panel.
func TestReversedPanel(t *testing.T) {
	in := sits(40, 300)
	dark := ink.Black
	in.Look.Ink, in.Look.Paper, in.Placement.Background = ink.White, look.Paper{None: true}, &dark
	if got := contrastRule(in, &Proof{}, Panel{}); len(got) != 1 || got[0].Fix == nil ||
		!strings.Contains(got[0].Fix.Label, "panel") {
		t.Errorf("%s", told(got))
	}
}

// warns is a content that has something to say against itself.
type warns struct{ *content.Text }

func (warns) Cautions() []content.Caution {
	return []content.Caution{{Code: "a", Message: "One."}, {Code: "b", Message: "Two.", Note: true, Label: "Do it"}}
}

// TestCautions: what a content says against itself is care or a note, with a fix where it has one.
func TestCautions(t *testing.T) {
	in := sits(40, 300)
	in.Content = warns{&content.Text{}}
	if got := told(contentRules(in, nil, Panel{})); got != "care a: One.\nnote b: Two. [Do it]" {
		t.Error(got)
	}
	if got := contentRules(sits(40, 300), nil, Panel{}); got != nil {
		t.Error(told(got))
	}
}

// TestStopComesFirst: what a later rule stops stands before what an earlier one takes care of.
func TestStopComesFirst(t *testing.T) {
	in := sits(400, 300)
	in.Look.Ink = grey(0xf0)
	p := were(t, "picture 1 1,distance 2 5")
	p.Contrast = 0.1
	p.Readings = []Reading{{Reader: "x", Family: "a"}}
	var order []string
	for _, f := range findings(in, p, Panel{Families: []string{"a"}}) {
		order = append(order, f.Code)
	}
	if len(order) < 2 || order[0] != "contrast" || order[1] != "unread.distance" {
		t.Errorf("%v", order)
	}
}

// TestFamilies: families and their engines, each once, our own last.
func TestFamilies(t *testing.T) {
	p := &Proof{Readings: []Reading{{Reader: "gozxing", Family: "zxing"}, {Reader: Own, Family: Own},
		{Reader: "zxing-cpp", Family: "zxing"}, {Reader: "gozxing", Family: "zxing"}, {Reader: "zbar", Family: "zbar"}}}
	if got := fmt.Sprint(p.Families(), p.Engines("zxing"),
		p.Engines("none")); got != "[zxing zbar sodrik] [gozxing zxing-cpp] []" {
		t.Error(got)
	}
	if ReaderName(Own) != "our own reader" || ReaderName("zbar") != "zbar" {
		t.Error("readers are called something else")
	}
}
