package wears

import (
	"sodrik/internal/core/look"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/forms"
)

// backdropFields are those of the picture behind the modules.
func (v *Wears) backdropFields(b bound.Code) {
	m := b.C.Rendition
	back := m.Job.Look.Backdrop
	source := b.At("/look/backdrop/source")
	v.Backdrop, v.BackdropShape, v.BackdropLine = []forms.Field{source}, "none", "none"
	if back.None() {
		return
	}
	if m.Ground != nil {
		v.Backdrop[0].Choices = []forms.Choice{
			{Value: back.Source, Words: look.MarkName(back.Source), Picture: drawn.Thumb(m.Ground.Art)},
		}
	}
	mode := b.Chosen("/look/backdrop/mode", back.Mode)
	strength := b.Slide("/look/backdrop/strength", back.Strength)
	v.Backdrop = append(v.Backdrop, mode, strength, b.Slide("/look/backdrop/scale", back.Scale), b.At(look.BackdropPlace))
	v.BackdropShape = "laid"
	v.BackdropLine = map[string]string{"under": "a picture beneath", "halftone": "a halftone"}[back.Mode]
}
