package e2e

import (
	"testing"

	"sodrik/internal/core/proof"
)

// TestFrame: a frame is chosen, its words are typed, a character that the typeface has not is refused by name and kept as typed, another
// typeface has it; what is shipped is larger by the frame and reads; undo takes the frame away.
func TestFrame(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Framed","content":{"kind":"url","url":"marrowby.example/framed"},"placements":[{"name":"bench","width_mm":50,"distance_mm":400}]}`))
	verdictIs(t, p, proof.Safe)
	p.MustElement("[data-stub=wears]").MustClick()
	p.MustElement("#fold-frame summary").MustClick()
	p.MustElement("#f-look-frame-shape").MustSelect("plant tag")
	hasText(t, p, "#frame-line", "plant tag")
	fill(p, "#f-look-frame-text", "Σπόροι")
	hasText(t, p, "#e-f-look-frame-text", "which Instrument Sans has not")
	if got := p.MustElement("#f-look-frame-text").MustProperty("value").Str(); got != "Σπόροι" {
		t.Errorf("what was typed is %q", got)
	}
	p.MustElement("#f-look-frame-font").MustSelect("Noto Sans: Latin, Greek, Cyrillic")
	until(t, p, "the words taken", `() => document.getElementById("e-f-look-frame-text").innerText === "" && document.getElementById("frame-line").innerText.includes("Σπόροι")`)
	verdictIs(t, p, proof.Safe)
	p.MustElement("[data-stub=ships]").MustClick()
	hasText(t, p, "#files", "mm with its frame")
	for _, format := range []string{"SVG", "PDF", "PNG"} {
		name, data := download(t, p, func() { p.MustElementR("#files button", "Download "+format).MustClick() })
		readBack(t, name, data, "https://marrowby.example/framed")
	}
	undoAll(t, p)
	p.MustElement("[data-stub=wears]").MustClick()
	hasText(t, p, "#frame-line", "none")
}
