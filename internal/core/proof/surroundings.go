package proof

import (
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/symbol"
)

// maxSpan is how much of a round a code may span. Beyond a third of a half round its sides are foreshortened by a seventh,
// and a hand that holds the bottle a little turned hides one of them.
const maxSpan = 60.0 // degrees

// surroundings says what the place itself makes hard.
func surroundings(in Input, p *Proof, _ Panel) (out []Finding) {
	at := in.Placement
	if at == nil {
		return nil
	}
	add := func(code string, s Severity, fix *Fix, format string, args ...any) {
		out = append(out, Finding{Code: code, Severity: s, Message: fmt.Sprintf(format, args...), Fix: fix})
	}
	set := func(key string, value any) patch.Patch {
		return patch.Patch{{Op: "add", Path: fmt.Sprintf("/placements/%d/%s", in.Index, key), Value: value}}
	}
	if at.Radius > 0 {
		if span := in.Scene.Width / float64(at.Radius) * 180 / math.Pi; span > maxSpan {
			var fix *Fix
			if w := math.Floor(float64(at.Radius) * maxSpan * math.Pi / 180); w >= place.MinWidth {
				fix = setWidth(in, w)
			}
			severity := SeverityCare
			if span > 2*maxSpan {
				severity = SeverityStop
			}
			add("curve", severity, fix, "It goes %s° around the bottle. Beyond %s° its sides turn away from the camera.",
				measure.Number(span, 0), measure.Number(maxSpan, 0))
		}
	}
	if at.Glass {
		add("glass", SeverityNote, nil, "Glass mirrors lamps and sky. Keep the code out of their line, or stick it to the front.")
	}
	if in.Look.Paper.None && at.Background == nil {
		add("ground.unknown", SeverityCare,
			&Fix{"Print on white", patch.Patch{{Op: "add", Path: "/look/paper", Value: "#ffffff"}}},
			"It has no paper of its own, and nobody said what it lies on. Name the ground, or give it a paper.")
	}
	s, _ := place.SubstrateOf(at.Substrate)
	if s.Screen && at.Pixels > 0 {
		per := float64(at.Pixels) / modulesOf(in)
		switch {
		case per < 2:
			n := int(3 * modulesOf(in))
			severity := SeverityCare
			if per < 1 {
				severity = SeverityStop
			}
			add("pixels.few", severity, &Fix{fmt.Sprintf("Show it %d pixels wide", n), set("pixels", float64(n))},
				"A module is %s pixels wide on that screen. Below 2, video and scaling blur it.", measure.Number(per, 1))
		case per < 4 && per != math.Trunc(per):
			n := int(math.Ceil(per) * modulesOf(in))
			add("pixels.uneven", SeverityNote, &Fix{fmt.Sprintf("Show it %d pixels wide", n), set("pixels", float64(n))},
				"A module is %s pixels wide, so some are a pixel wider than others.", measure.Number(per, 1))
		}
	}
	if s.Bilevel && s.Dot > 0 {
		dots := in.Scene.Width / modulesOf(in) / s.Dot
		if off := math.Abs(dots - math.Round(dots)); dots < 6 && off > 0.02 {
			w := math.Ceil(dots) * s.Dot * modulesOf(in)
			add("dots", SeverityNote, setWidth(in, math.Round(w*1000)/1000),
				"A module is %s printer dots wide, so some are a dot wider than others.", measure.Number(dots, 1))
		}
	}
	if (at.Light == "outdoor" || at.Substrate == "textile" || at.Substrate == "kraft") && in.Symbol.Level == symbol.L {
		add("level.wear", SeverityNote, &Fix{"Raise to level M", patch.Set("/symbol/level", "M")},
			"Level L survives about 7 %% of damage. Weather, folds and handling take more than that here.")
	}
	return out
}

// misplaced is how far plates are off one another in good sheet-fed offset; the figure of the trade is a tenth of a millimetre.
const misplaced = 0.1 // mm

// platesOf is how many plates the ink needs that needs most.
func platesOf(in Input) (most int) {
	for _, part := range in.Look.Parts() {
		n := 0
		for _, share := range part.Colour.Plates() {
			if share > 5 {
				n++
			}
		}
		most = max(most, n)
	}
	return most
}

// plates says where small modules are made of several inks that do not meet exactly.
func plates(in Input, _ *Proof, _ Panel) []Finding {
	if in.Placement == nil {
		return nil
	}
	s, _ := place.SubstrateOf(in.Placement.Substrate)
	module := in.Scene.Width / modulesOf(in)
	if s.Screen || s.Bilevel || module >= 4*misplaced {
		return nil
	}
	most := platesOf(in)
	if most < 2 {
		return nil
	}
	return []Finding{{Code: "plates", Severity: SeverityNote,
		Message: fmt.Sprintf("The ink comes from %d plates, which may lie %s mm apart: a quarter or more of a module of %s mm.",
			most, measure.Number(misplaced, 1), measure.Number(module, 2)),
		Fix: &Fix{"Print in black alone",
			patch.Patch{{Op: "add", Path: "/look/ink", Value: map[string]any{"cmyk": []any{0.0, 0.0, 0.0, 100.0}}}}}}}
}

// needs says how much more than it needs a code takes, or that fewer modules would do more than a larger print.
func needs(in Input, p *Proof, _ Panel) (out []Finding) {
	at := in.Placement
	if at == nil || at.Use != "" || at.Pixels > 0 {
		return nil
	}
	s, _ := place.SubstrateOf(at.Substrate)
	least := math.Ceil(max(in.Scene.Width*farPixels/perFar(in), modulesOf(in)*s.MinXDimension, place.MinWidth))
	if in.Scene.Width > 1.7*least && p.Has(Ordinary) && in.Scene.Width > least+8 {
		out = append(out, Finding{Code: "size.large", Severity: SeverityNote, Fix: setWidth(in, least),
			Message: fmt.Sprintf("Larger than it needs to be: from %s, %s mm are enough.", at.Distance.Spoken(),
				measure.Number(least, 0))})
	}
	return out
}

// dense offers fewer modules where their size is what is wrong. It looks at what was found so far.
func dense(in Input, found []Finding) []Finding {
	if in.Thinner == nil {
		return nil
	}
	for _, f := range found {
		if f.Severity == SeverityNote {
			continue
		}
		switch f.Code {
		case "module-size", "distance", "unread.distance", "unread.farther", "unread.smaller", "pixels.few":
			t := in.Thinner()
			if t == nil {
				return nil
			}
			return []Finding{{Code: "symbol.dense", Severity: SeverityNote, Fix: t,
				Message: fmt.Sprintf("%d × %d modules are many for this place. A shorter text makes each of them larger.",
					in.Symbol.Size, in.Symbol.Size)}}
		}
	}
	return nil
}

// odd says that people may take a code for a pattern: its eyes are what they know it by.
func odd(in Input, _ *Proof, _ Panel) []Finding {
	e := in.Look.Eyes.All
	if in.Look.Eyes.Own != [3]bool{} || e.Ring.Texture != "modules" || e.Core.Motif == "square" || e.Core.Motif == "disc" {
		return nil
	}
	return []Finding{{Code: "look.odd", Severity: SeverityNote,
		Message: "With broken rings and this core, people may take it for a pattern and not scan it.",
		Fix:     &Fix{"Make the rings solid", patch.Patch{{Op: "remove", Path: "/look/eyes/ring/texture"}}}}}
}

// weaker offers a paler backdrop where readers lose the code. It looks at what was found so far.
func weaker(in Input, found []Finding) []Finding {
	b := in.Look.Backdrop
	to := math.Round((b.Strength-0.2)*10) / 10
	if b.None() || to < 0 {
		return nil
	}
	for _, f := range found {
		if strings.HasPrefix(f.Code, "unread") && f.Severity != SeverityNote {
			return []Finding{{Code: "backdrop", Severity: SeverityNote,
				Message: "The picture behind the modules hides them from phones.",
				Fix: &Fix{fmt.Sprintf("Weaken it to %g", to),
					patch.Patch{{Op: "add", Path: "/look/backdrop/strength", Value: to}}}}}
		}
	}
	return nil
}
