package desk

import (
	"fmt"
	"slices"
	"strconv"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
)

// Recipient is somebody whom files are for.
type Recipient struct {
	Key, Name, Words string
	Usual            bool     // of the medium
	files            []string // by their keys, in the order in which they are offered
	settings         []string // of what is in them
}

// whom are those whom files are for, with the files that each can use, the best first.
var whom = []Recipient{
	{Key: "press", Name: "A press", Words: "inks, outlines, bleed", files: []string{"pdfx", "sheet-pdfx", "eps", "tif", "pdf", "sheet-pdf"},
		settings: []string{"colour", "bleed_mm", "reduction_mm", "marks", "overprint"}},
	{Key: "office", Name: "An office", Words: "documents, labels", files: []string{"pdf", "sheet-pdf", "png", "svg", "sheet-png"}, settings: []string{"dpi", "pixels"}},
	{Key: "screen", Name: "A screen", Words: "slides, posts", files: []string{"png", "sheet-png", "jpg", "sheet-jpg", "webp"}, settings: []string{"quality"}},
	{Key: "page", Name: "A web page", Words: "pictures, text to embed", files: []string{"svg", "svg-current", "webp", "sheet-svg"}},
	{Key: "person", Name: "A person", Words: "by mail"},
}

// recipients are those whom files of a placement may be for, the usual one of its medium marked.
func recipients(m *compose.Rendition, p *place.Placement) []Recipient {
	usual := "office"
	if p != nil {
		if s, _ := place.SubstrateOf(p.Substrate); s.Screen {
			usual = "screen"
		}
	}
	if m.Pressed() {
		usual = "press"
	}
	out := slices.Clone(whom)
	for i := range out {
		out[i].Usual = out[i].Key == usual
	}
	return out
}

// Settings are the fields that say what is in the files for a recipient.
func (s Ship) Settings(key string) (out []Field) {
	for _, r := range whom {
		if r.Key != key {
			continue
		}
		for _, name := range r.settings {
			out = append(out, s.Field(name))
		}
	}
	return out
}

// whatIs says of each kind of file what it is good for.
var whatIs = map[string]string{
	"svg": "Outlines, one a colour.", "pdf": "Outlines; the page is the trim size.", "png": "Whole pixels a module.", "jpg": "No transparency.",
	"webp": "Without loss, smaller than PNG.", "svg-current": "Takes the colour of the text around it.", "eps": "The same inks as outlines.", "tif": "CMYK pixels.",
}

// filesOf are the files that there are of a placement, with their true size.
func filesOf(m *compose.Rendition, p *place.Placement) (out []File) {
	f := m.Framed(p)
	width, height := f.Scene.Width, f.Scene.Height
	mm := size(width, height) + " mm"
	across := m.Across(p)
	px := pixels(across, height/width)
	composed, whole := compose.Composed{}, false
	if compose.HasSurface(p) {
		composed, whole = m.Compose(p)
	}
	for _, format := range compose.All {
		key := format.Key()
		one := File{Format: key, Title: format.Title(), Named: format.Named(), What: whatIs[format.Kind], Size: mm}
		if format.Kind == "pdfx" {
			one.What = "Inks of " + m.Condition(p).Identifier + ", checked."
		}
		raster := slices.Contains([]string{"png", "jpg", "webp", "tif"}, format.Kind)
		switch {
		case format.Kind == "label":
			continue
		case format.Of == compose.Whole && !whole:
			continue
		case format.Of == compose.Whole:
			one.Whole, one.Title = true, format.Title()
			one.Size = size(composed.Width, composed.Height) + " mm"
			if raster {
				one.Pixels = pixels(m.SheetPixels(p, composed), composed.Height/composed.Width)
			}
			if sheet := m.Sheet(p); format.Kind == "pdf" && sheet != nil && sheet.PDF != nil {
				one.What = "Your file, the code added to page " + strconv.Itoa(sheet.Page) + "."
			}
		case raster:
			one.Pixels = px
		}
		if s, _ := place.SubstrateOf(substrateOf(p)); s.Screen && one.Pixels != "" { // a screen thinks in pixels
			one.Size, one.Pixels = one.Pixels, ""
		}
		out = append(out, one)
	}
	return out
}

func size(width, height float64) string {
	return measure.Number(width, 1) + " × " + measure.Number(height, 1)
}

// pixels says how many a picture has, of so many across and a shape of height to width.
func pixels(across int, shape float64) string {
	return fmt.Sprintf("%s × %s px", measure.Count(across), measure.Count(int(float64(across)*shape+0.5)))
}

func substrateOf(p *place.Placement) string {
	if p == nil {
		return ""
	}
	return p.Substrate
}
