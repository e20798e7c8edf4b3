package desk

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/style"
)

// The sheet is drawn in units that are pixels at 1280 × 800: this wide and high, with rulers along top and left.
const (
	sheetWidth  = 652.0
	sheetHeight = 592.0
	ruler       = 22.0
	symbolSide  = 440.0
)

// screenPixels is how many pixels a side a picture in the code has on the screen at most.
const screenPixels = 320

// drawSheet is the light table: the code on its ground at true proportions, rulers with zero at its edge, the quiet zone
// dotted, which exists on screen only, the width below. Without a placement the rulers count modules.
func drawSheet(m *compose.Rendition, p *place.Placement, house *style.Style) template.HTML {
	var b strings.Builder
	side, unit := float64(m.Modules()), "modules"
	dimension := fmt.Sprintf("%d modules", m.Modules())
	if p != nil {
		side, unit, dimension = float64(p.Width), "mm", p.Width.String()
	}
	framed := m.Framed(p)
	bare, code := framed.Scene, m.Unframed(p)
	fit := min(symbolSide/bare.Height, (sheetWidth-ruler-60)/bare.Width) // smaller where figures stand beneath or a frame around, so that all is seen
	across := fit * code.Width
	scale := across / side
	all := [2]float64{ruler + (sheetWidth-ruler-fit*bare.Width)/2, ruler + (sheetHeight-ruler-fit*bare.Height)/2 - 10}
	left, top := all[0]+fit*framed.Left, all[1]+fit*framed.Top
	drawn, ground := m.OnPaper(bare, p), m.PaperWhite(p)
	if p != nil && p.Background != nil {
		ground = *p.Background
	}
	fmt.Fprintf(&b, `<svg viewBox="0 0 %g %g" preserveAspectRatio="xMidYMid meet" role="group" aria-label="%s">`, sheetWidth, sheetHeight,
		template.HTMLEscapeString("QR code of "+content.Shown(m.Job.Content)+", "+dimension+" wide"))
	fmt.Fprintf(&b, `<rect x="-2000" y="-2000" width="5000" height="5000" fill="%s"/>`, ground)
	b.WriteString(svg.Inline(drawn.Reduced(screenPixels), "QR code", fmt.Sprintf(`x="%g" y="%g" width="%g" height="%g" id="symbol"`, all[0], all[1], fit*drawn.Width, fit*drawn.Height)))
	// The quiet zone as readers need it, whatever the job has.
	quiet := 4 * across / float64(m.Modules())
	have := float64(m.Job.Symbol.QuietZone) * across / float64(m.Modules())
	fmt.Fprintf(&b, `<rect data-about="quiet" x="%.2f" y="%.2f" width="%.2f" height="%.2f" fill="none" stroke="#6F7B73" stroke-dasharray="1.5 3.5"/>`,
		left+have-quiet, top+have-quiet, across-2*have+2*quiet, across-2*have+2*quiet)
	module := across / float64(m.Modules())
	y := all[1] + fit*drawn.Height + 20
	fmt.Fprintf(&b, `<path d="M%g %gh%gM%g %gv10M%g %gv10" stroke="#16241F" fill="none"/>`, left, y, across, left, y-5, left+across, y-5)
	w := float64(len(dimension))*7.2 + 24
	fmt.Fprintf(&b, `<rect x="%g" y="%g" width="%g" height="16" fill="%s"/><text class="big" x="%g" y="%g" text-anchor="middle">%s</text>`,
		left+across/2-w/2, y-8, w, ground, left+across/2, y+4, dimension)
	drawRulers(&b, scale, left, top, unit)
	drawParts(&b, m.For(p), left+have, top+have, module, house.FreeAround(m.Job.Look.Mark.Source))
	b.WriteString(`</svg>`)
	return template.HTML(b.String())
}

// drawRulers rules the top and left edges in millimetres or modules, figures at round steps, ticks at a tenth or a fifth.
func drawRulers(b *strings.Builder, scale, left, top float64, unit string) {
	step := roundStep(52 / scale)
	minor := step / 10
	if minor*scale < 4 {
		minor = step / 5
	}
	fmt.Fprintf(b, `<path fill="#F6F7F5" d="M-2000 -2000H5000V%g H%g V5000H-2000z"/>`, ruler, ruler)
	fmt.Fprintf(b, `<path stroke="#C3CAC2" fill="none" d="M%g 5000V%gH5000"/>`, ruler, ruler)
	var ticks, figures strings.Builder
	along := func(zero, end float64, horizontal bool) {
		first := math.Ceil((ruler + 4 - zero) / scale / minor)
		for i := first; zero+i*minor*scale < end; i++ {
			v := i * minor
			at := zero + v*scale
			long := math.Abs(math.Mod(math.Abs(v)+minor/4, step)) < minor/2
			length := 4.0
			if long {
				length = 9
			}
			if horizontal {
				fmt.Fprintf(&ticks, "M%.1f %gv%g", at, ruler, -length)
			} else {
				fmt.Fprintf(&ticks, "M%g %.1fh%g", ruler, at, -length)
			}
			if !long || v < -minor/2 {
				continue
			}
			s := measure.Number(v, 2)
			if horizontal {
				fmt.Fprintf(&figures, `<text x="%.1f" y="11">%s</text>`, at+3, s)
			} else {
				fmt.Fprintf(&figures, `<text transform="translate(11 %.1f) rotate(-90)">%s</text>`, at-3, s)
			}
		}
	}
	along(left, sheetWidth, true)
	along(top, sheetHeight, false)
	fmt.Fprintf(b, `<path stroke="#6F7B73" stroke-width=".75" fill="none" d="%s"/>%s<text x="3" y="15">%s</text>`, ticks.String(), figures.String(), map[string]string{"mm": "mm", "modules": "mod"}[unit])
}

// roundStep is the next of 1, 2, 5, 10, 20, … at or above f.
func roundStep(f float64) float64 {
	p := math.Pow(10, math.Floor(math.Log10(f)))
	for _, k := range []float64{1, 2, 5} {
		if k*p >= f*0.999 {
			return k * p
		}
	}
	return 10 * p
}
