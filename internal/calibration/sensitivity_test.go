package calibration

import (
	"flag"
	"fmt"
	"math/rand"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
	"sodrik/internal/readers"
)

var manyTuned = flag.Int("tuned", 0, "codes whose verdicts TestSensitivity compares")

// variants change a constant of the model at a time: those of optics and print by a third, lines and the frame of the lens by
// a tenth.
var variants = []struct {
	name string
	tune func(*optics.Setup)
}{
	{"ink spreads by a third more", func(c *optics.Setup) { c.Gain *= 4. / 3 }},
	{"ink spreads by a third less", func(c *optics.Setup) { c.Gain *= 2. / 3 }},
	{"lenses blur by a third more", func(c *optics.Setup) { c.Camera.Lens *= 4. / 3 }},
	{"lenses blur by a third less", func(c *optics.Setup) { c.Camera.Lens *= 2. / 3 }},
	{"phones sharpen by a third more", func(c *optics.Setup) { c.Camera.Halo *= 4. / 3 }},
	{"phones sharpen by a third less", func(c *optics.Setup) { c.Camera.Halo *= 2. / 3 }},
	{"a third more light", func(c *optics.Setup) { c.Level *= 4. / 3 }},
	{"a third less light", func(c *optics.Setup) { c.Level *= 2. / 3 }},
	{"a third more noise of the sensor", func(c *optics.Setup) { c.Camera.Noise *= 4. / 3 }},
	{"a third fewer electrons", func(c *optics.Setup) { c.Camera.Well *= 2. / 3 }},
	{"the hand shakes by a third more", func(c *optics.Setup) { c.Motion *= 4. / 3 }},
	{"compression of quality 60", func(c *optics.Setup) { c.Camera.Quality = 60 }},
	{"a tenth more pixels", func(c *optics.Setup) { c.Camera.Focal *= 1.1 }},
	{"a tenth fewer pixels", func(c *optics.Setup) { c.Camera.Focal *= 0.9 }},
}

// mostChanged is the share of verdicts that one constant may change.
const mostChanged = 0.05

// TestSensitivity counts how many verdicts change with a constant of the model, of codes at places drawn at random:
//
//	go test ./internal/calibration -run Sensitivity -v -timeout 3h -tuned 300
//
// A model on whose constants much hangs would be worth little.
func TestSensitivity(t *testing.T) {
	if *manyTuned == 0 {
		t.Skip("one code says nothing: -tuned 300")
	}
	rank := map[proof.Verdict]int{proof.Safe: 0, proof.Care: 1, proof.Stop: 2}
	better, worse := make([]int, len(variants)), make([]int, len(variants))
	list := make([][]proof.Verdict, *manyTuned)
	each(*manyTuned, func(i int) (result, bool) {
		rng := rand.New(rand.NewSource(*seed*7919 + int64(i)))
		text := ""
		for text == "" {
			text, _ = drawn(rng, true)
		}
		m, problems := compose.Parse([]byte(text), nil)
		if len(problems) > 0 {
			t.Error(problems)
			return result{}, false
		}
		verdict := func(tune func(*optics.Setup)) proof.Verdict {
			in, err := m.Proof(0)
			if err == nil {
				in.Tune = tune
				var p *proof.Proof
				if p, err = proof.Prove(t.Context(), in, readers.Panel(), proof.Ordinary); err == nil {
					return p.Verdict
				}
			}
			t.Error(err)
			return ""
		}
		list[i] = append(list[i], verdict(nil))
		for _, v := range variants {
			list[i] = append(list[i], verdict(v.tune))
		}
		return result{}, true
	})
	for _, verdicts := range list {
		for k := range variants {
			switch d := rank[verdicts[k+1]] - rank[verdicts[0]]; {
			case d > 0:
				worse[k]++
			case d < 0:
				better[k]++
			}
		}
	}
	fmt.Printf("\n%d codes\n\n| if | better | worse | the same |\n| --- | --- | --- | --- |\n", *manyTuned)
	for k, v := range variants {
		changed := better[k] + worse[k]
		fmt.Printf("| %s | %d | %d | %d |\n", v.name, better[k], worse[k], *manyTuned-changed)
		if float64(changed) > mostChanged*float64(*manyTuned) {
			t.Errorf("%s: %d of %d verdicts become another", v.name, changed, *manyTuned)
		}
	}
}
