package layout

import (
	"math"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
)

// TestCaption: a line stands beside the drawing and not in it, within its width however long it is; what was there only moves.
func TestCaption(t *testing.T) {
	for _, text := range []string{"a", "marrowby.example/fair",
		"A caption that says a good deal more than anybody wants to read"} {
		t.Run(text, func(t *testing.T) {
			for _, side := range look.CaptionSides {
				before := Framed{Scene: &scene.Scene{Width: 30, Height: 40,
					Items: []scene.Item{{Name: "modules", Path: scene.Rectangle(0, 0, 30, 40), At: scene.Unit}}}, Left: 2, Top: 3}
				f := Caption(before, look.Caption{Text: text, Side: side, Font: typeface.Faces[0].Key}, ink.Black, &ink.White)
				band := f.Scene.Height - 40
				if band <= 0 || f.Scene.Width != 30 || f.Left != 2 {
					t.Fatalf("%q %s: %+v", text, side, f)
				}
				down, from := 0.0, 40.0
				if side == "above" {
					down, from = band, 0
				}
				if math.Abs(f.Top-3-down) > 1e-9 {
					t.Errorf("%q %s: the code lies at %g", text, side, f.Top)
				}
				for _, it := range f.Scene.Items {
					switch it.Name {
					case "modules":
						if math.Abs(it.At.Y-down) > 1e-9 {
							t.Errorf("%q %s: the drawing is at %g", text, side, it.At.Y)
						}
					case "caption":
						for _, p := range it.Path.Points {
							x, y := it.At.X+p.X*it.At.A, it.At.Y+p.Y*it.At.A
							if x < 0 || x > 30 || y < from || y > from+band {
								t.Fatalf("%q %s: a point at %g, %g", text, side, x, y)
							}
						}
					}
				}
				if f.Words <= 0 || f.Words > 30*captionSize+1e-9 {
					t.Errorf("%q %s: type of %g", text, side, f.Words)
				}
			}
		})
	}
}
