package readers

import (
	"context"
	"fmt"
	"image"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/common"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/makiuchi-d/gozxing/qrcode/detector"

	"sodrik/internal/core/symbol/decode"
)

// Gozxing is the reader that is always there.
type Gozxing struct{}

// Name and Family say which engine it is, and of which lineage.
func (Gozxing) Name() string   { return "gozxing" }
func (Gozxing) Family() string { return "zxing" }

// Read looks for one symbol: with a threshold for each part of the picture, then with one for the whole, which large modules
// in pale ink need, and at last taking the picture to hold nothing else, as some perfect pictures of large versions are
// missed otherwise.
func (Gozxing) Read(ctx context.Context, img *image.Gray) (found []string, err error) {
	release, err := slot(ctx)
	if err != nil {
		return nil, err
	}
	defer release()
	defer func() {
		if r := recover(); r != nil { // indices run wild on some noise
			found, err = nil, fmt.Errorf("gozxing failed: %v", r)
		}
	}()
	source := gozxing.NewLuminanceSourceFromImage(img)
	for _, try := range []struct {
		binarizer gozxing.Binarizer
		hint      gozxing.DecodeHintType
	}{
		{gozxing.NewHybridBinarizer(source), gozxing.DecodeHintType_TRY_HARDER},
		{gozxing.NewGlobalHistgramBinarizer(source), gozxing.DecodeHintType_TRY_HARDER},
		{gozxing.NewHybridBinarizer(source), gozxing.DecodeHintType_PURE_BARCODE},
	} {
		bitmap, err := gozxing.NewBinaryBitmap(try.binarizer)
		if err != nil {
			return nil, err
		}
		hints := map[gozxing.DecodeHintType]any{try.hint: true, gozxing.DecodeHintType_CHARACTER_SET: "UTF-8"}
		if r, err := qrcode.NewQRCodeReader().Decode(bitmap, hints); err == nil {
			return []string{r.GetText()}, nil
		}
	}
	return nil, nil
}

// Locate finds the symbols of a picture and reads them with our own decoder, which tells version, level, mask and how many
// codewords were corrected. It finds at most one symbol.
func Locate(img image.Image) (out []*decode.Result, err error) {
	defer func() {
		if r := recover(); r != nil {
			out, err = nil, fmt.Errorf("the search failed: %v", r)
		}
	}()
	source := gozxing.NewLuminanceSourceFromImage(img)
	for _, binarizer := range []gozxing.Binarizer{gozxing.NewHybridBinarizer(source), gozxing.NewGlobalHistgramBinarizer(source)} {
		matrix, err := binarizer.GetBlackMatrix()
		if err != nil {
			continue
		}
		var grids []*gozxing.BitMatrix
		var found *common.DetectorResult
		found, err = detector.NewDetector(matrix).Detect(map[gozxing.DecodeHintType]any{gozxing.DecodeHintType_TRY_HARDER: true})
		if err == nil {
			grids = append(grids, found.GetBits())
		}
		if pure := pureGrid(matrix); pure != nil {
			grids = append(grids, pure)
		}
		for _, g := range grids {
			if r, err := decode.Matrix(g.GetWidth(), g.Get); err == nil {
				return []*decode.Result{r}, nil
			}
		}
	}
	return nil, nil
}

// pureGrid samples a picture that holds one upright, undistorted symbol and nothing else.
func pureGrid(m *gozxing.BitMatrix) *gozxing.BitMatrix {
	rect := m.GetEnclosingRectangle()
	if rect == nil || rect[2] < 21 || rect[3] < 21 {
		return nil
	}
	left, top, width, height := rect[0], rect[1], rect[2], rect[3]
	run := 0 // the outer ring of the finder pattern is seven modules long
	for run < width && m.Get(left+run, top) {
		run++
	}
	if run < 7 {
		return nil
	}
	module := float64(run) / 7
	n := (int(float64(width)/module+0.5)-17+2)/4*4 + 17
	if n < 21 || n > 177 {
		return nil
	}
	grid, err := gozxing.NewBitMatrix(n, n)
	if err != nil {
		return nil
	}
	for y := range n {
		for x := range n {
			if m.Get(left+int((float64(x)+0.5)*float64(width)/float64(n)), top+int((float64(y)+0.5)*float64(height)/float64(n))) {
				grid.Set(x, y)
			}
		}
	}
	return grid
}
