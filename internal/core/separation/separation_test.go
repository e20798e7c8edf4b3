package separation

import (
	"errors"
	"fmt"
	"image"
	"image/color"
	"math"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/scene"
)

func square(side float64, fill ink.Colour) scene.Item {
	return scene.Item{Path: scene.Rectangle(0, 0, side, side), At: scene.Unit, Fill: fill}
}

// TestSeparate: each ink lies on its own plate, what lies above knocks out what lies beneath, and figures are those of the areas.
func TestSeparate(t *testing.T) {
	spot, _ := ink.Typed("cmyk(84, 40, 70, 62)")
	spot.Spot = "Marrowby Pine"
	own, _ := ink.Typed("cmyk(0, 80, 100, 20)")
	s := &scene.Scene{Width: 10, Height: 10, Items: []scene.Item{square(10, own), square(5, spot), square(2, ink.Black)}}
	sheet, err := Separate(s, press.Conditions[0], &ink.White)
	if err != nil {
		t.Fatal(err)
	}
	if len(sheet.Plates) != 5 || sheet.Plates[4].Name != "Marrowby Pine" || !sheet.Plates[4].Spot ||
		sheet.Plates[4].Alternate != [4]float64{84, 40, 70, 62} {
		t.Fatalf("%+v", sheet.Plates)
	}
	planes, w, h, err := sheet.Raster(100)
	if err != nil || w != 100 || h != 100 {
		t.Fatal(w, h, err)
	}
	at := func(x, y int) (out [5]int) {
		for k := range planes {
			out[k] = int(math.Round(float64(planes[k][y*w+x]) / 2.55))
		}
		return out
	}
	for _, c := range []struct {
		x, y int
		want [5]int
	}{{80, 80, [5]int{0, 80, 100, 20, 0}}, {40, 40, [5]int{0, 0, 0, 0, 100}}, {10, 10, [5]int{0, 0, 0, 100, 0}}} {
		t.Run(fmt.Sprint(c.x), func(t *testing.T) {
			if got := at(c.x, c.y); got != c.want {
				t.Errorf("at %d, %d: %v, want %v", c.x, c.y, got, c.want)
			}
		})
	}
	f, err := sheet.Figures()
	if err != nil || math.Abs(f.Coverage[4]-21) > 0.5 || math.Abs(f.Coverage[1]-60) > 0.5 || math.Abs(f.Most-200) > 1 {
		t.Errorf("%+v, %v", f, err)
	}
	if !sheet.Used(1) || sheet.Used(0) {
		t.Error("cyan is used, or magenta is not")
	}
}

// TestShades: between the stops of a gradient inks look like what screens show there.
func TestShades(t *testing.T) {
	a, _ := ink.Parse("#12352b")
	b, _ := ink.Parse("#e9a820")
	c := press.Conditions[0]
	s := &scene.Scene{Width: 10, Height: 10,
		Items: []scene.Item{{Path: scene.Rectangle(0, 0, 10, 10), At: scene.Unit,
			Shade: &scene.Shade{X1: 10, Stops: []ink.Stop{{At: 0, Colour: a}, {At: 1, Colour: b}}}}}}
	sheet, err := Separate(s, c, nil)
	if err != nil {
		t.Fatal(err)
	}
	stops := sheet.Items[0].Stops
	if len(stops) < 3 || stops[0].At != 0 || stops[len(stops)-1].At != 1 {
		t.Fatalf("%d stops", len(stops))
	}
	worst := 0.0
	for i := range 100 {
		at := float64(i) / 100
		var inks [4]float64
		for k := 1; k < len(stops); k++ {
			if at <= stops[k].At {
				f := (at - stops[k-1].At) / (stops[k].At - stops[k-1].At)
				for j := range inks {
					inks[j] = stops[k-1].Shares[j]*(1-f) + stops[k].Shares[j]*f
				}
				break
			}
		}
		want := c.Separate(ink.Mix([]ink.Stop{{At: 0, Colour: a}, {At: 1, Colour: b}}, at))
		worst = max(worst, press.DeltaE(c.Lab(inks), c.Lab(want.CMYK)))
	}
	if worst > 2 {
		t.Errorf("%d stops, off by up to %.2f", len(stops), worst)
	}
}

// TestAlpha: what lets through is mixed with the paper, and refused where there is none; pixels that are not there leave no ink.
func TestAlpha(t *testing.T) {
	pixels := image.NewNRGBA(image.Rect(0, 0, 3, 1))
	pixels.Set(0, 0, color.NRGBA{0, 0, 0, 255})
	pixels.Set(1, 0, color.NRGBA{0, 0, 0, 128})
	picture := scene.NewPicture(pixels)
	picture.Width, picture.Height = 3, 1
	s := &scene.Scene{Width: 3, Height: 1, Items: []scene.Item{{Picture: picture, At: scene.Unit}}}
	if _, err := Separate(s, press.Conditions[0], nil); !errors.Is(err, ErrAlpha) {
		t.Errorf("without paper: %v", err)
	}
	sheet, err := Separate(s, press.Conditions[0], &ink.White)
	if err != nil {
		t.Fatal(err)
	}
	m := sheet.Items[0].Image
	if !m.Solid(0) || !m.Solid(1) || m.Solid(2) {
		t.Error("which pixels are there is lost")
	}
	if m.CMYK[3] != 255 || m.CMYK[0] != 0 || m.CMYK[7] == 0 || m.CMYK[7] > 200 {
		t.Errorf("inks %v", m.CMYK)
	}
	if _, err := Separate(&scene.Scene{Width: 1, Height: 1,
		Items: []scene.Item{{Path: scene.Rectangle(0, 0, 1, 1), At: scene.Unit, Fade: 0.5}}}, press.Conditions[0],
		nil); !errors.Is(err, ErrAlpha) {
		t.Errorf("faded without paper: %v", err)
	}
}
