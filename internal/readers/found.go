package readers

import (
	"bytes"
	"fmt"
	"image"
	_ "image/gif" // formats that a picture may have
	_ "image/jpeg"
	_ "image/png"

	_ "golang.org/x/image/webp"

	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
)

// Found is what a picture holds, as "sodrik read" and the API print it.
type Found struct {
	Symbols []FoundSymbol `json:"symbols"`
}

// FoundSymbol is one symbol in a picture.
type FoundSymbol struct {
	Payload   string `json:"payload"`
	Version   int    `json:"version"`
	Level     string `json:"level"`
	Mask      int    `json:"mask"`
	Corrected int    `json:"corrected" doc:"Codewords that had to be corrected."`
	Content   any    `json:"content,omitempty"`
}

// mostPixels bounds a picture that is read.
const mostPixels = 40_000_000

// Picture reads the symbols of a PNG, JPEG, GIF or WebP file. A file that is no such picture is a problem; a picture without a
// symbol is not.
func Picture(file []byte) (Found, error) {
	out := Found{Symbols: []FoundSymbol{}}
	bad := func(format string, args ...any) error {
		return problem.List{{Code: "picture", Message: fmt.Sprintf(format, args...)}}
	}
	size, _, err := image.DecodeConfig(bytes.NewReader(file))
	if err != nil {
		return out, bad("this is not a picture that can be read; PNG, JPEG, GIF and WebP can")
	}
	if size.Width < 1 || size.Height < 1 || size.Width > mostPixels/size.Height {
		return out, bad("the picture is %d × %d pixels; at most 40 megapixels are read", size.Width, size.Height)
	}
	img, _, err := image.Decode(bytes.NewReader(file))
	if err != nil {
		return out, bad("the picture is damaged: %v", err)
	}
	results, err := Locate(img)
	if err != nil {
		return out, err
	}
	for _, r := range results {
		s := FoundSymbol{Payload: r.Payload, Version: r.Version, Level: r.Level.String(), Mask: r.Mask, Corrected: r.Corrected}
		if c := content.Of(r.Payload); c != nil {
			s.Content = c.JSON()
		}
		out.Symbols = append(out.Symbols, s)
	}
	return out, nil
}
