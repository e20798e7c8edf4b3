package layout

import (
	"sodrik/internal/core/glyph"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// Sizes of the figures beneath a code, in points: as large as the width allows, within these.
const (
	maxPoints = 9.0
	minPoints = 3.5
)

// Readable adds lines of figures beneath a drawing, outside its quiet zone, and grows it by their height. Lines that are wider
// than the drawing at the least size are broken.
func Readable(s *scene.Scene, lines []string, fill ink.Colour, paper *ink.Colour) {
	const part = 0.92 // of the width
	points := maxPoints
	for _, l := range lines {
		if w := glyph.Regular.Width(l, 1); w > 0 {
			points = min(points, s.Width*part/w)
		}
	}
	if points < minPoints {
		points = minPoints
		var broken []string
		for _, l := range lines {
			broken = append(broken, glyph.Regular.Wrap(l, points, s.Width*part)...)
		}
		lines = broken
	}
	lead := points * 1.25 * glyph.Point
	band := lead*float64(len(lines)) + lead*0.6
	top := s.Height
	if paper != nil {
		s.Items = append(s.Items, scene.Item{Name: "paper", Path: scene.Rectangle(0, top, s.Width, band), At: scene.Unit,
			Fill: *paper})
	}
	for i, l := range lines {
		w := glyph.Regular.Width(l, points)
		_, p := glyph.Regular.Outline(l, points, (s.Width-w)/2, top+lead*float64(i)+points*glyph.Point)
		s.Items = append(s.Items, scene.Item{Name: "figures", Path: p, At: scene.Unit, Fill: fill})
	}
	s.Height += band
}
