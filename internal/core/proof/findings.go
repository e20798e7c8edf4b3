package proof

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
)

// findings gathers what every rule notices, worst first; within a severity, in the order of the rules, which is how surely
// each one stops a print.
func findings(in Input, p *Proof, panel Panel) []Finding {
	out := []Finding{}
	for _, rule := range []func(Input, *Proof, Panel) []Finding{prescribed, readersRule, readings, contrastRule, eyesRule,
		markRule, quietZone, moduleSize, distance, surroundings, plates, scanners, graded, needs, unplaced, odd, frameRule,
		surfaceRule, pressRule, contentRules} {
		out = append(out, rule(in, p, panel)...)
	}
	out = append(out, dense(in, out)...)
	out = append(out, weaker(in, out)...)
	if c, ok := in.Content.(content.Prescriptive); ok && c.Prescribes().Side > 0 {
		for i, f := range out { // no other rule sets the width that a standard prescribes
			if f.Code != "size.prescribed" && f.Fix != nil && strings.HasSuffix(f.Fix.Patch[0].Path, "/width_mm") {
				out[i].Fix = nil
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return weight(a) - weight(b) })
	return out
}

func weight(f Finding) int {
	return slices.Index([]Severity{SeverityStop, SeverityCare, SeverityNote}, f.Severity)
}

func list(names []string) string {
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}

// Limits of contrast, from the steps of symbol contrast in ISO/IEC 15415:2011, table 2 (A 70 %, B 55 %, C 40 %, D 20 %),
// with luminance in place of measured reflectance. Print buyers ask for C; whether a code is read all the same, the readings
// say.
const (
	contrastGood  = 0.70 // A: what fixes aim at
	ContrastFair  = 0.55 // B: below it, worth knowing
	contrastLeast = 0.40 // C: below it, with care
	contrastLost  = 0.20 // D: below it, never
)

func contrastRule(in Input, p *Proof, _ Panel) []Finding {
	c, paper, palest := p.Contrast, paperOf(in), in.Look.Palest()
	percent := func(f float64) string { return measure.Number(math.Abs(f)*100, 0) + " %" }
	set := func(path string, to ink.Colour) patch.Op { return patch.Op{Op: "add", Path: path, Value: to.String()} }
	switch {
	case in.Look.Ink.Luminance() > paper.Luminance():
		f := Finding{Code: "contrast.reversed", Severity: SeverityStop,
			Message: "The ink is lighter than its ground. Many phones only look for dark on light."}
		var refuse []string
		of, exchanged := len(p.Families()), []string{}
		for _, r := range p.Readings {
			if r.Condition != "picture" || r.Read || r.Error != "" {
				continue
			}
			list := &refuse
			if r.Inverted {
				list = &exchanged
			}
			if !slices.Contains(*list, r.Family) {
				*list = append(*list, r.Family)
			}
		}
		refuse = slices.DeleteFunc(refuse, func(family string) bool { return slices.Contains(exchanged, family) })
		verb := func(n int, one, many string) string {
			return map[bool]string{true: one, false: many}[n == 1 || n == of]
		}
		if n := len(refuse); n > 0 {
			f.Message += " Here " + kindsOf(n, of) + " cannot read it."
		}
		if n := len(exchanged); n > 0 {
			f.Message += " " + sentence(kindsOf(n, of)) + verb(n, " reads", " read") + " it only with dark and light exchanged."
		}
		switch {
		case in.Look.Paper.None && in.Placement != nil:
			f.Fix = palePanel(in)
		case !in.Look.Paper.None:
			f.Fix = &Fix{"Swap ink and paper", patch.Patch{set("/look/ink", in.Look.Paper.Colour),
				set("/look/paper", in.Look.Ink)}}
		}
		return []Finding{f}
	case c >= ContrastFair:
		return nil
	}
	f := Finding{Code: "contrast", Severity: SeverityNote,
		Message: fmt.Sprintf("%s and paper differ by %s. That will do; %s leaves room for ink that fades.", palest.Words,
			percent(c), percent(ContrastFair))}
	switch {
	case c < contrastLost:
		f.Severity = SeverityStop
		f.Message = fmt.Sprintf("Too pale: %s and paper differ by only %s. Phones need at least %s.", lowered(palest.Words),
			percent(c), percent(contrastLeast))
	case c < contrastLeast:
		f.Severity = SeverityCare
		f.Message = fmt.Sprintf("Pale: %s and paper differ by only %s. Shade, glare and fading ink ask for %s.",
			lowered(palest.Words), percent(c), percent(contrastLeast))
	}
	var darker patch.Patch
	pale := 0
	for _, part := range in.Look.Parts() {
		if ink.Contrast(part.Colour, paper) >= ContrastFair {
			continue
		}
		pale++
		if dark, ok := darken(part.Colour, paper.Luminance()-contrastGood); ok {
			darker = append(darker, set(part.Path, dark))
		}
	}
	switch {
	case len(darker) == pale && pale == 1:
		f.Fix = &Fix{fmt.Sprintf("Darken %s to %v", lowered(palest.Words), darker[0].Value), darker}
	case len(darker) == pale:
		f.Fix = &Fix{"Darken the inks that are pale", darker}
	case palest.Colour.Luminance() <= 1-contrastGood:
		f.Fix = &Fix{"Print on white", patch.Patch{set("/look/paper", ink.White)}}
	default:
		f.Fix = blackOnWhite()
	}
	return []Finding{f}
}

// lowered makes the beginning of a sentence fit for its middle.
func lowered(s string) string { return strings.ToLower(s[:1]) + s[1:] }

// blackOnWhite takes everything off that a code wears.
func blackOnWhite() *Fix {
	return &Fix{"Print black on white",
		patch.Set("/look", map[string]any{"ink": ink.Black.String(), "paper": ink.White.String()})}
}

// darken scales a colour towards black until its luminance is at most y; ok is false where even black is too light.
func darken(c ink.Colour, y float64) (ink.Colour, bool) {
	if y < 0 {
		return c, false
	}
	for k := 255; k >= 0; k-- {
		scale := func(v uint8) uint8 { return uint8(int(v) * k / 255) }
		if d := (ink.Colour{R: scale(c.R), G: scale(c.G), B: scale(c.B)}); d.Luminance() <= y {
			return d, true
		}
	}
	return c, false
}

// quietZone: four modules on every side (ISO/IEC 18004:2015, clause 5.3.8).
func quietZone(in Input, _ *Proof, _ Panel) []Finding {
	if in.QuietZone >= 4 {
		return nil
	}
	if in.Placement != nil && in.Placement.Clear != nil { // what lies beside it is known
		module := in.Scene.Width / modulesOf(in)
		free := float64(in.QuietZone) + float64(*in.Placement.Clear)/module
		if free >= 4 {
			return nil
		}
		f := Finding{Code: "quiet-zone.neighbour", Severity: SeverityCare,
			Message: fmt.Sprintf("Print comes within %s modules of the code. Phones need 4 clear modules around it: %s mm here.",
				measure.Number(free, 1), measure.Number(4*module, 1)),
			Fix: &Fix{"Widen border to 4 modules", patch.Patch{{Op: "add", Path: "/symbol/quiet_zone", Value: 4}}}}
		if free < 2 {
			f.Severity = SeverityStop
		}
		return []Finding{f}
	}
	f := Finding{Code: "quiet-zone", Severity: SeverityCare,
		Message: fmt.Sprintf("The clear border is %d modules wide. Phones need 4 to tell the code from what lies around it.",
			in.QuietZone),
		Fix: &Fix{"Widen border to 4 modules", patch.Patch{{Op: "add", Path: "/symbol/quiet_zone", Value: 4}}}}
	if in.QuietZone < 2 {
		f.Severity = SeverityStop
	}
	return []Finding{f}
}

func modulesOf(in Input) float64 { return float64(in.Symbol.Size + 2*in.QuietZone) }

func setWidth(in Input, mm float64) *Fix {
	return &Fix{"Print " + measure.Number(mm, 1) + " mm wide",
		patch.Patch{{Op: "add", Path: fmt.Sprintf("/placements/%d/width_mm", in.Index), Value: mm}}}
}

func moduleSize(in Input, _ *Proof, _ Panel) []Finding {
	if in.Placement == nil {
		return nil
	}
	s, _ := place.SubstrateOf(in.Placement.Substrate)
	module := in.Scene.Width / modulesOf(in)
	if module >= s.MinXDimension*0.999 {
		return nil
	}
	f := Finding{Code: "module-size", Severity: SeverityNote,
		Message: fmt.Sprintf("Small for %[2]s: a module is %[1]s mm wide and should have %[3]s mm, because %[4]s.",
			measure.Number(module, 2), s.Name, measure.Number(s.MinXDimension, 2), s.Spread)}
	if module < s.MinXDimension*0.85 {
		f.Severity = SeverityCare
	}
	if module < s.MinXDimension*0.7 {
		f.Severity = SeverityStop
	}
	if w := math.Ceil(modulesOf(in)*s.MinXDimension - 1e-9); w <= place.MaxWidth {
		f.Fix = setWidth(in, w)
	}
	return []Finding{f}
}

// contentRules passes on what a content itself has to say against it.
func contentRules(in Input, _ *Proof, _ Panel) (out []Finding) {
	c, ok := in.Content.(content.Careful)
	if !ok {
		return nil
	}
	for _, caution := range c.Cautions() {
		f := Finding{Code: caution.Code, Severity: SeverityCare, Message: caution.Message}
		if caution.Note {
			f.Severity = SeverityNote
		}
		if caution.Label != "" {
			f.Fix = &Fix{caution.Label, caution.Patch}
		}
		out = append(out, f)
	}
	return out
}

// prescribed holds look and size against what the content's standard prescribes.
func prescribed(in Input, _ *Proof, _ Panel) (out []Finding) {
	c, ok := in.Content.(content.Prescriptive)
	if !ok {
		return nil
	}
	p := c.Prescribes()
	if p.Plain && !plain(in) {
		out = append(out, Finding{Code: "look.plain", Severity: SeverityCare, Message: strings.ToUpper(p.Name[:1]) + p.Name[1:] +
			" is meant dark on white, in plain modules; scanners at tills and in banks may refuse another dress.",
			Fix: blackOnWhite()})
	}
	if p.Side > 0 && in.Placement != nil {
		side := in.Scene.Width * float64(in.Symbol.Size) / modulesOf(in)
		if math.Abs(side-p.Side) > 0.5 {
			f := Finding{Code: "size.prescribed", Severity: SeverityStop,
				Message: fmt.Sprintf("%s is %s mm wide without its border; this one is %s mm.",
					strings.ToUpper(p.Name[:1])+p.Name[1:], measure.Number(p.Side, 1), measure.Number(side, 1))}
			f.Fix = setWidth(in, math.Round(p.Side*modulesOf(in)/float64(in.Symbol.Size)*1000)/1000)
			out = append(out, f)
		}
	}
	return out
}

// plain says that a code is printed in square modules of one dark ink, on white.
func plain(in Input) bool {
	l := in.Look
	ground := !l.Paper.None && l.Paper.Colour.Same(ink.White)
	if l.Paper.None {
		ground = in.Placement != nil && (in.Placement.Background == nil || in.Placement.Background.Same(ink.White))
	}
	return ground && l.Plain() && l.Outline != "round" && l.Backdrop.None() && l.Shade.None() && l.Ink.Luminance() <= plainInk
}

// plainInk is the luminance up to which an ink counts as dark: that of black to a dark grey.
const plainInk = 0.05

// scanners holds a code with GS1 identifiers against what scanners of the trade are set to.
func scanners(in Input, _ *Proof, _ Panel) (out []Finding) {
	if _, ok := in.Content.(content.HumanReadable); !ok {
		return nil
	}
	// Scanners light with red, about 660 nm. What an ink reflects there does not follow from its sRGB, so that this is a guess
	// on the safe side: the red part alone, as light.
	differs := 1.0
	for _, part := range in.Look.Parts() {
		differs = min(differs, paperOf(in).Red()-part.Colour.Red())
	}
	if differs < ContrastFair {
		out = append(out, Finding{Code: "scanner.red", Severity: SeverityCare,
			Message: fmt.Sprintf(
				"Scanners light with red, in which this ink and its ground differ by about %s. Safe is %s; the printed ink "+
					"has the last word.", measure.Number(math.Max(0, differs)*100, 0)+" %",
				measure.Number(contrastGood*100, 0)+" %"),
			Fix: blackOnWhite()})
	}
	if in.Placement == nil || in.Placement.Use == "" {
		return out
	}
	use, ok := place.UseOf(in.Placement.Use)
	if !ok {
		return out
	}
	if in.Content.Kind() == "gs1data" && use.Key == "till" {
		out = append(out, Finding{Code: "scanner.till", Severity: SeverityCare,
			Message: "Tills read a product from a GS1 Digital Link; an element string in a QR code is not among the symbols " +
				"for the point of sale."})
	}
	module := in.Scene.Width / modulesOf(in)
	if module < use.Least*0.999 || module > use.Most*1.001 {
		f := Finding{Code: "scanner.size", Severity: SeverityStop,
			Message: fmt.Sprintf("A module is %s mm wide. For %s it has to be %s to %s mm.", measure.Number(module, 3), use.Name,
				measure.Number(use.Least, 3), measure.Number(use.Most, 3))}
		want := use.Least
		if module > use.Most {
			want = use.Most
		}
		w := math.Ceil(want*modulesOf(in)*10-1e-9) / 10
		if module > use.Most {
			w = math.Floor(want*modulesOf(in)*10+1e-9) / 10
		}
		if w >= place.MinWidth && w <= place.MaxWidth {
			f.Fix = setWidth(in, w)
		}
		out = append(out, f)
	}
	return out
}

// minCore is the share of its width that an eye's core has to keep off its middle. Below it one family of readers found next
// to none of 107 random looks (TestRandomLooks in package readers); a disc keeps 0.87, a hexagon 0.71. minMiddle is the same
// on the middle lines: with notches that leave 0.72 one engine found none.
const (
	minCore   = 0.7
	minMiddle = 0.8
	minRing   = 0.75 // of a module: the ratio's own tolerance is half a module each way, of which print takes the rest
)

// eyesRule says what an eye's form costs.
func eyesRule(in Input, _ *Proof, _ Panel) []Finding {
	middle, off := layout.CoreShare(in.Look)
	if ring := layout.RingShare(in.Look); ring < minRing-1e-9 {
		f := Finding{Code: "eye.ring", Severity: SeverityCare,
			Message: fmt.Sprintf(
				"Phones find a code by its eyes. Built of these modules their ring is only %s as thick as it should be; %s is needed.", measure.Number(ring*100, 0)+" %", measure.Number(minRing*100, 0)+" %")}
		if in.Look.Eyes.Own == [3]bool{} {
			f.Fix = &Fix{"Make the rings solid", patch.Patch{{Op: "remove", Path: "/look/eyes/ring/texture"}}}
		}
		return []Finding{f}
	}
	if off >= minCore && middle >= minMiddle-1e-9 && max(middle, off) <= 1.15 {
		return nil
	}
	percent := func(f float64) string { return measure.Number(f*100, 0) + " %" }
	f := Finding{Code: "eye.core", Severity: SeverityCare,
		Message: fmt.Sprintf(
			"Phones find a code by its eyes. Off its middle this core is only %s as wide as a square one; many phones need %s.",
			percent(off), percent(minCore))}
	if off >= minCore && middle < minMiddle {
		f.Message = fmt.Sprintf(
			"Phones find a code by its eyes. Across its middle this core is only %s as wide as a square one; some phones need %s.", percent(middle), percent(minMiddle))
	}
	if in.Look.Eyes.All.Core.Motif != "square" && in.Look.Eyes.Own == [3]bool{} {
		f.Fix = &Fix{"Use a square core", patch.Patch{{Op: "remove", Path: "/look/eyes/core/motif"}}}
	}
	return []Finding{f}
}
