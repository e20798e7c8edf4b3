package layout

import (
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
)

// captionSize is the size of a caption's type against the width of what it stands under, where it is not long.
const captionSize = 0.075

// Caption sets a line below or above a drawing, and grows it by the line's height. paper is nil where the drawing has none,
// or is no rectangle.
func Caption(f Framed, c look.Caption, fill ink.Colour, paper *ink.Colour) Framed {
	wide := f.Scene.Width
	line := c.Face().Set(c.Text)
	em := wide * captionSize
	if line.Width*em > wide*0.92 {
		em = wide * 0.92 / line.Width
	}
	band, down, at := em*1.7, 0.0, f.Scene.Height
	if c.Side == "above" {
		down, at = band, 0
	}
	out := Framed{Scene: &scene.Scene{Width: wide, Height: f.Scene.Height + band}, Left: f.Left, Top: f.Top + down, Words: em}
	if f.Words > 0 {
		out.Words = min(em, f.Words)
	}
	if paper != nil {
		out.Scene.Items = append(out.Scene.Items, scene.Item{Name: "paper", Path: scene.Rectangle(0, at, wide, band),
			At: scene.Unit, Fill: *paper})
	}
	for _, it := range f.Scene.Items {
		it.At.Y += down
		out.Scene.Items = append(out.Scene.Items, it)
	}
	out.Scene.Items = append(out.Scene.Items, scene.Item{Name: "caption", Path: line.Path, Letters: line.Letters, Fill: fill,
		At: scene.At(em, (wide-line.Width*em)/2, at+band/2+em*middleOf(c.Face()))})
	return out
}
