package proof

import (
	"context"
	"image"
	"math"
	"time"

	"sodrik/internal/core/optics"
	"sodrik/internal/core/place"
)

// Seen is what a camera has in its picture, and what readers make of it.
type Seen struct {
	Image     *image.Gray
	PerModule float64 // pixels
	Readings  []Reading
}

// Usual is how a phone sees a code at its place: from its distance, in its light, the ink spread as its substrate lets it. Without a
// place it is ten times the code's width away.
func Usual(in Input) optics.Setup {
	c := optics.Setup{Camera: optics.Phone, Distance: in.Scene.Width * 10, Level: 1, ShiftX: 0.37, ShiftY: 0.61, Seed: 1}
	if p := in.Placement; p != nil {
		c.Distance = float64(p.Distance)
		c.Level = map[string]float64{"indoor": 1, "outdoor": 3, "dim": 0.04}[p.Light]
		if s, ok := place.SubstrateOf(p.Substrate); ok {
			c.Gain = s.Gain
		}
	}
	return c
}

// mostLooked bounds the side of a picture that readers are handed here, as a camera's frame is cropped to what matters.
const mostLooked = 700

// through takes the picture, with fewer pixels where the code is so near that more of them tell nothing: three a module are enough.
func through(in Input, c optics.Setup) (*image.Gray, error) {
	const around = 1.3 // the picture, against the code in it
	most := max(mostLooked, 3*around*modulesOf(in))
	if least := in.Scene.Width * around * c.Camera.Focal / most; c.Distance < least {
		c.Camera.Focal *= c.Distance / least
	}
	return optics.Expose(in.Scene, groundOf(in), c)
}

// See takes one picture under a setup and shows it to every reader. It is for looking; no verdict follows from it.
func See(ctx context.Context, in Input, c optics.Setup, panel Panel, now func() time.Time) (*Seen, error) {
	img, err := through(in, c)
	if err != nil {
		return nil, err
	}
	out := &Seen{Image: img, PerModule: math.Round(c.Camera.Focal/c.Distance*in.Scene.Width/modulesOf(in)*10) / 10}
	out.Readings, err = ask(ctx, in, panel, frame{"camera", img}, now)
	return out, err
}
