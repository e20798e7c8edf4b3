package compose

import (
	"fmt"
	"image"
	"math"
	"strings"
	"testing"

	"sodrik/internal/core/optics"
)

// runs are how wide dark and light are along the row through the middle of the top left eye, in modules, as others draw it.
func runs(img image.Image, modules int) (out []float64) {
	per := float64(img.Bounds().Dx()) / float64(modules)
	y := int(7.5 * per)
	row := func(x int) float64 { return float64(at(img, x, y).G) / 255 }
	edge, dark := 0.0, false
	for x := int(2 * per); x < int(12*per) && len(out) < 6; x++ {
		a, b := row(x), row(x+1)
		if (a > 0.5) == (b > 0.5) {
			continue
		}
		now := float64(x) + (a-0.5)/(a-b)
		if dark || len(out) > 0 {
			out = append(out, (now-edge)/per)
		}
		edge, dark = now, true
	}
	return out
}

// TestReduction: dark parts lose what they are told to, in files as other programs draw them, whatever the form; not on
// screens, and not more than a third of a module. Where ink gains as much, the picture is that of a code without either.
func TestReduction(t *testing.T) {
	const job = `{"content":{"kind":"url","url":"https://marrowby.example/fair"},"look":{%s},"output":{"reduction_mm":%g},"placements":[{"name":"gate","width_mm":%g,"distance_mm":400,"substrate":%q}]}`
	made := func(look string, mm, width float64, substrate string) *Rendition {
		m, problems := Parse([]byte(fmt.Sprintf(job, look, mm, width, substrate)), nil)
		if len(problems) > 0 {
			t.Fatal(look, problems)
		}
		return m
	}
	n := float64(made("", 0, 33, "coated").Modules())
	for _, look := range []string{"", `"modules":{"join":"rows","corner":1}`,
		`"modules":{"corner":1,"scale":0.9},"eyes":{"ring":{"corners":[0.4,0.4,0.4,0.4],"ink":"#5b1f33"}}`, `"outline":"round"`} {
		t.Run(look, func(t *testing.T) {
			m := made(look, 0.2, n, "coated") // a millimetre a module
			if m.round(m.Place(0)) {
				a, b := m.Framed(m.Place(0)).Scene, made(look, 0, n, "coated").Framed(m.Place(0)).Scene
				if a.Items[1].Name != "filling" || a.Items[1].Path.Points[0] == b.Items[1].Path.Points[0] {
					t.Error("what fills a disc out keeps its width")
				}
				return
			}
			for format, img := range drawnOutside(t, m, look) {
				got := runs(img, m.Modules())
				for i, want := range []float64{0.8, 1.2, 2.8, 1.2, 0.8} {
					if i >= len(got) || math.Abs(got[i]-want) > 0.03 {
						t.Errorf("%q as %s: %.2f modules, want 0.8 1.2 2.8 1.2 0.8", look, format, got)
						break
					}
				}
			}
		})
	}
	for substrate, want := range map[string]bool{"coated": true, "screen": false} {
		t.Run(substrate, func(t *testing.T) {
			if note := Note(made("", 0.2, n, substrate), "Gate", 1, "26 November 2026", nil, nil); strings.Contains(note,
				"Bar width reduction: 0.2 mm") != want {
				t.Errorf("%s: the printer is told %q", substrate, note)
			}
		})
	}
	if m := made("", 0.2, n, "screen"); m.bare(m.Place(0)).Items[1].Path.Points[0] != m.drawn(m.Place(0)).
		Items[1].Path.Points[0] {
		t.Error("a screen gains nothing, and loses all the same")
	}
	if _, problems := Parse([]byte(fmt.Sprintf(job, "", 0.3, 20.0, "coated")), nil); len(problems) != 1 ||
		problems[0].Field != "/output/reduction_mm" {
		t.Errorf("half a module: %v", problems)
	}

	picture := func(reduction, gain float64) *image.Gray {
		in, err := made("", reduction, 33, "coated").Proof(0)
		if err != nil {
			t.Fatal(err)
		}
		img, err := optics.Expose(in.Scene, 1, optics.Setup{Camera: optics.Phone, Distance: 300, Gain: gain, Seed: 3})
		if err != nil {
			t.Fatal(err)
		}
		return img
	}
	differ := func(a, b *image.Gray) (sum float64) {
		for i := range a.Pix {
			sum += math.Abs(float64(a.Pix[i]) - float64(b.Pix[i]))
		}
		return sum / float64(len(a.Pix))
	}
	plain, fat, mended := picture(0, 0), picture(0, 0.08), picture(0.16, 0.08)
	if d, was := differ(plain, mended), differ(plain, fat); d > was/3 {
		t.Errorf("ink gained and taken off differs by %.2f of 255, and by %.2f where none was", d, was)
	}
}
