package proving

import (
	"bytes"
	"context"
	"image"
	_ "image/jpeg"
	_ "image/png"
	"time"

	_ "golang.org/x/image/webp"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
)

// readBackTime bounds the reading of one file.
const readBackTime = 20 * time.Second

// ReadBack reads a file of a made job from its own bytes and says whether it says what it should: false where no reader finds
// the payload in it, or in the whole only with dark and light exchanged. A payment part and what nothing here can draw is not
// read.
func (pr *Prover) ReadBack(ctx context.Context, m *compose.Rendition, i int, f compose.Format, file []byte) (bool, error) {
	pictures, err := pr.seen(ctx, m, i, f, file)
	switch {
	case ctx.Err() != nil:
		return false, ctx.Err()
	case err != nil: // what cannot be opened cannot be read
		return false, nil
	case pictures == nil:
		return true, nil
	}
	ctx, cancel := context.WithTimeout(ctx, readBackTime)
	defer cancel()
	legible := proof.Reads(ctx, pr.Panel, m.For(m.Place(i)).Payload, pictures)
	// The ground of a code alone is whatever it comes to lie on; of the whole it is there, and is what phones see.
	return legible == proof.AsItIs || legible == proof.Exchanged && f.Of != compose.Whole, nil
}

// seen is what of a file is shown to readers: the code alone, cut out of what surrounds it, once plain and once with dark and
// light exchanged.
func (pr *Prover) seen(ctx context.Context, m *compose.Rendition, i int, f compose.Format, file []byte) (*image.Gray, error) {
	if f.Of == compose.PaymentPart {
		return nil, nil
	}
	if f.Kind == "eps" || f.Kind == "tif" { // the plates themselves are looked at; nothing here reads these two formats
		sheet, problems := m.Separated(m.Place(i), false)
		if len(problems) > 0 {
			return nil, problems
		}
		img, err := compose.DrawPlates(sheet)
		if err != nil {
			return nil, err
		}
		return compose.CutCode(m, i, compose.Format{Kind: "svg"}, img), nil
	}
	var img image.Image
	switch f.Ending() {
	case "svg":
		pixels, err := compose.DrawSVG(file)
		if err != nil {
			return nil, err
		}
		img = pixels
	case "pdf":
		if pr.Pages == nil {
			return nil, nil
		}
		number := 1
		if sheet := m.Sheet(m.Place(i)); sheet != nil && sheet.PDF != nil && f.Of == compose.Whole {
			number = sheet.Page
		}
		picture, err := pr.Pages(ctx, file, number, compose.ReadDots(m, i, f))
		if err != nil {
			return nil, err
		}
		if img, _, err = image.Decode(bytes.NewReader(picture)); err != nil {
			return nil, err
		}
	default:
		var err error
		if img, _, err = image.Decode(bytes.NewReader(file)); err != nil {
			return nil, err
		}
	}
	return compose.CutCode(m, i, f, img), nil
}
