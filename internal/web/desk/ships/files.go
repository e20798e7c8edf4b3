package ships

import (
	"fmt"
	"slices"
	"strconv"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
)

// File is one format to take.
type File struct {
	Format, Title, Named, What string
	Size, Pixels               string // of what it shows, in mm, and of its pixels, "" where it has none
	Whole                      bool   // of the whole thing that the code lies on
	On                         bool   // among those that go together
	Unfit                      string // why it cannot be made, "" where it can
}

// ShipRow is a file with what its forms need.
type ShipRow struct {
	File
	ID    string
	Place int
	Stale bool
}

// FileList is the files for somebody, with what their forms need.
type FileList struct{ Files []ShipRow }

// List are the files for a recipient, of a code at a place; stale ones cannot be made.
func (s Ships) List(r Recipient, id string, place int, stale bool) (out FileList) {
	for _, f := range s.files {
		if slices.Contains(r.files, f.Format) {
			out.Files = append(out.Files, ShipRow{f, id, place, stale})
		}
	}
	slices.SortStableFunc(out.Files, func(a, b ShipRow) int {
		return slices.Index(r.files, a.Format) - slices.Index(r.files, b.Format)
	})
	return out
}

// whatIs says of each kind of file what it is good for.
var whatIs = map[string]string{
	"svg": "Outlines, one a colour.", "pdf": "Outlines; the page is the trim size.", "png": "Whole pixels a module.",
	"jpg":  "No transparency.",
	"webp": "Without loss, smaller than PNG.", "svg-current": "Takes the colour of the text around it.",
	"eps": "The same inks as outlines.", "tif": "CMYK pixels.",
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
			if wrong := m.Unfit(format, p); len(wrong) > 0 {
				one.Unfit = "The artwork " + wrong[0].Message + "."
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
