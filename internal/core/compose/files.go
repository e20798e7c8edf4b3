package compose

import (
	"math"
	"strings"

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

// Format is a kind of file that is handed over.
type Format struct {
	Key    string // "svg"; one of the whole thing begins with OnSheet
	Ending string // of its name
	Title  string // "SVG"
}

// OnSheet begins the key of a file that shows the whole thing that a code lies on, and not the code alone.
const OnSheet = "sheet-"

// All are the kinds of files, code alone first; payment parts are not among them (see SlipFormat).
var All = []Format{{"svg", "svg", "SVG"}, {"pdf", "pdf", "PDF"}, {"png", "png", "PNG"}, {"jpg", "jpg", "JPEG"}, {"webp", "webp", "WebP"},
	{"svg-current", "svg", "SVG in the colour of its text"}, {"label", "png", "PNG for a label printer"},
	{"pdfx", "pdf", "PDF/X-1a"}, {"eps", "eps", "EPS"}, {"tif", "tif", "TIFF"}, {OnSheet + "pdfx", "pdf", "PDF/X-1a"},
	{OnSheet + "svg", "svg", "SVG"}, {OnSheet + "pdf", "pdf", "PDF"}, {OnSheet + "png", "png", "PNG"}, {OnSheet + "jpg", "jpg", "JPEG"}}

// Formats are those of a code alone that a name's ending tells apart.
var Formats = []string{"svg", "pdf", "png", "jpg", "webp"}

// Types are the media types of endings.
var Types = map[string]string{"svg": "image/svg+xml", "pdf": "application/pdf", "png": "image/png", "jpg": "image/jpeg", "webp": "image/webp", "eps": "application/postscript", "tif": "image/tiff"}

// FormatOf finds a kind of file by its key.
func FormatOf(key string) (Format, bool) {
	for _, f := range All {
		if f.Key == key {
			return f, true
		}
	}
	if _, ending, ok := SlipFormat(key); ok {
		return Format{key, ending, strings.ToUpper(ending)}, true
	}
	return Format{}, false
}

// TypeOf is the media type of a kind of file, "" for none.
func TypeOf(key string) string {
	f, ok := FormatOf(key)
	if !ok {
		return Types[key]
	}
	return Types[f.Ending]
}

// File writes one file for a placement, its metadata without secrets. A problem names the format or the size where it cannot.
func (m *Made) File(format string, p *place.Placement, meta export.Meta) ([]byte, problem.List) {
	meta.Payload = content.Shown(m.For(p).Job.Content)
	if language, ending, ok := SlipFormat(format); ok {
		return m.slip(language, ending, meta)
	}
	if bare, ok := strings.CutPrefix(format, OnSheet); ok {
		return m.sheetFile(bare, p, meta)
	}
	switch format {
	case "svg":
		return svg.Encode(m.Scene(p), meta), nil
	case "svg-current":
		return svg.Encode(inTextColour(m.Scene(p), m), meta), nil
	case "pdf":
		return pdf.Encode(m.Scene(p), meta), nil
	case "png", "jpg", "webp":
		if m.Pixels(p).Pixels > mostSide || m.Across(p) > mostSide {
			return nil, m.tooLarge(max(m.Pixels(p).Pixels, m.Across(p)))
		}
		return m.pixels(format, m.Scene(p), m.Across(p), p, meta)
	case "label":
		return m.label(p, meta)
	case "pdfx", "eps", "tif":
		return m.pressFile(format, p, false, meta)
	}
	var problems problem.List
	problems.Add("/format", "output.format", "%q cannot be written; svg, pdf, png, jpg and webp can, and with sheet- before them all but webp of the whole that a code lies on", format)
	return nil, problems
}

// mostSide is how many pixels a side a picture has at most.
var mostSide = int(math.Sqrt(raster.MostPixels))

func (m *Made) tooLarge(pixels int) (problems problem.List) {
	problems.Add("/output/dpi", "output.pixels", "is %d: the picture would be %s pixels wide, more than %s; lower the resolution, or take SVG or PDF, which have none",
		m.Job.Output.DPI, measure.Count(pixels), measure.Count(mostSide))
	return problems
}

// pixels writes a scene as a picture so many pixels wide.
func (m *Made) pixels(format string, s *scene.Scene, wide int, p *place.Placement, meta export.Meta) (b []byte, problems problem.List) {
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
func inTextColour(s *scene.Scene, m *Made) *scene.Scene {
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
func (m *Made) Dots(p *place.Placement) (size bitmap.Size, width measure.Length) {
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
func (m *Made) label(p *place.Placement, meta export.Meta) ([]byte, problem.List) {
	size, _ := m.Dots(p)
	var problems problem.List
	thin := m.Job.Output.Thinner
	if thin >= size.PerModule {
		problems.Add("/output/thinner_dots", "output.thinner", "is %d, but a module has %s here, of which something must stay; print it larger, or take less away", thin, measure.Plural(size.PerModule, "dot"))
		return nil, problems
	}
	if size.Pixels > mostSide {
		return nil, m.tooLarge(size.Pixels)
	}
	b, err := bitmap.Dots(m.For(p).drawn(p), size.Pixels, m.Job.Output.PrinterDPI, thin, meta)
	if err != nil {
		problems.Add("/output", "output.label", "%v", err)
	}
	return b, problems
}

// sheetFile writes the whole thing that a code lies on.
func (m *Made) sheetFile(format string, p *place.Placement, meta export.Meta) ([]byte, problem.List) {
	var problems problem.List
	if format == "pdfx" {
		return m.pressFile(format, p, true, meta)
	}
	c, ok := m.Compose(p)
	if !ok {
		problems.Add("/placements", "artwork.none", "have nothing that the code lies on here; give it a medium, artwork or words first")
		return nil, problems
	}
	switch format {
	case "svg":
		return svg.Encode(c.Scene, meta), nil
	case "pdf":
		if s := m.Sheet(p); s != nil && s.PDF != nil {
			b, err := pdf.Onto(s.PDF, s.Page, c.Added, c.AddedX/c.Scale, c.AddedY/c.Scale, 1/c.Scale)
			if err != nil {
				problems.Add("/placements/artwork/source", "artwork.pdf", "%v", err)
			}
			return b, problems
		}
		return pdf.Encode(c.Scene, meta), nil
	case "png", "jpg":
		wide := m.SheetPixels(p, c)
		if high := int(float64(wide) * c.Height / c.Width); wide > raster.MostPixels/max(1, high) {
			return nil, m.tooLarge(wide)
		}
		return m.pixels(format, c.Scene, wide, p, meta)
	}
	problems.Add("/format", "output.format", "%q cannot be written of the whole; svg, pdf, png and jpg can", OnSheet+format)
	return nil, problems
}

// SheetPixels is how many pixels the picture of the whole is wide: at least the job's resolution, or as many as the screen has.
func (m *Made) SheetPixels(p *place.Placement, c Composed) int {
	if s, _ := place.SubstrateOf(p.Substrate); s.Screen && p.Pixels > 0 {
		return max(1, int(math.Round(c.Width*float64(p.Pixels)/float64(p.Width))))
	}
	return max(1, int(math.Ceil(c.Width/float64(measure.Inch)*float64(m.Job.Output.DPI)-1e-9)))
}
