package drawn

import (
	"fmt"

	"sodrik/internal/core/compose"
)

// PartButton is a part of the look, shown by the piece of the sheet in which it is seen best.
type PartButton struct{ Key, Name, Box string }

// Parts are the parts of the look, each with the box of the sheet that its picture shows.
func (at Sheet) Parts(m *compose.Rendition) []PartButton {
	n := float64(m.Symbol.Size)
	modules := func(x, y, side float64) string {
		return fmt.Sprintf(
			"%.2f %.2f %.2f %.2f",
			at.left+at.quiet+x*at.module,
			at.top+at.quiet+y*at.module,
			side*at.module,
			side*at.module,
		)
	}
	side := max(at.w, at.h)
	all := fmt.Sprintf("%.2f %.2f %.2f %.2f", at.x-(side-at.w)/2, at.y-(side-at.h)/2, side, side)
	mark := modules(n/2-5, n/2-5, 10)
	if k := m.Mark; k != nil {
		side := max(k.W, k.H) * 1.25
		mark = modules(k.X+k.W/2-side/2, k.Y+k.H/2-side/2, side)
	}
	return []PartButton{
		{"ink", "Ink", modules(n-5.5, n-5.5, 4)},
		{"modules", "Modules", modules(8, n-9, 9)},
		{"eyes", "Eyes", modules(-1, -1, 9)},
		{"mark", "Mark", mark},
		{"frame", "Frame", all},
		{"behind", "Behind", modules(n/2, n/2, n/2)},
		{"outline", "Outline", modules(-4, -4, n+8)},
	}
}
