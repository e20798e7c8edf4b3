package drawn

import (
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/measure"
)

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
	fmt.Fprintf(
		b,
		`<path stroke="#6F7B73" stroke-width=".75" fill="none" d="%s"/>%s<text x="3" y="15">%s</text>`,
		ticks.String(),
		figures.String(),
		map[string]string{"mm": "mm", "modules": "mod"}[unit],
	)
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
