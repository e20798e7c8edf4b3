package proof

import (
	"math"
	"slices"
	"testing"

	"sodrik/internal/core/look"
	"sodrik/internal/core/place"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// TestScales: of a near code readers get pictures at 4, 3.8, 3.6, 3.44 and 3.28 pixels a module, one for each of five draws;
// one that is farther away is not scaled.
func TestScales(t *testing.T) {
	s, err := symbol.Encode("https://marrowby.example/fair", symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	modules := float64(s.Size + 8)
	per := func(distance float64) (out []float64) {
		in := Input{Symbol: s, QuietZone: 4, Look: look.Default(), Scene: &scene.Scene{Width: modules, Height: modules},
			Placement: &place.Placement{Width: 37, Distance: 100}}
		f := newFilm(in)
		i := slices.IndexFunc(Conditions(in), func(c Condition) bool { return c.Key == "distance" })
		for draw := range 5 {
			setup := SetupOf(in, Conditions(in)[i], draw)
			setup.Turn, setup.Around, setup.Distance = 0, 0.5, distance
			img, err := f.through(setup, 0)
			if err != nil {
				t.Fatal(err)
			}
			out = append(out, math.Round(float64(img.Bounds().Dx())/2/modules*20)/20)
		}
		slices.Sort(out)
		return out
	}
	if got := per(100); !slices.Equal(got, []float64{3.3, 3.45, 3.6, 3.8, 4}) {
		t.Errorf("near: %v", got)
	}
	if got := per(focalLength / 3); !slices.Equal(got, []float64{3, 3, 3, 3, 3}) {
		t.Errorf("at three pixels a module: %v", got)
	}
}
