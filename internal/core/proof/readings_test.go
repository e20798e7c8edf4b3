package proof

import (
	"fmt"
	"strings"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// sits is a code of 29 modules in black on white, so wide and from so far away.
func sits(width, distance float64) Input {
	return Input{
		Symbol:    &symbol.Symbol{Size: 29},
		QuietZone: 4,
		Look:      look.Default(),
		Scene:     &scene.Scene{Width: width, Height: width},
		Placement: &place.Placement{Width: measure.Length(width), Distance: measure.Length(distance), Substrate: "coated"},
	}
}

// were are outcomes of what is ordinary, by two families: "slant 3 5" is three pictures read by a and five by b. The draws
// are five, of a file one, of a good phone ten.
func were(t *testing.T, list string) *Proof {
	t.Helper()
	p := &Proof{Contrast: 1}
	for _, one := range strings.Split(list, ",") {
		var key string
		var a, b int
		if _, err := fmt.Sscan(one, &key, &a, &b); err != nil {
			t.Fatalf("%q: %v", one, err)
		}
		o := Outcome{
			Condition: key,
			Words:     "in the case of " + key,
			Stage:     Ordinary,
			Draws:     5,
			Hits:      map[string]int{"a": a, "b": b},
		}
		switch key {
		case "picture":
			o.Draws = 1
		case goodPhone:
			o.Draws, o.Stage = 10, Better
		}
		p.Outcomes = append(p.Outcomes, o)
	}
	return p
}

// TestReadingsRule: the rule of docs/proof.md, at its limits: three pictures of five in each circumstance, nine of ten over
// all but those from afar and with a poor phone, more than half lost by every family with a good phone too.
func TestReadingsRule(t *testing.T) {
	for _, c := range []struct{ name, were, want string }{
		{"all is read", "picture 1 1,distance 5 5,slant 5 5", ""},
		{"one of ten lost over all, of which nobody is told", "distance 5 5,slant 4 5", ""},
		{"two of fifteen lost over all", "distance 4 5,slant 4 5,hand 5 5",
			"care unread.distance: In the case of distance, one of two kinds of phone reader missed 1 picture in 5. The same " +
				"happens in the case of slant."},
		{"two of twenty lost over all, each in a case of its own", "distance 4 5,slant 4 5,hand 5 5,uneven 5 5", ""},
		{"two of twenty lost over all, in one case", "distance 5 5,slant 3 5,hand 5 5,uneven 5 5",
			"note unread.slant: In the case of slant, one of two kinds of phone reader missed 2 pictures in 5. Nobody will " +
				"notice: phones take many a second."},
		{"of several cases those with more than one are told", "distance 4 5,farther 3 5,hand 5 5,uneven 5 5,poor 3 5",
			"note unread.farther: In the case of farther, one of two kinds of phone reader missed 2 pictures in 5. Nobody " +
				"will notice: phones take many a second. The same happens in the case of poor."},
		{"what is lost from afar does not count over all", "distance 5 5,farther 0 5,hand 5 5",
			"note unread.farther: In the case of farther, one of two kinds of phone reader cannot read it. Nobody will " +
				"notice: phones take many a second."},
		{"nor what a poor phone loses", "distance 5 5,poor 3 5,hand 5 5",
			"note unread.poor: In the case of poor, one of two kinds of phone reader missed 2 pictures in 5. Nobody will " +
				"notice: phones take many a second."},
		{"a circumstance is lost", "distance 5 5,slant 2 5,hand 5 5,uneven 5 5,smaller 5 5,nearer 5 5",
			"care unread.slant: In the case of slant, one of two kinds of phone reader missed 3 pictures in 5."},
		{"the worst of those that are lost is named", "distance 2 5,slant 1 5,hand 5 5",
			"care unread.slant: In the case of slant, one of two kinds of phone reader missed 4 pictures in 5. The same " +
				"happens in the case of distance."},
		{"the first of those that are as bad", "distance 1 5,slant 1 5",
			"care unread.distance: In the case of distance, one of two kinds of phone reader missed 4 pictures in 5. The same " +
				"happens in the case of slant."},
		{"three others are named", "distance 0 5,slant 1 5,hand 1 5,uneven 1 5,smaller 1 5",
			"care unread.distance: In the case of distance, one of two kinds of phone reader cannot read it. The same happens " +
				"in the case of slant, in the case of hand and in the case of uneven."},
		{"a file that is lost is named first", "picture 0 1,distance 0 5",
			"care unread.picture: In the case of picture, one of two kinds of phone reader cannot read it."},
		{"half by every family, with a good phone more", "distance 2 2,good 4 5",
			"care unread.distance: In the case of distance, every kind of phone reader missed 3 pictures in 5."},
		{"more than half by every family, with a good phone too", "distance 2 2,good 4 4",
			"stop unread.distance: In the case of distance, every kind of phone reader missed 3 pictures in 5. Every kind of " +
				"phone reader loses most pictures, even with a good phone."},
		{"half is not more than half", "distance 0 0,slant 5 5,good 0 0",
			"care unread.distance: In the case of distance, every kind of phone reader cannot read it."},
		{"a good phone was not asked", "distance 2 2",
			"care unread.distance: In the case of distance, every kind of phone reader missed 3 pictures in 5."},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := ""
			for _, f := range readings(sits(400, 300), were(t, c.were), Panel{}) {
				got += fmt.Sprintf("%s %s: %s", f.Severity, f.Code, f.Message)
			}
			if got != c.want {
				t.Errorf("%s\nwant\n%s", got, c.want)
			}
		})
	}
	unplaced := sits(40, 300)
	unplaced.Placement = nil
	if got := readings(unplaced, were(t, "picture 0 0"), Panel{}); len(got) != 1 || got[0].Severity != SeverityStop ||
		strings.Contains(got[0].Message, "good phone") {
		t.Errorf("without a place: %+v", got)
	}
}

// TestWiderFix: where a circumstance is lost and modules are small, the width is offered at which they take two pixels from
// half as far again, or a fifth more; not where they are large, nor where it is a file that fails, the ink is pale or light
// on dark, or the eyes are what stands in the way.
func TestWiderFix(t *testing.T) {
	const lost = "distance 2 5"
	fix := func(in Input, were_ string, contrast float64) string {
		p := were(t, were_)
		p.Contrast = contrast
		for _, f := range readings(in, p, Panel{}) {
			if f.Fix != nil {
				return f.Fix.Label
			}
		}
		return ""
	}
	// 37 modules with the border; 1,170 pixels of focal length: 3.2 pixels a module from 450 mm are 45.54 mm, 2 pixels 28.46 mm.
	for _, c := range []struct {
		name     string
		width    float64
		were     string
		contrast float64
		want     string
	}{
		{"small", 20, lost, 1, "Print 30 mm wide"},
		{"a fifth more", 28, lost, 1, "Print 34 mm wide"},
		{"just small", 45.5, lost, 1, "Print 55 mm wide"},
		{"large enough", 45.6, lost, 1, ""},
		{"a file", 20, "picture 0 1", 1, ""},
		{"pale", 20, lost, 0.4, ""},
		{"hardly pale", 20, lost, 0.41, "Print 30 mm wide"},
		{"only worth knowing", 20, "distance 4 5,slant 5 5", 1, ""},
		{"wider than any place", 2000, lost, 1, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			in := sits(c.width, 300)
			if c.width > 1000 {
				in = sits(c.width, 90000)
			}
			if got := fix(in, c.were, c.contrast); got != c.want {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
	reversed := sits(20, 300)
	reversed.Look.Ink, reversed.Look.Paper.Colour = ink.White, ink.Black
	if got := fix(reversed, lost, 1); got != "" {
		t.Errorf("light on dark: %q", got)
	}
	cored := sits(20, 300)
	cored.Look.Eyes.All.Core.Motif = "plus"
	if got := fix(cored, lost, 1); got != "" {
		t.Errorf("with eyes that nobody finds: %q", got)
	}
}

// TestMisreadFirst: what is read wrongly stops a print whatever else was read, and is quoted.
func TestMisreadFirst(t *testing.T) {
	p := were(t, "distance 0 0")
	p.Readings = []Reading{
		{Reader: "a", Family: "a", Condition: "elsewhere", Payload: "nothing of it"},
		{Reader: "a", Family: "a", Condition: "distance", Payload: "other"},
	}
	got := readings(sits(40, 300), p, Panel{})
	if len(got) != 1 || got[0].Code != "misread" || got[0].Severity != SeverityStop ||
		got[0].Message != `Some phones read something else in the case of distance: "other". A wrong address is worse than none.` {
		t.Errorf("%+v", got)
	}
}

// TestStrictRule: an engine that reads less than half of what is ordinary is care where its relatives read nine of ten; one
// that does not read the file itself although a relative does is worth knowing, and care where the file is all that is asked.
func TestStrictRule(t *testing.T) {
	reader := func(name, family, condition string, hits, draws int) Reading {
		return Reading{Reader: name, Family: family, Condition: condition, Hits: hits, Draws: draws, Read: hits == draws}
	}
	for _, c := range []struct {
		name     string
		were     string
		readings []Reading
		want     string
	}{
		{"all agree", "picture 1 1,distance 5 5", []Reading{reader("x", "a", "picture", 1, 1),
			reader("x", "a", "distance", 5, 5)}, ""},
		{"less than half", "picture 1 1,distance 5 5,slant 4 5",
			[]Reading{reader("x", "a", "picture", 1, 1), reader("x", "a", "distance", 2, 5), reader("x", "a", "slant", 2, 5)},
			"care: Some phones will not read it: the strictest kind of reader managed 5 of 11 pictures."},
		{"half and a half", "picture 1 1,distance 5 5",
			[]Reading{reader("x", "a", "picture", 1, 1), reader("x", "a", "distance", 2, 5)}, ""},
		{"its relatives read too few", "picture 1 1,distance 4 5",
			[]Reading{reader("x", "a", "picture", 0, 1), reader("x", "a", "distance", 0, 5)},
			"note: Some phones cannot read this file at all."},
		{"nothing at all", "picture 1 1,distance 5 5",
			[]Reading{reader("x", "a", "picture", 0, 1), reader("x", "a", "distance", 0, 5)},
			"care: Some phones cannot read this file at all."},
		{"from afar does not count", "picture 1 1,distance 5 5,farther 5 5",
			[]Reading{reader("x", "a", "picture", 1, 1), reader("x", "a", "distance", 3, 5), reader("x", "a", "farther", 0, 5)},
			""},
		{"the file alone", "picture 1 1", []Reading{reader("x", "a", "picture", 0, 1)},
			"note: Some phones cannot read this file at all."},
		{"nobody of its family reads the file", "picture 0 1", []Reading{reader("x", "a", "picture", 0, 1)}, ""},
		{"it could not work", "picture 1 1",
			[]Reading{{Reader: "x", Family: "a", Condition: "picture", Draws: 1, Error: "no answer"}}, ""},
		{"it reads it the other way round", "picture 1 1",
			[]Reading{{Reader: "x", Family: "a", Condition: "picture", Draws: 1, Inverted: true}}, ""},
		{"it reads something else", "picture 1 1",
			[]Reading{{Reader: "x", Family: "a", Condition: "picture", Draws: 1, Payload: "other"}}, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := were(t, c.were)
			p.Readings = c.readings
			got := ""
			for _, f := range strict(sits(40, 300), p) {
				got += fmt.Sprint(f.Severity, ": ", f.Message)
			}
			if got != c.want {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
	p := were(t, "picture 1 1")
	p.Readings = []Reading{reader("x", "a", "picture", 0, 1)}
	if got := strict(Input{}, p); len(got) != 1 || got[0].Severity != SeverityCare {
		t.Errorf("without a place: %+v", got)
	}
}

// TestKinds: how many kinds of reader are meant, in words up to five.
func TestKinds(t *testing.T) {
	for want, c := range map[string][2]int{"the phone reader": {1, 1}, "every kind of phone reader": {3, 3},
		"one of two kinds of phone reader": {1, 2}, "two of five kinds of phone reader": {2, 5},
		"2 of 6 kinds of phone reader": {2, 6}, "no of three kinds of phone reader": {0, 3}} {
		t.Run(want, func(t *testing.T) {
			if got := kindsOf(c[0], c[1]); got != want {
				t.Errorf("%v: %q, want %q", c, got, want)
			}
		})
	}
	for want, o := range map[string]Outcome{
		"Askew, the phone reader missed 2 pictures in 5.":                                                                         {Words: "askew", Draws: 5, Hits: map[string]int{"a": 3}},
		"Askew, one of three kinds of phone reader cannot read it and two of three kinds of phone reader missed 4 pictures in 5.": {Words: "askew", Draws: 5, Hits: map[string]int{"a": 0, "b": 1, "c": 4}},
	} {
		t.Run(want, func(t *testing.T) {
			if got := unread(o); got != want {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
	if list(nil) != "" || list([]string{"a"}) != "a" || list([]string{"a", "b"}) != "a and b" ||
		list([]string{"a", "b", "c"}) != "a, b and c" {
		t.Error("lists are not read aloud")
	}
	if upperCount(1) != "One" || upperCount(2) != "2" || round1(2.449) != 2.4 || round1(2.45) != 2.5 {
		t.Error("counts and places")
	}
}

// TestReadersRule: a reader that did not answer, and one that is not there, in words.
func TestReadersRule(t *testing.T) {
	panel := Panel{Families: []string{"a", "b", "c"}}
	says := func(p *Proof) string {
		var out []string
		for _, f := range readersRule(Input{}, p, panel) {
			out = append(out, fmt.Sprint(f.Severity, " ", f.Code, " ", f.Message))
		}
		return strings.Join(out, "\n")
	}
	some := []Reading{{Reader: "x"}}
	for want, p := range map[string]*Proof{
		"": {Readings: some},
		"care reader.broken One kind of phone reader did not answer, so there is no verdict yet. This says nothing about the " +
			"code; it is asked again.": {Readings: some, Broken: []string{"x"}},
		"care reader.missing One of 3 kinds of phone reader is missing on this server, so there is no verdict. Whoever runs " +
			"the server can install what is missing.": {Readings: some, Missing: []string{"a"}},
		"care reader.missing 2 of 3 kinds of phone reader are missing on this server, so there is no verdict. Whoever runs " +
			"the server can install what is missing.": {Readings: some, Missing: []string{"a", "b"}},
		"care reader.missing No phone reader is installed on this server, so nothing has read the code. Whoever runs the " +
			"server can install them.": {Missing: []string{"a", "b", "c"}},
	} {
		t.Run(want, func(t *testing.T) {
			if got := says(p); got != want {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
	p := &Proof{
		Readings: []Reading{
			{Reader: "x", Family: "a"},
			{Reader: "y", Family: "b", Error: "slow"},
			{Reader: "y", Family: "b", Error: "slow"},
		},
	}
	if broken, missing := absent(p, panel); fmt.Sprint(broken, missing) != "[y] [c]" {
		t.Errorf("broken %v, missing %v", broken, missing)
	}
	if _, missing := absent(&Proof{}, Panel{}); fmt.Sprint(missing) != "[any]" {
		t.Errorf("of a panel of nobody %v is missing", missing)
	}
}
