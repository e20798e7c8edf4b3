package readers

import (
	"bytes"
	"context"
	"fmt"
	"image"
	_ "image/gif" // formats that a picture may have
	_ "image/jpeg"
	_ "image/png"
	"math"

	_ "golang.org/x/image/webp"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/content"
	"sodrik/internal/core/grade"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/picture"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/symbol"
	"sodrik/internal/core/symbol/decode"
	"sodrik/internal/core/symbol/detect"
)

// Found is what a picture holds, as "sodrik read" and the API print it.
type Found struct {
	Symbols []FoundSymbol `json:"symbols"`
	Picture image.Image   `json:"-"` // in which they lie; of a PDF the page
}

// FoundSymbol is one symbol in a picture.
type FoundSymbol struct {
	Payload   string `json:"payload"`
	Version   int    `json:"version"`
	Level     string `json:"level"`
	Mask      int    `json:"mask"`
	Corrected int    `json:"corrected" doc:"Codewords that had to be corrected."`
	Content   any    `json:"content,omitempty"`

	Grade    string        `json:"grade,omitempty" doc:"Of this picture, after ISO/IEC 15415:2011; the picture's greys are not calibrated."`
	Worst    string        `json:"worst,omitempty" doc:"The parameter that the grade is for."`
	Inverted bool          `json:"inverted,omitempty" doc:"Light on dark."`
	Mirrored bool          `json:"mirrored,omitempty" doc:"Seen from behind."`
	Modules  string        `json:"-"` // digest of the undamaged symbol
	Corners  [4][2]float64 `json:"corners" doc:"In pixels: top left, top right, bottom right and bottom left of the symbol without its quiet zone."`
}

// comfortable is how many pixels are looked at first; only where they hold nothing is a larger picture looked at finer, with
// so many at most.
const (
	comfortable = 3_000_000
	finer       = 6_000_000
)

// Symbols finds every symbol of a picture, on white where it is transparent. Engines that run wild find nothing.
func Symbols(img image.Image) []detect.Found {
	out, grey := lookAt(context.Background(), img)
	k := float64(img.Bounds().Dx()) / float64(grey.Rect.Dx())
	for i := range out {
		for j := range out[i].Corners {
			out[i].Corners[j][0] *= k
			out[i].Corners[j][1] *= k
		}
	}
	return out
}

// lookAt gives the symbols, and the greys in which they were found, with the corners in pixels of those. It stops soon after
// ctx has ended.
func lookAt(ctx context.Context, img image.Image) (out []detect.Found, grey *image.Gray) {
	grey = picture.Greys(img)
	n := len(grey.Pix)
	for _, look := range []struct{ most, ways int }{{comfortable, detect.Thorough}, {finer, detect.Quick}} {
		seen := picture.Scaled(grey, look.most)
		var crowded bool
		if out, crowded = detect.Photo(ctx, seen, look.ways); len(out) > 0 || crowded || n <= look.most || ctx.Err() != nil {
			return out, seen
		}
	}
	return nil, grey
}

// gradeOf grades a symbol of a picture, with its lightest part taken for all the light there is, since nothing tells how much
// there was.
func gradeOf(f detect.Found, grey *image.Gray) (letter, worst string) {
	s, err := Same(f.Result)
	if err != nil {
		return "", ""
	}
	most := 0.0
	at := func(x, y float64) float64 {
		px, py := f.At(x, y)
		i, j := int(px), int(py)
		if i < 0 || j < 0 || i >= grey.Rect.Dx() || j >= grey.Rect.Dy() {
			i, j = min(max(i, 0), grey.Rect.Dx()-1), min(max(j, 0), grey.Rect.Dy()-1)
		}
		v := grey.Pix[j*grey.Stride+i]
		if f.Inverted {
			v = 255 - v
		}
		return ink.Colour{R: v, G: v, B: v}.Luminance()
	}
	for y := range s.Size {
		for x := range s.Size {
			most = max(most, at(float64(x)+0.5, float64(y)+0.5))
		}
	}
	if most == 0 {
		return "F", grade.SymbolContrast
	}
	r := grade.Evaluate(grade.Input{Symbol: s, Aperture: 0.8, Width: 1, At: func(x, y float64) float64 {
		return min(1, at(x, y)/most)
	}})
	for _, p := range r.Parameters {
		if p.Grade == r.Overall && r.Overall < 4 {
			return r.Overall.Letter(), p.Key
		}
	}
	return r.Overall.Letter(), ""
}

// Same encodes what was read as it was: the same segments, version, level and mask, hence the same modules, without damage.
func Same(r *decode.Result) (*symbol.Symbol, error) {
	return symbol.EncodeSegments(r.Segments, symbol.Options{Level: r.Level, NoBoost: true, MinVersion: r.Version,
		MaxVersion: r.Version, Mask: symbol.Pattern(r.Mask)})
}

// Picture reads the symbols of a PNG, JPEG, GIF or WebP file. A file that is no such picture is a problem; a picture without a
// symbol is not.
func Picture(ctx context.Context, file []byte) (Found, error) {
	out := Found{Symbols: []FoundSymbol{}}
	bad := func(format string, args ...any) error {
		return problem.List{{Code: "picture", Message: fmt.Sprintf(format, args...)}}
	}
	size, _, err := image.DecodeConfig(bytes.NewReader(file))
	if err != nil {
		return out, bad("this is not a picture that can be read; PNG, JPEG, GIF and WebP can")
	}
	if err := artwork.Measure(size.Width, size.Height); err != nil {
		return out, bad("the picture %v", err)
	}
	release, err := slot(ctx)
	if err != nil {
		return out, err
	}
	defer release()
	img, err := artwork.Decode(file)
	if err != nil {
		return out, bad("the picture is damaged: %v", err)
	}
	out.Picture = img
	symbols, grey := lookAt(ctx, img)
	if ctx.Err() != nil {
		return out, ctx.Err()
	}
	for _, f := range symbols {
		s := FoundSymbol{Payload: f.Payload, Version: f.Version, Level: f.Level.String(), Mask: f.Mask, Corrected: f.Corrected,
			Inverted: f.Inverted, Mirrored: f.Mirrored}
		s.Grade, s.Worst = gradeOf(f, grey)
		if same, err := Same(f.Result); err == nil {
			s.Modules = same.Digest()
		}
		k := float64(size.Width) / float64(grey.Rect.Dx())
		for i, c := range f.Corners {
			s.Corners[i] = [2]float64{math.Round(c[0]*k*10) / 10, math.Round(c[1]*k*10) / 10}
		}
		if c := content.Of(f.Payload); c != nil {
			s.Content = content.JSON(c)
		}
		out.Symbols = append(out.Symbols, s)
	}
	return out, nil
}
