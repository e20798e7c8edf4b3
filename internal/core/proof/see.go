package proof

import (
	"context"
	"image"
	"math"

	"sodrik/internal/core/optics"
)

// Seen is what a camera has in its picture, and what readers make of it.
type Seen struct {
	Image     *image.Gray
	PerModule float64 // pixels, in the camera's frame
	Readings  []Reading
}

// See takes one picture under a setup and shows it to every reader. It is for looking; no verdict follows from it.
func See(ctx context.Context, in Input, s optics.Setup, panel Panel) (*Seen, error) {
	img, err := newFilm(in).through(s, 0)
	if err != nil {
		return nil, err
	}
	return see(ctx, in, Condition{Key: "camera", Draws: 1}, img, s, panel)
}

// Witness takes the picture of one draw of a condition again, the very same as the proof was made from, and shows it to every
// reader.
func Witness(ctx context.Context, in Input, c Condition, draw int, panel Panel) (*Seen, error) {
	img, err := newFilm(in).take(c, draw)
	if err != nil {
		return nil, err
	}
	return see(ctx, in, c, img, SetupOf(in, c, draw), panel)
}

// Picture is the first picture of a condition.
func Picture(in Input, c Condition) (*image.Gray, error) { return newFilm(in).take(c, 0) }

// Shot is a condition and the first picture of it.
type Shot struct {
	Condition
	Image *image.Gray
}

// Album takes the first picture of every condition.
func Album(ctx context.Context, in Input) ([]Shot, error) {
	list := Conditions(in)
	first := make([]Condition, len(list))
	for i, c := range list {
		first[i] = c
		first[i].Draws = 1
	}
	var out []Shot
	for t := range newFilm(in).takeAll(ctx, first) {
		if t.err != nil {
			return nil, t.err
		}
		for _, s := range t.shots {
			out = append(out, Shot{list[s.condition], s.image})
		}
	}
	return out, nil
}

func see(ctx context.Context, in Input, c Condition, img *image.Gray, s optics.Setup, panel Panel) (*Seen, error) {
	out := &Seen{Image: img, PerModule: math.Round(s.Camera.Focal/s.Distance*in.Scene.Width/modulesOf(in)*10) / 10}
	c.Draws = 1
	from := make(chan taken, 1)
	from <- taken{shots: []shot{{image: img}}}
	close(from)
	var err error
	out.Readings, _, err = ask(ctx, in, panel, []Condition{c}, from)
	return out, err
}
