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

// rungs are how many pixels a module takes, from near to far.
var rungs = []float64{8, 5.5, 4, 3.4, 3, 2.7, 2.4, 2.2, 2, 1.85, 1.7, 1.55, 1.4, 1.25}

// measureRange climbs a ladder of distances from the nearest at which the code fits the frame and takes the longest unbroken part in which
// every family reads. The camera is optics.Phone.
func measureRange(ctx context.Context, in Input, panel Panel, p *Proof) error {
	near, module := reach(in)[0], in.Scene.Width/modulesOf(in)
	distances := []float64{near}
	for _, per := range rungs {
		if d := focalLength * module / per; d > near*1.05 {
			distances = append(distances, d)
		}
	}
	var list []Condition
	for i, d := range distances {
		key := fmt.Sprint("range ", i)
		list = append(list, Condition{Key: key, Stage: Range, Draws: draws, setup: setDistance(d)})
	}
	_, outcomes, err := ask(ctx, in, panel, list, newFilm(in).takeAll(ctx, list))
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
	if best[1] >= 0 {
		p.Range = [2]float64{round1(distances[best[0]]), round1(distances[best[1]])}
	}
	return nil
}

func setDistance(d float64) func(*Pixels, *optics.Setup, *rand.Rand) {
	return func(_ *Pixels, c *optics.Setup, _ *rand.Rand) { c.Distance = d }
}
