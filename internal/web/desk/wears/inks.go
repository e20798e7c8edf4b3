package wears

import (
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/patch"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/forms"
)

// inkFields are the ink's: one colour, or the colours of a gradient with its angle.
func (v *Wears) inkFields(b bound.Code) {
	l := b.C.Rendition.Job.Look
	kind := b.At("/look/ink/kind")
	v.Inks = []forms.Field{kind}
	v.InksShape = kind.Value
	if kind.Value == "plain" {
		v.Inks = append(v.Inks, v.Ink)
		return
	}
	for i := range max(2, l.Shade.N) {
		path := fmt.Sprintf("/look/ink/stops/%d/colour", i)
		f := b.At(path)
		f.Label = []string{"From", "to"}[min(1, i)]
		f.Swatches, f.Hex = b.Inks(), b.Hex(f.Value, l.Ink)
		v.Inks = append(v.Inks, f)
		v.InksShape += path
	}
	v.stops(b)
	for i := range l.Shade.N {
		if l.Shade.N > 2 {
			f := b.Slide(fmt.Sprintf("/look/ink/stops/%d/at", i), l.Shade.Stops[i].At)
			f.Label = fmt.Sprintf("Place of %d", i+1)
			v.Inks = append(v.Inks, f)
		}
	}
	if kind.Value == "linear" {
		f := b.Slide("/look/ink/angle", l.Shade.Angle)
		v.Inks = append(v.Inks, f)
	}
	if v.Line = strings.ToLower(l.Shade.Kind) + " " + l.Shade.Stops[0].Colour.String() + " to " +
		l.Shade.Stops[max(0, l.Shade.N-1)].Colour.String(); l.Shade.None() {
		v.Line = "a gradient"
	}
}

// stops are what can be done with the colours of a gradient: one more between the last two, each inner one taken away.
func (v *Wears) stops(b bound.Code) {
	g := b.C.Rendition.Job.Look.Shade
	if g.N >= 2 && g.N < ink.MaxStops {
		at := (g.Stops[g.N-2].At + g.Stops[g.N-1].At) / 2
		stop := map[string]any{"at": math.Round(at*100) / 100, "colour": ink.Mix(g.Stops[:g.N], at).String()}
		v.Stops = append(
			v.Stops,
			b.Act("Add a colour", patch.Patch{{Op: "add", Path: fmt.Sprintf("/look/ink/stops/%d", g.N-1), Value: stop}}),
		)
	}
	for i := 1; i < g.N-1; i++ {
		v.Stops = append(
			v.Stops,
			b.Act(
				fmt.Sprintf("Take colour %d away", i+1),
				patch.Patch{{Op: "remove", Path: fmt.Sprintf("/look/ink/stops/%d", i)}},
			),
		)
	}
}

// reversing swaps ink and paper: light on dark, or back.
func reversing(b bound.Code) (out []bound.Act) {
	l := b.C.Rendition.Job.Look
	if dark, ok := b.C.Rendition.DarkArtwork(b.Place); ok && dark && !(l.Paper.None && l.Ink.Same(ink.White)) {
		out = append(
			out,
			b.Act(
				"White on the artwork",
				patch.Patch{{Op: "add", Path: "/look/ink", Value: ink.White}, {Op: "add", Path: "/look/paper", Value: "none"}},
			),
		)
	}
	if l.Paper.None || !l.Shade.None() {
		return out
	}
	label := "Reverse: light on dark"
	if l.Ink.Luminance() > l.Paper.Colour.Luminance() {
		label = "Back to dark on light"
	}
	return append(
		out,
		b.Act(
			label,
			patch.Patch{{Op: "add", Path: "/look/ink", Value: l.Paper.Colour}, {Op: "add", Path: "/look/paper", Value: l.Ink}},
		),
	)
}
