package motif

import (
	"math"
	"strings"
	"testing"

	"sodrik/internal/core/scene"
)

// TestMotifs: each lies in its square, covers its middle and the area it says, within 1 %.
func TestMotifs(t *testing.T) {
	if len(All) < 11 || All[0].Key != "square" {
		t.Fatalf("%d motifs", len(All))
	}
	for i, m := range All {
		if a := scene.Area(m.Path.Polygons(chords)); math.Abs(a-m.Area) > 0.01*m.Area {
			t.Errorf("%s covers %.4f, want %.4f", m.Key, a, m.Area)
		}
		if _, err := Custom(drawn[i].path); err != nil {
			t.Errorf("%s %v", m.Key, err)
		}
	}
}

func TestCustom(t *testing.T) {
	for path, says := range map[string]string{
		"M0 0H1V1H0Z": "", "m0 0 1 0 0 1 -1 0z": "", "M.5 0A.5 .5 0 1 1 .5 1A.5 .5 0 1 1 .5 0Z": "",
		"M0 0Q1 0 1 1T0 1Z": "leaves its square", "M0 0 1 0 1 1": "", "M1e-1 .1L.9.1.9.9.1.9": "",
		"": "draws nothing", "M0 0": "draws nothing", "hello": "where a number", "xyz": "where a letter",
		"L0 0H1V1Z": "begins with L", "M0 0H": "where a number", "M0 0H2V1H0Z": "leaves its square",
		"M0 0H.3V.3H0Z": "covers 9 %", "M0 0H.4V1H0Z": "leaves the middle",
		"M0 0" + strings.Repeat("L1 1", 500): "more than 400", "M0 0L1e9 0": "where a number",
		"M0 0H1V1H0Z<script>": "where a letter",
	} {
		t.Run(path, func(t *testing.T) {
			if _, err := Custom(path); (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
				t.Errorf("%.40q: %v, want %q", path, err, says)
			}
		})
	}
	disc, _ := Parse("M.5 0A.5 .5 0 1 1 .5 1A.5 .5 0 1 1 .5 0Z")
	if a := scene.Area(disc.Polygons(chords)); math.Abs(a-math.Pi/4) > 0.002 {
		t.Errorf("two arcs make a disc of %.4f", a)
	}
}

func FuzzParse(f *testing.F) {
	for _, d := range drawn {
		f.Add(d.path)
	}
	f.Fuzz(func(t *testing.T, s string) {
		p, err := Parse(s)
		if err != nil {
			return
		}
		n := 0
		for _, op := range p.Ops {
			n += [4]int{1, 1, 3, 0}[op]
		}
		if n != len(p.Points) {
			t.Errorf("%q: %d points for %d", s, len(p.Points), n)
		}
		Custom(s)
	})
}
