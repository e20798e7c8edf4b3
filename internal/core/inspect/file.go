package inspect

import (
	"bytes"
	"errors"
	"fmt"
	"image"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/problem"
)

// Bounds of the resolution of a scan, in dots an inch.
const (
	LeastDPI = 100
	MostDPI  = 4800
)

// Open decodes a photograph or a scan. What is none is a problem of the field picture.
func Open(data []byte) (image.Image, error) {
	bad := func(format string, args ...any) error {
		return problem.List{{Field: "/picture", Code: "picture", Message: fmt.Sprintf(format, args...)}}
	}
	if len(data) == 0 {
		return nil, bad("is missing; choose a photograph or a scan of the print")
	}
	size, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, bad("is no picture that can be read; choose a PNG, JPEG or WebP")
	}
	if err := artwork.Measure(size.Width, size.Height); err != nil {
		return nil, bad("%v", err)
	}
	img, err := artwork.Decode(data)
	if err != nil {
		return nil, bad("is damaged: %v", err)
	}
	return img, nil
}

// Problem says an error of Measure as a problem of the field picture, and others as they are.
func Problem(err error) error {
	message := ""
	switch {
	case errors.Is(err, ErrNothing):
		message = "shows no code that can be read. Hold the phone straight above it, nearer, in even light"
	case errors.Is(err, ErrOther):
		message = "shows another code than this one"
	case errors.Is(err, ErrCoarse):
		message = "is too coarse to be measured. Go nearer, or scan at 600 dpi: a module needs 4 pixels"
	case errors.Is(err, ErrFaint):
		message = "shows ink and paper too much alike to be measured. Take it in more light, without a lamp mirrored in it"
	case errors.Is(err, ErrPlace):
		return problem.List{
			{
				Field:   "/placements",
				Code:    "print.place",
				Message: "are missing: without a place nobody knows how large it should be",
			},
		}
	default:
		return err
	}
	return problem.List{{Field: "/picture", Code: "print.unmeasured", Message: message}}
}

// ReadDPI checks the resolution of a scan; 0 is that of a photograph, which has none.
func ReadDPI(dpi float64) error {
	if dpi != 0 && !(dpi >= LeastDPI && dpi <= MostDPI) {
		return problem.List{
			{
				Field: "/dpi",
				Code:  "print.dpi",
				Message: fmt.Sprintf(
					"is the resolution of the scanner, from %d to %d dots an inch; leave it empty for a photograph",
					LeastDPI,
					MostDPI,
				),
			},
		}
	}
	return nil
}
