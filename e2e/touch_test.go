package e2e

import (
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/core/proof"
)

// hand opens an address on a phone: 390 × 844, fingers.
func (a *app) hand(t *testing.T, path string) *rod.Page {
	t.Helper()
	p := a.page(t, path)
	closesAfter(p)
	p.MustSetViewport(390, 844, 2, true)
	if err := (proto.EmulationSetTouchEmulationEnabled{Enabled: true}).Call(p); err != nil {
		t.Fatal(err)
	}
	wait := nextPage(t, p)
	p.MustReload()
	wait()
	return p
}

// TestOnAPhone: from a paste to a PNG in a medium by six taps, with the code and its verdict in sight all the while.
func TestOnAPhone(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.hand(t, "/codes")
	until(t, p, "the first code of the ledger in the upper half",
		`() => document.querySelector("tr.code").getBoundingClientRect().top < 844 / 2`)
	taps := 0
	tap := func(selector, words string) {
		t.Helper()
		taps++
		e := p.MustElementR(selector, words).MustWaitVisible()
		if !e.MustEval(`() => { const b = this.getBoundingClientRect(); return b.top >= 0 && b.bottom <= innerHeight; }`).Bool() {
			t.Errorf("%s %s is beyond the screen: %s", selector, words, e.MustEval(`() => JSON.stringify(this.getBoundingClientRect())`).Str())
		}
		e.MustTap()
	}
	paste(p, "marrowby.example/touched")
	until(t, p, "the code", `() => !!document.querySelector("#found svg.symbol")`)
	wait := nextPage(t, p)
	tap("#found [data-enter]", ".")
	wait()
	tap("[data-stub=sits]", "Sits")
	taps += 2 // the list of media is the phone's own
	p.MustElement("#first-medium").MustSelect("table tent")
	wait = nextPage(t, p)
	tap("button", "Put it there")
	wait()
	verdictIs(t, p, proof.Safe)
	until(t, p, "the verdict at the top", `() => document.getElementById("glance-verdict").innerText.startsWith("Safe to print")`)
	until(t, p, "the code at the top", `() => { const b = document.querySelector(".glance use").getBoundingClientRect();
		return b.top >= 40 && b.width > 40 && b.width < 60; }`)
	name, data := download(t, p, func() { tap("#takes button", "PNG") })
	readBack(t, name, data, "https://marrowby.example/touched")
	if taps > 6 {
		t.Errorf("%d taps", taps)
	}
	until(t, p, "what became of it", `(name) => { const n = document.getElementById("notice"), b = n.getBoundingClientRect();
		return n.innerText === name + " is in your downloads." && b.top > 0 && b.bottom < innerHeight; }`, name)

	// Whatever is opened, what was pressed stays where it was, the code in sight, and nothing is too small for a finger.
	for _, stub := range []string{"wears", "reads", "ships", "says", "sits"} {
		button := p.MustElement("[data-stub=" + stub + "]")
		button.MustEval(`() => this.scrollIntoView({ block: "center" })`)
		before := button.MustEval(`() => this.getBoundingClientRect().top`).Num()
		button.MustTap()
		until(t, p, stub+" open", `(s) => document.querySelector(".desk").dataset.open === s`, stub)
		p.MustEval(`() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))`)
		after := button.MustEval(`() => this.getBoundingClientRect().top`).Num()
		if top := p.MustEval(`() => scrollY`).Num() == 0; after > before+1 || after < before-1 && !top {
			t.Errorf("%s was at %g px and is at %g once it is open", stub, before, after)
		}
		if !p.MustEval(`() => { const b = document.querySelector(".glance").getBoundingClientRect(); return b.top > -1 && b.top < 60; }`).Bool() {
			t.Errorf("with %s open the code is out of sight", stub)
		}
		if got := p.MustEval(tooSmall, 24, "a, button, summary, input:not([type=hidden]), select, textarea").Str(); got != "" {
			t.Errorf("%s: below 24 px: %s", stub, got)
		}
		if got := p.MustEval(tooSmall, 44, ".swatch, .desk-acts .btn, .btn.main, .stub-button").Str(); got != "" {
			t.Errorf("%s: below 44 px: %s", stub, got)
		}
		if wide := p.MustEval(`() => document.documentElement.scrollWidth`).Int(); wide > 390 {
			t.Errorf("with %s open the page is %d px wide", stub, wide)
		}
	}

	// A new destination goes live within sight of its field.
	p = a.hand(t, a.demoCode(t, "Broad bean recipes"))
	p.MustElement("[data-stub=leads]").MustTap()
	p.MustElement("#f-lead-to").MustSelectAllText().MustInput("marrowby.example/touched/dip")
	until(t, p, "its button below the field", `() => { const f = document.querySelector("#f-lead-to").getBoundingClientRect();
		const b = [...document.querySelectorAll("#lead-change button")].find((e) => e.innerText === "Make it live")?.getBoundingClientRect();
		return b && b.top > f.bottom && b.bottom - f.top < 400; }`)
	p.MustElementR("#lead-change button", "Drop the draft").MustTap()
	until(t, p, "the draft gone", `() => !document.querySelector("#lead-change button")`)
}

// tooSmall names what is to be pressed and is smaller than so many pixels either way. Links in running text are as large as it.
const tooSmall = `(least, what) => [...document.querySelectorAll(what)].filter((e) => {
	const b = (e.matches("input[type=checkbox], input[type=radio]") && e.closest("label") || e).getBoundingClientRect();
	return e.checkVisibility({ visibilityProperty: true }) && b.width > 1 && (b.width < least - 0.5 && !e.closest("p, li, td") || b.height < least - 0.5) &&
		!(e.matches("a, .link") && getComputedStyle(e).display === "inline");
}).map((e) => (e.id || e.innerText || e.className).slice(0, 30) + " " + Math.round(e.getBoundingClientRect().width) + "×" +
	Math.round(e.getBoundingClientRect().height)).join(", ")`
