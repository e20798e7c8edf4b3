package readers

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/look"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
)

// TestFrames: in every frame, dark ink on light paper and filled ones included, every reader reads the PNG as it is handed over, which has whole
// pixels a module; and the proof shows them the code in its frame.
func TestFrames(t *testing.T) {
	for i, shape := range look.Frames {
		m, problems := compose.Parse([]byte(fmt.Sprintf(`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":"#12352b","paper":"#f6f0e2","frame":{"shape":%q,"text":"Scan for the fair"}},"placements":[{"name":"a","width_mm":%d,"distance_mm":600}]}`, shape, 70+i)), nil)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		file, problems := m.File("png", m.Place(0), export.Meta{})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		img, err := png.Decode(bytes.NewReader(file))
		if err != nil {
			t.Fatal(err)
		}
		found := Symbols(img)
		if len(found) != 1 || found[0].Payload != m.Payload {
			t.Fatalf("%s: %d symbols", shape, len(found))
		}
		wide := found[0].Corners[1][0] - found[0].Corners[0][0]
		if per := wide / float64(m.Symbol.Size); per < 4 || wide < 0.5*float64(img.Bounds().Dx())*0.7 && shape != "circle" {
			t.Errorf("%s: %.2f pixels a module in %d", shape, per, img.Bounds().Dx())
		}
		in, err := m.Proof(0)
		if err != nil {
			t.Fatal(err)
		}
		c, ok := proof.ConditionOf(in, "framed")
		if !ok {
			t.Fatalf("%s: the proof does not look at it in its frame", shape)
		}
		shown, err := proof.Picture(in, c)
		if err != nil {
			t.Fatal(err)
		}
		grey := image.NewGray(img.Bounds())
		for y := range grey.Rect.Dy() {
			for x := range grey.Rect.Dx() {
				grey.Set(x, y, img.At(x, y))
			}
		}
		for _, r := range panel(t) {
			for k, a := range r.Read(t.Context(), []*image.Gray{grey, shown}) {
				if len(a.Payloads) != 1 || a.Payloads[0] != m.Payload {
					t.Errorf("%s, picture %d: %s reads %q %v", shape, k, r.Name(), a.Payloads, a.Err)
				}
			}
		}
	}
	plain, _ := compose.Parse([]byte(`{"content":{"kind":"text","text":"a"}}`), nil)
	var none *place.Placement
	if f := plain.Framed(none); f.Left != 0 || f.Scene.Width != plain.Unframed(none).Width {
		t.Error("a code without frame has one")
	}
}
