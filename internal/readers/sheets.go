package readers

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"os/exec"
	"time"

	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
)

// sheetTime bounds the drawing of a sheet of our own.
const sheetTime = 60 * time.Second

// SheetOf draws a page of a PDF of our own, in grey, by a program that is not ours.
func SheetOf(ctx context.Context, path string, page int, dpi float64) (image.Image, error) {
	name, err := exec.LookPath("pdftoppm")
	if err != nil {
		return nil, problem.List{{Code: "sheet", Message: "reading sheets back needs pdftoppm, which is not installed here"}}
	}
	ctx, cancel := context.WithTimeout(ctx, sheetTime)
	defer cancel()
	n := fmt.Sprint(page)
	out, err := exec.CommandContext(ctx, name, "-f", n, "-l", n, "-singlefile", "-gray", "-png", "-r", fmt.Sprintf("%.3f", dpi),
		path).Output()
	if err != nil {
		return nil, fmt.Errorf("page %d cannot be drawn: %w", page, err)
	}
	return png.Decode(bytes.NewReader(out))
}

// Texts looks for codes in pictures, with our own reader first, with those of a panel where that finds nothing.
func Texts(p proof.Panel) func(ctx context.Context, pictures []*image.Gray) ([][]string, error) {
	return func(ctx context.Context, pictures []*image.Gray) ([][]string, error) {
		out := make([][]string, len(pictures))
		for _, r := range append([]proof.Reader{Ours()}, p.Readers...) {
			var left []*image.Gray
			var of []int
			for i := range pictures {
				if len(out[i]) == 0 {
					left, of = append(left, pictures[i]), append(of, i)
				}
			}
			if len(left) == 0 {
				break
			}
			for k, a := range r.Read(ctx, left) {
				out[of[k]] = append(out[of[k]], a.Payloads...)
			}
		}
		return out, ctx.Err()
	}
}
