package compose

import (
	"math"

	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/bitmap"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// File writes one file for a placement, its metadata without secrets. A problem names the format or the size where it cannot.
func (m *Rendition) File(f Format, p *place.Placement, meta export.Meta) ([]byte, problem.List) {
	if _, problems := ParseFormat(f.Key()); len(problems) > 0 {
		return nil, problems
	}
	meta.Payload = content.Shown(m.For(p).Job.Content)
	switch f.Of {
	case PaymentPart:
		return m.slip(f.Language, f.Kind, meta)
	case Whole:
		return m.sheetFile(f.Kind, p, meta)
	}
	switch f.Kind {
	case "svg":
		return svg.Encode(m.Scene(p), meta), nil
	case "svg-current":
		return svg.Encode(inTextColour(m.Scene(p), m), meta), nil
	case "pdf":
		return pdf.Encode(m.Scene(p), meta), nil
	case "label":
		return m.label(p, meta)
	case "pdfx", "eps", "tif":
		return m.pressFile(f.Kind, p, false, meta)
	}
	if m.Wide(p) > maxSide {
		return nil, m.tooLarge(m.Wide(p))
	}
	return m.pixels(f.Kind, m.widened(m.Scene(p), p), m.Wide(p), p, meta)
}

// maxSide is how many pixels a side a picture has at most.
var maxSide = int(math.Sqrt(raster.MaxPixels))

func (m *Rendition) tooLarge(pixels int) (problems problem.List) {
	problems.Add("/output/dpi", "output.pixels",
		"is %d: the picture would be %s pixels wide, more than %s; lower the resolution, or take SVG or PDF, which have none",
		m.Job.Output.DPI, measure.Count(pixels), measure.Count(maxSide))
	return problems
}

// pixels writes a scene as a picture so many pixels wide.
func (m *Rendition) pixels(format string, s *scene.Scene, wide int, p *place.Placement, meta export.Meta) (b []byte,
	problems problem.List) {
	ground := ink.White
	if p != nil && p.Background != nil {
		ground = *p.Background
	}
	var err error
	switch format {
	case "png":
		b, err = bitmap.PNG(s, wide, meta)
	case "jpg":
		b, err = bitmap.JPEG(s, wide, m.Job.Output.Quality, ground, meta)
	case "webp":
		b, err = bitmap.WebP(s, wide)
	}
	if err != nil {
		problems.Add("/output", "output."+format, "%v", err)
	}
	return b, problems
}

// inTextColour leaves out the ink, so that a page's own text colour fills it; what has another colour keeps it.
func inTextColour(s *scene.Scene, m *Rendition) *scene.Scene {
	out := &scene.Scene{Width: s.Width, Height: s.Height}
	for _, it := range s.Items {
		if it.Name == "paper" {
			continue
		}
		if it.Picture == nil && it.Shade == nil && it.Fill.Same(m.Job.Look.Ink) {
			it.Current = true
		}
		out.Items = append(out.Items, it)
	}
	return out
}

// Dots is what a label printer makes of the code of a placement: whole dots a module, at most as wide as was asked.
func (m *Rendition) Dots(p *place.Placement) (size bitmap.Size, width measure.Length) {
	n, dpi := m.For(p).Modules(), float64(m.Job.Output.PrinterDPI)
	asked := measure.Length(n)
	if p != nil {
		asked = p.Width
	}
	per := max(1, int(math.Round(asked.Pixels(dpi)/float64(n))))
	if float64(per*n)/dpi > float64(asked/measure.Inch)*1.0001 && per > 1 {
		per--
	}
	size = bitmap.Size{PerModule: per, Pixels: per * n}
	return size, measure.Length(float64(size.Pixels) / dpi * float64(measure.Inch))
}

// label writes the code alone in dots of a label printer, dark or light, dark parts thinner by the dots that heat spreads.
func (m *Rendition) label(p *place.Placement, meta export.Meta) ([]byte, problem.List) {
	size, _ := m.Dots(p)
	var problems problem.List
	thin := m.Job.Output.Thinner
	if thin >= size.PerModule {
		problems.Add("/output/thinner_dots", "output.thinner",
			"is %d, but a module has %s here, of which something must stay; print it larger, or take less away", thin,
			measure.Plural(size.PerModule, "dot"))
		return nil, problems
	}
	if size.Pixels > maxSide {
		return nil, m.tooLarge(size.Pixels)
	}
	b, err := bitmap.Dots(m.For(p).drawn(p), size.Pixels, m.Job.Output.PrinterDPI, thin, meta)
	if err != nil {
		problems.Add("/output", "output.label", "%v", err)
	}
	return b, problems
}

// sheetFile writes the whole thing that a code lies on.
func (m *Rendition) sheetFile(kind string, p *place.Placement, meta export.Meta) ([]byte, problem.List) {
	var problems problem.List
	if kind == "pdfx" {
		return m.pressFile(kind, p, true, meta)
	}
	c, ok := m.Compose(p)
	if !ok {
		problems.Add("/placements", "artwork.none",
			"have nothing that the code lies on here; give it a medium, artwork or words first")
		return nil, problems
	}
	switch kind {
	case "svg":
		return svg.Encode(c.Scene, meta), nil
	case "pdf":
		if s := m.Sheet(p); s != nil && s.PDF != nil {
			b, err := pdf.Onto(s.PDF, s.Page, c.Added, pdf.Spot{X: c.AddedX / c.Scale, Y: c.AddedY / c.Scale, Scale: 1 / c.Scale})
			if err != nil {
				problems.Add("/placements/artwork/source", "artwork.pdf", "%v", err)
			}
			return b, problems
		}
		return pdf.Encode(c.Scene, meta), nil
	}
	wide := m.SheetPixels(p, c)
	if high := int(float64(wide) * c.Height / c.Width); wide > raster.MaxPixels/max(1, high) {
		return nil, m.tooLarge(wide)
	}
	return m.pixels(kind, c.Scene, wide, p, meta)
}

// SheetPixels is how many pixels the picture of the whole is wide: at least the job's resolution, or as many as the screen
// or, for a screen, the artwork itself has.
func (m *Rendition) SheetPixels(p *place.Placement, c Composed) int {
	if s, _ := place.SubstrateOf(p.Substrate); s.Screen {
		if sheet := m.Sheet(p); sheet != nil && sheet.Pixels() > 0 {
			return sheet.Pixels()
		}
	}
	if s, _ := place.SubstrateOf(p.Substrate); s.Screen && p.Pixels > 0 {
		return max(1, int(math.Round(c.Width*float64(p.Pixels)/float64(p.Width))))
	}
	return max(1, int(math.Ceil(c.Width/float64(measure.Inch)*float64(m.Job.Output.DPI)-1e-9)))
}
