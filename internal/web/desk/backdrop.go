package desk

import (
	"net/http"

	"sodrik/internal/core/look"
)

// partOf is what an upload is for: the mark, or the backdrop.
func partOf(r *http.Request) string {
	if r.FormValue("part") == "backdrop" {
		return "backdrop"
	}
	return "mark"
}

// backdropFields are those of the picture behind the modules.
func (v *View) backdropFields(b builder) {
	m := b.c.Rendition
	back := m.Job.Look.Backdrop
	source := b.at("/look/backdrop/source")
	v.Backdrop, v.BackdropShape, v.BackdropLine = []Field{source}, "none", "none"
	if back.None() {
		return
	}
	if m.Ground != nil {
		v.Backdrop[0].Choices = []Choice{{Value: back.Source, Words: look.MarkName(back.Source), Picture: thumb(m.Ground.Art)}}
	}
	mode := b.chosen("/look/backdrop/mode", back.Mode)
	strength := b.slide("/look/backdrop/strength", back.Strength)
	v.Backdrop = append(v.Backdrop, mode, strength, b.slide("/look/backdrop/scale", back.Scale), b.at(look.BackdropPlace))
	v.BackdropShape = "laid"
	v.BackdropLine = map[string]string{"under": "a picture beneath", "halftone": "a halftone"}[back.Mode]
}
