package readers

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"strings"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/core/look"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
)

// TestFrames: in every frame, dark ink on light paper and filled ones included, every reader reads the PNG as it is handed
// over, which has whole pixels a module; and the proof shows them the code in its frame.
func TestFrames(t *testing.T) {
	for i, shape := range look.Frames {
		m,
			problems := compose.Parse(
			[]byte(
				fmt.Sprintf(
					`{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{"ink":"#12352b","paper":"#f6f0e2","frame":{"shape":%q,"text":"Scan for the fair"}},"output":{"dpi":150},"placements":[{"name":"a","width_mm":%d,"distance_mm":600}]}`, shape, 70+i)), nil)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		file, problems := m.File(compose.MustFormat("png"), m.Place(0), export.Meta{})
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

// TestDiscsAndBackdrops: a disc filled out, a picture beneath and a halftone, in files as they are handed over, are read by
// every family; and the proof shows a disc to them.
func TestDiscsAndBackdrops(t *testing.T) {
	for _, wears := range []string{
		`"outline":"round"`,
		`"outline":"round","ink":{"kind":"radial","stops":[{"colour":"#12352b"},{"colour":"#5b1f33"}]},"modules":{"join":"rows","corner":1}`,
		`"outline":"round","paper":"none","modules":{"join":"none","motif":"disc","scale":0.9}`,
		`"caption":{"text":"marrowby.example/fair"}`,
		`"outline":"round","caption":{"text":"Σπόροι","side":"above","font":"noto-sans"}`,
		`"frame":{"shape":"packet","text":"See it grow","ink":{"kind":"linear","stops":[{"colour":"#5a2d0c"},{"colour":"#12352b"}]}},"caption":{"text":"marrowby.example"}`,
		`"backdrop":{"source":"icon:flower"}`,
		`"backdrop":{"source":"icon:flower","mode":"halftone"}`,
		`"outline":"round","backdrop":{"source":"icon:leaf","mode":"halftone","strength":0.5},"mark":{"source":"icon:sprout","width":0.16}`,
	} {
		t.Run(wears, func(t *testing.T) {
			for _, address := range []string{"https://marrowby.example/fair",
				"https://marrowby.example/garden/map?bed=14&gate=north"} {
				m,
					problems := compose.Parse(
					[]byte(
						fmt.Sprintf(
							`{"content":{"kind":"url","url":%q},"symbol":{"level":"Q"},"look":{%s},"placements":[{"name":"a","width_mm":60,"distance_mm":300,"background":"#ffffff"}]}`, address, wears)), nil)
				if len(problems) > 0 {
					t.Fatal(problems)
				}
				file, problems := m.File(compose.MustFormat("png"), m.Place(0), export.Meta{})
				if len(problems) > 0 {
					t.Fatal(problems)
				}
				img, err := png.Decode(bytes.NewReader(file))
				if err != nil {
					t.Fatal(err)
				}
				grey := image.NewGray(img.Bounds())
				draw.Draw(grey, grey.Rect, image.White, image.Point{}, draw.Src)
				draw.Draw(grey, grey.Rect, img, image.Point{}, draw.Over)
				read := map[string]bool{}
				for _, r := range panel(t) {
					if a := r.Read(t.Context(), []*image.Gray{grey})[0]; len(a.Payloads) == 1 && a.Payloads[0] == m.Payload {
						read[r.Family()] = true
					} else if len(a.Payloads) > 0 {
						t.Errorf("%s: %s reads %q", wears, r.Name(), a.Payloads)
					}
				}
				if len(read) != len(Families) {
					t.Errorf("%s: read by %v only", wears, read)
				}
				in, err := m.Proof(0)
				if err != nil {
					t.Fatal(err)
				}
				if _, ok := proof.ConditionOf(in, "framed"); ok != (strings.Contains(wears, "round") ||
					strings.Contains(wears, "caption")) {
					t.Errorf("%s: shown with what is around it: %v", wears, ok)
				}
			}
		})
	}
}
