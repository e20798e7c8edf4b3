package impose

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// box is left, top, width and height, mm.
type box [4]float64

// boxes are the rectangles of items as they lie on the sheet, sorted.
func boxes(items []scene.Item) (out []box) {
	for _, it := range items {
		for i := 0; i+3 < len(it.Path.Points); i += 4 {
			a, b := it.At.Point(it.Path.Points[i]), it.At.Point(it.Path.Points[i+2])
			one := box{a.X, a.Y, b.X - a.X, b.Y - a.Y}
			for j := range one {
				one[j] = math.Round(one[j]*1e4) / 1e4
			}
			out = append(out, one)
		}
	}
	slices.SortFunc(out, func(a, b box) int { return slices.Compare(a[:], b[:]) })
	return out
}

func same(t *testing.T, what string, got []box, want ...box) {
	t.Helper()
	slices.SortFunc(want, func(a, b box) int { return slices.Compare(a[:], b[:]) })
	if !slices.Equal(got, want) {
		t.Errorf("%s:\n%v, want\n%v", what, got, want)
	}
}

// TestLay: the drawing and the line under it lie in the middle of the label, and its paper reaches into the bleed.
func TestLay(t *testing.T) {
	s := own2(t, `,"bleed_mm":0.5`)
	drawing := &scene.Scene{Width: 6, Height: 6, Items: []scene.Item{{Path: scene.Rectangle(0, 0, 6, 6), At: scene.Unit}}}
	line := []scene.Item{{Path: scene.Rectangle(0, 0, 4, 2), At: scene.Unit}}
	white := ink.Black
	label := Label{Drawing: drawing, Line: line, LineW: 4, LineH: 2, Paper: &white}
	at := Spot{0, 16, 29}
	items := s.Lay(label, at)
	// of 10 × 20 the drawing and the line take 6 × 8, so that 2 and 6 are free on each side; the line is 3 from the edge
	same(t, "with bleed", boxes(items), box{15.5, 28.5, 11, 21}, box{18, 35, 6, 6}, box{19, 41, 4, 2})
	if items[0].Name != "paper" {
		t.Error("the paper does not lie beneath")
	}
	label.Paper = nil
	same(t, "without paper", boxes(s.Lay(label, at)), box{18, 35, 6, 6}, box{19, 41, 4, 2})
	label.Paper, s.Bleed = &white, 0
	same(t, "without bleed", boxes(s.Lay(label, at)), box{18, 35, 6, 6}, box{19, 41, 4, 2})
	s.Margin = 2
	if w, h := s.Room(); w != 6 || h != 16 {
		t.Errorf("room of %v × %v", w, h)
	}
}

// TestMarks: marks of 3 mm, 0.1 wide, 1 mm or the bleed from the labels, counted by hand.
func TestMarks(t *testing.T) {
	s := own2(t, "")
	var want []box
	for _, x := range []float64{5, 15, 16, 26, 27, 37} {
		want = append(want, box{x - 0.05, 3, 0.1, 3}, box{x - 0.05, 50, 0.1, 3})
	}
	for _, y := range []float64{7, 27, 29, 49} {
		want = append(want, box{1, y - 0.05, 3, 0.1}, box{38, y - 0.05, 3, 0.1})
	}
	same(t, "gaps", boxes(s.CropMarks()), want...)

	one := Setting{Sheet: Sheet{40, 40, 1, 1, 10, 10, 3, 15, 0, 0}, Start: 1, Order: ByRow, Bleed: 2}
	// on the left the bleed of 2 leaves 1 of the 3 mm on the sheet
	same(t, "bleed at the edge", boxes(one.CropMarks()),
		box{0, 14.95, 1, 0.1}, box{0, 24.95, 1, 0.1}, box{15, 14.95, 3, 0.1}, box{15, 24.95, 3, 0.1},
		box{2.95, 10, 0.1, 3}, box{12.95, 10, 0.1, 3}, box{2.95, 27, 0.1, 3}, box{12.95, 27, 0.1, 3})

	square := Setting{Sheet: Sheet{40, 40, 1, 1, 10, 10, 15, 15, 0, 0}, Start: 1, Order: ByRow}
	if n := len(boxes(square.CropMarks())); n != 8 { // edges down and across at the same measures
		t.Errorf("%d marks of a square", n)
	}
	roll, _ := Read(map[string]any{"sheet": "roll-25"})
	if marks := roll.CropMarks(); len(marks) != 0 {
		t.Errorf("a roll has no room for marks, and has %v", boxes(marks))
	}
	touching, _ := Read(map[string]any{"sheet": "a4-4x10"}) // 5 edges down and 11 across, each once
	if n := len(boxes(touching.CropMarks())); n != 2*(5+11) {
		t.Errorf("%d marks for labels that touch", n)
	}
}

// TestOutlines: four strips of 0.2 mm within the edges of every label.
func TestOutlines(t *testing.T) {
	s := own2(t, "")
	var want []box
	for _, x := range []float64{5, 16, 27} {
		for _, y := range []float64{7, 29} {
			want = append(want, box{x, y, 10, 0.2}, box{x, y + 19.8, 10, 0.2}, box{x, y + 0.2, 0.2, 19.6},
				box{x + 9.8, y + 0.2, 0.2, 19.6})
		}
	}
	drawn := s.Outlines()
	same(t, "outlines", boxes(drawn.Items), want...)
	if drawn.Width != 60 || drawn.Height != 60 {
		t.Error(drawn.Width, drawn.Height)
	}
}

// TestBounds: what just fits is taken, and what is just too much is said with its measures.
func TestBounds(t *testing.T) {
	// 3 × 10 with gaps of 1 are 32 wide, 2 × 20 with 2 between are 42 high, on 60 × 60
	fits := Setting{Sheet: Sheet{60, 60, 3, 2, 10, 20, 5, 7, 1, 2}, Start: 1, Order: ByRow}
	for _, c := range []struct {
		name   string
		change func(*Setting)
		says   string // "" is nothing
	}{
		{"as wide as the sheet", func(s *Setting) { s.Left = 28 }, ""},
		{"wider", func(s *Setting) { s.Left = 28.02 }, "60.02 mm wide with the margin, and the sheet is 60 mm"},
		{"as high as the sheet", func(s *Setting) { s.Top = 18 }, ""},
		{"higher", func(s *Setting) { s.Top = 18.02 }, "60.02 mm high with the margin, and the sheet is 60 mm"},
		{"the last column torn off", func(s *Setting) { s.TearOff = 3 }, ""},
		{"no such column", func(s *Setting) { s.TearOff = 4 }, "is column 4, and there are 3"},
		{"the last place", func(s *Setting) { s.Start = 6 }, ""},
		{"past the last place", func(s *Setting) { s.Start = 7 }, "is 7, and a sheet has 6 places"},
		{"bleed to the middle of the gap", func(s *Setting) { s.Bleed = 0.5 }, ""},
		{"bleed past it", func(s *Setting) { s.Bleed = 0.52 }, "have room for 0.5 mm"},
		{"one column", func(s *Setting) { s.Across, s.Bleed = 1, 1 }, ""},
		{"one column, bleed past the gap", func(s *Setting) { s.Across, s.Bleed = 1, 1.02 }, "have room for 1 mm"},
		{"one row, bleed past the gap down", func(s *Setting) { s.Down, s.GapX, s.GapY, s.Bleed = 1, 3, 1, 1.6 },
			"have room for 1.5 mm"},
		{"one row", func(s *Setting) { s.Down, s.GapY, s.Bleed = 1, 0, 0.5 }, ""},
		{"one row, bleed past the gap", func(s *Setting) { s.Down, s.GapY, s.Bleed = 1, 0, 0.52 }, "have room for 0.5 mm"},
		{"one label", func(s *Setting) { s.Across, s.Down, s.GapX, s.GapY, s.Bleed = 1, 1, 0, 0, 10 }, ""},
		{"room for the smallest code", func(s *Setting) { s.Margin = 2.5 }, ""},
		{"less", func(s *Setting) { s.Margin = 2.51 }, "leaves less than 5 mm"},
	} {
		t.Run(strings.ReplaceAll(c.name, " ", "-"), func(t *testing.T) {
			s := fits
			c.change(&s)
			problems := s.Check()
			said := len(problems) == 1 && strings.Contains(problems[0].Message, c.says)
			if c.says == "" && len(problems) > 0 || c.says != "" && !said {
				t.Errorf("%v, want %q", problems, cmp.Or(c.says, "nothing"))
			}
		})
	}
	piles := fits
	if piles.Order = Stack; !slices.Equal(piles.On(1, 13), []int{1, 4, 7, 10}) { // three sheets, every third label
		t.Error(piles.On(1, 13))
	}
	begun := fits
	if begun.Start = 5; begun.Sheets(0) != 0 {
		t.Error("no labels take a sheet that was begun")
	}
	own2(t, `,"shift_x_mm":20,"shift_y_mm":-20`)
	for n, want := range map[int]int{-1: 0, 0: 0, 1: 1, 6: 1, 7: 2} {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			if got := fits.Sheets(n); got != want {
				t.Errorf("%d labels on %d sheets, want %d", n, got, want)
			}
		})
	}
}

// TestID: a sheet of its own measures is known by them, a usual one by its key.
func TestID(t *testing.T) {
	usual, _ := Read(map[string]any{"sheet": "a4-3x7"})
	a, b := own2(t, ""), own2(t, `,"left_mm":6`)
	if usual.ID() != "a4-3x7" || a.ID() == b.ID() || a.ID() != own2(t, `,"start":2`).ID() ||
		!strings.HasPrefix(a.ID(), OwnPrefix) {
		t.Error(usual.ID(), a.ID(), b.ID())
	}
	if got, want := a.Name(), "60 × 60 mm, 3 × 2 labels of 10 × 20 mm"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
}
