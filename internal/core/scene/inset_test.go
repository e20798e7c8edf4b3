package scene

import (
	"math"
	"testing"
)

// area is that which a path fills, its rings counted by their winding.
func area(p Path) (sum float64) {
	for _, r := range p.rings() {
		s := 0.0
		for i, a := range r.flat {
			b := r.flat[(i+1)%len(r.flat)]
			s += a.X*b.Y - b.X*a.Y
		}
		sum += s / 2
	}
	return math.Abs(sum)
}

// backwards goes around the other way.
func backwards(p Path) (out Path) {
	for _, r := range p.rings() {
		for i := range r.flat {
			q := r.flat[len(r.flat)-1-i]
			if i == 0 {
				out.MoveTo(q.X, q.Y)
			} else {
				out.LineTo(q.X, q.Y)
			}
		}
		out.Close()
	}
	return out
}

func joined(list ...Path) (out Path) {
	for _, p := range list {
		out.Append(p)
	}
	return out
}

// TestInset: each part loses twice the inset of its width, whichever way it goes around, holes grow, rounded corners stay
// round until they are used up, and what is too narrow is gone.
func TestInset(t *testing.T) {
	circle := RoundRectangle(0, 0, 10, 10, 5, 5)
	ring := joined(Rectangle(0, 0, 7, 7), backwards(Rectangle(1, 1, 5, 5)))
	var corner Path // an L of three cells
	corner.MoveTo(0, 0)
	for _, p := range [][2]float64{{2, 0}, {2, 1}, {1, 1}, {1, 2}, {0, 2}, {0, 0}} {
		corner.LineTo(p[0], p[1])
	}
	corner.Close()
	quarter := 1 - math.Pi/4 // what a corner of radius 1 lacks
	for name, c := range map[string]struct {
		path Path
		d    float64
		want float64
	}{
		"nothing":       {Rectangle(0, 0, 3, 2), 0, 6},
		"a rectangle":   {Rectangle(0, 0, 3, 2), 0.1, 2.8 * 1.8},
		"the other way": {backwards(Rectangle(0, 0, 3, 2)), 0.1, 2.8 * 1.8},
		// checked below
		"two, each its way":                {joined(Rectangle(0, 0, 1, 1), backwards(Rectangle(5, 5, 1, 1))), 0.1, 0},
		"a ring":                           {ring, 0.1, 6.8*6.8 - 5.2*5.2},
		"a ring the other way":             {backwards(ring), 0.1, 6.8*6.8 - 5.2*5.2},
		"a core within a ring":             {joined(ring, Rectangle(2, 2, 3, 3)), 0.1, 6.8*6.8 - 5.2*5.2 + 2.8*2.8},
		"a corner inwards":                 {corner, 0.1, 1.8*1.8 - 1},
		"a circle":                         {circle, 0.5, math.Pi * 4.5 * 4.5},
		"rounded corners":                  {RoundRectangle(0, 0, 4, 4, 1, 1), 0.2, 3.6*3.6 - 4*quarter*0.8*0.8},
		"rounded corners that are no more": {RoundRectangle(0, 0, 4, 4, 0.1, 0.1), 0.3, 3.4 * 3.4},
		"too narrow":                       {Rectangle(0, 0, 5, 0.3), 0.2, 0},
	} {
		t.Run(name, func(t *testing.T) {
			got := c.path.Inset(c.d)
			if name == "two, each its way" {
				if r := got.rings(); len(r) != 2 || math.Abs(area(Path{r[0].ops, r[0].points})-0.64) > 1e-9 ||
					math.Abs(area(Path{r[1].ops, r[1].points})-0.64) > 1e-9 {
					t.Errorf("%s: %v", name, got)
				}
				return
			}
			if a := area(got); math.Abs(a-c.want) > 0.01*max(c.want, 0.01) {
				t.Errorf("%s: %.4f, want %.4f", name, a, c.want)
			}
		})
	}
	if p := (Path{}).Inset(1); len(p.Ops) != 0 {
		t.Errorf("nothing became %v", p)
	}
}

// FuzzInset: whatever the points, nothing panics, and steps and points still go together.
func FuzzInset(f *testing.F) {
	f.Add([]byte{0, 0, 9, 0, 9, 9, 0, 9}, 0.5)
	f.Add([]byte{0, 0, 9, 0, 0, 0, 9, 9, 3, 3}, 2.0)
	f.Fuzz(func(t *testing.T, b []byte, d float64) {
		if math.IsNaN(d) || math.IsInf(d, 0) {
			return
		}
		var p Path
		for i := 0; i+7 < len(b); i += 8 {
			v := func(k int) float64 { return float64(b[i+k]) }
			switch b[i] % 3 {
			case 0:
				p.MoveTo(v(1), v(2))
				p.LineTo(v(3), v(4))
			case 1:
				if len(p.Ops) > 0 {
					p.CubicTo(v(1), v(2), v(3), v(4), v(5), v(6))
				}
			default:
				if len(p.Ops) > 0 && p.Ops[len(p.Ops)-1] != Close {
					p.Close()
					p.MoveTo(v(5), v(6))
				}
			}
		}
		points := 0
		out := p.Inset(d)
		for _, op := range out.Ops {
			points += map[Op]int{Move: 1, Line: 1, Cubic: 3}[op]
		}
		if points != len(out.Points) {
			t.Errorf("%d points for steps of %d", len(out.Points), points)
		}
	})
}

// TestThinnest: across bars, rings and bent strokes, whatever else is there; corners and ends do not count.
func TestThinnest(t *testing.T) {
	for name, c := range map[string]struct {
		path Path
		want float64
	}{
		"a bar":          {Rectangle(0, 0, 20, 0.4), 0.4},
		"a bar standing": {Rectangle(0, 0, 0.3, 20), 0.3},
		"a frame":        {joined(Rectangle(0, 0, 40, 40), backwards(Rectangle(0.5, 0.5, 39, 39))), 0.5},
		"a ring": {joined(RoundRectangle(0, 0, 40, 40, 20, 20),
			backwards(RoundRectangle(0.6, 0.6, 38.8, 38.8, 19.4, 19.4))), 0.6},
		"bars side by side":        {joined(Rectangle(0, 0, 20, 2), Rectangle(0, 2.1, 20, 3)), 2},
		"a block with a thin hole": {joined(Rectangle(0, 0, 20, 20), backwards(Rectangle(5, 5, 10, 0.2))), 5},
		"overlapping bars":         {joined(Rectangle(0, 0, 20, 2), Rectangle(9, -10, 3, 30), Rectangle(0, 1.9, 20, 1)), 2.9},
		"nothing":                  {Path{}, math.Inf(1)},
	} {
		t.Run(name, func(t *testing.T) {
			if got := c.path.Thinnest(0.5); got != c.want && math.Abs(got-c.want) > 0.02*c.want {
				t.Errorf("%s: %.3f, want %g", name, got, c.want)
			}
		})
	}
}
