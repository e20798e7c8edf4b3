package impose

import (
	"math"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/scene"
)

// columns are those that are printed.
func (s Setting) columns() (out []int) {
	for c := range s.Across {
		if c+1 != s.TearOff {
			out = append(out, c)
		}
	}
	return out
}

// Cells is how many labels a sheet takes.
func (s Setting) Cells() int { return len(s.columns()) * s.Down }

// Sheets is how many sheets n labels take.
func (s Setting) Sheets(n int) int {
	if n <= 0 || s.Cells() == 0 {
		return 0
	}
	skipped := 0
	if s.Order != Stack {
		skipped = s.Start - 1
	}
	return (n + skipped + s.Cells() - 1) / s.Cells()
}

// Spot is where a label lies: on which sheet, from 0, and its left top there, shifted.
type Spot struct {
	Sheet int
	X, Y  float64
}

// At is where label i of n lies, both from 0.
func (s Setting) At(i, n int) Spot {
	cells := s.Cells()
	var sheet, cell int
	if s.Order == Stack { // pile after pile: the sheets lie on one another
		sheets := s.Sheets(n)
		sheet, cell = i%sheets, i/sheets
	} else {
		sheet, cell = (i+s.Start-1)/cells, (i+s.Start-1)%cells
	}
	columns := s.columns()
	column, row := cell%len(columns), cell/len(columns)
	if s.Order == ByColumn {
		column, row = cell/s.Down, cell%s.Down
	}
	return Spot{sheet, s.x(columns[column]), s.y(row)}
}

func (s Setting) x(column int) float64 {
	return s.Left + float64(column)*(s.LabelWidth+s.GapX) + s.ShiftX
}
func (s Setting) y(row int) float64 { return s.Top + float64(row)*(s.LabelHeight+s.GapY) + s.ShiftY }

// On are the labels, from 0, that lie on a sheet, of n; −1 where a place stays blank. They are in the order of At's places.
func (s Setting) On(sheet, n int) (labels []int) {
	cells := s.Cells()
	for cell := range cells {
		i := sheet*cells + cell - (s.Start - 1)
		if s.Order == Stack {
			i = cell*s.Sheets(n) + sheet
		}
		if i >= 0 && i < n {
			labels = append(labels, i)
		}
	}
	return labels
}

// Label is what is laid on a sheet: its drawing, and the line under it.
type Label struct {
	Drawing *scene.Scene
	Line    []scene.Item // with its left top at the origin
	LineW   float64
	LineH   float64
	Paper   *ink.Colour // that goes on into the bleed; nil is none
}

// Lay puts a label's items at a spot, in the middle of the label, the line under the drawing.
func (s Setting) Lay(l Label, at Spot) (items []scene.Item) {
	if l.Paper != nil && s.Bleed > 0 {
		items = append(items, scene.Item{Name: "paper", Path: scene.Rectangle(at.X-s.Bleed, at.Y-s.Bleed, s.LabelWidth+2*s.Bleed,
			s.LabelHeight+2*s.Bleed), At: scene.Unit, Fill: *l.Paper})
	}
	high := l.Drawing.Height + l.LineH
	x, y := at.X+(s.LabelWidth-l.Drawing.Width)/2, at.Y+(s.LabelHeight-high)/2
	items = append(items, scene.Transformed(l.Drawing.Items, scene.At(1, x, y))...)
	return append(items, scene.Transformed(l.Line, scene.At(1, at.X+(s.LabelWidth-l.LineW)/2, y+l.Drawing.Height))...)
}

// Room is the width and height that a drawing with its line may take.
func (s Setting) Room() (width, height float64) {
	return s.LabelWidth - 2*s.Margin, s.LabelHeight - 2*s.Margin
}

const (
	markGap    = 1.0 // from the edge of a label to its crop mark, where the bleed does not reach further
	markLength = 3.0
	markWide   = 0.1
)

// CropMarks are marks at the outer edges of the labels of a sheet, where they are cut, kept off the labels and their bleed.
func (s Setting) CropMarks() (items []scene.Item) {
	var p scene.Path
	gap := max(s.Bleed, markGap)
	left, top := s.x(0), s.y(0)
	right, bottom := s.x(s.Across-1)+s.LabelWidth, s.y(s.Down-1)+s.LabelHeight
	rule := func(x, y, w, h float64) {
		x0, y0, x1, y1 := max(x, 0), max(y, 0), min(x+w, s.Width), min(y+h, s.Height)
		if x1 > x0 && y1 > y0 {
			p.Rectangle(x0, y0, x1-x0, y1-y0)
		}
	}
	seen := map[int]bool{}
	each := func(v float64, horizontal bool) {
		key := int(math.Round(v * 1000))
		if horizontal {
			key = -key - 1
		}
		if seen[key] {
			return
		}
		seen[key] = true
		if horizontal {
			rule(left-gap-markLength, v-markWide/2, markLength, markWide)
			rule(right+gap, v-markWide/2, markLength, markWide)
			return
		}
		rule(v-markWide/2, top-gap-markLength, markWide, markLength)
		rule(v-markWide/2, bottom+gap, markWide, markLength)
	}
	for c := range s.Across {
		each(s.x(c), false)
		each(s.x(c)+s.LabelWidth, false)
	}
	for r := range s.Down {
		each(s.y(r), true)
		each(s.y(r)+s.LabelHeight, true)
	}
	if len(p.Ops) > 0 {
		items = append(items, scene.Item{Name: "marks", Path: p, At: scene.Unit, Fill: ink.Black})
	}
	return items
}

// Outlines is a sheet with the edges of all labels, to be printed and held against the real one.
func (s Setting) Outlines() *scene.Scene {
	var p scene.Path
	const w = 0.2
	for c := range s.Across {
		for r := range s.Down {
			x, y := s.x(c), s.y(r)
			p.Rectangle(x, y, s.LabelWidth, w)
			p.Rectangle(x, y+s.LabelHeight-w, s.LabelWidth, w)
			p.Rectangle(x, y+w, w, s.LabelHeight-2*w)
			p.Rectangle(x+s.LabelWidth-w, y+w, w, s.LabelHeight-2*w)
		}
	}
	return &scene.Scene{Width: s.Width, Height: s.Height, Items: []scene.Item{{Name: "outlines", Path: p, At: scene.Unit,
		Fill: ink.Black}}}
}
