package proof

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/optics"
)

// Margin is how much worse it may get at the place, one thing at a time, before the family that reads least reads fewer than
// four pictures of five from the distance. Each is the last step of a ladder that held.
type Margin struct {
	Farther     float64 `json:"farther"      doc:"Times the distance, with an ordinary phone; 0 where it is not read from there."`
	FartherPoor float64 `json:"farther_poor" doc:"Times the distance, with a poor phone; 0 where it is not read from there."`
	Softer      float64 `json:"softer"       doc:"Times as soft a lens as an ordinary phone's."`
	Darker      float64 `json:"darker"       doc:"The share of the light of the place that is enough."`
	Worn        float64 `json:"worn"         doc:"The share of the code that may be scratched and soiled."`
}

// Words say a margin to somebody who buys print.
func (m Margin) Words() string {
	tenth := func(f float64) string { return measure.Number(math.Floor(f*10+1e-9)/10, 1) }
	far := "Reads up to " + tenth(m.Farther) + " times the distance"
	if m.Farther < 1 {
		far = "No margin: some phones miss too many pictures from its distance"
	}
	switch {
	case m.FartherPoor >= 1:
		far += "; with a poor phone " + tenth(m.FartherPoor) + "."
	case m.FartherPoor > 0:
		far += "; with a poor phone up to " + tenth(m.FartherPoor) + " of it."
	default:
		far += "; a poor phone does not read it."
	}
	var more []string
	if m.Softer > 1 {
		more = append(more, measure.Number(m.Softer, 2)+" times the blur")
	}
	if m.Darker > 0 && m.Darker < 1 {
		share, known := map[float64]string{2: "half", 4: "a quarter of", 8: "an eighth of"}[1/m.Darker]
		if !known {
			share = "1/" + measure.Number(1/m.Darker, 0) + " of"
		}
		more = append(more, share+" the light")
	}
	if m.Worn > 0 {
		more = append(more, "scratches on "+measure.Number(m.Worn*100, 0)+" % of it")
	}
	if n := len(more); n > 1 {
		more = []string{strings.Join(more[:n-1], ", ") + " or " + more[n-1]}
	}
	if len(more) > 0 {
		far += " From its distance it survives " + more[0] + "."
	}
	return far
}

// Figure is how many times the distance it reads up to, in short: "1.4 ×".
func (m Margin) Figure() string {
	if m.Farther == 0 {
		return "none"
	}
	return measure.Number(math.Floor(m.Farther*10+1e-9)/10, 1) + " ×"
}

// Steps of the ladders, from as it is to what few codes survive.
var (
	softerSteps = []float64{1, 1.15, 1.3, 1.5, 1.75, 2, 2.5, 3}
	darkerSteps = []float64{1, 1. / 2, 1. / 4, 1. / 8, 1. / 16, 1. / 32, 1. / 64, 1. / 128}
	wornSteps   = []float64{0, 0.01, 0.02, 0.03, 0.05, 0.08, 0.12, 0.2}
)

// measureMargin climbs the ladders of what may get worse; those of distances have been measured.
func measureMargin(ctx context.Context, in Input, panel Panel, p *Proof) error {
	softer, darker, worn := ladder{key: "softer"}, ladder{key: "darker"}, ladder{key: "worn"}
	for i := range softerSteps {
		softer.steps = append(
			softer.steps,
			func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Camera = c.Camera.Softer(softerSteps[i]) },
		)
		darker.steps = append(darker.steps, func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Level *= darkerSteps[i] })
		worn.steps = append(worn.steps, func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Wear = wornSteps[i] })
	}
	held, err := climb(ctx, in, panel, softer, darker, worn)
	if err != nil {
		return err
	}
	m := &Margin{}
	if n := held[0]; n > 0 {
		m.Softer = softerSteps[n-1]
	}
	if n := held[1]; n > 0 {
		m.Darker = darkerSteps[n-1]
	}
	if n := held[2]; n > 0 {
		m.Worn = wornSteps[n-1]
	}
	if in.Placement != nil {
		times := func(d float64) float64 { return math.Floor(d/float64(in.Placement.Distance)*100+1e-9) / 100 }
		m.Farther, m.FartherPoor = times(p.Range[1]), times(p.Poor)
	}
	p.Margin = m
	return nil
}

// ladder is one thing that gets worse from step to step.
type ladder struct {
	key    string
	camera *optics.Camera // nil: an ordinary phone's
	steps  []circumstance
	first  int // the step that is likely to be the last that holds, looked at first; 0 for the middle
}

// climb gives for each ladder how many of its steps hold: every family reads four pictures of five. Where a step fails those
// after it do, so that halving finds it; a step of all ladders is looked at together.
func climb(ctx context.Context, in Input, panel Panel, ladders ...ladder) (held []int, err error) {
	held = make([]int, len(ladders))
	fails := make([]int, len(ladders))
	for i, l := range ladders {
		fails[i] = len(l.steps)
	}
	film := newFilm(in)
	for {
		var list []Condition
		var of []int
		for i, l := range ladders {
			if held[i] < fails[i] {
				at := l.next(held[i], fails[i])
				list = append(
					list,
					Condition{
						Key:    fmt.Sprint(l.key, " ", at),
						Stage:  Margins,
						Draws:  draws,
						camera: l.camera,
						setup:  l.steps[at],
					},
				)
				of = append(of, i)
			}
		}
		if len(list) == 0 {
			return held, nil
		}
		_, outcomes, err := ask(ctx, in, panel, list, film.takeFor(ctx, panel, list))
		if err != nil {
			return nil, err
		}
		for k, o := range outcomes {
			i := of[k]
			at := ladders[i].next(held[i], fails[i])
			if o.Least() >= enough {
				held[i] = at + 1
			} else {
				fails[i] = at
			}
		}
	}
}

// next is the step to look at, where so many hold and the others from fails on do not.
func (l ladder) next(held, fails int) int {
	if held == 0 && fails == len(l.steps) && l.first > 0 {
		return l.first
	}
	return (held + fails) / 2
}
