package calibration

import (
	"errors"
	"flag"
	"fmt"
	"math/rand"
	"os"
	"strconv"
	"strings"
	"sync"
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

// verdictsFile keeps the verdicts of each code as soon as they are out, so that hours of work can be done in parts.
var verdictsFile = flag.String("verdicts", "", "file of verdicts that TestSensitivity goes on with")

// verdictsKept are the verdicts of that file: a line a code, its number, and its verdicts as they are and with each variant.
// The first
// line names the model that they are of.
type verdictsKept struct {
	lock     sync.Mutex
	verdicts map[int][]proof.Verdict
}

func keptOf(t *testing.T) *verdictsKept {
	t.Helper()
	k := &verdictsKept{verdicts: map[int][]proof.Verdict{}}
	if *verdictsFile == "" {
		return k
	}
	text, err := os.ReadFile(*verdictsFile)
	if errors.Is(err, os.ErrNotExist) {
		text = []byte("model " + proof.Model + "\n")
		err = os.WriteFile(*verdictsFile, text, 0o644)
	}
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(strings.TrimSpace(string(text)), "\n")
	if lines[0] != "model "+proof.Model {
		t.Fatalf("%s is of %s; the model is %s now", *verdictsFile, lines[0], proof.Model)
	}
	for _, line := range lines[1:] {
		words := strings.Fields(line)
		i, err := strconv.Atoi(words[0])
		if err != nil || len(words) != len(variants)+2 {
			t.Fatalf("%s holds %q", *verdictsFile, line)
		}
		for _, w := range words[1:] {
			k.verdicts[i] = append(k.verdicts[i], proof.Verdict(w))
		}
	}
	return k
}

// of are the verdicts of a code, nil where they are not known yet.
func (k *verdictsKept) of(i int) []proof.Verdict {
	k.lock.Lock()
	defer k.lock.Unlock()
	return k.verdicts[i]
}

func (k *verdictsKept) add(t *testing.T, i int, verdicts []proof.Verdict) {
	if *verdictsFile == "" {
		return
	}
	k.lock.Lock()
	defer k.lock.Unlock()
	f, err := os.OpenFile(*verdictsFile, os.O_APPEND|os.O_WRONLY, 0o644)
	if err == nil {
		_, err = fmt.Fprintln(f, i, strings.Trim(fmt.Sprint(verdicts), "[]"))
		err = errors.Join(err, f.Close())
	}
	if err != nil {
		t.Error(err)
	}
}

// mostChanged is the share of verdicts that one constant may change.
const mostChanged = 0.05

// TestSensitivity counts how many verdicts change with a constant of the model, of codes at places drawn at random:
//
//	go test ./internal/calibration -run Sensitivity -v -timeout 3h -tuned 300 -verdicts testdata/sensitivity.txt
//
// With the file it goes on where it was stopped.
// A model on whose constants much hangs would be worth little.
func TestSensitivity(t *testing.T) {
	if *manyTuned == 0 {
		t.Skip("one code says nothing: -tuned 300")
	}
	rank := map[proof.Verdict]int{proof.Safe: 0, proof.Care: 1, proof.Stop: 2}
	better, worse := make([]int, len(variants)), make([]int, len(variants))
	list := make([][]proof.Verdict, *manyTuned)
	kept := keptOf(t)
	each(*manyTuned, func(i int) (result, bool) {
		if list[i] = kept.of(i); list[i] != nil {
			return result{}, true
		}
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
		if !t.Failed() {
			kept.add(t, i, list[i])
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
		t.Run(v.name, func(t *testing.T) {
			changed := better[k] + worse[k]
			fmt.Printf("| %s | %d | %d | %d |\n", v.name, better[k], worse[k], *manyTuned-changed)
			if float64(changed) > mostChanged*float64(*manyTuned) {
				t.Errorf("%s: %d of %d verdicts become another", v.name, changed, *manyTuned)
			}
		})
	}
}
