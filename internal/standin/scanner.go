package standin

import (
	"bytes"
	"context"
	"image/png"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/optics"
	"sodrik/internal/records"
)

// scanDPI is the resolution of the flatbed scanner that stands in for one.
const scanDPI = 600

// Scan stands in for a press and a flatbed scanner: a code at a place is printed, its dark edges spread by so many
// millimetres, and scanned to a PNG.
func Scan(m *compose.Rendition, i int, growth float64) ([]byte, error) {
	in, err := m.Proof(i)
	if err != nil {
		return nil, err
	}
	const far = 1e5 // a pin-hole from so far away sees all of the glass from straight above
	scanner := optics.Camera{
		Name:  "a flatbed scanner",
		Lines: 1 << 16,
		Focal: scanDPI / 25.4 * far,
		Lens:  0.6,
		Well:  60000,
		Noise: 3,
	}
	img, err := optics.Expose(
		in.Scene,
		1,
		optics.Setup{Camera: scanner, Distance: far, Turn: 0.8, Gain: growth, Around: 0.15, Seed: 11},
	)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = png.Encode(&b, img)
	return b.Bytes(), err
}

// CheckPrints has a print of the demonstration's label scanned and checked, once.
func CheckPrints(ctx context.Context, s *code.Store) error {
	codes, _, err := s.Listed(ctx, Loader(), code.Active, "Sweet pea Matucana", code.Cursor{}, 1)
	if err != nil || len(codes) == 0 || codes[0].InPrint == nil {
		return err
	}
	r, c := records.Of(s), codes[0]
	if list, err := r.Checks(ctx, Loader(), c.ID); err != nil || len(list) > 0 {
		return err
	}
	scan, err := Scan(c.Rendition, 0, 0.04)
	if err == nil {
		_, err = r.CheckPrint(ctx, Loader(), c.ID, records.Picture{Data: scan, DPI: scanDPI})
	}
	return err
}
