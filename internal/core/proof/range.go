package proof

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"

	"sodrik/internal/core/optics"
)

// Rung is one distance of the ladder that the range is measured on.
type Rung struct {
	Distance  float64        `json:"distance_mm"`
	PerModule float64        `json:"pixels"` // a module takes in the camera's picture
	Hits      map[string]int `json:"hits"`   // of five draws, by family
}

// enough is how many draws of five every family has to read for a distance to belong to the range.
const enough = 4

// rungs are how many pixels a module takes, from near to far. At maxPer and more, readers get the same pictures as at the
// nearest distance.
var rungs = []float64{3.4, 3, 2.7, 2.4, 2.2, 2, 1.85, 1.7, 1.55, 1.4, 1.25}

// measureRange climbs a ladder of distances from the nearest at which the code fits the frame and takes the longest unbroken
// part in which every family reads. The camera is optics.Phone; how far a poor one reads on the same ladder is found by
// halving.
func measureRange(ctx context.Context, in Input, panel Panel, p *Proof) error {
	near, module := reach(in)[0], in.Scene.Width/modulesOf(in)
	distances := []float64{near}
	for _, per := range rungs {
		if d := focalLength * module / per; d > near*1.05 {
			distances = append(distances, d)
		}
	}
	outcomes, err := ladderOf(ctx, in, panel, distances)
	if err != nil {
		return err
	}
	p.Ladder = nil
	from, best := -1, [2]int{0, -1}
	for i, o := range outcomes {
		p.Ladder = append(p.Ladder, Rung{round1(distances[i]), math.Round(focalLength*module/distances[i]*100) / 100, o.Hits})
		if o.Least() < enough {
			from = -1
			continue
		}
		if from < 0 {
			from = i
		}
		if i-from > best[1]-best[0] || best[1] < 0 {
			best = [2]int{from, i}
		}
	}
	p.Range = [2]float64{}
	if best[1] < 0 {
		return nil
	}
	p.Range = [2]float64{round1(distances[best[0]]), round1(distances[best[1]])}
	poor := ladder{key: "poor range", camera: &optics.Poor, first: best[1] - best[0] - 2}
	for _, d := range distances[best[0] : best[1]+1] { // a poor phone reads no farther
		poor.steps = append(poor.steps, setDistance(d))
	}
	held, err := climb(ctx, in, panel, poor)
	if err == nil && held[0] > 0 {
		p.Poor = round1(distances[best[0]+held[0]-1])
	}
	return err
}

// ladderOf shows readers five pictures from each distance, some distances at a time, near ones first, and stops where one
// family has read nothing from two in a row: it will not read from farther.
func ladderOf(ctx context.Context, in Input, panel Panel, distances []float64) (outcomes []Outcome, err error) {
	film := newFilm(in)
	for at := 0; at < len(distances); {
		var list []Condition
		for at < len(distances) && len(list) < rungsAtOnce {
			list = append(list, Condition{Key: fmt.Sprint("range ", at), Stage: Range, Draws: draws,
				setup: setDistance(distances[at])})
			at++
		}
		_, some, err := ask(ctx, in, panel, list, film.takeFor(ctx, panel, list))
		if err != nil {
			return nil, err
		}
		outcomes = append(outcomes, some...)
		if n := len(outcomes); n > 1 && outcomes[n-1].silent(outcomes[n-2]) {
			break
		}
	}
	return outcomes, nil
}

// rungsAtOnce is how many distances are looked at before it is asked whether farther ones are worth it.
const rungsAtOnce = 4

// silent says that one family read nothing in either of two outcomes.
func (o Outcome) silent(before Outcome) bool {
	for family, n := range o.Hits {
		if n == 0 && before.Hits[family] == 0 {
			return true
		}
	}
	return false
}

func setDistance(d float64) circumstance {
	return func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Distance = d }
}
