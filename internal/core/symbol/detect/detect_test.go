package detect

import (
	"fmt"
	"image"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/optics"
	"sodrik/internal/core/symbol"
)

// seen takes a picture of a payload of a version, per pixels a module, under a setup.
func seen(t testing.TB, payload string, version int, per float64, c optics.Setup) *image.Gray {
	t.Helper()
	s, err := symbol.Encode(payload, symbol.Options{MinVersion: version, Level: symbol.M, NoBoost: true})
	if err != nil {
		t.Fatal(err)
	}
	sc := layout.Draw(s, look.Default(), 4, 0, nil)
	c.Camera = optics.Phone
	c.Camera.Lines = 4000
	if c.Distance == 0 {
		c.Distance = 10 * sc.Width
	}
	c.Camera.Focal = per * c.Distance
	if c.Radius != 0 {
		c.Radius *= sc.Width
	}
	img, err := optics.Expose(sc, 1, c)
	if err != nil {
		t.Fatal(err)
	}
	return img
}

// TestFind: every sort of version is found upright, turned, askew, from near and around a bottle.
func TestFind(t *testing.T) {
	const payload = "https://marrowby.example/fair"
	for _, v := range []int{3, 7, 14, 32, 40} {
		for _, c := range []struct {
			name string
			per  float64
			c    optics.Setup
		}{
			{"upright", 3, optics.Setup{}},
			{"2.3 pixels a module", 2.3, optics.Setup{Turn: 2, ShiftX: 0.4}},
			{"turned", 4, optics.Setup{Turn: 33}},
			{"upside down", 3, optics.Setup{Turn: 181}},
			{"askew", 5, optics.Setup{TiltX: 40, TiltY: 12, Turn: 9}},
			{"from near", 5, optics.Setup{TiltX: 15, TiltY: 20, Distance: 2.2 * float64(25+4*v)}},
			{"around a bottle", 5, optics.Setup{Radius: 0.9}},
			{"in a shadow", 4, optics.Setup{Shade: 0.6, Uneven: 0.3}},
		} {
			t.Run(c.name, func(t *testing.T) {
				if v == 40 && c.name != "upright" && c.name != "askew" { // as much of it as time allows
					return
				}
				c.c.Seed = uint64(v)
				if c.c.Radius > 0 && v > 14 {
					c.c.Radius = 2.5 // as much of a bow in modules
				}
				img := seen(t, payload, v, c.per, c.c)
				found := Find(img, 1)
				if len(found) != 1 || found[0].Payload != payload || found[0].Version != v {
					t.Errorf("version %d %s (%v): %d found", v, c.name, img.Rect.Size(), len(found))
				}
			})
		}
	}
}

// TestCorners: the corners lie where the symbol is drawn.
func TestCorners(t *testing.T) {
	img := seen(t, "https://marrowby.example", 2, 8, optics.Setup{})
	f, _ := Photo(t.Context(), img, Thorough)
	if len(f) != 1 {
		t.Fatal("nothing found")
	}
	side := 25 * 8.0
	for i, want := range [4][2]float64{{-side / 2, -side / 2}, {side / 2, -side / 2}, {side / 2, side / 2},
		{-side / 2, side / 2}} {
		middle := [2]float64{float64(img.Rect.Dx()) / 2, float64(img.Rect.Dy()) / 2}
		got := f[0].Corners[i]
		if math.Hypot(got[0]-middle[0]-want[0], got[1]-middle[1]-want[1]) > 1.5 {
			t.Errorf("corner %d at %.1f, want %.1f from the middle %.1f", i, got, want, middle)
		}
	}
}

// TestPhoto: several symbols in one picture, one of them light on dark.
func TestPhoto(t *testing.T) {
	page := image.NewGray(image.Rect(0, 0, 1400, 1000))
	for i := range page.Pix {
		page.Pix[i] = 200
	}
	for i := range 6 {
		img := seen(t, fmt.Sprintf("https://marrowby.example/bed/%d", i), 2+i, 4, optics.Setup{Turn: float64(40 * i), TiltX: 10})
		if i == 5 {
			img = Inverse(img)
		}
		at := image.Pt(20+i%3*440, 20+i/3*480)
		for y := range img.Rect.Dy() {
			copy(page.Pix[page.PixOffset(at.X, at.Y+y):], img.Pix[y*img.Stride:][:img.Rect.Dx()])
		}
	}
	found, _ := Photo(t.Context(), page, Thorough)
	all := ""
	for _, f := range found {
		all += fmt.Sprint(f.Payload[len("https://marrowby.example/bed/"):], f.Inverted, " ")
	}
	for _, want := range []string{"0false", "1false", "2false", "3false", "4false", "5true"} {
		t.Run(want, func(t *testing.T) {
			if !strings.Contains(all, want) {
				t.Errorf("%s is not among %s", want, all)
			}
		})
	}
	if len(found) != 6 {
		t.Errorf("%d found", len(found))
	}
}

// TestNothing: noise, stripes and a lone finder pattern hold no symbol and no panic.
func TestNothing(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	for name, at := range map[string]func(x, y int) uint8{
		"noise":   func(x, y int) uint8 { return uint8(rng.IntN(256)) },
		"stripes": func(x, y int) uint8 { return uint8(x / 5 % 2 * 255) },
		"white":   func(x, y int) uint8 { return 255 },
		"checks":  func(x, y int) uint8 { return uint8((x/4 + y/4) % 2 * 255) },
		"rings":   func(x, y int) uint8 { return uint8(max(max(x-50, 50-x), max(y-50, 50-y)) / 7 % 2 * 255) },
	} {
		t.Run(name, func(t *testing.T) {
			img := image.NewGray(image.Rect(0, 0, 160, 120))
			for y := range 120 {
				for x := range 160 {
					img.Pix[y*img.Stride+x] = at(x, y)
				}
			}
			if f, _ := Photo(t.Context(), img, Thorough); len(f) != 0 {
				t.Errorf("%s: %d found", name, len(f))
			}
		})
	}
	if f := Find(image.NewGray(image.Rect(0, 0, 3, 3)), 1); len(f) != 0 {
		t.Error("three pixels hold a symbol")
	}
}

func BenchmarkFind(b *testing.B) {
	img := seen(b, "https://marrowby.example/fair", 4, 3, optics.Setup{TiltX: 10, Turn: 4})
	b.SetBytes(int64(len(img.Pix)))
	for b.Loop() {
		if len(Find(img, 1)) != 1 {
			b.Fatal("not found")
		}
	}
}

// TestTexture: in a picture so full of blocks that not every candidate is looked at, codes are found all the same, dark on
// light and light on dark; with a quarter as many blocks nothing is left out.
func TestTexture(t *testing.T) {
	texture := func(width, height int) *image.Gray {
		img := image.NewGray(image.Rect(0, 0, width, height))
		rng := rand.New(rand.NewPCG(3, 3))
		for y := 0; y < height; y += 2 {
			for x := 0; x < width; x += 2 {
				v := uint8(255 * rng.IntN(2))
				for i := range 4 {
					if x+i%2 < width && y+i/2 < height {
						img.Pix[(y+i/2)*img.Stride+x+i%2] = v
					}
				}
			}
		}
		return img
	}
	symbol := seen(t, "https://marrowby.example/gravel", 3, 6, optics.Setup{Turn: 7})
	for _, c := range []struct {
		name          string
		width, height int
		symbol        *image.Gray
		found         int
		crowded       bool
	}{{"none, large", 2000, 1500, nil, 0, true}, {"none, small", 1000, 750, nil, 0, false}, {"dark", 2000, 1500, symbol, 1, true},
		{"light", 2000, 1500, Inverse(symbol), 1, true}} {
		t.Run(c.name, func(t *testing.T) {
			img := texture(c.width, c.height)
			if c.symbol != nil {
				for y := range c.symbol.Rect.Dy() {
					copy(img.Pix[img.PixOffset(700, 500+y):], c.symbol.Pix[y*c.symbol.Stride:][:c.symbol.Rect.Dx()])
				}
			}
			found, crowded := Photo(t.Context(), img, Thorough)
			if len(found) != c.found || crowded != c.crowded {
				t.Errorf("%s: %d found, crowded %v", c.name, len(found), crowded)
			}
		})
	}
}
