package layout

import (
	"math/rand/v2"
	"testing"

	"sodrik/internal/core/look"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// loops takes a path apart.
func loops(p scene.Path) (out [][]scene.Point) {
	points := p.Points
	for _, op := range p.Ops {
		switch op {
		case scene.Move:
			out = append(out, points[:1:1])
			points = points[1:]
		case scene.Line:
			out[len(out)-1] = append(out[len(out)-1], points[0])
			points = points[1:]
		}
	}
	return out
}

// winding counts how often the outlines go around a point that lies on none of them.
func winding(all [][]scene.Point, x, y float64) (n int) {
	for _, l := range all {
		for i, a := range l {
			b := l[(i+1)%len(l)]
			if a.X == b.X && a.X > x && (a.Y < y) != (b.Y < y) {
				if b.Y > a.Y {
					n++
				} else {
					n--
				}
			}
		}
	}
	return n
}

func check(t *testing.T, n int, dark func(x, y int) bool) {
	t.Helper()
	p := Outline(n, dark)
	all := loops(p)
	type edge struct{ x, y, dx int }
	seen := map[edge]bool{}
	area := 0.0
	for _, l := range all {
		for i, a := range l {
			b := l[(i+1)%len(l)]
			if (a.X == b.X) == (a.Y == b.Y) {
				t.Fatalf("a side from %v to %v is not along an axis", a, b)
			}
			c := l[(i+2)%len(l)]
			if (a.X == b.X) == (b.X == c.X) {
				t.Fatalf("two sides in a row go the same way at %v", b)
			}
			area += (a.X*b.Y - b.X*a.Y) / 2
			for s := 0; s < int(abs(b.X-a.X)+abs(b.Y-a.Y)); s++ {
				e := edge{int(min(a.X, b.X)), int(min(a.Y, b.Y)), 0}
				if a.Y == b.Y {
					e.x, e.dx = e.x+s, 1
				} else {
					e.y += s
				}
				if seen[e] {
					t.Fatalf("a side at %v is walked twice: two outlines share it", e)
				}
				seen[e] = true
			}
		}
	}
	count := 0
	for y := range n {
		for x := range n {
			want := 0
			if dark(x, y) {
				want = 1
				count++
			}
			if got := winding(all, float64(x)+0.5, float64(y)+0.5); got != want {
				t.Fatalf("cell %d,%d is wound %d times, want %d", x, y, got, want)
			}
		}
	}
	if area != float64(count) {
		t.Fatalf("the outlines hold %g cells, dark are %d", area, count)
	}
}

func abs(f float64) float64 { return max(f, -f) }

func TestOutline(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for _, n := range []int{1, 2, 3, 5, 21, 40} {
		for _, share := range []float64{0, 0.1, 0.5, 0.9, 1} {
			cells := make([]bool, n*n)
			for i := range cells {
				cells[i] = rng.Float64() < share
			}
			check(t, n, func(x, y int) bool { return cells[y*n+x] })
		}
	}
	ring := func(x, y int) bool { return max(abs(float64(x-3)), abs(float64(y-3))) != 2 }
	check(t, 7, ring)
	if got := len(loops(Outline(7, ring))); got != 3 {
		t.Errorf("a finder pattern has %d outlines, want ring, hole and core", got)
	}
	if got := len(loops(Outline(2, func(x, y int) bool { return x == y }))); got != 2 {
		t.Errorf("cells that touch at a corner make %d outlines, want 2", got)
	}
}

func FuzzOutline(f *testing.F) {
	f.Add(uint8(4), []byte{0x5A, 0xA5})
	f.Fuzz(func(t *testing.T, size uint8, cells []byte) {
		n := int(size%24) + 1
		check(t, n, func(x, y int) bool {
			i := y*n + x
			return i/8 < len(cells) && cells[i/8]>>(i%8)&1 == 1
		})
	})
}

func TestDraw(t *testing.T) {
	s, err := symbol.Encode("https://marrowby.example/fair", symbol.Options{})
	if err != nil {
		t.Fatal(err)
	}
	l := look.Default()
	sc := Draw(s, l, 4, 160, nil)
	if len(sc.Items) != 2 || sc.Width != 160 || sc.Height != 160 {
		t.Fatalf("%+v", sc)
	}
	unit := 160 / float64(s.Size+8)
	if at := sc.Items[1].At; at.A != unit || at.X != 4*unit || at.Y != 4*unit {
		t.Errorf("modules lie at %+v", at)
	}
	if sc = Draw(s, l, 4, 0, nil); sc.Width != float64(s.Size+8) {
		t.Errorf("without a width it is %g mm", sc.Width)
	}
	l.Paper.None = true
	if sc = Draw(s, l, 0, 50, nil); len(sc.Items) != 1 || sc.Items[0].At.X != 0 {
		t.Errorf("without paper and quiet zone: %d items at %+v", len(sc.Items), sc.Items[0].At)
	}
}

func BenchmarkOutline(b *testing.B) {
	s, err := symbol.Encode("https://marrowby.example/fair?utm_source=gate", symbol.Options{})
	if err != nil {
		b.Fatal(err)
	}
	b.ReportAllocs()
	for b.Loop() {
		Outline(s.Size, s.Dark)
	}
}
