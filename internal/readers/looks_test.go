package readers

import (
	"fmt"
	"image"
	"math/rand/v2"
	"testing"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/problem"
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
			for _, eyes := range []string{`{}`, `{"ring":{"corners":[1,1,1,1]},"core":{"corners":[1,1,1,1]}}`, `{"ring":{"corners":[0,0.6,0,0.6]},"core":{"corners":[0.6,0,0.6,0]},"facing":"inward","alignment":"eyes"}`} {
				text := fmt.Sprintf(`{"modules":{"join":%q,"corner":%v},"eyes":%s}`, join, corner, eyes)
				reads(t, all, pixels(t, s, dressed(t, text), 10), "https://marrowby.example/fair?utm_source=gate", text)
			}
		}
	}
}

// TestRandomLooks counts who reads which of 120 looks drawn at random, motifs and sizes included. Not all can be read, which is what
// the proof is for; but most are, and the count is told.
func TestRandomLooks(t *testing.T) {
	if testing.Short() {
		t.Skip("takes half a minute")
	}
	all := panel(t)
	rng := rand.New(rand.NewPCG(2027, 3))
	s, err := symbol.Encode("https://marrowby.example/fair", symbol.Options{Level: symbol.Q})
	if err != nil {
		t.Fatal(err)
	}
	const looks = 120
	read, lost := map[string]int{}, map[string]int{}
	sound := 0
	for range looks {
		motifs := look.Motifs()
		form, core := motifs[rng.IntN(len(motifs))], motifs[rng.IntN(len(motifs))]
		scale := 0.6 + 0.4*rng.Float64()
		c := func() float64 { return 0.8 * rng.Float64() }
		l := dressed(t, fmt.Sprintf(`{"modules":{"join":%q,"corner":%.2f,"scale":%.2f,"motif":%q},"eyes":{"ring":{"corners":[%.2f,%.2f,%.2f,%.2f]},"core":{"motif":%q}}}`, look.Joins[rng.IntN(4)], c(), scale, form, c(), c(), c(), c(), core))
		narrow := layout.CoreShare(l) < 0.7 // which the proof points out
		if !narrow {
			sound++
		}
		img := pixels(t, s, l, 10)
		families := map[string]bool{}
		for _, r := range all {
			found, err := r.Read(t.Context(), img)
			if err == nil && len(found) == 1 && found[0] == "https://marrowby.example/fair" {
				read[r.Name()]++
				families[r.Family()] = true
			}
		}
		for _, f := range Families {
			if families[f] && !narrow {
				read["family "+f]++
			} else if !families[f] {
				lost[f+", core "+core]++
				if l.Modules.Join == "none" {
					lost[f+", form "+form]++
				}
			}
		}
	}
	t.Logf("of %d looks, %d without a narrow core, read: %v; not read, by form: %v", looks, sound, read, lost)
	for _, f := range Families {
		if read["family "+f] < sound*9/10 {
			t.Errorf("the family %s reads only %d of %d looks", f, read["family "+f], sound)
		}
	}
}
