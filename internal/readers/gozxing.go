package readers

import (
	"image"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"

	"sodrik/internal/core/proof"
)

// Gozxing looks for one symbol: with a threshold for each part of the picture, then with one for the whole, which large modules
// in pale ink need, and at last taking the picture to hold nothing else, as some perfect pictures of large versions are
// missed otherwise.
func Gozxing() proof.Reader { return inside{"gozxing", "zxing", lookWithGozxing} }

func lookWithGozxing(img *image.Gray) ([]string, []int, error) {
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
			return nil, nil, err
		}
		hints := map[gozxing.DecodeHintType]any{try.hint: true, gozxing.DecodeHintType_CHARACTER_SET: "UTF-8"}
		if r, err := qrcode.NewQRCodeReader().Decode(bitmap, hints); err == nil {
			return []string{r.GetText()}, nil, nil
		}
	}
	return nil, nil, nil
}
