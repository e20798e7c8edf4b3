package drawn

import (
	"encoding/json"
	"fmt"
	"html/template"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/scene"
)

// Things beside the sheet that say how large it is, in mm.
const (
	disc       = 20.0
	person     = 1700.0
	besideMan  = 1000.0 // high enough for a person beside it
	handleSide = 11.0   // of the grip that sizes the code, in units of the view
)

// InPlace draws the thing, the code on it to be taken hold of, rulers in millimetres, a disc of 20 mm, and a person beside
// what is large.
func InPlace(c *code.Code, i int, p *place.Placement, at compose.Composed) template.HTML {
	var b strings.Builder
	tall, wide := at.Height, at.Width
	man := at.Height >= besideMan
	if man {
		tall, wide = max(tall, person), at.Width+700
	}
	const side = 26.0
	k := min((sheetWidth-ruler-2*side-40)/wide, (sheetHeight-ruler-2*side)/tall)
	left := ruler + (sheetWidth-ruler-k*wide)/2
	top := ruler + (sheetHeight-ruler-k*tall)/2 + k*(tall-at.Height)
	medium, _ := c.House.Medium(p.Medium)
	what := medium.Name
	if what == "" {
		what = "sheet"
	}
	fmt.Fprintf(
		&b,
		`<svg viewBox="0 0 %g %g" preserveAspectRatio="xMidYMid meet" role="group" aria-label="%s">`,
		sheetWidth,
		sheetHeight,
		template.HTMLEscapeString(
			fmt.Sprintf("%s of %s × %s mm with the code on it", what, measure.Number(at.Width, 1), measure.Number(at.Height, 1)),
		),
	)
	b.WriteString(`<rect x="-2000" y="-2000" width="5000" height="5000" fill="#E6E9E4"/>`)
	if man {
		x := left + k*(at.Width+350)
		drawPerson(&b, x, top+k*at.Height, k)
	}
	fmt.Fprintf(&b, `<g transform="translate(%.3f %.3f) scale(%.6f)">`, left, top, k)
	t := thing{c, i, p, at}
	t.ground(&b, medium.Round)
	t.placed(&b, handleSide/k)
	b.WriteString(`<g id="guides"></g></g>`)
	fmt.Fprintf(
		&b,
		`<rect x="%g" y="%g" width="%g" height="%g" fill="none" stroke="#16241F" stroke-width=".75" pointer-events="none"/>`,
		left,
		top,
		k*at.Width,
		k*at.Height,
	)
	yardstick(&b, left+k*at.Width, top, top+k*at.Height, k)
	drawRulers(&b, k, left, top, "mm")
	b.WriteString(`</svg>`)
	return template.HTML(b.String())
}

// thing is what a code is drawn upon.
type thing struct {
	c  *code.Code
	i  int
	p  *place.Placement
	at compose.Composed
}

// ArtworkAt is the address of a picture of the artwork of a place; another file has another.
func ArtworkAt(c *code.Code, i int, p *place.Placement) string {
	return fmt.Sprintf("/codes/%s/artwork/%d?of=%s", c.ID, i,
		template.URLQueryEscaper(p.Artwork.Source[max(0, len(p.Artwork.Source)-24):]))
}

// ground draws what it is made of: its colour and its artwork, cut out where it is round.
func (t thing) ground(b *strings.Builder, round bool) {
	c, i, p, at := t.c, t.i, t.p, t.at
	clip := ""
	if round {
		fmt.Fprintf(
			b,
			`<clipPath id="round"><circle cx="%g" cy="%g" r="%g"/></clipPath>`,
			at.Width/2,
			at.Height/2,
			min(at.Width, at.Height)/2,
		)
		clip = ` clip-path="url(#round)"`
	}
	fmt.Fprintf(b, `<g%s><rect width="%g" height="%g" fill="%s"/>`, clip, at.Width, at.Height, groundOf(p))
	if sheet := c.Rendition.Sheet(p); sheet != nil {
		fmt.Fprintf(
			b,
			`<image href="%s" width="%g" height="%g" preserveAspectRatio="none"/>`,
			ArtworkAt(c, i, p),
			at.Width,
			at.Height,
		)
	}
	b.WriteString(`</g>`)
}

// placed draws the code, with what takes hold of it and a handle that sizes it.
func (t thing) placed(b *strings.Builder, handle float64) {
	m, i, p, at := t.c.Rendition, t.i, t.p, t.at
	snaps, err := json.Marshal(snapsOf(m.Sheet(p), at))
	if err != nil {
		snaps = []byte("{}")
	}
	fmt.Fprintf(
		b,
		`<g id="placed" class="placed" tabindex="0" role="application" aria-label="The code. Arrow keys move it by a millimetre, with Alt by a tenth; plus and minus size it." data-x="%g" data-y="%g" data-w="%g" data-h="%g" data-snaps="%s">`,
		at.Code.X,
		at.Code.Y,
		at.Code.W,
		at.Code.H,
		template.HTMLEscapeString(string(snaps)),
	)
	b.WriteString(
		svg.Inline(
			m.OnPaper(&scene.Scene{Width: at.Added.Width, Height: at.Added.Height, Items: at.Added.Items}, p).
				Reduced(ScreenPixels),
			"QR code",
			fmt.Sprintf(
				`x="%g" y="%g" width="%g" height="%g" overflow="visible"`,
				at.AddedX,
				at.AddedY,
				at.Added.Width,
				at.Added.Height,
			),
		),
	)
	fmt.Fprintf(
		b,
		`<rect class="grip" x="%g" y="%g" width="%g" height="%g" fill="transparent"/>`,
		at.Code.X,
		at.Code.Y,
		at.Code.W,
		at.Code.H,
	)
	fmt.Fprintf(
		b,
		`<rect id="place-size" class="place-handle" data-field="f-placements-%d-width_mm" x="%.3f" y="%.3f" width="%.3f" height="%.3f"><title>Drag to size it in millimetres</title></rect></g>`,
		i,
		at.Code.X+at.Code.W-handle/2,
		at.Code.Y+at.Code.H-handle/2,
		handle,
		handle,
	)
}

// yardstick draws a disc of 20 mm beside a thing whose right edge, top and bottom are known, or above its corner where there
// is no room.
func yardstick(b *strings.Builder, right, top, bottom, k float64) {
	if d := disc * k; d >= 5 {
		x, y := right+d/2+8, bottom-d/2
		if x+d/2 > sheetWidth-2 {
			x, y = right-d/2-4, top-d/2-4
		}
		fmt.Fprintf(
			b,
			`<g pointer-events="none"><circle cx="%.2f" cy="%.2f" r="%.2f" fill="#C3CAC2" stroke="#6F7B73"/><text x="%.2f" y="%.2f" text-anchor="middle">20 mm</text></g>`,
			x,
			y,
			d/2,
			x,
			y-d/2-4,
		)
	}
}

func groundOf(p *place.Placement) string {
	switch {
	case p.Artwork.Colour != nil:
		return p.Artwork.Colour.String()
	case p.Artwork.Source == "" && p.Background != nil:
		return p.Background.String()
	}
	return "#FFFFFF"
}

// drawPerson draws somebody 1.7 m tall, standing at x on the line y.
func drawPerson(b *strings.Builder, x, y, k float64) {
	s := person * k / 100 // drawn 100 units high
	fmt.Fprintf(
		b,
		`<g transform="translate(%.2f %.2f) scale(%.5f)" fill="#8A958E" pointer-events="none"><circle cx="0" cy="-93" r="6.500"/><path d="M-9 -84q9 -4 18 0q3 1 3.500 6l2 26q0 2.500 -2 2.500t-2.300 -2.200l-2.200 -22v25l1.500 45q0 3.700 -3 3.700t-3.200 -3.700l-2 -40h-2.600l-2 40q-.2 3.700 -3.200 3.700t-3 -3.700l1.500 -45v-25l-2.200 22q-.3 2.200 -2.300 2.200t-2 -2.500l2 -26q.5 -5 3.500 -6z"/></g>`,
		x,
		y,
		s,
	)
	fmt.Fprintf(b, `<text x="%.2f" y="%.2f" text-anchor="middle">1.7 m</text>`, x, y-person*k-4)
}
