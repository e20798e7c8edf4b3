package paste

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"html/template"
	"image"
	"image/jpeg"
	"strings"

	"golang.org/x/image/draw"

	"sodrik/internal/readers"
)

// outlinedSide is how many pixels a picture that came in is shown with at most.
const outlinedSide = 420

// outlined shows a picture small, each symbol that was found in it outlined, numbered where there are several.
func outlined(f readers.Found) template.HTML {
	if f.Picture == nil || len(f.Symbols) == 0 {
		return ""
	}
	b := f.Picture.Bounds()
	k := min(1, outlinedSide/float64(max(b.Dx(), b.Dy())))
	w, h := max(1, int(float64(b.Dx())*k)), max(1, int(float64(b.Dy())*k))
	small := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(small, small.Rect, image.White, image.Point{}, draw.Src)
	draw.ApproxBiLinear.Scale(small, small.Rect, f.Picture, b, draw.Over, nil)
	var file bytes.Buffer
	if err := jpeg.Encode(&file, small, &jpeg.Options{Quality: 80}); err != nil {
		return ""
	}
	var out strings.Builder
	fmt.Fprintf(&out,
		`<svg viewBox="0 0 %d %d" role="img" aria-label="The picture, with what was found in it outlined"><image width="%d" height="%d" href="data:image/jpeg;base64,%s"/>`, w, h, w, h, base64.StdEncoding.EncodeToString(file.Bytes()))
	for i, s := range f.Symbols {
		var points []string
		var x, y float64
		for _, c := range s.Corners {
			points = append(points, fmt.Sprintf("%.1f,%.1f", c[0]*k, c[1]*k))
			x, y = x+c[0]*k/4, y+c[1]*k/4
		}
		shape := strings.Join(points, " ")
		fmt.Fprintf(&out,
			`<polygon points="%s" fill="none" stroke="#16241F" stroke-width="5" stroke-linejoin="round"/><polygon points="%s" fill="none" stroke="#E9A820" stroke-width="2.5" stroke-linejoin="round"/>`, shape, shape)
		if len(f.Symbols) > 1 {
			fmt.Fprintf(&out,
				`<circle cx="%.1f" cy="%.1f" r="11" fill="#E9A820" stroke="#16241F" stroke-width="2"/><text x="%.1f" y="%.1f" text-anchor="middle" font-size="13" font-weight="600" fill="#16241F">%d</text>`, x, y, x, y+4.5, i+1)
		}
	}
	out.WriteString("</svg>")
	return template.HTML(out.String())
}
