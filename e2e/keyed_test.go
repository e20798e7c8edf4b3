package e2e

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/core/proof"
)

// keyed is a page that is used by keys alone, counted. Focus is never to be lost on the way.
type keyed struct {
	t *testing.T
	p *rod.Page
	n int
}

func (k *keyed) press(keys ...input.Key) {
	for _, key := range keys {
		k.n++
		k.p.Keyboard.MustType(key)
	}
}

func (k *keyed) write(text string) {
	for _, letter := range text {
		k.press(input.Key(letter))
	}
}

// follow presses what leads to another page, on which something of it has the focus.
func (k *keyed) follow(keys ...input.Key) {
	k.t.Helper()
	wait := nextPage(k.t, k.p)
	k.press(keys...)
	wait()
	until(k.t, k.p, "the focus in the page", `() => !!document.activeElement.closest("main")`)
}

func (k *keyed) at(what string) {
	k.t.Helper()
	until(k.t, k.p, "the focus on "+what, `(s) => document.activeElement.matches(s)`, what)
}

// TestKeyed: from signing in to a PDF that is handed over, with a new colour and a place, in forty keys.
func TestKeyed(t *testing.T) {
	t.Parallel()
	a := open(t)
	k := &keyed{t: t, p: a.pageAs(t, "", "/sign-in")}
	for i := 0; !k.p.MustEval(`() => document.activeElement.matches("button") && document.activeElement.innerText.includes("Tamsin")`).Bool(); i++ {
		if i > 12 {
			t.Fatal("the way in is not reached")
		}
		k.press(input.Tab)
	}
	k.follow(input.Enter)
	k.press(input.Slash)
	k.at("#find-text")
	k.n++ // Ctrl V
	k.p.MustElement("#find-text").MustInput("marrowby.example/keyed")
	until(t, k.p, "the code", `() => !!document.querySelector("#found svg.symbol")`)
	k.follow(input.Enter)
	k.at("[data-stub=says]")
	k.press(input.Digit2)
	until(t, k.p, "Wears open", `() => document.querySelector(".desk").dataset.open === "wears"`)
	k.press(input.Tab, input.Tab)
	k.at("#f-look-ink")
	k.n++ // Ctrl A
	k.p.MustElement("#f-look-ink").MustSelectAllText()
	k.write("bark")
	hasText(t, k.p, "#line-wears", "bark on white")
	k.press(input.Escape)
	k.at("[data-stub=wears]")
	k.press(input.KeyU)
	hasText(t, k.p, "#line-wears", "black on white")
	k.at("[data-stub=wears]")
	k.press(input.Digit3)
	k.at("#first-medium")
	k.write("a5")
	k.press(input.Tab)
	k.follow(input.Enter)
	k.at("[data-stub=sits]")
	verdictIs(t, k.p, proof.Safe)
	until(t, k.p, "the verdict is told", `() => document.getElementById("told").innerText.startsWith("Safe to print at")`)
	_, data := download(t, k.p, func() { k.press(input.KeyH) })
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	pdf := false
	for _, f := range z.File {
		pdf = pdf || strings.HasSuffix(f.Name, ".pdf")
	}
	if !pdf || k.n > 40 {
		t.Errorf("%d keys, a PDF: %v", k.n, pdf)
	}
	t.Logf("%d keys", k.n)

	// What is taken back takes its form along, and leaves the focus to what stands beside it.
	k.p.MustElement("#undo").MustFocus()
	k.follow(input.Enter)
	until(t, k.p, "no place", `() => !!document.getElementById("first-medium")?.checkVisibility()`)
	k.p.MustElement("#redo").MustFocus()
	k.follow(input.Enter)
	until(t, k.p, "the place again", `() => document.getElementById("f-placements-0-width_mm")?.checkVisibility()`)
	fill(k.p, "#f-placements-0-width_mm", "61")
	hasText(t, k.p, "#line-sits", "61 mm")
	k.p.MustElement("#undo").MustFocus()
	k.press(input.Enter)
	hasText(t, k.p, "#line-sits", "60 mm")
	until(t, k.p, "the focus among the turns", `() => document.activeElement.closest("#turns") !== null`)

	// What lies over the sheet closes by Escape, by another stub, and when something else is pressed.
	for _, close := range []func(){func() { k.press(input.Escape) }, func() { k.p.MustElement("#sheet").MustClick() },
		func() { k.p.MustElement(".gauge summary").MustBlur(); k.press(input.Digit3) }} {
		k.p.MustElement(".gauge summary").MustClick()
		until(t, k.p, "it open", `() => !!document.querySelector(".gauge[open]")`)
		close()
		until(t, k.p, "it closed", `() => !document.querySelector(".gauge[open]")`)
	}

	// What is wrong is told once, in the one place that is heard.
	fill(k.p, "#f-placements-0-width_mm", "wide")
	until(t, k.p, "the error told", `() => document.getElementById("told").innerText !== "" &&
		document.getElementById("told").innerText === document.getElementById("e-f-placements-0-width_mm").innerText`)
	if n := k.p.MustEval(`() => document.querySelectorAll("[aria-live], [role=status], [role=alert]").length`).Int(); n > 10 {
		t.Errorf("%d places are heard", n)
	}
}
