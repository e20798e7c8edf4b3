package layout

import (
	"math"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/symbol"
	"sodrik/internal/core/typeface"
)

// TestFrames: every shape, with words and without, for small and large codes and narrow and long words, keeps out of the
// code's box, within its own page, with whole modules to the sides, and its words where there is room for them.
func TestFrames(t *testing.T) {
	for _, shape := range look.Frames {
		for _, text := range []string{"", "Go", "Scan to join our Wi-Fi in the garden"} {
			t.Run(text, func(t *testing.T) {
				for _, size := range []float64{0.5, 1, 1.5} {
					for _, version := range []int{1, 6, 22} {
						s, err := symbol.Encode("a", symbol.Options{MinVersion: version})
						if err != nil {
							t.Fatal(err)
						}
						n := Modules(s, 4)
						inner := Draw(s, look.Default(), 4, 0, nil)
						f := Frame(inner, look.Look{Frame: look.Frame{Shape: shape, Text: text, Size: size,
							Font: typeface.Faces[0].Key}}, n, &ink.White)
						if margin := FrameMargins(look.Frame{Shape: shape, Text: text, Size: size},
							n); math.Abs(f.Left-float64(margin)*inner.Width/float64(n)) > 1e-9 || f.Scene.Width < inner.Width ||
							f.Scene.Height < inner.Height {
							t.Errorf("%s %q: %d modules to the side, %.2f mm", shape, text, margin, f.Left)
						}
						if (f.Words > 0) != (text != "") {
							t.Errorf("%s %q: words of %.2f mm", shape, text, f.Words)
						}
						for _, it := range f.Scene.Items {
							if it.Name != "frame" && it.Name != "words" && it.Name != "paper" {
								continue
							}
							for _, q := range it.Path.Points {
								x, y := q.X*it.At.A+it.At.X, q.Y*it.At.A+it.At.Y
								if x < -0.01 || y < -0.01 || x > f.Scene.Width+0.01 || y > f.Scene.Height+0.01 {
									t.Fatalf("%s %q size %g: %s at %.2f, %.2f is off the page of %.2f by %.2f", shape, text, size,
										it.Name, x, y, f.Scene.Width, f.Scene.Height)
								}
								if in := 0.01; it.Name != "paper" && x > f.Left+in && x < f.Left+inner.Width-in && y > f.Top+in &&
									y < f.Top+inner.Height-in {
									t.Fatalf("%s %q size %g: %s at %.2f, %.2f lies in the code's box", shape, text, size, it.Name,
										x-f.Left, y-f.Top)
								}
							}
						}
					}
				}
			})
		}
	}
}
