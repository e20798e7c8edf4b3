package layout

import (
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/symbol"
)

// Modules is the number of modules along one side of the drawing, quiet zone included.
func Modules(s *symbol.Symbol, quiet int) int { return s.Size + 2*quiet }

// Draw lays out a symbol whose side, with a quiet zone of quiet modules, is width; width 0 means 1 mm a module.
func Draw(s *symbol.Symbol, l look.Look, quiet int, width measure.Length) *scene.Scene {
	n := float64(Modules(s, quiet))
	if width == 0 {
		width = measure.Length(n)
	}
	side := float64(width)
	unit := side / n
	out := &scene.Scene{Width: side, Height: side}
	at := scene.Place{Scale: unit}
	if !l.Paper.None {
		out.Items = append(out.Items, scene.Item{Name: "paper", Path: scene.Rectangle(0, 0, n, n), At: at, Fill: l.Paper.Colour})
	}
	at.X, at.Y = unit*float64(quiet), unit*float64(quiet)
	out.Items = append(out.Items, scene.Item{Name: "modules", Path: Outline(s.Size, s.Dark), At: at, Fill: l.Ink})
	return out
}
