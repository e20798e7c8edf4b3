package proof_test

import (
	"fmt"
	"image"
	"testing"

	"sodrik/internal/core/proof"
	"sodrik/internal/core/symbol/detect"
)

// TestRoundTile: a code in a round avatar is looked at on a light page and on a dark one; what lies beyond the disc is the
// page in either, and a disc that takes the eyes away is not read. Elsewhere there are no tiles.
func TestRoundTile(t *testing.T) {
	at := func(width float64) proof.Input {
		return input(t, placed(fmt.Sprintf(`"medium":"avatar","width_mm":%g`, width)))
	}
	for _, c := range []struct {
		width float64
		read  bool
	}{{26, true}, {29, true}, {54, false}} {
		t.Run(fmt.Sprint(c.width), func(t *testing.T) { // of 42 mm, whose largest square is 29.7
			in := at(c.width)
			for key, shade := range map[string][2]uint8{"tile": {170, 255}, "tile-dark": {0, 60}} {
				condition, ok := proof.ConditionOf(in, key)
				if !ok || condition.Stage != proof.Ordinary {
					t.Fatalf("%s is no ordinary condition of an avatar", key)
				}
				img, err := proof.Picture(in, condition)
				if err != nil {
					t.Fatal(err)
				}
				for _, p := range []image.Point{{3, 3}, {img.Rect.Dx() - 4, 3}, {3, img.Rect.Dy() - 4},
					{img.Rect.Dx() - 4, img.Rect.Dy() - 4}} {
					if y := img.GrayAt(p.X, p.Y).Y; y < shade[0] || y > shade[1] {
						t.Errorf("%s: shade %d at the corner %v, want %v", key, y, p, shade)
					}
				}
				found := detect.Find(img, 1)
				if read := len(found) == 1 && found[0].Payload == in.Payload; read != c.read {
					t.Errorf("%s, %g mm wide: read %v, want %v", key, c.width, read, c.read)
				}
			}
		})
	}
	if _, ok := proof.ConditionOf(input(t, placed(`"medium":"story"`)), "tile"); ok {
		t.Error("a story is no tile")
	}
}
