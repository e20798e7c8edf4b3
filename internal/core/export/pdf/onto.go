package pdf

import (
	"sodrik/internal/core/pdfpage"
	"sodrik/internal/core/scene"
)

// Onto draws a scene onto a page of a PDF that came in, which stays as it is byte for byte; what is drawn follows. The scene's left top lies x, y
// millimetres from that of the trimmed page as shown, and a millimetre of the scene is scale of the page's. Errors are those of pdfpage.
func Onto(file []byte, page int, s *scene.Scene, x, y, scale float64) ([]byte, error) {
	p, err := pdfpage.Open(file, page)
	if err != nil {
		return nil, err
	}
	return p.Add(file, p.Matrix(x, y, s.Height*point, scale), func(first int) pdfpage.Drawing {
		parts := &parts{first: first}
		drawn := content(s, parts)
		return pdfpage.Drawing{Width: s.Width * point, Height: s.Height * point, Content: drawn, Resources: parts.resources(), Objects: parts.objects}
	})
}
