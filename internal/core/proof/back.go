package proof

import (
	"context"
	"image"
	"slices"
)

// Reads says whether any reader of a panel finds a payload in a picture, at first as it is, then with dark and light exchanged. Without readers
// nothing is known, and nothing speaks against it.
func Reads(ctx context.Context, panel Panel, payload string, img *image.Gray) bool {
	if len(panel.Readers) == 0 {
		return true
	}
	inverse := image.NewGray(img.Rect)
	for i, v := range img.Pix {
		inverse.Pix[i] = 255 - v
	}
	for _, picture := range []*image.Gray{img, inverse} {
		for _, r := range panel.Readers {
			for _, a := range r.Read(ctx, []*image.Gray{picture}) {
				if slices.Contains(a.Payloads, payload) {
					return true
				}
			}
		}
	}
	return false
}
