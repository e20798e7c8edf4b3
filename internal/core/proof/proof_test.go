package proof_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"slices"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/job"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/scene"
)

// fake is a reader that answers as told.
type fake struct {
	name, family string
	answer       func(img *image.Gray) ([]string, error)
}

func (f fake) Name() string   { return f.name }
func (f fake) Family() string { return f.family }
func (f fake) Read(ctx context.Context, img *image.Gray) ([]string, error) {
	return f.answer(img)
}

func always(payload string) func(*image.Gray) ([]string, error) {
	return func(*image.Gray) ([]string, error) { return []string{payload}, nil }
}

func panelOf(readers ...proof.Reader) proof.Panel {
	return proof.Panel{Readers: readers, Families: []string{"one", "two"}}
}

func good(payload string) proof.Panel {
	return panelOf(fake{"a", "one", always(payload)}, fake{"b", "two", always(payload)})
}

func stopped() time.Time { return time.Time{} }

func make(t *testing.T, text string) *compose.Made {
	t.Helper()
	m, problems := compose.Parse([]byte(text), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return m
}

func prove(t *testing.T, m *compose.Made, panel func(payload string) proof.Panel) *proof.Proof {
	t.Helper()
	in, err := m.Proof(min(0, len(m.Job.Placements)-1))
	if err != nil {
		t.Fatal(err)
	}
	p, err := proof.Prove(t.Context(), in, panel(m.Payload), stopped)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

const at = `,"placements":[{"name":"gate","width_mm":%g,"distance_mm":%g,"substrate":%q}]}`

func jobFor(rest string, width, distance float64, substrate string) string {
	return `{"content":{"kind":"url","url":"https://marrowby.example/fair"}` + rest + fmt.Sprintf(at, width, distance, substrate)
}

// TestFindings: each rule at its limit, what it says, and that its fix, applied, removes it.
func TestFindings(t *testing.T) {
	for _, c := range []struct {
		name, job string
		want      string // codes, worst first
		verdict   proof.Verdict
	}{
		{"plain black on white at a sound size", jobFor("", 160, 1500, "uncoated"), "", proof.Safe},
		{"no place", `{"content":{"kind":"url","url":"https://marrowby.example/fair"}}`, "", proof.Flat},
		{"no place, and a remark", `{"content":{"kind":"url","url":"http://marrowby.example/fair"}}`, "address.http", proof.Flat},
		{"pale ink", jobFor(`,"look":{"ink":"#cccccc"}`, 160, 1500, "coated"), "contrast", proof.Stop},
		{"mid ink", jobFor(`,"look":{"ink":"#b8b8b8"}`, 160, 1500, "coated"), "contrast", proof.Care},
		{"dark enough", jobFor(`,"look":{"ink":"#a0a0a0"}`, 160, 1500, "coated"), "", proof.Safe},
		{"dark paper", jobFor(`,"look":{"ink":"#000000","paper":"#606060"}`, 160, 1500, "coated"), "contrast", proof.Stop},
		{"light on dark", jobFor(`,"look":{"ink":"#ffffff","paper":"#12352b"}`, 160, 1500, "coated"), "contrast.reversed", proof.Stop},
		{"no paper on a dark ground", `{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"paper":"none"},"placements":[{"name":"a","width_mm":60,"background":"#222222"}]}`, "contrast", proof.Stop},
		{"quiet zone of two", jobFor(`,"symbol":{"quiet_zone":2}`, 160, 1500, "coated"), "quiet-zone", proof.Care},
		{"no quiet zone", jobFor(`,"symbol":{"quiet_zone":0}`, 160, 1500, "coated"), "quiet-zone", proof.Stop},
		{"module too small for uncoated", jobFor("", 14, 130, "uncoated"), "module-size", proof.Care},
		{"the same on coated", jobFor("", 14, 130, "coated"), "", proof.Safe},
		{"far too small", jobFor("", 9, 85, "textile"), "module-size", proof.Stop},
		{"too far", jobFor("", 100, 1500, "coated"), "distance", proof.Care},
		{"exactly a tenth", jobFor("", 150, 1500, "coated"), "", proof.Safe},
		{"too near", jobFor("", 160, 150, "coated"), "distance.near", proof.Care},
		{"nearer than a lens focuses", jobFor("", 20, 60, "coated"), "distance.focus", proof.Care},
		{"a mark that leaves enough", jobFor(`,"look":{"mark":{"source":"icon:sprout"}}`, 160, 1500, "coated"), "", proof.Safe},
		{"a mark that leaves little", jobFor(`,"symbol":{"max_version":3},"look":{"mark":{"source":"icon:sprout","width":0.25,"reserve":0.1}}`, 160, 1500, "coated"), "mark.reserve", proof.Care},
		{"a mark on the timing", jobFor(`,"symbol":{"min_version":7,"level":"H"},"look":{"mark":{"source":"icon:sprout","width":0.1,"y":0.15}}`, 160, 1500, "coated"), "mark.timing", proof.Care},
		{"rings of thin modules", jobFor(`,"look":{"modules":{"join":"none","scale":0.7},"eyes":{"ring":{"texture":"modules"}}}`, 160, 1500, "coated"), "eye.ring", proof.Care},
		{"rings of full modules", jobFor(`,"look":{"modules":{"join":"none","scale":0.8},"eyes":{"ring":{"texture":"modules"}}}`, 160, 1500, "coated"), "", proof.Safe},
		{"a core with notches", jobFor(`,"look":{"eyes":{"core":{"motif":"ticket"}}}`, 160, 1500, "coated"), "eye.core", proof.Care},
		{"left over and insecure", `{"content":{"kind":"url","url":"http://marrowby.example/fair?gclid=abc"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`, "address.http address.leftovers", proof.Care},
	} {
		m := make(t, c.job)
		p := prove(t, m, good)
		if got := codes(p); got != c.want || p.Verdict != c.verdict {
			t.Errorf("%s: %q %s, want %q %s", c.name, got, p.Verdict, c.want, c.verdict)
		}
		for _, f := range p.Findings {
			if f.Message == "" || strings.HasSuffix(f.Message, " ") {
				t.Errorf("%s: %+v has no sentence", c.name, f)
			}
			if f.Fix == nil {
				continue
			}
			fixed := apply(t, c.job, f.Fix)
			if after := prove(t, fixed, good); strings.Contains(" "+codes(after)+" ", " "+f.Code+" ") {
				t.Errorf("%s: %q leaves %q", c.name, f.Fix.Label, codes(after))
			}
		}
	}
}

func apply(t *testing.T, text string, fix *proof.Fix) *compose.Made {
	t.Helper()
	draft, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	after, _, err := job.Complete(draft, fix.Patch).Apply(draft)
	if err != nil {
		t.Fatalf("%s: %v", fix.Label, err)
	}
	b, err := json.Marshal(after)
	if err != nil {
		t.Fatal(err)
	}
	return make(t, string(b))
}

func codes(p *proof.Proof) string {
	var out []string
	for _, f := range p.Findings {
		out = append(out, f.Code)
	}
	return strings.Join(out, " ")
}

// TestReaders: what readers do decides before anything else.
func TestReaders(t *testing.T) {
	none := func(*image.Gray) ([]string, error) { return nil, nil }
	for _, c := range []struct {
		name    string
		panel   func(payload string) proof.Panel
		want    string
		verdict proof.Verdict
	}{
		{"a family is missing", func(p string) proof.Panel { return panelOf(fake{"a", "one", always(p)}) }, "reader.missing", proof.Care},
		{"no reader at all", func(string) proof.Panel { return panelOf() }, "reader.missing", proof.Care},
		{"an engine is broken", func(p string) proof.Panel {
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", func(*image.Gray) ([]string, error) { return nil, errors.New("no") }})
		}, "reader.broken", proof.Care},
		{"another payload", func(p string) proof.Panel {
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", always("https://elsewhere.example")})
		}, "misread misread misread", proof.Stop},
		{"one reads nothing", func(p string) proof.Panel { return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", none}) }, "unread.picture", proof.Stop},
		{"small pictures are not read", func(p string) proof.Panel {
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", func(img *image.Gray) ([]string, error) {
				if img.Bounds().Dx() < 200 {
					return nil, nil
				}
				return []string{p}, nil
			}})
		}, "unread.distance", proof.Stop},
	} {
		m := make(t, jobFor("", 160, 1600, "coated"))
		p := prove(t, m, c.panel)
		if got := codes(p); got != c.want || p.Verdict != c.verdict {
			t.Errorf("%s: %q %s, want %q %s", c.name, got, p.Verdict, c.want, c.verdict)
		}
	}
}

func TestFramesAndFigures(t *testing.T) {
	m := make(t, jobFor("", 160, 1500, "coated"))
	var sizes []int
	p := prove(t, m, func(payload string) proof.Panel {
		return panelOf(fake{"a", "one", func(img *image.Gray) ([]string, error) {
			sizes = append(sizes, img.Bounds().Dx()*img.Bounds().Dy())
			return []string{payload}, nil
		}})
	})
	if len(sizes) != 3 {
		t.Fatalf("%d frames", len(sizes))
	}
	for _, n := range sizes {
		if n > 400_000 {
			t.Errorf("a frame of %d pixels", n)
		}
	}
	if p.Reserve != 1 || p.Contrast < 0.99 || p.Range[0] >= p.Range[1] || p.Range[1] < 1500 || p.Where == "" {
		t.Errorf("%+v", p)
	}
	b, err := json.Marshal(p)
	if err != nil {
		t.Fatal(err)
	}
	var back proof.Proof
	if err := json.Unmarshal(b, &back); err != nil || fmt.Sprint(back.Readings) != fmt.Sprint(p.Readings) {
		t.Errorf("%s does not come back: %v", b, err)
	}
}

// TestReserve covers part of the drawing and holds the reserve against what our decoder has to correct.
func TestReserve(t *testing.T) {
	m := make(t, jobFor("", 160, 1500, "coated"))
	in, err := m.Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	if got := proof.Measure(in).Reserve; got != 1 {
		t.Errorf("an uncovered code has a reserve of %g", got)
	}
	cover := func(side float64) float64 {
		covered := in
		s := *in.Scene
		at := s.Items[len(s.Items)-1].At
		mid := (float64(in.Symbol.Size) - side) / 2
		s.Items = append(slices.Clone(s.Items), scene.Item{Path: scene.Rectangle(mid, mid, side, side), At: at, Fill: ink.White})
		covered.Scene = &s
		return proof.Measure(covered).Reserve
	}
	small, large, most := cover(5), cover(7), cover(19)
	if small >= 1 || small <= 0 || large >= small || most != 0 {
		t.Errorf("covered by 5, 7 and 19 modules: %g, %g, %g", small, large, most)
	}
}

func TestLeaving(t *testing.T) {
	m := make(t, jobFor("", 160, 1500, "coated"))
	in, err := m.Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := proof.Prove(ctx, in, good(m.Payload), stopped); !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
}
