package layout

import (
	"math"
	"testing"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// TestFilling: what fills a disc out keeps out of the quiet zone and inside the circle, takes about half of what is left,
// differs by seed, and has nowhere the proportions by which readers look for a symbol.
func TestFilling(t *testing.T) {
	for _, n := range []int{29, 33, 41, 77, 185} {
		for seed := range uint64(40) {
			dark := Filling(n, seed)
			m := RoundMargin(n)
			side := n + 2*m
			count, room := 0, 0
			for y := range side {
				for x := range side {
					far := math.Hypot(math.Abs(float64(x)+0.5-float64(side)/2)+0.5, math.Abs(float64(y)+0.5-float64(side)/2)+0.5)
					outside := x < m || y < m || x >= m+n || y >= m+n
					if outside && far <= float64(n)/math.Sqrt2 {
						room++
					}
					if !dark(x, y) {
						continue
					}
					count++
					if !outside || far > float64(n)/math.Sqrt2 {
						t.Fatalf("%d, seed %d: a module at %d, %d", n, seed, x, y)
					}
				}
			}
			if share := float64(count) / float64(room); share < 0.3 || share > 0.6 {
				t.Errorf("%d, seed %d: %.2f of the room is dark", n, seed, share)
			}
			for a := range side {
				for _, at := range []func(b int) bool{func(b int) bool { return dark(b, a) }, func(b int) bool {
					return dark(a, b)
				}} {
					for b := 0; b+7 <= side; b++ { // the exact pattern, one module a unit
						if at(b) && !at(b+1) && at(b+2) && at(b+3) && at(b+4) && !at(b+5) && at(b+6) && (b == 0 || !at(b-1)) &&
							(b+7 == side || !at(b+7)) {
							t.Errorf("%d, seed %d: a line like a finder pattern at %d", n, seed, a)
						}
					}
				}
			}
		}
	}
	one, two := Filling(41, 1), Filling(41, 2)
	same := true
	for i := range 41 * 41 {
		same = same && one(i%41, i/41) == two(i%41, i/41)
	}
	if same {
		t.Error("two seeds make the same disc")
	}
}

// TestHalftone: whatever the picture and its strength, function patterns are whole and the middle of every module is its own.
func TestHalftone(t *testing.T) {
	s, err := symbol.Encode("https://marrowby.example/fair", symbol.Options{Level: symbol.Q})
	if err != nil {
		t.Fatal(err)
	}
	art, ok := artwork.Icon("flower")
	if !ok {
		t.Fatal("no flower")
	}
	for _, strength := range []float64{0, 0.3, 0.6, 1} {
		g, err := Lay(s.Size, look.Backdrop{Source: "icon:flower", Mode: "halftone", Strength: strength}, art)
		if err != nil {
			t.Fatal(err)
		}
		dark := func(x, y int) bool { return s.Dark(x, y) && s.Role(x, y) != symbol.RoleFinder }
		path := g.halftone(s, dark, func(int, int) bool { return true })
		if strength == 0 {
			if plain := Outline(s.Size, dark); math.Abs(scene.Area(path.Polygons(1))-scene.Area(plain.Polygons(1))) > 1e-6 {
				t.Errorf("without strength it covers %.3f, the modules %.3f", scene.Area(path.Polygons(1)),
					scene.Area(plain.Polygons(1)))
			}
		}
		whole, shape := 0, path.Polygons(1)
		for y := range s.Size {
			for x := range s.Size {
				n := 0
				for part := range 9 {
					px, py := float64(x)+(float64(part%3)+0.5)/3, float64(y)+(float64(part/3)+0.5)/3
					is := scene.Turns(shape, px, py) != 0
					if is {
						n++
					}
					if part == 4 && is != dark(x, y) {
						t.Fatalf("strength %g: the middle of %d, %d is not its own", strength, x, y)
					}
				}
				if s.Role(x, y).Function() && n != 0 && n != 9 {
					t.Errorf("strength %g: the function module %d, %d is cut", strength, x, y)
				}
				if n == 0 || n == 9 {
					whole++
				}
			}
		}
		if strength == 1 && whole > s.Size*s.Size*4/5 {
			t.Errorf("hardly anything follows the picture: %d of %d modules are whole", whole, s.Size*s.Size)
		}
	}
}
