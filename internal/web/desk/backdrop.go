package desk

import (
	"net/http"

	"sodrik/internal/core/look"
	"sodrik/internal/web/forms"
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
	m := b.c.Made
	back := m.Job.Look.Backdrop
	source := b.field("/look/backdrop/source", "source", "Picture")
	v.Backdrop, v.BackdropShape, v.BackdropLine = []Field{source}, "none", "none"
	if back.None() {
		return
	}
	if m.Ground != nil {
		v.Backdrop[0].Choices = []Choice{{Value: back.Source, Words: look.MarkName(back.Source), Picture: thumb(m.Ground.Art)}}
	}
	mode := b.field("/look/backdrop/mode", "choice", "It lies")
	mode.Choices = forms.Choices(back.Mode, "under", "under the modules", "halftone", "around their middles, in one ink")
	strength := b.slide("/look/backdrop/strength", "Strength", back.Strength, "0", "1", "0.05")
	strength.Hint = "The stronger it is, the nearer a phone has to come; the proof says how near."
	v.Backdrop = append(v.Backdrop, mode, strength)
	v.BackdropShape = "laid"
	v.BackdropLine = map[string]string{"under": "a picture beneath", "halftone": "a halftone"}[back.Mode]
}
