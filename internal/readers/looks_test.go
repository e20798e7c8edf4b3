package readers

import (
	"flag"
	"fmt"
	"image"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/symbol"
)

func dressed(t *testing.T, text string) look.Look {
	t.Helper()
	v, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	var problems problem.List
	l := look.Read(fields.Open(v, "/look", &problems))
	if len(problems) > 0 {
		t.Fatalf("%s: %v", text, problems)
	}
	return l
}

func pixels(t *testing.T, s *symbol.Symbol, l look.Look, perModule int) *image.Gray {
	t.Helper()
	sc := layout.Draw(s, l, 4, 0, nil)
	y, err := raster.Luminance(sc, raster.Fit(sc, perModule*layout.Modules(s, 4)), 1)
	if err != nil {
		t.Fatal(err)
	}
	return raster.Gray(y, perModule*layout.Modules(s, 4))
}

// TestLooks: joins with corners of any sort, and eyes from square to round, are read by all three engines at 10 pixels a module.
func TestLooks(t *testing.T) {
	all := panel(t)
	s, err := symbol.Encode("https://marrowby.example/fair?utm_source=gate", symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	for _, join := range look.Joins {
		for _, corner := range []float64{0, 0.5, 1} {
			for _, eyes := range []string{`{}`, `{"ring":{"corners":[1,1,1,1]},"core":{"corners":[1,1,1,1]}}`,
				`{"ring":{"corners":[0,0.6,0,0.6]},"core":{"corners":[0.6,0,0.6,0]},"facing":"inward","alignment":"eyes"}`} {
				t.Run(eyes, func(t *testing.T) {
					text := fmt.Sprintf(`{"modules":{"join":%q,"corner":%v},"eyes":%s}`, join, corner, eyes)
					reads(t, all, pixels(t, s, dressed(t, text), 10), "https://marrowby.example/fair?utm_source=gate", text)
				})
			}
		}
	}
}

var manyLooks = flag.Int("looks", 60, "how many looks TestRandomLooks draws; the table in docs/proof.md has 300")

// tallied counts, for one value of one parameter, how many looks wore it and who read them.
type tallied struct {
	n, all int
	read   map[string]int // by reader and family
}

// TestRandomLooks counts who reads which of many looks drawn at random: joins, corners, motifs, sizes, eyes, gradients and
// marks. Not all can be read, which is what the proof is for; but most are, and the table tells which parameter costs most:
//
//	go test ./internal/readers -run RandomLooks -v -looks 300
func TestRandomLooks(t *testing.T) {
	panel := panel(t)
	rng := rand.New(rand.NewPCG(2027, 3))
	const payload = "https://marrowby.example/fair"
	counts := map[string]*tallied{}
	var order []string
	sound := tallied{read: map[string]int{}}
	for range *manyLooks {
		motifs := look.Motifs()
		pick := func(list ...string) string { return list[rng.IntN(len(list))] }
		c := func() float64 { return 0.8 * rng.Float64() }
		join, form, core := pick(look.Joins...), pick(motifs...), pick(motifs...)
		corner, scale, ring := c(), 0.6+0.4*rng.Float64(), []float64{c(), c(), c(), c()}
		ink := pick(`"#12352b"`, `{"kind":"linear","angle":30,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#a33f22"}]}`,
			`{"kind":"radial","stops":[{"at":0,"colour":"#000000"},{"at":1,"colour":"#1f3a5a"}]}`)
		zone := pick(append([]string{"", ""}, look.Clears...)...)
		mark := ""
		if zone != "" {
			mark = fmt.Sprintf(`,"mark":{"source":%q,"clear":%q,"width":%.2f}`,
				pick("icon:sprout", "icon:leaf", "icon:store", "icon:shopping-basket", "icon:flower-2"), zone,
				0.12+0.18*rng.Float64())
		}
		m,
			problems := compose.Parse(
			[]byte(
				fmt.Sprintf(
					`{"content":{"kind":"url","url":%q},"symbol":{"level":"Q"},"look":{"ink":%s,"modules":{"join":%q,"corner":%.2f,"scale":%.2f,"motif":%q},"eyes":{"ring":{"corners":[%.2f,%.2f,%.2f,%.2f]},"core":{"motif":%q}}%s}}`,
					payload, ink, join, corner, scale, form, ring[0], ring[1], ring[2], ring[3], core, mark)), nil)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		width := 10 * m.Modules()
		y, err := raster.Luminance(m.Scene(nil), raster.Fit(m.Scene(nil), width), 1)
		if err != nil {
			t.Fatal(err)
		}
		img := raster.Gray(y, width)
		read := map[string]bool{}
		for _, r := range panel {
			a := r.Read(t.Context(), []*image.Gray{img})[0]
			if a.Err == nil && len(a.Payloads) == 1 && a.Payloads[0] == payload {
				read[r.Name()], read["family "+r.Family()] = true, true
			}
		}
		inkKind := "one colour"
		if strings.HasPrefix(ink, "{") {
			inkKind = m.Job.Look.Shade.Kind
		}
		if zone == "" {
			zone = "no mark"
		}
		worn := []string{"all looks", "core " + core, "join " + join, "ink " + inkKind, "mark: " + zone}
		if join == "none" {
			worn = append(worn, "form "+form, fmt.Sprintf("size %.1f and up", math.Floor(scale*5)/5))
		}
		middle, off := layout.CoreShare(m.Job.Look)
		narrow := off < 0.7 || middle < 0.8 // which the proof points out
		if narrow {
			worn = append(worn, "core that the proof points out")
		} else {
			worn = append(worn, "core wide enough")
		}
		for _, w := range worn {
			if counts[w] == nil {
				counts[w] = &tallied{read: map[string]int{}}
				order = append(order, w)
			}
			counts[w].count(read, panel)
		}
		if !narrow {
			sound.count(read, panel)
		}
	}
	slices.Sort(order)
	if !testing.Verbose() {
		order = nil
	}
	fmt.Printf("| worn | looks | zbar | sodrik | gozxing | zxing-cpp | all |\n")
	for _, w := range order {
		k := counts[w]
		share := func(n int) string { return fmt.Sprintf("%d %%", (100*n+k.n/2)/k.n) }
		fmt.Printf("| %s | %d | %s | %s | %s | %s | %s |\n", w, k.n, share(k.read["zbar"]), share(k.read["sodrik"]),
			share(k.read["gozxing"]), share(k.read["zxing-cpp"]), share(k.all))
	}
	for _, f := range Families {
		if n := sound.read["family "+f]; n < sound.n*9/10 {
			t.Errorf("the family %s reads only %d of %d looks whose core is wide enough", f, n, sound.n)
		}
	}
}

func (k *tallied) count(read map[string]bool, panel []proof.Reader) {
	k.n++
	all := true
	for name := range read {
		k.read[name]++
	}
	for _, r := range panel {
		all = all && read[r.Name()]
	}
	if all {
		k.all++
	}
}
