package layout

import (
	"fmt"
	"math"
	"testing"

	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
)

func TestCoreShare(t *testing.T) {
	for key, want := range map[string]float64{"square": 1, "disc": 2 * math.Sqrt(0.25-0.0625), "diamond": 0.5, "plus": 0.4,
		"hexagon": 1 - 2*0.25*0.25/0.433} {
		t.Run(key, func(t *testing.T) {
			l := look.Default()
			l.Eyes.All.Core.Motif = key
			if _, got := CoreShare(l); math.Abs(got-want) > 0.01 {
				t.Errorf("%s keeps %.3f, want %.3f", key, got, want)
			}
		})
	}
	l := look.Default()
	l.Eyes.All.Core.Corners = [4]float64{1, 1, 1, 1}
	l.Eyes.All.Core.Scale = 0.8
	want := 0.8 * 2 * math.Sqrt(0.25-0.0625)
	if middle, got := CoreShare(l); math.Abs(middle-0.8) > 0.01 || math.Abs(got-want) > 0.01 {
		t.Errorf("a small round core keeps %.3f and %.3f, want 0.8 and %.3f", middle, got, want)
	}
	for key, want := range map[string]float64{"square": 1, "disc": 1, "ticket": 0.72, "blossom": 0.72, "bean": 0.908, "leaf": 1} {
		t.Run(key, func(t *testing.T) {
			l := look.Default()
			l.Eyes.All.Core.Motif = key
			if got, _ := CoreShare(l); math.Abs(got-want) > 0.02 {
				t.Errorf("on its middle %s keeps %.3f, want %.2f", key, got, want)
			}
		})
	}
}

func TestRingShare(t *testing.T) {
	for _, c := range []struct {
		m    look.Modules
		want float64
	}{{look.Modules{Join: "all", Scale: 1, Motif: "square"}, 1}, {look.Modules{Join: "none", Scale: 0.7, Motif: "square"}, 0.7},
		{look.Modules{Join: "none", Scale: 0.8, Motif: "plus"}, 0.8},
		{look.Modules{Join: "rows", Corner: 1, Scale: 1, Motif: "square"}, 1}} {
		t.Run(fmt.Sprint(c.m), func(t *testing.T) {
			l := look.Default()
			l.Modules = c.m
			if got := RingShare(l); got != 1 {
				t.Errorf("a solid ring is %.2f thick", got)
			}
			l.Eyes.All.Ring.Texture = "modules"
			if got := RingShare(l); math.Abs(got-c.want) > 0.01 {
				t.Errorf("%+v: the ring is %.2f thick, want %.2f", c.m, got, c.want)
			}
		})
	}
}

// TestEyes: ring and core cover the area of their squares less the corners, and do not touch.
func TestEyes(t *testing.T) {
	for _, c := range []float64{0, 0.3, 0.7, 1} {
		l := look.Default()
		l.Eyes.All.Ring.Corners, l.Eyes.All.Core.Corners = [4]float64{c, c, c, c}, [4]float64{c, c, c, c}
		all := EyeSample(l)[0].Path.Polygons(24)
		corners := func(r float64) float64 { return 4 * (1 - math.Pi/4) * r * r }
		inner := math.Max(0, 3.5*c-1)
		want := 49 - corners(3.5*c) - (25 - corners(inner)) + 9 - corners(1.5*c)
		if got := scene.Area(all); math.Abs(got-want) > 0.01*want {
			t.Errorf("corners %v: the eye covers %.3f, want %.3f", c, got, want)
		}
		for i := range 70 { // along both middle lines 1 : 1 : 3 : 1 : 1
			at := 0.05 + float64(i)/10
			dark := at < 1 || at > 2 && at < 5 || at > 6
			if (scene.Turns(all, at, 3.501) == 1) != dark || (scene.Turns(all, 3.501, at) == 1) != dark {
				t.Errorf("corners %v: the middle lines are broken at %v", c, at)
			}
		}
	}
}
