package layout

import (
	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// Modules is the number of modules along one side of the drawing, quiet zone included.
func Modules(s *symbol.Symbol, quiet int) int { return s.Size + 2*quiet }

// Draw lays out a symbol whose side, with a quiet zone of quiet modules, is width; width 0 means 1 mm a module. The paper comes
// first, then the modules, then what of the eyes has an ink of its own, then the mark, which may be nil.
func Draw(s *symbol.Symbol, l look.Look, quiet int, width measure.Length, mark *Marked) *scene.Scene {
	return DrawOn(s, l, quiet, width, mark, nil)
}

// DrawOn is Draw with a picture behind the modules; ground may be nil.
func DrawOn(s *symbol.Symbol, l look.Look, quiet int, width measure.Length, mark *Marked, ground *Ground) *scene.Scene {
	n := float64(Modules(s, quiet))
	if width == 0 {
		width = measure.Length(n)
	}
	side := float64(width)
	unit := side / n
	out := &scene.Scene{Width: side, Height: side}
	at := scene.At(unit, 0, 0)
	if !l.Paper.None {
		out.Items = append(out.Items, scene.Item{Name: "paper", Path: scene.Rectangle(0, 0, n, n), At: at, Fill: l.Paper.Colour})
	}
	at.X, at.Y = unit*float64(quiet), unit*float64(quiet)
	out.Items = append(out.Items, ground.items(l.Ink, at)...)
	out.Items = append(out.Items, darkOn(s, l, s.Size, at, mark, ground)...)
	if mark != nil {
		out.Items = append(out.Items, mark.items(l, at)...)
	}
	return out
}

// Dark is everything dark of the top left n by n modules but what makes room for a mark, one item an ink, in units of a module.
func Dark(s *symbol.Symbol, l look.Look, n int, at scene.Transform, mark *Marked) []scene.Item {
	return darkOn(s, l, n, at, mark, nil)
}

func darkOn(s *symbol.Symbol, l look.Look, n int, at scene.Transform, mark *Marked, ground *Ground) []scene.Item {
	drawn := s.Dark
	if mark != nil {
		drawn = func(x, y int) bool { return s.Dark(x, y) && !mark.Cleared(x, y) }
	}
	halftone := ground != nil && ground.Look.Mode == "halftone"
	if l.Plain() && !halftone {
		return []scene.Item{{Name: "modules", Path: Outline(n, drawn), At: at, Fill: l.Ink,
			Shade: scene.Across(l.Shade, float64(s.Size))}}
	}
	d := &drawing{shaded: !l.Shade.None()}
	var small [][2]int // alignment patterns that are drawn as eyes are
	apart := make([]bool, s.Size*s.Size)
	if l.Eyes.Alignment == "eyes" {
		for _, c := range symbol.Alignments(s.Version) {
			if c[0]+3 > n || c[1]+3 > n || mark.touches(c) {
				continue
			}
			small = append(small, c)
			for i := range 25 {
				apart[(c[1]-2+i/5)*s.Size+c[0]-2+i%5] = true
			}
		}
	}
	dark := func(x, y int) bool { return drawn(x, y) && s.Role(x, y) != symbol.RoleFinder && !apart[y*s.Size+x] }
	if halftone {
		d.add("modules", l.Ink, false, ground.halftone(s, dark, func(x, y int) bool {
			return !mark.Cleared(x, y) && !apart[y*s.Size+x]
		}))
	} else {
		p, each := modules(n, l.Modules, dark)
		d.add("modules", l.Ink, false, p)
		if len(d.items) == 1 {
			d.items[0].Letters = each
		}
	}
	for i, corner := range [][2]int{{0, 0}, {s.Size - 7, 0}, {0, s.Size - 7}} {
		if corner[0]+7 <= n && corner[1]+7 <= n {
			d.eye(l, i, float64(corner[0]), float64(corner[1]))
		}
	}
	for _, c := range small {
		e := l.Eyes.All
		ring := ringPath(float64(c[0]-2), float64(c[1]-2), 5, e.Ring.Corners)
		d.add("modules", l.Ink, false, ring)
		d.add("modules", l.Ink, false, square(float64(c[0]), float64(c[1]), 1, e.Core.Corners))
	}
	for i := range d.items {
		d.items[i].At = at
		if i == 0 { // the modules, with all that follows their ink
			d.items[i].Shade = scene.Across(l.Shade, float64(s.Size))
		}
	}
	return d.items
}

// drawing collects paths, one item an ink.
type drawing struct {
	items  []scene.Item
	shaded bool // the modules have a gradient, which an ink of an eye's own does not join
}

func (d *drawing) add(name string, fill ink.Colour, own bool, p scene.Path) {
	for i := range d.items {
		if d.items[i].Fill == fill && !(own && i == 0 && d.shaded) {
			d.items[i].Path.Append(p)
			if len(d.items[i].Letters) > 0 { // all that the path is made of
				d.items[i].Letters = append(d.items[i].Letters, scene.Letter{Outline: &p})
			}
			return
		}
	}
	d.items = append(d.items, scene.Item{Name: name, Path: p, Fill: fill})
}

// modules draws dark cells in their form. Joined ones, and squares that fill their cell, are one merged path; others stand
// each on its own, and come one by one too.
func modules(n int, m look.Modules, dark func(x, y int) bool) (p scene.Path, each []scene.Letter) {
	join := map[string]Join{"all": JoinAll, "none": JoinNone, "rows": JoinRows, "columns": JoinColumns}[m.Join]
	if join != JoinNone || m.Motif == "square" && m.Scale == 1 {
		return Rounded(n, dark, join, m.Corner/2), nil
	}
	form := m.Form()
	if m.Motif == "square" {
		form = square(0, 0, 1, [4]float64{m.Corner, m.Corner, m.Corner, m.Corner})
	}
	var one scene.Path
	put(&one, form, 0, 0, m.Scale)
	inset := (1 - m.Scale) / 2
	for y := range n {
		for x := range n {
			if dark(x, y) {
				put(&p, form, float64(x)+inset, float64(y)+inset, m.Scale)
				each = append(each, scene.Letter{Outline: &one, X: float64(x) + inset, Y: float64(y) + inset})
			}
		}
	}
	return p, each
}

// put adds a path scaled and moved.
func put(p *scene.Path, form scene.Path, x, y, scale float64) {
	p.Ops = append(p.Ops, form.Ops...)
	for _, q := range form.Points {
		p.Points = append(p.Points, scene.Point{X: x + q.X*scale, Y: y + q.Y*scale})
	}
}

// Sample draws n by n modules of a symbol from column x and row y on, eyes and all as modules: what a form looks like in a
// person's own code.
func Sample(s *symbol.Symbol, m look.Modules, x, y, n int) scene.Path {
	p, _ := modules(n, m, func(cx, cy int) bool { return s.Dark(x+cx, y+cy) })
	return p
}

// EyeSample draws the top left eye alone, in units of a module.
func EyeSample(l look.Look) []scene.Item {
	d := &drawing{}
	d.eye(l, 0, 0, 0)
	for i := range d.items {
		d.items[i].At = scene.Unit
	}
	return d.items
}
