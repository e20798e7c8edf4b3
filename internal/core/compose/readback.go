package compose

import (
	"image"
	"image/color"
	"math"

	xdraw "golang.org/x/image/draw"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
)

// Files are read back from their own bytes before they are handed over. What is here draws an SVG through our importer, and
// cuts the code out of a picture of a file, so that readers are shown it as the file has it.

// Bounds of what readers are shown of a file.
const (
	backModule = 5    // pixels a module
	backMost   = 900  // pixels a side
	backPage   = 40e6 // pixels of a page that is drawn for it
	backSVG    = 1600 // pixels along the longer side
)

// DrawSVG draws an SVG as our importer reads it, on nothing.
func DrawSVG(file []byte) (*image.NRGBA, error) {
	s, err := artwork.ReadDrawn(file)
	if err != nil {
		return nil, err
	}
	k := backSVG / max(s.Width, s.Height)
	return raster.Draw(&scene.Scene{Width: s.Width, Height: s.Height, Items: s.Items},
		raster.View{Width: max(1, int(math.Round(s.Width*k))), Height: max(1, int(math.Round(s.Height*k))), Scale: k})
}

// codeIn says where the code lies in a file, and how large the whole of it is, in mm.
func (m *Rendition) codeIn(i int, f Format) (code artwork.Rect, width, height float64) {
	p := m.Place(i)
	if f.Of == Whole {
		if c, ok := m.Compose(p); ok {
			return c.Code, c.Width, c.Height
		}
	}
	if f.Kind == "label" {
		s := m.For(p).bare(p)
		return artwork.Rect{W: s.Width, H: s.Width}, s.Width, s.Height
	}
	framed, s := m.Framed(p), m.For(p).bare(p)
	return artwork.Rect{X: framed.Left, Y: framed.Top, W: s.Width, H: s.Width}, framed.Scene.Width, framed.Scene.Height
}

// onPage opens the page that a file of the whole is added to; nil where there is none.
func (m *Rendition) onPage(i int, f Format) *pdfpage.Page {
	s := m.Sheet(m.Place(i))
	if s == nil || s.PDF == nil || f != (Format{Of: Whole, Kind: "pdf"}) {
		return nil
	}
	p, err := pdfpage.Open(s.PDF, s.Page)
	if err != nil {
		return nil
	}
	return p
}

// ReadDots is how many dots an inch a page has to be drawn with, so that readers see the code in it.
func ReadDots(m *Rendition, i int, f Format) float64 {
	code, w, h := m.codeIn(i, f)
	dots := backModule * float64(m.For(m.Place(i)).Modules()) / (code.W / float64(measure.Inch))
	if p := m.onPage(i, f); p != nil {
		fw, fh := p.Shown(p.Media)
		tw, _ := p.Shown(p.Trim)
		dots *= w / tw // the page may be smaller than what is printed
		w, h = fw, fh
	}
	return min(dots, math.Sqrt(backPage/(w/25.4*h/25.4)), 1200)
}

// CutCode cuts the code out of a picture of a file, flattened onto what it lies on.
func CutCode(m *Rendition, i int, f Format, img image.Image) *image.Gray {
	code, w, h := m.codeIn(i, f)
	b := img.Bounds()
	x0, y0, x1, y1 := 0.0, 0.0, 1.0, 1.0
	if p := m.onPage(i, f); p != nil {
		x0, y0, x1, y1 = p.Within()
	}
	fw, fh := float64(b.Dx())*(x1-x0), float64(b.Dy())*(y1-y0)
	at := func(x, y float64) image.Point {
		return image.Pt(b.Min.X+int(math.Round(x0*float64(b.Dx())+x/w*fw)), b.Min.Y+int(math.Round(y0*float64(b.Dy())+y/h*fh)))
	}
	r := image.Rectangle{at(code.X, code.Y), at(code.X+code.W, code.Y+code.H)}.Intersect(b)
	if r.Empty() {
		return image.NewGray(image.Rect(0, 0, 1, 1))
	}
	ground := ink.White
	if p := m.Place(i); p != nil && p.Background != nil {
		ground = *p.Background
	}
	side := min(r.Dx(), backMost)
	small := image.NewRGBA(image.Rect(0, 0, side, max(1, r.Dy()*side/r.Dx())))
	xdraw.Draw(small, small.Rect, image.NewUniform(color.RGBA{ground.R, ground.G, ground.B, 255}), image.Point{}, xdraw.Src)
	if side == r.Dx() {
		xdraw.Draw(small, small.Rect, img, r.Min, xdraw.Over)
	} else {
		xdraw.ApproxBiLinear.Scale(small, small.Rect, img, r, xdraw.Over, nil)
	}
	margin := side / 12
	out := image.NewGray(image.Rect(0, 0, small.Rect.Dx()+2*margin, small.Rect.Dy()+2*margin))
	around := uint8(luma(ground.R, ground.G, ground.B) + 0.5)
	if !m.Job.Look.Paper.None {
		c := m.Job.Look.Paper.Colour
		around = uint8(luma(c.R, c.G, c.B) + 0.5)
	}
	for k := range out.Pix {
		out.Pix[k] = around
	}
	for y := range small.Rect.Dy() {
		for x := range small.Rect.Dx() {
			q := small.Pix[y*small.Stride+4*x:]
			out.Pix[(y+margin)*out.Stride+x+margin] = uint8(luma(q[0], q[1], q[2]) + 0.5)
		}
	}
	return out
}
