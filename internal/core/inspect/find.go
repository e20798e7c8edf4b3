package inspect

import (
	"context"
	"fmt"
	"image"
	"math"
	"slices"

	"sodrik/internal/core/picture"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/symbol/detect"
)

// Bounds of what is looked at.
const (
	mostFirst = 3_000_000 // pixels in which the code is looked for
	mostPer   = 20.0      // pixels a module with which it is measured
)

// found is the code of a proof's input in a picture, and the part of the picture around it, finer or coarser by scale, in
// which it is measured. others are what further codes in the picture say.
func found(ctx context.Context, in proof.Input, whole *image.Gray) (f detect.Found, others []string, part *image.Gray,
	scale float64,
	err error) {
	seen := picture.Scaled(whole, mostFirst)
	if f, others, err = said(ctx, in.Payload, seen); err != nil {
		return f, nil, nil, 0, err
	}
	k := float64(whole.Rect.Dx()) / float64(seen.Rect.Dx())
	box := bounds(f.Corners, k, in).Intersect(whole.Rect)
	part = image.NewGray(image.Rect(0, 0, box.Dx(), box.Dy()))
	for y := range box.Dy() {
		copy(part.Pix[y*part.Stride:][:box.Dx()], whole.Pix[whole.PixOffset(box.Min.X, box.Min.Y+y):])
	}
	most := mostPer * float64(in.Symbol.Size+2*in.QuietZone+8)
	wide := part.Rect.Dx()
	part = picture.Scaled(part, int(most*most))
	if seen == whole && part.Rect == whole.Rect { // nothing was cut off or made smaller
		return f, others, part, 1, nil
	}
	f, _, err = said(ctx, in.Payload, part)
	return f, others, part, float64(part.Rect.Dx()) / float64(wide), err
}

// bounds is the part of a picture that holds a symbol with its quiet zone and some of what lies around.
func bounds(corners [4][2]float64, k float64, in proof.Input) image.Rectangle {
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, c := range corners {
		x0, y0, x1, y1 = min(x0, c[0]*k), min(y0, c[1]*k), max(x1, c[0]*k), max(y1, c[1]*k)
	}
	margin := float64(in.QuietZone+2) * max(x1-x0, y1-y0) / float64(in.Symbol.Size)
	return image.Rect(int(x0-margin), int(y0-margin), int(x1+margin)+1, int(y1+margin)+1)
}

// said is the code in a picture that says a payload, and what others beside it say.
func said(ctx context.Context, payload string, seen *image.Gray) (f detect.Found, others []string, err error) {
	other := ""
	for _, ways := range []int{detect.Quick, detect.Thorough} {
		list, _ := detect.Photo(ctx, seen, ways)
		its := slices.IndexFunc(list, func(f detect.Found) bool { return f.Payload == payload })
		for i, f := range list {
			if i != its {
				other, others = f.Payload, append(others, f.Payload)
			}
		}
		if its >= 0 {
			return list[its], others, nil
		}
		others = nil
	}
	if err := ctx.Err(); err != nil {
		return detect.Found{}, nil, err
	}
	if other != "" {
		return detect.Found{}, nil, fmt.Errorf("%w, which says %q", ErrOther, other)
	}
	return detect.Found{}, nil, ErrNothing
}
