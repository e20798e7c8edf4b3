package raster_test

import (
	"image/color"
	"math"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/raster"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// TestModuleEdges: at whole pixels a module, every pixel has exactly the colour of ink or paper.
func TestModuleEdges(t *testing.T) {
	for v := 1; v <= 40; v += 13 {
		s, err := symbol.Encode("https://m.example", symbol.Options{MinVersion: v})
		if err != nil {
			t.Fatal(err)
		}
		l := look.Look{Ink: ink.Colour{R: 0x12, G: 0x35, B: 0x2b},
			Paper: look.Paper{Colour: ink.Colour{R: 0xf6, G: 0xf0, B: 0xe2}}}
		for _, per := range []int{1, 3, 7} {
			modules := layout.Modules(s, 4)
			sc := layout.Draw(s, l, 4, 160, nil)
			img, err := raster.Draw(sc, raster.Fit(sc, modules*per))
			if err != nil {
				t.Fatal(err)
			}
			for y := range modules * per {
				for x := range modules * per {
					want := l.Paper.Colour
					if s.Dark(x/per-4, y/per-4) {
						want = l.Ink
					}
					if got := img.NRGBAAt(x, y); got != (color.NRGBA{want.R, want.G, want.B, 255}) {
						t.Fatalf("version %d, %d pixels a module: pixel %d,%d is %v, want %v", s.Version, per, x, y, got, want)
					}
				}
			}
		}
	}
}

func TestCoverageInLinearLight(t *testing.T) {
	// A black half over a white pixel reflects half of the light, which is 188 of 255 in sRGB.
	s := &scene.Scene{Width: 1, Height: 1,
		Items: []scene.Item{{Path: scene.Rectangle(0, 0, 0.5, 1), At: scene.Unit, Fill: ink.Black}}}
	y, err := raster.Luminance(s, raster.Fit(s, 1), 1)
	if err != nil || math.Abs(y[0]-0.5) > 0.005 {
		t.Fatalf("%v %v", y, err)
	}
	if g := raster.Gray(y, 1).Pix[0]; g < 187 || g > 189 {
		t.Errorf("stored as %d", g)
	}
}

func TestTransparentAndCurves(t *testing.T) {
	var circle scene.Path // of four arcs, radius 1 around 1,1
	const k = 0.5522847498
	circle.MoveTo(2, 1)
	circle.CubicTo(2, 1+k, 1+k, 2, 1, 2)
	circle.CubicTo(1-k, 2, 0, 1+k, 0, 1)
	circle.CubicTo(0, 1-k, 1-k, 0, 1, 0)
	circle.CubicTo(1+k, 0, 2, 1-k, 2, 1)
	circle.Close()
	s := &scene.Scene{Width: 2, Height: 2, Items: []scene.Item{{Path: circle, At: scene.Unit, Fill: ink.Colour{R: 200}}}}
	img, err := raster.Draw(s, raster.Fit(s, 200))
	if err != nil {
		t.Fatal(err)
	}
	sum := 0.0
	for i := 3; i < len(img.Pix); i += 4 {
		sum += float64(img.Pix[i]) / 255
	}
	// Curves are flattened from within, which loses a little less than a fifth of a percent.
	if want := math.Pi * 100 * 100; math.Abs(sum-want)/want > 0.0025 {
		t.Errorf("the disc covers %g pixels, want %g", sum, want)
	}
	if c := img.NRGBAAt(0, 0); c.A != 0 {
		t.Errorf("the corner is %v, not transparent", c)
	}
	if c := img.NRGBAAt(100, 100); c != (color.NRGBA{200, 0, 0, 255}) {
		t.Errorf("the middle is %v", c)
	}
}

func TestBounds(t *testing.T) {
	s := &scene.Scene{Width: 1, Height: 1}
	for _, v := range []raster.View{{}, {Width: 1}, {Width: 12001, Height: 12001}, {Width: -1, Height: 5},
		{Width: math.MaxInt, Height: math.MaxInt}} {
		if _, err := raster.Draw(s, v); err == nil {
			t.Errorf("%+v was drawn", v)
		}
		if _, err := raster.Luminance(s, v, 1); err == nil {
			t.Errorf("%+v was drawn", v)
		}
	}
}

// TestThrough: what shows through something faded is mixed as the pixels of a file are, so that a proof sees what is printed.
func TestThrough(t *testing.T) {
	for _, fade := range []float64{0, 0.25, 0.5, 0.8} {
		s := &scene.Scene{Width: 4, Height: 4, Items: []scene.Item{
			{Path: scene.Rectangle(0, 0, 4, 4), At: scene.Unit, Fill: ink.Colour{R: 0xf6, G: 0xf6, B: 0xf6}},
			{Path: scene.Rectangle(0, 0, 4, 4), At: scene.Unit, Fill: ink.Colour{R: 0x20, G: 0x20, B: 0x20}, Fade: fade},
		}}
		v := raster.View{Width: 4, Height: 4, Scale: 1}
		light, err := raster.Luminance(s, v, 1)
		if err != nil {
			t.Fatal(err)
		}
		file, err := raster.Draw(s, v)
		if err != nil {
			t.Fatal(err)
		}
		r, g, b, _ := file.At(2, 2).RGBA()
		want := ink.Colour{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(b >> 8)}.Luminance()
		if got := light[2*4+2]; math.Abs(got-want) > 0.01 {
			t.Errorf("faded by %g: %.3f of the light, and %.3f in the file", fade, got, want)
		}
	}
}
