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

	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/job"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/style"
)

// fake is a reader that answers as told.
type fake struct {
	name, family string
	answer       func(img *image.Gray) ([]string, error)
}

func (f fake) Name() string   { return f.name }
func (f fake) Family() string { return f.family }
func (f fake) Read(ctx context.Context, pictures []*image.Gray) (out []proof.Answer) {
	for _, img := range pictures {
		payloads, err := f.answer(img)
		out = append(out, proof.Answer{Payloads: payloads, Err: err})
	}
	return out
}

// short answers for the first picture only.
type short struct{}

func (short) Name() string                                       { return "short" }
func (short) Family() string                                     { return "two" }
func (short) Read(context.Context, []*image.Gray) []proof.Answer { return []proof.Answer{{}} }

func always(payload string) func(*image.Gray) ([]string, error) {
	return func(*image.Gray) ([]string, error) { return []string{payload}, nil }
}

func panelOf(readers ...proof.Reader) proof.Panel {
	return proof.Panel{Readers: readers, Families: []string{"one", "two"}}
}

func good(payload string) proof.Panel {
	return panelOf(fake{"a", "one", always(payload)}, fake{"b", "two", always(payload)})
}

func rendered(t *testing.T, text string) *compose.Rendition {
	t.Helper()
	m, problems := compose.Parse([]byte(text), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return m
}

// judge proves with readers that do not look: in pictures of few pixels, which takes a tenth of the time.
func judge(t *testing.T, m *compose.Rendition) *proof.Proof {
	return proveWith(t, m, good, func(c *optics.Setup) { c.Camera.Focal /= 8 })
}

func prove(t *testing.T, m *compose.Rendition, panel func(payload string) proof.Panel) *proof.Proof {
	return proveWith(t, m, panel, nil)
}

func proveWith(t *testing.T, m *compose.Rendition, panel func(payload string) proof.Panel,
	tune func(*optics.Setup)) *proof.Proof {
	t.Helper()
	in, err := m.Proof(min(0, len(m.Job.Placements)-1))
	if err != nil {
		t.Fatal(err)
	}
	in.Tune = tune
	p, err := proof.Prove(t.Context(), in, panel(m.Payload), proof.Ordinary)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

const at = `,"placements":[{"name":"gate","width_mm":%g,"distance_mm":%g,"substrate":%q}]}`

func jobFor(rest string, width, distance float64, substrate string) string {
	return `{"content":{"kind":"url","url":"https://marrowby.example/fair"}` + rest + fmt.Sprintf(at, width, distance, substrate)
}

func placed(rest string) string {
	return `{"content":{"kind":"url","url":"https://marrowby.example/fair"},"placements":[{"name":"a",` + rest + `}]}`
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
		{"hardly any ink", jobFor(`,"look":{"ink":"#e8e8e8"}`, 160, 1500, "coated"), "contrast", proof.Stop},
		{"pale ink", jobFor(`,"look":{"ink":"#cccccc"}`, 160, 1500, "coated"), "contrast", proof.Care},
		{"mid ink", jobFor(`,"look":{"ink":"#b8b8b8"}`, 160, 1500, "coated"), "contrast", proof.Safe},
		{"dark enough", jobFor(`,"look":{"ink":"#a0a0a0"}`, 160, 1500, "coated"), "", proof.Safe},
		{"dark paper", jobFor(`,"look":{"ink":"#000000","paper":"#606060"}`, 160, 1500, "coated"), "contrast", proof.Stop},
		{"light on dark", jobFor(`,"look":{"ink":"#ffffff","paper":"#12352b"}`, 160, 1500, "coated"), "contrast.reversed",
			proof.Stop},
		{"no paper on a dark ground",
			`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"paper":"none"},"placements":[{"name":"a","width_mm":60,"background":"#222222"}]}`, "contrast", proof.Stop},
		{"quiet zone of two", jobFor(`,"symbol":{"quiet_zone":2}`, 160, 1500, "coated"), "quiet-zone", proof.Care},
		{"no quiet zone", jobFor(`,"symbol":{"quiet_zone":0}`, 160, 1500, "coated"), "quiet-zone", proof.Stop},
		{"module too small for uncoated", jobFor("", 14, 130, "uncoated"), "module-size symbol.dense", proof.Care},
		{"the same on coated", jobFor("", 14, 130, "coated"), "", proof.Safe},
		{"far too small", jobFor("", 9, 85, "textile"), "module-size symbol.dense", proof.Stop},
		{"too far", jobFor("", 90, 1500, "coated"), "distance symbol.dense", proof.Care},
		{"exactly a tenth", jobFor("", 150, 1500, "coated"), "", proof.Safe},
		{"too near", jobFor("", 160, 150, "coated"), "distance.near size.large", proof.Care},
		{"nearer than a lens focuses", jobFor("", 20, 60, "coated"), "distance.focus", proof.Care},
		{"a mark that leaves enough", jobFor(`,"look":{"mark":{"source":"icon:sprout"}}`, 160, 1500, "coated"), "", proof.Safe},
		{"a mark that leaves little",
			jobFor(`,"symbol":{"max_version":3},"look":{"mark":{"source":"icon:sprout","width":0.25,"reserve":0.1}}`, 160, 1500,
				"coated"), "mark.reserve", proof.Care},
		{"a mark on the timing",
			jobFor(`,"symbol":{"min_version":7,"level":"H"},"look":{"mark":{"source":"icon:sprout","width":0.1,"y":0.15}}`, 240,
				1500, "coated"), "mark.timing", proof.Care},
		{"rings of thin modules", jobFor(`,"look":{"modules":{"join":"none","scale":0.7},"eyes":{"ring":{"texture":"modules"}}}`,
			160, 1500, "coated"), "eye.ring", proof.Care},
		{"rings of full modules", jobFor(`,"look":{"modules":{"join":"none","scale":0.8},"eyes":{"ring":{"texture":"modules"}}}`,
			160, 1500, "coated"), "", proof.Safe},
		{"a core with notches", jobFor(`,"look":{"eyes":{"core":{"motif":"ticket"}}}`, 160, 1500, "coated"), "eye.core",
			proof.Care},
		{"around a thin bottle", placed(`"width_mm":60,"distance_mm":400,"radius_mm":40`), "curve", proof.Care},
		{"around a bottle wide enough", placed(`"width_mm":40,"distance_mm":400,"radius_mm":40`), "", proof.Safe},
		{"around a pencil", placed(`"width_mm":40,"distance_mm":400,"radius_mm":8`), "curve", proof.Stop},
		{"behind glass", placed(`"width_mm":60,"distance_mm":500,"behind_glass":true`), "glass", proof.Safe},
		{"no paper on a ground nobody named",
			`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"paper":"none"},"placements":[{"name":"a","width_mm":60,"distance_mm":500}]}`, "ground.unknown", proof.Care},
		{"no paper on a light ground",
			`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"paper":"none"},"placements":[{"name":"a","width_mm":60,"distance_mm":500,"background":"#f4efe6"}]}`, "", proof.Safe},
		{"few pixels of a screen", placed(`"substrate":"screen","width_mm":100,"distance_mm":700,"pixels":60`),
			"pixels.few symbol.dense", proof.Care},
		{"fewer pixels than modules", placed(`"substrate":"screen","width_mm":100,"distance_mm":700,"pixels":30`),
			"pixels.few symbol.dense", proof.Stop},
		{"odd pixels of a screen", placed(`"substrate":"screen","width_mm":100,"distance_mm":700,"pixels":100`), "pixels.uneven",
			proof.Safe},
		{"whole pixels of a screen", placed(`"substrate":"screen","width_mm":100,"distance_mm":700,"pixels":111`), "",
			proof.Safe},
		{"dots of a print head", placed(`"substrate":"thermal","width_mm":25,"distance_mm":200`), "dots", proof.Safe},
		{"whole dots", placed(`"substrate":"thermal","width_mm":27.75,"distance_mm":240`), "", proof.Safe},
		{"little correction out of doors",
			`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"symbol":{"level":"L","boost":false},"placements":[{"name":"a","width_mm":60,"distance_mm":500,"light":"outdoor"}]}`, "level.wear", proof.Safe},
		{"little correction indoors",
			`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"symbol":{"level":"L","boost":false},"placements":[{"name":"a","width_mm":60,"distance_mm":500}]}`, "", proof.Safe},
		{"several plates for small modules", jobFor(`,"look":{"ink":"#5b1f33"}`, 14, 130, "coated"), "plates", proof.Safe},
		{"one plate for small modules", jobFor(`,"look":{"ink":{"cmyk":[0,0,0,100]}}`, 14, 130, "coated"), "", proof.Safe},
		{"several plates for larger ones", jobFor(`,"look":{"ink":"#5b1f33"}`, 30, 250, "coated"), "", proof.Safe},
		{"larger than it needs to be", jobFor("", 160, 500, "coated"), "size.large", proof.Safe},
		{"too dense",
			`{"content":{"kind":"url","url":"https://marrowby.example/fair","tags":{"source":"gate","campaign":"spring-fair-programme"}},"placements":[{"name":"a","width_mm":11,"distance_mm":100}]}`, "module-size symbol.dense", proof.Care},
		{"eyes that nobody knows", jobFor(`,"look":{"eyes":{"ring":{"texture":"modules"},"core":{"motif":"tab"}}}`, 160, 1500,
			"coated"), "look.odd", proof.Safe},
		{"a password for everyone",
			`{"content":{"kind":"wifi","ssid":"Barn","security":"wpa","password":"sow-thin-water"},"placements":[{"name":"a","width_mm":60,"distance_mm":500}]}`, "wifi.password", proof.Safe},
		{"an address that will not last",
			`{"content":{"kind":"url","url":"https://marrowby.example/sale"},"placements":[{"name":"a","width_mm":60,"distance_mm":500}]}`, "address.perishable", proof.Safe},
		{"words too small to read", jobFor(`,"look":{"frame":{"shape":"rule","text":"Scan for the whole programme of the fair"}}`,
			22, 200, "coated"), "frame.small", proof.Care},
		{"words large enough", jobFor(`,"look":{"frame":{"shape":"rule","text":"See more"}}`, 30, 250, "coated"), "", proof.Safe},
		{"a pale frame", jobFor(`,"look":{"frame":{"shape":"rule","text":"See more","ink":"#cfe0c8"}}`, 30, 250, "coated"),
			"frame.pale", proof.Safe},
		{"left over and insecure",
			`{"content":{"kind":"url","url":"http://marrowby.example/fair?gclid=abc"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`, "address.http address.leftovers", proof.Care},
	} {
		t.Run(c.name, func(t *testing.T) {
			m := rendered(t, c.job)
			p := judge(t, m)
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
				if after := judge(t, fixed); strings.Contains(" "+codes(after)+" ", " "+f.Code+" ") {
					t.Errorf("%s: %q leaves %q", c.name, f.Fix.Label, codes(after))
				}
			}
		})
	}
}

func apply(t *testing.T, text string, fix *proof.Fix) *compose.Rendition {
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
	return rendered(t, string(b))
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
		{"a family is missing", func(p string) proof.Panel { return panelOf(fake{"a", "one", always(p)}) }, "reader.missing",
			proof.Unknown},
		{"no reader at all", func(string) proof.Panel { return panelOf() }, "reader.missing", proof.Unknown},
		{"an engine is broken", func(p string) proof.Panel {
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", func(*image.Gray) ([]string, error) {
				return nil, errors.New("no")
			}})
		}, "reader.broken", proof.Unknown},
		{"an engine panics", func(p string) proof.Panel {
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", func(*image.Gray) ([]string, error) {
				panic("out of range")
			}})
		}, "reader.broken", proof.Unknown},
		{"another payload", func(p string) proof.Panel {
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", always("https://elsewhere.example")})
		}, "misread", proof.Stop},
		{"one reads nothing", func(p string) proof.Panel { return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", none}) },
			"unread.picture", proof.Care},
		{"nobody reads anything", func(p string) proof.Panel { return panelOf(fake{"a", "one", none}, fake{"b", "two", none}) },
			"unread.picture", proof.Stop},
		{"a relative reads nothing", func(p string) proof.Panel {
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", always(p)}, fake{"c", "two", none})
		}, "reader.strict", proof.Care},
		{"a relative is stricter with the file", func(p string) proof.Panel {
			shown := 0
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", always(p)},
				fake{"c", "two", func(*image.Gray) ([]string, error) {
					if shown++; shown == 1 {
						return nil, nil
					}
					return []string{p}, nil
				}})
		}, "reader.strict", proof.Safe},
		{"fewer answers than pictures", func(p string) proof.Panel { return panelOf(fake{"a", "one", always(p)}, short{}) },
			"reader.broken unread.picture", proof.Unknown},
		{"small pictures are not read", func(p string) proof.Panel {
			return panelOf(fake{"a", "one", always(p)}, fake{"b", "two", func(img *image.Gray) ([]string, error) {
				if img.Bounds().Dx() < 160 {
					return nil, nil
				}
				return []string{p}, nil
			}})
		}, "unread.distance symbol.dense", proof.Care},
	} {
		t.Run(c.name, func(t *testing.T) {
			m := rendered(t, jobFor("", 160, 1600, "coated"))
			p := prove(t, m, c.panel)
			if got := codes(p); got != c.want || p.Verdict != c.verdict {
				t.Errorf("%s: %q %s, want %q %s", c.name, got, p.Verdict, c.want, c.verdict)
			}
		})
	}
}

func TestFramesAndFigures(t *testing.T) {
	m := rendered(t, jobFor("", 160, 1500, "coated"))
	var sizes []int
	p := prove(t, m, func(payload string) proof.Panel {
		return panelOf(fake{"a", "one", func(img *image.Gray) ([]string, error) {
			sizes = append(sizes, img.Bounds().Dx()*img.Bounds().Dy())
			return []string{payload}, nil
		}})
	})
	// the files, five draws of what is usual indoors, three from half the distance, and a poor phone's
	if want := 2 + 5*6 + 3 + 5; len(sizes) != want {
		t.Fatalf("%d pictures, want %d", len(sizes), want)
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
	m := rendered(t, jobFor("", 160, 1500, "coated"))
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

// TestAround: what is known outside the job adds notes, and does not change the verdict.
func TestAround(t *testing.T) {
	for _, c := range []struct {
		content string
		context proof.Context
		want    string
	}{
		{`{"kind":"url","url":"https://marrowby.example/fair"}`, proof.Context{}, ""},
		{`{"kind":"url","url":"https://marrowby.example/fair"}`,
			proof.Context{Printed: "https://marrowby.example/fair", Version: 1}, ""},
		{`{"kind":"url","url":"https://marrowby.example/fair"}`,
			proof.Context{Printed: "https://marrowby.example/old", Version: 1}, "payload.other"},
		{`{"kind":"url","url":"https://marrowby.example/fair"}`, proof.Context{Campaign: "Spring"}, "tags.missing"},
		{`{"kind":"url","url":"https://marrowby.example/fair","tags":{"source":"gate"}}`, proof.Context{Campaign: "Spring"}, ""},
		{`{"kind":"text","text":"a"}`, proof.Context{Campaign: "Spring"}, ""},
	} {
		t.Run(c.content, func(t *testing.T) {
			m := rendered(t, `{"content":`+c.content+`,"placements":[{"name":"a","width_mm":60,"distance_mm":500}]}`)
			in, err := m.Proof(0)
			if err != nil {
				t.Fatal(err)
			}
			p := prove(t, m, good)
			if got := proof.Around(p, in, c.context); codes(got) != c.want || got.Verdict != p.Verdict || codes(p) != "" {
				t.Errorf("%s %+v: %q %s, want %q", c.content, c.context, codes(got), got.Verdict, c.want)
			}
		})
	}
}

// TestHouseGrade: a house may ask for a grade; a forecast below it is told, one as good or better is not.
func TestHouseGrade(t *testing.T) {
	m := rendered(t, jobFor("", 160, 1500, "coated"))
	in, err := m.Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ asked, is, want string }{{"", "F", ""}, {"C", "F", "style.grade"}, {"C", "D", "style.grade"},
		{"C", "C", ""}, {"C", "B", ""}, {"A", "B", "style.grade"}, {"D", "F", "style.grade"}} {
		t.Run(c.asked, func(t *testing.T) {
			p := proof.Proof{Grades: &proof.Grades{Overall: [2]string{c.is, "A"}}}
			if got := codes(proof.Around(&p, in,
				proof.Context{House: &style.Style{Rules: style.Rules{Grade: c.asked}}})); got != c.want {
				t.Errorf("asked for %q, is %s: %q", c.asked, c.is, got)
			}
		})
	}
}

// TestGradeReason: a forecast that print buyers refuse has its reason in a sentence, which names what it is graded so for.
func TestGradeReason(t *testing.T) {
	g := &proof.Grades{Overall: [2]string{"F", "C"},
		Parameters: []proof.GradedValue{{Key: "modulation", Grade: [2]string{"F", "C"}},
			{Key: "symbol_contrast", Grade: [2]string{"B", "A"}}}}
	if got := g.Reason(); got != "A verifier may grade it F, for its modulation. Phones forgive that; scanners at tills may not." {
		t.Errorf("%q", got)
	}
	for _, overall := range []string{"A", "B", "C"} {
		t.Run(overall, func(t *testing.T) {
			if got := (&proof.Grades{Overall: [2]string{overall, "A"}}).Reason(); got != "" {
				t.Errorf("%s: %q", overall, got)
			}
		})
	}
	if got := (*proof.Grades)(nil).Reason(); got != "" {
		t.Errorf("no forecast: %q", got)
	}
}

func TestLeaving(t *testing.T) {
	m := rendered(t, jobFor("", 160, 1500, "coated"))
	in, err := m.Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := proof.Prove(ctx, in, good(m.Payload)); !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
}

// TestBackdrop: where readers lose a code, a picture behind it is offered to be weakened; where they do not, it is nobody's
// business.
func TestBackdrop(t *testing.T) {
	job := func(strength string) string {
		return jobFor(`,"look":{"backdrop":{"source":"icon:flower","strength":`+strength+`}}`, 160, 1500, "coated")
	}
	half := func(payload string) proof.Panel {
		return panelOf(fake{"a", "one", always(payload)}, fake{"b", "two", func(*image.Gray) ([]string, error) {
			return nil, nil
		}})
	}
	if got := codes(judge(t, rendered(t, job("0.6")))); got != "" {
		t.Errorf("read by all: %q", got)
	}
	p := prove(t, rendered(t, job("0.6")), half)
	i := slices.IndexFunc(p.Findings, func(f proof.Finding) bool { return f.Code == "backdrop" })
	if i < 0 || p.Findings[i].Fix == nil || p.Findings[i].Fix.Label != "Weaken it to 0.4" {
		t.Fatalf("%+v", p.Findings)
	}
	if got := apply(t, job("0.6"), p.Findings[i].Fix).Job.Look.Backdrop.Strength; got != 0.4 {
		t.Errorf("weakened to %g", got)
	}
	if got := codes(prove(t, rendered(t, job("0.1")), half)); strings.Contains(got, "backdrop") {
		t.Errorf("too weak to be weakened: %q", got)
	}
}
