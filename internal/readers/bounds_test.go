package readers

import (
	"bytes"
	"context"
	"errors"
	"image"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/problem"
	"sodrik/internal/costtest"
)

// TestLargePicturesAreRead: a picture of 24 megapixels in which nothing is found costs a bounded time, and no more once who
// asked has left; larger ones are refused before they are decoded.
func TestLargePicturesAreRead(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 6000, 4000))
	r := rand.New(rand.NewPCG(1, 1))
	for y := 0; y < 4000; y += 4 { // blocks that look like modules
		for x := 0; x < 6000; x += 4 {
			v := uint8(255 * r.IntN(2))
			for dy := range 4 {
				for dx := range 4 {
					img.Pix[(y+dy)*img.Stride+x+dx] = v
				}
			}
		}
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 40}); err != nil {
		t.Fatal(err)
	}
	before := costtest.CPU()
	found, err := File(t.Context(), b.Bytes())
	took := costtest.CPU() - before
	t.Logf("%d bytes: %v of a processor", b.Len(), took.Round(time.Millisecond))
	if err != nil || len(found.Symbols) != 0 || took > 4*time.Second {
		t.Errorf("%v, %d symbols in %v", err, len(found.Symbols), took)
	}
	ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
	defer cancel()
	before = costtest.CPU()
	if _, err := File(ctx, b.Bytes()); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("after leaving: %v", err)
	}
	if left := costtest.CPU() - before; left > took {
		t.Errorf("it went on for %v after who asked had left", left)
	}
	b.Reset()
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 7000, 5000))); err != nil {
		t.Fatal(err)
	}
	var problems problem.List
	if _, err := File(t.Context(), b.Bytes()); !errors.As(err, &problems) ||
		!strings.Contains(err.Error(), "at most 26 megapixels") {
		t.Errorf("35 megapixels: %v", err)
	}
}

// TestHostileFiles: programs that open drawings and PDFs are ended where they take too much of a processor.
func TestHostileFiles(t *testing.T) {
	var deep strings.Builder
	deep.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><defs><filter id="f">` +
		strings.Repeat(`<feTurbulence numOctaves="9" baseFrequency="0.9"/><feGaussianBlur stdDeviation="90"/>`, 400) +
		`</filter></defs>`)
	deep.WriteString(strings.Repeat(`<rect width="9" height="9" filter="url(#f)"/>`, 400) + `</svg>`)
	before := costtest.CPU()
	_, err := File(t.Context(), []byte(deep.String()))
	var problems problem.List
	if took := costtest.CPU() - before; !errors.As(err, &problems) || took > 4*time.Second {
		t.Errorf("%v after %v", err, took)
	}
	t.Log(err)
}
