package reads

import (
	"testing"

	"sodrik/internal/web/desk/bound/boundtest"
)

// TestGauges: the figures of a code of which all can be reckoned by hand: 25 modules and four of border on either side are
// 33, so that one of 66 mm has modules of 2 mm; black on white differ by all; the farthest is where a module takes two
// pixels.
func TestGauges(t *testing.T) {
	b := boundtest.Of(
		t,
		`{"content":{"kind":"text","text":"MARROWBY SEEDS"},"symbol":{"min_version":2,"max_version":2},"placements":[{"name":"a","width_mm":66,"distance_mm":600}]}`,
		nil,
	)
	v := Of(b, nil)
	for i, want := range []string{"25 × 25 H", "2 mm", "100 %"} {
		t.Run(want, func(t *testing.T) {
			if got := v.Gauges[i].Figure; got != want {
				t.Errorf("%s is %q, want %q", v.Gauges[i].Label, got, want)
			}
		})
	}
	if v.Contrast != "100 %" || v.Proof != nil || len(v.Sliders) == 0 {
		t.Errorf("%q %v", v.Contrast, v.Proof)
	}
	b.Place = -1
	if v := Of(b, nil); v.Gauges[1].Figure != "–" || v.Gauges[4].Figure != "–" {
		t.Errorf("without a place: %+v", v.Gauges)
	}
}

// TestRangeWords keeps two figures.
func TestRangeWords(t *testing.T) {
	for want, r := range map[string][2]float64{"0.05–0.84 m": {52, 838}, "0.1–1 m": {80, 1000}, "0.2–3.4 m": {172, 3355}} {
		t.Run(want, func(t *testing.T) {
			if got := rangeWords(r); got != want {
				t.Errorf("%v is %q, want %q", r, got, want)
			}
		})
	}
}
