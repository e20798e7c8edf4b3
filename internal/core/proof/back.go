package proof

import (
	"context"
	"image"
	"slices"
)

// Legible says how a payload is found in a picture.
type Legible int

// Ways, the worst first.
const (
	Illegible Legible = iota
	Exchanged         // only with dark and light exchanged, which many phones never try
	AsItIs
)

// Reads says how a reader of a panel finds a payload in a picture. Without readers nothing is known, and nothing speaks
// against it.
func Reads(ctx context.Context, panel Panel, payload string, img *image.Gray) Legible {
	if len(panel.Readers) == 0 {
		return AsItIs
	}
	inverse := image.NewGray(img.Rect)
	for i, v := range img.Pix {
		inverse.Pix[i] = 255 - v
	}
	for i, picture := range []*image.Gray{img, inverse} {
		for _, r := range panel.Readers {
			for _, a := range r.Read(ctx, []*image.Gray{picture}) {
				if slices.Contains(a.Payloads, payload) {
					return AsItIs - Legible(i)
				}
			}
		}
	}
	return Illegible
}
