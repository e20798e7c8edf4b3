package pdf

import (
	"fmt"

	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/separation"
)

// Spot is where a drawing lies on a page: its left top, in millimetres from that of the trimmed page as shown, and what a
// millimetre of it is there.
type Spot struct{ X, Y, Scale float64 }

// Onto draws a scene onto a page of a PDF that came in, which stays as it is byte for byte; what is drawn follows. Errors are
// those of pdfpage.
func Onto(file []byte, page int, s *scene.Scene, on Spot) ([]byte, error) {
	p, err := pdfpage.Open(file, page)
	if err != nil {
		return nil, err
	}
	return p.Add(file, p.Matrix(on.X, on.Y, s.Height*point, on.Scale), func(first int) pdfpage.Drawing {
		parts := &parts{}
		drawn := content(s, parts)
		return pdfpage.Drawing{Width: s.Width * point, Height: s.Height * point, Content: drawn,
			Resources: parts.resources(from(first)), Objects: parts.kept(first)}
	})
}

// OntoX is Onto with plates, on a page of PDF/X-1a; the result is checked to be so still.
func OntoX(file []byte, page int, s *separation.Sheet, on Spot, p Press) ([]byte, error) {
	at, err := pdfpage.Open(file, page)
	if err != nil {
		return nil, err
	}
	p.Bleed, p.Marks = 0, false
	out, err := at.Add(file, at.Matrix(on.X, on.Y, s.Height*point, on.Scale), func(first int) pdfpage.Drawing {
		w := &plates{sheet: s, press: p}
		drawn := w.content(0)
		return pdfpage.Drawing{Width: s.Width * point, Height: s.Height * point, Content: drawn, Resources: w.all(from(first)),
			Objects: w.kept(first)}
	})
	if err != nil {
		return nil, err
	}
	if wrong := Preflight(out); len(wrong) > 0 {
		return nil, fmt.Errorf("does not pass for PDF/X-1a with the code added: %s", wrong[0])
	}
	return out, nil
}

// from numbers objects from a first one on.
func from(first int) func(i int) int { return func(i int) int { return first + i } }
