package proof

import (
	"fmt"
	"math"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
)

// Surface is the thing that a code lies on, as far as its placement says. Lengths are millimetres.
type Surface struct {
	Width, Height float64    // 0 where it is not said
	X, Y          float64    // left and top edge of the code with its quiet zone
	Round         float64    // across, where what is shown of it is a disc; else 0
	Dot           float64    // side of a pixel of the screen that shows it; 0 where it is none, or not said
	Outside       bool       // some of the code lies beyond the edge
	WordsOutside  bool       // some of the words do
	Wordless      bool       // nothing beside the code says what it does
	Least         float64    // size of the smallest type beside the code; 0 for none
	WordsInk      ink.Colour // of the words beside the code, where there are any
	WordsGround   ink.Colour // that they stand on, in the mean
	WordsVary     float64    // of full brightness, by which that ground varies
	Covers        bool       // something is drawn in the artwork where the code lies
	Empty         bool       // it has an empty part with room for the code, at EmptyX, EmptyY
	EmptyX        float64
	EmptyY        float64
	Other         bool        // it bears another code, which is seen beside ours
	Over          patch.Patch // that lays ours over it, nil where that cannot be
	Varies        float64     // of full brightness, by which what shows under a code without paper varies
}

// Limits of what lies under and beside a code; our working figures.
const (
	variesMost = 0.45      // readers lose the difference of dark and light
	variesNote = 0.15      // it begins to be seen
	trimOff    = 1.0       // mm that a guillotine cuts beside the mark
	typeFor    = 1 / 250.0 // least size of type against the distance it is read from: 4 mm at a metre
	wordsRatio = 4.5       // least contrast of words on a screen (WCAG 2.2, 1.4.3)
	wordsLight = 50.0      // least difference of L* in print, of type of the least size; half of it is enough at twice the size
)

// surfaceRule holds the code against what it lies on, and the words beside it against the distance.
func surfaceRule(in Input, _ *Proof, _ Panel) (out []Finding) {
	s := in.Surface
	if s == nil || in.Placement == nil {
		return nil
	}
	add := func(code string, severity Severity, fix *Fix, format string, args ...any) {
		out = append(out, Finding{Code: code, Severity: severity, Message: fmt.Sprintf(format, args...), Fix: fix})
	}
	at := func(key string, value any) patch.Op {
		return patch.Op{Op: "add", Path: fmt.Sprintf("/placements/%d/%s", in.Index, key), Value: value}
	}
	w, h := in.Scene.Width, in.Scene.Height
	if s.Round > 0 && math.Hypot(w, h) > s.Round+1e-6 {
		f := setWidth(in, math.Floor(s.Round/math.Sqrt2*10)/10)
		add("round", SeverityStop, f, "The disc of %s mm cuts the corners of the code off. Corner to corner it has %s mm.",
			measure.Number(s.Round, 1), measure.Number(math.Hypot(w, h), 1))
	}
	printed := true
	if sub, _ := place.SubstrateOf(in.Placement.Substrate); sub.Screen {
		printed = false
	}
	if s.Width > 0 {
		margin := 0.0
		if printed {
			margin = min(trimOff, (s.Width-w)/2, (s.Height-h)/2)
		}
		inside := func(v, room, size float64) float64 {
			return math.Round(min(max(v, margin), room-size-margin)*100) / 100
		}
		var back *Fix
		if w <= s.Width && h <= s.Height {
			back = &Fix{"Move it back onto the sheet", patch.Patch{at("artwork/x_mm", inside(s.X, s.Width, w)),
				at("artwork/y_mm", inside(s.Y, s.Height, h))}}
		} else if side := math.Floor(min(s.Width, s.Height)*0.9*10) / 10; side >= place.MinWidth {
			back = setWidth(in, side)
		}
		edge := min(s.X, s.Y, s.Width-s.X-w, s.Height-s.Y-h)
		switch {
		case s.Outside:
			add("artwork.off", SeverityStop, back, "Some of the code lies beyond the edge of the artwork, %s × %s mm.",
				measure.Number(s.Width, 1), measure.Number(s.Height, 1))
		case printed && edge < trimOff-1e-6 && w+2*trimOff <= s.Width && h+2*trimOff <= s.Height:
			if back != nil {
				back.Label = "Move it away from the edge"
			}
			add("artwork.trim", SeverityNote, back,
				"It ends %s mm from the edge. Cutters are off by up to %s mm and may cut its quiet zone.",
				measure.Number(max(0, edge), 2), measure.Number(trimOff, 0))
		}
	}
	panel := palePanel(in)
	switch percent := measure.Number(s.Varies*100, 0) + " %"; {
	case s.Varies > variesMost:
		add("artwork.busy", SeverityCare, panel,
			"The artwork under the code varies by %s in brightness, as much as dark and light modules do.", percent)
	case s.Varies > variesNote:
		add("artwork.busy", SeverityNote, panel, "The artwork under the code varies by %s in brightness.", percent)
	}
	if s.Covers && !s.Outside {
		var fix *Fix
		if s.Empty {
			round := func(f float64) float64 { return math.Round(f*100) / 100 }
			fix = &Fix{"Move it to the empty part", patch.Patch{at("artwork/x_mm", round(s.EmptyX)),
				at("artwork/y_mm", round(s.EmptyY))}}
		}
		add("artwork.covers", SeverityNote, fix, "It covers something in the artwork.")
	}
	if s.Other {
		var fix *Fix
		if s.Over != nil {
			fix = &Fix{"Lay this code over it", s.Over}
		}
		add("artwork.other", SeverityNote, fix, "The artwork bears another code. A phone may read that one.")
	}
	switch d := float64(in.Placement.Distance); {
	case s.Least == 0:
	case printed && s.Least/pointMM < minPoints-1e-9:
		add("words.small", SeverityNote, larger(in, minPoints*pointMM/s.Least, at),
			"The smallest words beside the code have %s points. Below %s they are lost in print.",
			measure.Number(s.Least/pointMM, 1), measure.Number(minPoints, 0))
	case s.Least < d*typeFor-1e-9:
		add("words.small", SeverityNote, larger(in, d*typeFor/s.Least, at),
			"The smallest words beside the code are %s mm high. From %s people need %s mm.", measure.Number(s.Least, 1),
			in.Placement.Distance.Spoken(), measure.Number(d*typeFor, 1))
	}
	if f := paleWords(in, printed, at); f != nil {
		out = append(out, *f)
	}
	if s.WordsOutside {
		add("words.off", SeverityNote, nil,
			"Some words beside the code lie beyond the edge. Put them on another side, or make them smaller.")
	}
	if l := in.Look; s.Wordless && l.Frame.Text == "" && l.Caption.None() {
		add("words.none", SeverityNote, nil, "Nothing beside it says what a scan brings. People pass by a code without a reason.")
	}
	return out
}

// paleWords holds the ink of the words beside a code against their ground: on screens by the ratio of luminances, in print by the
// difference of lightness, which has to be the greater the smaller the type is for its distance.
func paleWords(in Input, printed bool, at func(string, any) patch.Op) *Finding {
	s := in.Surface
	if s.Least == 0 {
		return nil
	}
	ratio := func(a, b ink.Colour) float64 {
		x, y := a.Luminance()+0.05, b.Luminance()+0.05
		return max(x, y) / min(x, y)
	}
	lightness := func(a, b ink.Colour) float64 {
		l, _, _ := a.Lab()
		m, _, _ := b.Lab()
		return math.Abs(l - m)
	}
	need := wordsLight
	if d := float64(in.Placement.Distance); d > 0 {
		need = wordsLight * min(1, max(0.5, d*typeFor/s.Least))
	}
	best := ink.Black
	if ratio(ink.White, s.WordsGround) > ratio(ink.Black, s.WordsGround) {
		best = ink.White
	}
	fix := &Fix{map[ink.Colour]string{ink.Black: "Print the words black", ink.White: "Print the words white"}[best],
		patch.Patch{at("words/ink", best.String())}}
	if best == s.WordsInk {
		fix = nil
	}
	pale := func(severity Severity, figure string) *Finding {
		return &Finding{Code: "words.pale", Severity: severity, Fix: fix,
			Message: "The words beside the code can hardly be read on what lies " +
				"under them. " + figure}
	}
	switch r, l := ratio(s.WordsInk, s.WordsGround), lightness(s.WordsInk, s.WordsGround); {
	case !printed && r < wordsRatio-1e-9:
		return pale(SeverityCare, fmt.Sprintf("Their contrast is %s to 1; screens need %s to 1.", measure.Number(r, 1),
			measure.Number(wordsRatio, 1)))
	case printed && l < need-1e-9:
		return pale(SeverityCare, fmt.Sprintf("They differ by %s in lightness; at this size and distance they need %s.",
			measure.Number(l, 0),
			measure.Number(need, 0)))
	case s.WordsVary > variesMost:
		return pale(SeverityNote, fmt.Sprintf("It varies by %s in brightness.", measure.Number(s.WordsVary*100, 0)+" %"))
	}
	return nil
}

// palePanel lays white behind the code, and prints it dark where it was meant to be light.
func palePanel(in Input) *Fix {
	fix := &Fix{"Put a pale panel behind it", nil}
	if in.Surface != nil && in.Surface.Width > 0 {
		fix.Patch = patch.Patch{{Op: "add", Path: fmt.Sprintf("/placements/%d/artwork/panel", in.Index), Value: "#ffffff"}}
	} else {
		fix.Patch = patch.Patch{{Op: "add", Path: "/look/paper", Value: "#ffffff"}}
	}
	if in.Look.Palest().Colour.Luminance() > 1-contrastGood {
		fix.Patch = append(fix.Patch, patch.Op{Op: "add", Path: "/look/ink", Value: ink.Black.String()})
	}
	return fix
}

// pointMM is a point of type in millimetres.
const pointMM = 25.4 / 72

// larger makes the words larger by a factor, where they may be.
func larger(in Input, by float64, at func(string, any) patch.Op) *Fix {
	size := math.Ceil(in.Placement.Words.Size*by*100) / 100
	if size > 3 {
		return nil
	}
	return &Fix{fmt.Sprintf("Set the words %s of their usual size", measure.Number(size*100, 0)+" %"),
		patch.Patch{at("words/size", size)}}
}
