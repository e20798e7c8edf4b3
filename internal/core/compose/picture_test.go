package compose

import (
	"testing"

	"sodrik/internal/core/export"
	"sodrik/internal/core/export/bitmap"
)

// BenchmarkPicture writes a PNG of 33 modules, 1,221 pixels wide, in two colours and with a gradient.
func BenchmarkPicture(b *testing.B) {
	for name, look := range map[string]string{"two": `{}`,
		"gradient": `{"ink":{"kind":"linear","angle":45,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#5b1f33"}]}}`} {
		m,
			problems := Parse([]byte(
			`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"symbol":{"min_version":4},"look":`+look+`}`), nil)
		if len(problems) > 0 {
			b.Fatal(problems)
		}
		b.Run(name, func(b *testing.B) {
			s := m.Scene(nil)
			for b.Loop() {
				if _, err := bitmap.PNG(s, 1221-1221%m.Modules(), export.Meta{}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
