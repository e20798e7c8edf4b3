package calibration

import (
	"flag"
	"fmt"
	"math"
	"math/rand"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
	"sodrik/internal/readers"
)

var manyTuned = flag.Int("tuned", 0, "codes whose verdicts TestSensitivity compares")

// variants change a constant of the model at a time.
var variants = []struct {
	name string
	tune func(*optics.Setup)
}{
	{"ink spreads by half as much again", func(c *optics.Setup) { c.Gain *= 1.5 }},
	{"ink spreads half as much", func(c *optics.Setup) { c.Gain *= 0.5 }},
	{"the lens blurs by 0.6 pixels, not 0.45", func(c *optics.Setup) { c.Blur = math.Hypot(c.Blur, 0.4*c.Distance/c.Camera.Focal) }},
	{"half the electrons", func(c *optics.Setup) { c.Level *= 0.5 }},
	{"the hand shakes twice as much", func(c *optics.Setup) { c.Motion *= 2 }},
	{"a tenth fewer pixels", func(c *optics.Setup) { c.Camera.Focal *= 0.9 }},
}

// TestSensitivity counts how many verdicts change with a constant of the model:
//
//	go test ./internal/calibration -run Sensitivity -v -timeout 2h -tuned 100
//
// A model on whose constants much hangs would be worth little; all the same, worse optics must not make verdicts better.
func TestSensitivity(t *testing.T) {
	if *manyTuned == 0 {
		t.Skip("one code says nothing: -tuned 60")
	}
	rank := map[proof.Verdict]int{proof.Safe: 0, proof.Care: 1, proof.Stop: 2}
	better, worse := make([]int, len(variants)), make([]int, len(variants))
	list := make([][]proof.Verdict, *manyTuned)
	each(*manyTuned, func(i int) (result, bool) {
		rng := rand.New(rand.NewSource(*seed*7919 + int64(i)))
		text := ""
		for text == "" {
			text, _ = drawn(rng, false)
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
		fmt.Printf("| %s | %d | %d | %d |\n", v.name, better[k], worse[k], *manyTuned-better[k]-worse[k])
		if v.name != "ink spreads half as much" && better[k] > 1+*manyTuned/10 {
			t.Errorf("%s makes %d of %d verdicts better", v.name, better[k], *manyTuned)
		}
	}
}
