package e2e

import (
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/core/proof"
)

// TestFormsByMouse dresses a code by clicks alone and has outside readers read what it ships.
func TestFormsByMouse(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Dressed","content":{"kind":"url","url":"marrowby.example/dressed"}}`))
	verdictIs(t, p, proof.Flat)
	p.MustElement("[data-stub=wears]").MustClick()
	openPart(p, "modules")
	p.MustElement(`#w-f-look-modules-join [data-set=none]`).MustClick()
	hasText(t, p, "#line-wears", "each a square")
	p.MustElement(`#w-f-look-modules-motif [data-set=disc]`).MustClick()
	hasText(t, p, "#line-wears", "each a disc")
	hasText(t, p, "#line-wears", "each a disc · black on white")
	until(t, p, "the choice marked, and kept in focus",
		`() => document.activeElement.dataset.set === "disc" && document.activeElement.getAttribute("aria-pressed") === "true"`)
	p.MustElement(`#w-f-look-modules-motif [data-set=custom]`).MustClick()
	fill(p, "#f-look-modules-path", "M0 0H.3V.3H0Z")
	hasText(t, p, "#e-f-look-modules-path", "Covers 9 % of its square; readers need 20 % or more")
	fill(p, "#f-look-modules-path", "M.1 .1H.9V.9H.1Z")
	until(t, p, "the form taken",
		`() => document.getElementById("e-f-look-modules-path").innerText === "" && !document.querySelector("#picture .stale")`)
	p.MustElement(`#w-f-look-modules-motif [data-set=disc]`).MustClick()
	hasText(t, p, "#line-wears", "each a disc")
	openPart(p, "eyes")
	p.MustElement(`#w-f-look-eyes-core-motif [data-set=plus]`).MustClick()
	hasText(t, p, ".finding", "Phones find a code by its eyes")
	p.MustElementR(".finding button", "Use a square core").MustClick()
	until(t, p, "the remark gone",
		`() => document.getElementById("age")?.innerText === "" && ![...document.querySelectorAll(".finding")].some((f) => f.innerText.includes("by its eyes"))`)
	p.MustElement("[data-stub=ships]").MustClick()
	for _, format := range []string{"SVG", "PDF", "PNG"} {
		name, data := download(t, p, func() { takeFile(p, format) })
		readBack(t, name, data, "https://marrowby.example/dressed")
	}
	undoAll(t, p)
	until(t, p, "the plain look again", `() => document.getElementById("line-wears").innerText.trim() === "black on white"`)
}

// undoAll takes back every step, and counts them.
func undoAll(t *testing.T, p *rod.Page) (steps int) {
	t.Helper()
	for ; steps < 30; steps++ {
		if p.MustEval(`() => document.getElementById("undo").disabled`).Bool() {
			return steps
		}
		before := p.MustEval(`() => document.getElementById("undo").title`).Str()
		p.MustEval(`() => document.getElementById("undo").click()`)
		until(t, p, "a step undone",
			`(b) => document.getElementById("undo").disabled || document.getElementById("undo").title !== b`, before)
	}
	return steps
}

// TestFormsByKeys does the same with the keyboard: a slide by its arrows, a form by Enter.
func TestFormsByKeys(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"By keys","content":{"kind":"url","url":"marrowby.example/by-keys"}}`))
	verdictIs(t, p, proof.Flat)
	p.MustElement("[data-stub=wears]").MustFocus()
	p.Keyboard.MustType(input.Enter)
	p.MustElement("#f-look-ink-kind").MustFocus()
	p.Keyboard.MustType(input.ArrowDown)
	until(t, p, "a gradient on the sheet",
		`() => !!document.querySelector("#symbol linearGradient") && document.querySelector("#symbol path[fill^='url(']") !== null`)
	fill(p, "#f-look-ink-stops-1-colour", "#f3e9c9")
	hasText(t, p, ".finding", "the palest part of the ink and paper differ by only")
	p.MustEval(`() => document.activeElement.blur()`)
	p.Keyboard.MustType('f')
	verdictIs(t, p, proof.Flat)
	hasText(t, p, "#line-wears", "linear #000000 to")
	p.MustElement("[data-part-of=modules]").MustFocus()
	p.Keyboard.MustType(input.Enter)
	p.MustElement("#w-f-look-modules-join [data-set=rows]").MustFocus()
	p.Keyboard.MustType(input.Enter)
	hasText(t, p, "#line-wears", "in rows")
	p.MustElement("#f-look-modules-corner").MustFocus()
	p.Keyboard.MustType(input.End)
	hasText(t, p, "#line-wears", "in rows, corners 1")
	p.Keyboard.MustType(input.ArrowLeft)
	hasText(t, p, "#line-wears", "in rows, corners 0.95")
	until(t, p, "curves on the sheet",
		`() => [...document.querySelectorAll("#symbol path")].some((x) => /[cC]/.test(x.getAttribute("d")))`)
	p.MustElement("[data-part-of=eyes]").MustFocus()
	p.Keyboard.MustType(input.Enter)
	p.MustElement("#f-look-eyes-ring-corner").MustFocus()
	p.Keyboard.MustType(input.End)
	until(t, p, "round rings", `() => document.getElementById("undo").title.includes("eyes")`)
	p.MustElement("#f-look-eyes-core-corner").MustFocus()
	p.Keyboard.MustType(input.End)
	verdictIs(t, p, proof.Flat)
	hasText(t, p, ".handset", "/by-keys")
	taken(t, p, "https://marrowby.example/by-keys")
}

// TestPressed: what is pressed while an answer comes is still what is clicked when it is let go, and shows the last answer then.
func TestPressed(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Pressed","content":{"kind":"url","url":"marrowby.example/pressed"}}`))
	verdictIs(t, p, proof.Flat)
	set := func(field, value string) { // and wait for the answer
		t.Helper()
		was := p.MustElement("#symbol").MustHTML()
		p.MustEval(`(f, v) => { const e = document.getElementById(f); e.value = v; e.dispatchEvent(new Event("input", { bubbles: true })); }`,
			field, value)
		until(t, p, value+" on the sheet", `(was) => document.getElementById("symbol").outerHTML !== was`, was)
		time.Sleep(200 * time.Millisecond) // for what comes after what is looked at
	}
	press := func(selector string) {
		p.MustElement(selector).MustWaitVisible().MustHover()
		p.Mouse.MustDown("left")
	}
	p.MustElement("[data-stub=wears]").MustClick()

	press("[data-part-of=eyes]") // its picture is of the symbol, which is drawn anew
	set("f-content-url", "marrowby.example/pressed-1")
	p.Mouse.MustUp("left")
	until(t, p, "the eyes", `() => document.getElementById("part-of-eyes").checkVisibility()`)

	line := func() string {
		return p.MustEval(`() => document.getElementById("line-says").textContent.trim()`).Str()
	}
	const first, other = "marrowby.example/pressed-1", "marrowby.example/pressed-22"
	hasText(t, p, "#line-says", first)
	for _, c := range []struct {
		typed []string
		shown string
	}{{[]string{other}, other}, {[]string{first, other}, other}} { // the second is taken back before it is let go
		p.MustElement("[data-stub=wears]").MustClick()
		was := line()
		press("#line-says *")
		for _, text := range c.typed {
			set("f-content-url", text)
		}
		if got := line(); got != was {
			t.Errorf("%q is drawn anew while it is pressed: %q", was, got)
		}
		p.Mouse.MustUp("left")
		until(t, p, "what it says", `() => document.getElementById("f-content-url").checkVisibility()`)
		until(t, p, c.shown, `(s) => document.getElementById("line-says").textContent.trim().endsWith(s)`, c.shown)
	}
}

// TestPressedElsewhere: the table of a batch that comes anew while one of its tabs is pressed waits until it is let go: the click
// holds.
func TestPressedElsewhere(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/batches")
	wait := nextPage(t, p)
	p.MustElementR("main table a", "Plant labels").MustClick()
	wait()
	tab := p.MustElementR("#batch-rows .small-tabs a", "To mend").MustWaitVisible()
	p.MustEval(`() => { window.came = 0; document.addEventListener("htmx:afterRequest", (e) => { if (e.detail.elt.id === "batch-rows") window.came++; });
		document.querySelector("#batch-rows table").dataset.old = "yes"; }`)
	tab.MustHover()
	p.Mouse.MustDown("left")
	p.MustEval(`() => window.htmx.trigger(document.body, "batch-made")`)
	until(t, p, "the table once more", `() => window.came === 1`)
	time.Sleep(200 * time.Millisecond)
	if !p.MustEval(`() => document.querySelector("#batch-rows table").dataset.old === "yes"`).Bool() {
		t.Error("the table is another while one of its tabs is pressed")
	}
	p.Mouse.MustUp("left")
	until(t, p, "the rows to mend alone",
		`() => document.querySelectorAll("#batch-rows tbody tr").length === 1 && document.querySelector(".small-tabs [aria-current]").innerText.startsWith("To mend")`)
	p.MustElementR("#batch-rows .small-tabs a", "All").MustHover()
	until(t, p, "another table", `() => document.querySelector("#batch-rows table").dataset.old !== "yes"`)
}
