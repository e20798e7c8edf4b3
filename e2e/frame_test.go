package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/core/proof"
)

// TestFrame: a frame is chosen, its words are typed, a character that the typeface has not is refused by name and kept as
// typed, another typeface has it; what is shipped is larger by the frame and reads; undo takes the frame away.
func TestFrame(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t,
		`{"name":"Framed","content":{"kind":"url","url":"marrowby.example/framed"},"placements":[{"name":"bench","width_mm":50,"distance_mm":400}]}`))
	verdictIs(t, p, proof.Safe)
	p.MustElement("[data-stub=wears]").MustClick()
	openPart(p, "frame")
	until(t, p, "the code in every frame",
		`() => { const all = [...document.querySelectorAll("#part-of-frame .sprite")]; return all.length === 11 && all.every((i) => i.complete && i.naturalWidth === 11 * 96); }`)
	pick(p, "f-look-frame-shape", "plant-tag")
	hasText(t, p, "#line-wears", "plant tag")
	until(t, p, "the usual words come along", `() => document.getElementById("f-look-frame-text").value !== ""`)
	fill(p, "#f-look-frame-text", "Σπόροι")
	hasText(t, p, "#e-f-look-frame-text", "which Instrument Sans has not")
	if got := p.MustElement("#f-look-frame-text").MustProperty("value").Str(); got != "Σπόροι" {
		t.Errorf("what was typed is %q", got)
	}
	p.MustElement("#f-look-frame-font").MustSelect("Noto Sans: Latin, Greek, Cyrillic")
	until(t, p, "the words taken",
		`() => document.getElementById("e-f-look-frame-text").innerText === "" && document.getElementById("undo").title.includes("typeface")`)
	verdictIs(t, p, proof.Safe)
	until(t, p, "its size with the frame",
		`() => document.querySelector("#files-office .sizes").textContent.startsWith("60") || !document.querySelector("#files-office .sizes").textContent.startsWith("50 × 50 mm")`)
	for _, format := range []string{"SVG", "PDF", "PNG"} {
		name, data := download(t, p, func() { takeFile(p, format) })
		readBack(t, name, data, "https://marrowby.example/framed")
	}
	undoAll(t, p)
	until(t, p, "no frame", `() => !document.getElementById("line-wears").textContent.includes("plant tag")`)
}

// TestDiscAndBackdrop: a picture dropped behind the modules, as a halftone, in a disc; a file that is none is refused at its
// field; what is shipped reads; undo takes all of it away.
func TestDiscAndBackdrop(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t,
		`{"name":"Pictured","content":{"kind":"url","url":"marrowby.example/pictured"},"symbol":{"level":"Q"},"placements":[{"name":"window","width_mm":90,"distance_mm":300}]}`))
	verdictIs(t, p, proof.Safe)
	p.MustElement("[data-stub=wears]").MustClick()
	openPart(p, "behind")
	dir := t.TempDir()
	for name, data := range map[string]string{"broken.png": "no picture",
		"flower.svg": `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><path d="M0 0h100v100H0z" fill="#cfe0c8"/><circle cx="50" cy="45" r="30" fill="#8a2a3c"/><path d="M48 75h4v25h-4z" fill="#3d5a2c"/></svg>`} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(data), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	p.MustElement("#backdrop-file").MustSetFiles(filepath.Join(dir, "broken.png"))
	until(t, p, "the file refused", `() => document.getElementById("e-backdrop-file").innerText !== ""`)
	p.MustElement("#backdrop-file").MustSetFiles(filepath.Join(dir, "flower.svg"))
	hasText(t, p, "#line-wears", "a picture beneath")
	until(t, p, "the picture on the sheet", `() => !!document.querySelector("#symbol [opacity]")`)
	moveBehind(t, p)
	p.MustElement("#f-look-backdrop-mode").MustSelect("around their middles, in one ink")
	hasText(t, p, "#line-wears", "a halftone")
	openPart(p, "outline")
	p.MustElement("#f-look-outline").MustSelect("a disc, filled out")
	hasText(t, p, "#line-wears", "in a disc")
	openPart(p, "frame")
	p.MustElement("#fold-caption summary").MustClick()
	fill(p, "#f-look-caption-text", "marrowby.example/pictured")
	until(t, p, "a caption", `() => document.getElementById("undo").title.includes("caption")`)
	pick(p, "f-look-frame-shape", "arch") // one of both
	hasText(t, p, "#e-f-look-outline", "take one of both")
	pick(p, "f-look-frame-shape", "")
	until(t, p, "the disc alone", `() => document.getElementById("e-f-look-outline").innerText === ""`)
	for _, format := range []string{"SVG", "PDF", "PNG"} {
		name, data := download(t, p, func() { takeFile(p, format) })
		readBack(t, name, data, "https://marrowby.example/pictured")
	}
	undoAll(t, p)
	until(t, p, "nothing behind", `() => !document.getElementById("line-wears").textContent.includes("halftone")`)
}

// moveBehind sizes, moves and weakens the picture behind the modules by keys and mouse; the contrast is that where it is worst.
func moveBehind(t *testing.T, p *rod.Page) {
	t.Helper()
	value := func(key string) string { return p.MustElement("#f-look-backdrop-" + key).MustProperty("value").Str() }
	settled := func(what, key, want string) {
		t.Helper()
		until(t, p, what,
			`(key, want) => document.getElementById("f-look-backdrop-" + key).value === want && document.querySelectorAll(".htmx-request").length === 0 && !!document.querySelector("#behind")`, key, want)
	}
	p.MustElement("#behind [data-part=backdrop]").MustEval(`() => this.focus()`)
	for range 5 {
		p.Keyboard.MustType(input.Equal)
	}
	settled("a larger picture", "scale", "1.5")
	p.Keyboard.MustType(input.PageDown, input.PageDown)
	settled("a weaker one", "strength", "0.5")
	gauge := p.MustElement("#gauge-2").MustText()
	p.Keyboard.MustType(input.ArrowRight)
	until(t, p, "it moved",
		`() => { const [x, y] = document.getElementById("f-look-backdrop-place").value.split(", ").map(parseFloat); return x < 50 && y === 50; }`)
	settled("the move", "place", value("place"))
	x, y := at(p, "backdrop")
	p.Mouse.MustMoveTo(x, y).MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(x, y+20).MustMoveTo(x, y+60)
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	until(t, p, "it was dragged down",
		`() => { const [x, y] = document.getElementById("f-look-backdrop-place").value.split(", ").map(parseFloat); return x < 50 && y < 45; }`)
	settled("the drag", "place", value("place"))
	x, y = at(p, "backdrop-size")
	p.Mouse.MustMoveTo(x, y).MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(x-8, y-8).MustMoveTo(x-40, y-40)
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	until(t, p, "it was made smaller", `() => Number(document.getElementById("f-look-backdrop-scale").value) < 1.5`)
	if gauge == "97 %" || gauge == "100 %" {
		t.Errorf("the gauge of contrast says %s over a red flower", gauge)
	}
	until(t, p, "all of it kept", `() => document.querySelectorAll(".htmx-request").length === 0`)
}
