// Package drawn draws what the desk shows: the sheet with its rulers and parts, the code at its place, its damage, and small
// samples of looks.
package drawn

import (
	"fmt"
	"html/template"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/place"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/style"
)

// The sheet is drawn in units that are pixels at 1280 × 800: this wide and high, with rulers along top and left.
const (
	sheetWidth  = 586.0
	sheetHeight = 588.0
	ruler       = 22.0
	symbolSide  = 420.0
)

// ScreenPixels is how many pixels a side a picture in the code has on the screen at most.
const ScreenPixels = 320

// Sheet is the light table: where the code lies on it, in units of the sheet.
type Sheet struct {
	drawn         *scene.Scene // all that is drawn, with a frame around
	x, y, w, h    float64      // of all that is drawn
	left, top     float64      // of the code, with its border
	across        float64      // of the code, with its border
	module, quiet float64      // a module, and the border that the code has
	perUnit       float64      // a unit of the rulers
	unit          string       // of the rulers
	dimension     string       // width in words
}

// SheetOf lays a code at a placement on the table. Without a placement the rulers count modules.
func SheetOf(m *compose.Rendition, p *place.Placement) Sheet {
	side, unit, dimension := float64(m.Modules()), "modules", fmt.Sprintf("%d modules", m.Modules())
	if p != nil {
		side, unit, dimension = float64(p.Width), "mm", p.Width.String()
	}
	framed := m.Framed(p)
	all := framed.Scene
	fit := min(
		symbolSide/all.Height,
		(sheetWidth-ruler-60)/all.Width,
	) // smaller where figures stand beneath or a frame around, so that all is seen
	s := Sheet{
		w:         fit * all.Width,
		h:         fit * all.Height,
		across:    fit * m.Unframed(p).Width,
		unit:      unit,
		dimension: dimension,
		drawn:     m.OnPaper(all, p),
	}
	s.x, s.y = ruler+(sheetWidth-ruler-s.w)/2, ruler+(sheetHeight-ruler-s.h)/2-10
	s.left, s.top = s.x+fit*framed.Left, s.y+fit*framed.Top
	s.perUnit, s.module = s.across/side, s.across/float64(m.Modules())
	s.quiet = float64(m.Job.Symbol.QuietZone) * s.module
	return s
}

// Draw draws the table: the code on its ground at true proportions, rulers with zero at its edge, the quiet zone dotted,
// which exists on screen only, the width below.
func (at Sheet) Draw(m *compose.Rendition, i int, house *style.Style) template.HTML {
	p := m.Place(i)
	var b strings.Builder
	dimension := at.dimension
	ground := m.PaperWhite(p)
	if m.Job.Look.Paper.None {
		ground = m.ShownOn(i)
	}
	fmt.Fprintf(
		&b,
		`<svg viewBox="0 0 %g %g" preserveAspectRatio="xMidYMid meet" role="group" aria-label="%s">`,
		sheetWidth,
		sheetHeight,
		template.HTMLEscapeString("QR code of "+content.Shown(m.Job.Content)+", "+dimension+" wide"),
	)
	fmt.Fprintf(&b, `<rect x="-2000" y="-2000" width="5000" height="5000" fill="%s"/>`, ground)
	b.WriteString(
		svg.Inline(
			at.drawn.Reduced(ScreenPixels),
			"QR code",
			fmt.Sprintf(`x="%g" y="%g" width="%g" height="%g" id="symbol"`, at.x, at.y, at.w, at.h),
		),
	)
	// The quiet zone as readers need it, whatever the job has.
	left, top, across, have, quiet := at.left, at.top, at.across, at.quiet, 4*at.module
	fmt.Fprintf(
		&b,
		`<rect data-about="quiet" x="%.2f" y="%.2f" width="%.2f" height="%.2f" fill="none" stroke="#6F7B73" stroke-dasharray="1.5 3.5"/>`,
		left+have-quiet,
		top+have-quiet,
		across-2*have+2*quiet,
		across-2*have+2*quiet,
	)
	y := at.y + at.h + 20
	fmt.Fprintf(
		&b,
		`<path d="M%g %gh%gM%g %gv10M%g %gv10" stroke="#16241F" fill="none"/>`,
		left,
		y,
		across,
		left,
		y-5,
		left+across,
		y-5,
	)
	w := float64(len(dimension))*7.2 + 24
	fmt.Fprintf(
		&b,
		`<rect x="%g" y="%g" width="%g" height="16" fill="%s"/><text class="big" x="%g" y="%g" text-anchor="middle">%s</text>`,
		left+across/2-w/2,
		y-8,
		w,
		ground,
		left+across/2,
		y+4,
		dimension,
	)
	drawRulers(&b, at.perUnit, left, top, at.unit)
	drawParts(&b, m.For(p), left+have, top+have, at.module, house.FreeAround(m.Job.Look.Mark.Source))
	b.WriteString(`</svg>`)
	return template.HTML(b.String())
}
