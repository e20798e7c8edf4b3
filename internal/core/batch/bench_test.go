package batch

import (
	"bytes"
	"testing"
	"time"

	"sodrik/internal/core/export"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/ink/press"
)

// BenchmarkSheets writes a thousand codes of 25 × 25 as imposed PDF/X and says how large it is.
func BenchmarkSheets(b *testing.B) {
	for name, modules := range map[string]string{"dots": `{"join":"none","motif":"disc","scale":0.9}`,
		"joined": `{"join":"all","corner":1}`} {
		b.Run(name, func(b *testing.B) {
			p := &Plan{
				Job: pattern(
					b,
					`{"version":1,"content":{"kind":"url","url":"https://marrowby.example"},"look":{"modules":`+modules+
						`},"placements":[{"name":"label","medium":"plant-tag","width_mm":20}]}`,
				),
				Set: []Set{
					{"/content/url", "HTTPS://MARROWBY.EXAMPLE/{#6}"}},
				Line: "{#6}",
			}
			m := maker(b, p, "a")
			s := impose.Default()
			for b.Loop() {
				var out bytes.Buffer
				w := &Sheets{Setting: s, N: 1000, Press: press.Conditions[0], Label: func(i int) (impose.Label, error) {
					r := m.Make(Source{N: i + 1}, nil)
					l, problems := Label(r, s)
					return l, append(r.Problems, problems...).Err()
				}}
				if err := w.Write(b.Context(), &out, export.Meta{Title: "Labels", Created: time.Unix(0, 0)}); err != nil {
					b.Fatal(err)
				}
				b.ReportMetric(float64(out.Len())/1000, "B/code")
				b.ReportMetric(float64(m.Make(Source{N: 1}, nil).Rendition.Symbol.Size), "modules")
			}
		})
	}
}

// BenchmarkMake makes one row.
func BenchmarkMake(b *testing.B) {
	p := &Plan{Job: pattern(b, label), Set: []Set{{"/content/url", "https://marrowby.example/{#6}"}, {"/name", "{#}"}}}
	m := maker(b, p, "a")
	n := 0
	for b.Loop() {
		n++
		if r := m.Make(Source{N: n}, nil); !r.Good() {
			b.Fatal(r.Problems)
		}
	}
}

// BenchmarkDrawn reads one row back from its drawing.
func BenchmarkDrawn(b *testing.B) {
	r := maker(b, &Plan{Job: pattern(b, label)}, "a").Make(Source{N: 1}, nil)
	for b.Loop() {
		if _, ok := r.Rendition.Drawn(0); !ok {
			b.Fatal("not read")
		}
	}
}
