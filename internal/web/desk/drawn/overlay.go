package drawn

import (
	"fmt"
	"html/template"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/measure"
)

// drawParts lays what can be taken hold of over the sheet: the modules, each eye, the mark. left and top is the symbol's
// corner without quiet zone, unit a module; free is how many modules the house keeps free around the mark.
func drawParts(b *strings.Builder, m *compose.Rendition, left, top, unit, free float64) {
	n := float64(m.Symbol.Size)
	fmt.Fprintf(
		b,
		`<g id="parts" data-left="%.3f" data-top="%.3f" data-unit="%.5f" data-size="%d">`,
		left,
		top,
		unit,
		m.Symbol.Size,
	)
	part := func(name, label string, x, y, w, h float64) {
		fmt.Fprintf(
			b,
			`<rect class="part" data-part="%s" x="%.2f" y="%.2f" width="%.2f" height="%.2f" tabindex="0" role="button" aria-label="%s"><title>%s</title></rect>`,
			name,
			left+x*unit,
			top+y*unit,
			w*unit,
			h*unit,
			template.HTMLEscapeString(label),
			template.HTMLEscapeString(label),
		)
	}
	part("modules", "Modules", 0, 0, n, n)
	if g := m.Ground; g != nil {
		x, y, dx, dy := g.Focus()
		fmt.Fprintf(b, `<g id="behind" data-x="%.5f" data-y="%.5f" data-dx="%.6f" data-dy="%.6f">`, x, y, dx, dy)
		part(
			"backdrop",
			"Picture behind: drag or use the arrow keys; plus and minus size it, Page Up and Page Down strengthen and weaken it",
			0,
			0,
			n,
			n,
		)
		fmt.Fprintf(
			b,
			`<rect class="handle" data-part="backdrop-size" x="%.2f" y="%.2f" width="9" height="9"/></g>`,
			left+n*unit-4.5,
			top+n*unit-4.5,
		)
	}
	for i, name := range EyeNames {
		at := [3][2]float64{{0, 0}, {n - 7, 0}, {0, n - 7}}[i]
		part(fmt.Sprintf("eye-%d", i), name+" eye", at[0], at[1], 7, 7)
	}
	if k := m.Mark; k != nil {
		if free > 0 { // what the house keeps free around it
			fmt.Fprintf(
				b,
				`<rect class="mark-free" x="%.2f" y="%.2f" width="%.2f" height="%.2f"/>`,
				left+(k.X-free)*unit,
				top+(k.Y-free)*unit,
				(k.W+2*free)*unit,
				(k.H+2*free)*unit,
			)
		}
		part(
			"mark",
			fmt.Sprintf("Mark, %s wide: drag or use the arrow keys; plus and minus size it", measure.Share(k.Look.Width)),
			k.X,
			k.Y,
			k.W,
			k.H,
		)
		fmt.Fprintf(
			b,
			`<rect class="handle" data-part="mark-size" x="%.2f" y="%.2f" width="9" height="9"/>`,
			left+(k.X+k.W)*unit-4.5,
			top+(k.Y+k.H)*unit-4.5,
		)
	}
	b.WriteString(`</g>`)
}

// EyeNames are the three eyes in the order of the job.
var EyeNames = [3]string{"Top left", "Top right", "Bottom left"}
