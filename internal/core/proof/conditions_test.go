package proof_test

import (
	"cmp"
	"fmt"
	"image"
	"math"
	"strings"
	"testing"

	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
)

// input is the proof's of a job at its first place.
func input(t *testing.T, text string) proof.Input {
	t.Helper()
	in, err := rendered(t, text).Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	return in
}

// TestConditions: at least 25, each with its own name; light, glass and movement make ordinary what is hard elsewhere; draws
// differ among themselves and not from code to code.
func TestConditions(t *testing.T) {
	indoors := input(t, placed(`"width_mm":60,"distance_mm":500`))
	if n := len(proof.Conditions(indoors)); n < 25 {
		t.Errorf("%d conditions", n)
	}
	seen := map[string]bool{}
	for _, c := range proof.Conditions(indoors) {
		if want := cmp.Or(map[string]int{"picture": 1, "outlines": 1, "nearer": 3, "good": 14}[c.Key], 5); seen[c.Key] ||
			c.Words == "" || c.Draws != want {
			t.Errorf("%+v", c)
		}
		seen[c.Key] = true
	}
	ordinary := func(place string) string {
		var out []string
		for _, c := range proof.Conditions(input(t, placed(`"width_mm":60,"distance_mm":500`+place))) {
			if c.Stage == proof.Ordinary {
				out = append(out, c.Key)
			}
		}
		return strings.Join(out, " ")
	}
	const base = "picture outlines distance nearer farther smaller slant uneven hand"
	for place, want := range map[string]string{"": base, `,"light":"outdoor"`: base + " shadow", `,"behind_glass":true`: base +
		" glare", `,"moving":true`: base + " moving", `,"substrate":"screen","light":"outdoor"`: base} {
		t.Run(place, func(t *testing.T) {
			want += " poor"
			if got := ordinary(place); got != want {
				t.Errorf("%q: %s, want %s", place, got, want)
			}
		})
	}
	has := func(text, key string) bool { _, ok := proof.ConditionOf(input(t, text), key); return ok }
	if has(jobFor("", 60, 500, "coated"), "plates") || !has(jobFor(`,"look":{"ink":"#5b1f33"}`, 60, 500, "coated"), "plates") ||
		has(jobFor(`,"look":{"ink":"#5b1f33"}`, 60, 500, "screen"), "plates") || !has(jobFor("", 60, 500, "screen"), "mirrored") {
		t.Error("plates and mirrors are not where they belong")
	}
	other := input(t, `{"content":{"kind":"text","text":"`+strings.Repeat("sow ",
		90)+`"},"placements":[{"name":"a","width_mm":60,"distance_mm":500}]}`)
	for _, c := range proof.Conditions(indoors) {
		for d := range c.Draws {
			a, b := proof.SetupOf(indoors, c, d), proof.SetupOf(other, c, d)
			if a.ShiftX != b.ShiftX || a.ShiftY != b.ShiftY || a.Turn != b.Turn || a.Seed != b.Seed || a.TiltX != b.TiltX ||
				a.TiltY != b.TiltY {
				t.Errorf("%s, draw %d depends on the content", c.Key, d)
			}
			if next := proof.SetupOf(indoors, c, d+1); next.ShiftX == a.ShiftX || next.Seed == a.Seed {
				t.Errorf("%s: draws %d and %d are the same", c.Key, d, d+1)
			}
		}
	}
}

// TestPhones: what is ordinary is seen with an ordinary phone, from the distance with a poor one too, and a good one takes
// each circumstance in turn.
func TestPhones(t *testing.T) {
	in := input(t, placed(`"width_mm":60,"distance_mm":500`))
	of := func(key string, draw int) optics.Setup {
		c, ok := proof.ConditionOf(in, key)
		if !ok {
			t.Fatal(key)
		}
		return proof.SetupOf(in, c, draw)
	}
	for key, want := range map[string]optics.Camera{"distance": optics.Phone, "slant": optics.Phone, "dusk": optics.Phone,
		"poor": optics.Poor, "good": optics.Good} {
		t.Run(key, func(t *testing.T) {
			if got := of(key, 0).Camera; got != want {
				t.Errorf("%s is seen through %q", key, got.Name)
			}
		})
	}
	// twice the 0.03 mm of coated paper
	if poor := of("poor", 0); poor.Distance != 500 || math.Abs(poor.Gain-0.06) > 1e-9 || poor.TiltX != 0 || poor.Level != 1 {
		t.Errorf("%+v", poor)
	}
	// as it is, nearer, farther, smaller, askew
	for draw, distance := range map[int]float64{0: 500, 1: 250, 2: 750, 3: 500 / 0.85, 4: 500, 7: 500, 8: 250} {
		t.Run(fmt.Sprint(draw), func(t *testing.T) {
			if got := of("good", draw).Distance; math.Abs(got-distance) > 1e-9 {
				t.Errorf("draw %d of a good phone is from %g mm, want %g", draw, got, distance)
			}
		})
	}
	if of("good", 4).TiltX == 0 {
		t.Error("a good phone's fifth picture is not askew")
	}
}

// large reads pictures of so many pixels a side or more.
func large(payload string, side int) func(*image.Gray) ([]string, error) {
	return func(img *image.Gray) ([]string, error) {
		if img.Rect.Dx() < side {
			return nil, nil
		}
		return []string{payload}, nil
	}
}

// TestStages: each stage adds its own, the verdict stays, the range comes from the ladder, and what is there is not made again.
func TestStages(t *testing.T) {
	in := input(t, placed(`"width_mm":60,"distance_mm":400`))
	asked := 0
	panel := panelOf(fake{"a", "one", func(img *image.Gray) ([]string, error) { asked++; return large(in.Payload, 100)(img) }},
		fake{"b", "two", large(in.Payload, 100)})
	p, err := proof.Prove(t.Context(), in, panel, proof.Ordinary)
	if err != nil || p.Verdict != proof.Safe {
		t.Fatal(p, err)
	}
	estimate := p.Range
	for _, set := range proof.Stages[1:] {
		more, err := proof.Extend(t.Context(), in, panel, p, set)
		if err != nil || more.Verdict != p.Verdict || !more.Has(set) || p.Has(set) {
			t.Fatalf("%s: %+v %v", set, more, err)
		}
		p = more
	}
	if p.Range == estimate || p.Range[0] < 80 || p.Range[1] < 400 || len(p.Ladder) < 8 {
		t.Errorf("range %v, estimated %v, %d rungs", p.Range, estimate, len(p.Ladder))
	}
	before := asked
	if again, err := proof.Extend(t.Context(), in, panel, p, proof.Abuse); err != nil || asked != before ||
		len(again.Outcomes) != len(p.Outcomes) {
		t.Errorf("made again: %d more pictures, %v", asked-before, err)
	}
	// A reader that needs more pixels has a shorter range; one that reads nothing has none.
	last := p.Range[1]
	for _, side := range []int{140, 200, 260, 10000} {
		q, err := proof.Prove(t.Context(), in, panelOf(fake{"a", "one", large(in.Payload, side)},
			fake{"b", "two", always(in.Payload)}), proof.Range)
		if err != nil || q.Range[1] >= last && last > 0 {
			t.Errorf("from %d pixels: %v, before %g, %v", side, q.Range, last, err)
		}
		last = q.Range[1]
	}
	if last != 0 {
		t.Errorf("read by nobody up to %g", last)
	}
}

// TestWhoReads: a finding counts kinds of phone reader; no engine is named. Without a place, files that fail take the place
// of a neutral verdict.
func TestWhoReads(t *testing.T) {
	in := input(t, placed(`"width_mm":60,"distance_mm":400`))
	none := func(*image.Gray) ([]string, error) { return nil, nil }
	all := always(in.Payload)
	for _, c := range []struct {
		name    string
		readers []fake
		says    string
	}{
		{"one of two", []fake{{proof.Own, "one", none}, {"b", "two", all}},
			"In the PNG, one of two kinds of phone reader cannot read it."},
		{"two of three", []fake{{proof.Own, "one", none}, {"b", "two", none}, {"c", "three", all}},
			"In the PNG, two of three kinds of phone reader cannot read it."},
		{"every one", []fake{{proof.Own, "one", none}, {"b", "two", none}},
			"In the PNG, every kind of phone reader cannot read it."},
	} {
		t.Run(c.name, func(t *testing.T) {
			var readers []proof.Reader
			for _, r := range c.readers {
				readers = append(readers, r)
			}
			p, err := proof.Prove(t.Context(), in, panelOf(readers...), proof.Ordinary)
			if err != nil || len(p.Findings) == 0 || !strings.HasPrefix(p.Findings[0].Message, c.says) {
				t.Errorf("%s: %+v %v", c.name, p.Findings, err)
			}
		})
	}
	in, err := rendered(t, `{"content":{"kind":"url","url":"https://marrowby.example/fair"}}`).Proof(-1)
	if err != nil {
		t.Fatal(err)
	}
	p, err := proof.Prove(t.Context(), in, panelOf(fake{"a", "one", none}, fake{"b", "two", all}), proof.Ordinary)
	if err != nil || p.Verdict != proof.Care || p.Headline() != "Some phones cannot read it" {
		t.Errorf("without a place: %s, %q, %v", p.Verdict, p.Headline(), err)
	}
	p, err = proof.Prove(t.Context(), in, panelOf(fake{"a", "one", all}, fake{"strict", "two", none}, fake{"b", "two", all}),
		proof.Ordinary)
	if err != nil || p.Headline() != "Some phones cannot read it" ||
		p.Findings[0].Message != "Some phones cannot read this file at all." {
		t.Errorf("a strict relative, without a place: %q %+v %v", p.Headline(), p.Findings, err)
	}
}

// TestInverted: a second attempt with dark and light exchanged is said, and does not count.
func TestInverted(t *testing.T) {
	in := input(t, jobFor(`,"look":{"ink":"#ffffff","paper":"#12352b"}`, 160, 1500, "coated"))
	tolerant := func(img *image.Gray) ([]string, error) {
		if img.Pix[img.Stride*2+2] < 128 { // dark border: reversed
			return nil, nil
		}
		return []string{in.Payload}, nil
	}
	p, err := proof.Prove(t.Context(), in, panelOf(fake{"a", "one", tolerant}, fake{"b", "two", tolerant}), proof.Ordinary)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range p.Readings {
		if r.Condition == "picture" && (!r.Inverted || r.Read || r.Hits != 0) {
			t.Errorf("%+v", r)
		}
	}
	if p.Verdict != proof.Stop {
		t.Errorf("%s", p.Verdict)
	}
}

// TestGrades: black on white is graded well, red is paper to a scanner, and what is not known is a range.
func TestGrades(t *testing.T) {
	of := func(rest, substrate string) *proof.Grades {
		t.Helper()
		p, err := proof.Prove(t.Context(), input(t, jobFor(rest, 100, 600, substrate)), good("x"), proof.Hard)
		if err != nil || p.Grades == nil {
			t.Fatal(err)
		}
		return p.Grades
	}
	contrast := func(g *proof.Grades) string {
		for _, v := range g.Parameters {
			if v.Key == "symbol_contrast" {
				return fmt.Sprint(v.Grade)
			}
		}
		return ""
	}
	black, red, pine, paper := of("", "coated"), of(`,"look":{"ink":"#ff3030"}`, "coated"),
		of(`,"look":{"ink":"#12352b"}`, "coated"), of("", "newsprint")
	if black.Overall != [2]string{"A", "A"} || !black.Forecast || black.Wavelength != 660 || black.Aperture <= 0 {
		t.Errorf("black: %+v", black)
	}
	if red.Overall[0] != "F" || contrast(red) == contrast(black) {
		t.Errorf("red: %s of %+v", contrast(red), red.Overall)
	}
	if contrast(pine) == "[F F]" || pine.Overall[0] < pine.Overall[1] {
		t.Errorf("pine: %+v", pine.Overall)
	}
	if contrast(paper) == contrast(black) || paper.Growth <= black.Growth {
		t.Errorf("newsprint: %s, growth %g", contrast(paper), paper.Growth)
	}
	if screen := of("", "screen"); screen.Wavelength != 0 {
		t.Errorf("a screen under %d nm", screen.Wavelength)
	}
	trade := input(t,
		`{"content":{"kind":"gs1link","gtin":"9521234500018"},"look":{"ink":"#ff3030"},"placements":[{"name":"a","width_mm":24,"distance_mm":200,"use":"till"}]}`)
	p, err := proof.Prove(t.Context(), trade, good(trade.Payload), proof.Ordinary)
	if err != nil || !strings.Contains(codes(p), "grade") {
		t.Errorf("red at the till: %s %v", codes(p), err)
	}
	plain := input(t,
		`{"content":{"kind":"gs1link","gtin":"9521234500018"},"placements":[{"name":"a","width_mm":24,"distance_mm":200,"use":"till"}]}`)
	if p, err = proof.Prove(t.Context(), plain, good(plain.Payload), proof.Ordinary); err != nil ||
		strings.Contains(codes(p), "grade") {
		t.Errorf("black at the till: %s %v", codes(p), err)
	}
}
