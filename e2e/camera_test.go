package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/core/proof"
)

// TestThroughACamera moves the circumstances with the keyboard and sees the readers' answers follow: far away and leaning
// back nobody reads it, as its place has it everybody does.
func TestThroughACamera(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t,
		`{"name":"Seen","content":{"kind":"url","url":"marrowby.example/seen"},"placements":[{"name":"gate","width_mm":60,"distance_mm":500,"substrate":"uncoated"}]}`))
	verdictIs(t, p, proof.Safe)
	p.MustElement("[data-stub=reads]").MustClick()
	everybody := `() => { const a = [...document.querySelectorAll(".answers li")]; return a.length >= 3 && a.every((x) => x.className === "reads"); }`
	until(t, p, "all read it from its place", everybody)
	hasText(t, p, "#camera p", "From 500 mm")
	// Over the code's place, a slide is a slide and takes hold of nothing beneath.
	box := p.MustElement("#see-glare").MustShape().Box()
	p.Mouse.MustMoveTo(box.X+box.Width*0.3, box.Y+box.Height/2).MustClick(proto.InputMouseButtonLeft)
	until(t, p, "glare, and the proof still open",
		`() => document.querySelector("output[for=see-glare]").innerText !== "0 %" && document.querySelector("[data-stub=reads]").getAttribute("aria-expanded") === "true"`)
	for _, s := range []string{"wear", "curve", "tilt", "light"} {
		p.MustElement("#see-" + s).MustFocus()
		for range 3 {
			p.Keyboard.MustType(map[bool]input.Key{true: input.PageDown, false: input.PageUp}[s == "light"])
		}
	}
	until(t, p, "another picture, with the figures beside the slides",
		`() => document.querySelector("output[for=see-tilt]").innerText !== "0°" && document.querySelector("output[for=see-wear]").innerText !== "0 %"`)
	p.MustElement("#see-distance").MustFocus()
	p.Keyboard.MustType(input.End)
	hasText(t, p, "#camera p", "From 2 m")
	p.MustElement("#see-tilt").MustFocus()
	p.Keyboard.MustType(input.End)
	until(t, p, "nobody reads it",
		`() => { const a = [...document.querySelectorAll(".answers li")]; return a.length >= 3 && a.every((x) => x.className === "fails"); }`)
	p.MustElementR("#camera-form button", "As the place has it").MustClick()
	until(t, p, "all read it again", everybody)
	hasText(t, p, "#camera p", "From 500 mm")
}
