package scene

import (
	"math"
	"testing"
)

func near(a, b Point) bool { return math.Hypot(a.X-b.X, a.Y-b.Y) < 1e-9 }

// TestTransform: y points down, so that a turn by 90° clockwise takes what lies to the right below; what comes after, comes
// after.
func TestTransform(t *testing.T) {
	mirror := Transform{A: -1, D: 1}
	shear := Transform{A: 1, C: 0.5, D: 1}
	for _, c := range []struct {
		name     string
		t        Transform
		from, to Point
		size     float64
		upright  bool
	}{
		{"nothing", Unit, Point{3, 4}, Point{3, 4}, 1, true},
		{"scale, then move", At(2, 10, 20), Point{3, 4}, Point{16, 28}, 2, true},
		{"a quarter", Turn(90, 0, 0), Point{1, 0}, Point{0, 1}, 1, false},
		{"a quarter about a point", Turn(90, 10, 10), Point{11, 10}, Point{10, 11}, 1, false},
		{"half a turn", Turn(180, 5, 5), Point{0, 0}, Point{10, 10}, 1, false},
		{"30°", Turn(30, 0, 0), Point{2, 0}, Point{math.Sqrt(3), 1}, 1, false},
		{"move, then turn", At(1, 5, 0).Then(Turn(90, 0, 0)), Point{0, 0}, Point{0, 5}, 1, false},
		{"turn, then move", Turn(90, 0, 0).Then(At(1, 5, 0)), Point{1, 0}, Point{5, 1}, 1, false},
		{"scale, turn, scale", At(2, 0, 0).Then(Turn(90, 0, 0)).Then(At(3, 1, 1)), Point{1, 0}, Point{1, 7}, 6, false},
		{"mirrored", mirror, Point{3, 4}, Point{-3, 4}, 1, false},
		{"sheared", shear, Point{1, 2}, Point{2, 2}, 1, false},
		{"wider than high", Transform{A: 4, D: 9}, Point{1, 1}, Point{4, 9}, 6, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := c.t.Point(c.from); !near(got, c.to) {
				t.Errorf("%v comes to lie at %v, want %v", c.from, got, c.to)
			}
			if got := c.t.Size(); math.Abs(got-c.size) > 1e-9 || c.t.Upright() != c.upright {
				t.Errorf("size %g, upright %v", got, c.t.Upright())
			}
			back, ok := c.t.Back()
			if !ok || !near(back.Point(c.t.Point(c.from)), c.from) || !near(c.t.Then(back).Point(Point{7, -2}), Point{7, -2}) {
				t.Errorf("the way back leads to %v", back.Point(c.t.Point(c.from)))
			}
		})
	}
	if _, ok := (Transform{A: 1, B: 2, C: 2, D: 4}).Back(); ok {
		t.Error("from a line there is a way back")
	}
	if (Transform{}).Upright() || At(-1, 0, 0).Upright() {
		t.Error("nothing, or upside down, counts as upright")
	}
	items := Transformed([]Item{{At: At(2, 1, 1)}}, Turn(90, 0, 0))
	if got := items[0].At.Point(Point{1, 0}); !near(got, Point{-1, 3}) {
		t.Errorf("an item comes to lie at %v", got)
	}
}
