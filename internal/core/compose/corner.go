package compose

import (
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/scene"
)

// cornerSide is how many modules of the corner are shown: enough for the look, and to tell codes apart.
const cornerSide = 12

// Corner is the top left of the code as SVG, for lists.
func (m *Rendition) Corner() string {
	s := &scene.Scene{Width: cornerSide, Height: cornerSide}
	s.Items = append(s.Items, scene.Item{Path: scene.Rectangle(0, 0, cornerSide, cornerSide), At: scene.Unit,
		Fill: m.ShownOn(-1)})
	s.Items = append(s.Items, layout.Dark(m.Symbol, m.Job.Look, cornerSide, scene.Unit, m.Mark)...)
	attributes := `class="crop"`
	if m.Job.Look.Plain() { // square modules stay on whole pixels
		attributes += ` shape-rendering="crispEdges"`
	}
	return svg.Inline(s, "Corner of the code", attributes)
}
