package e2e

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/core/proof"
)

// at is where the middle of a part of the sheet is in the window.
func at(p *rod.Page, part string) (x, y float64) {
	v := p.MustEval(
		`(part) => { const r = document.querySelector("[data-part=" + part + "]").getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; }`, part)
	return v.Arr()[0].Num(), v.Arr()[1].Num()
}

// TestMarkByMouse makes a look with a gradient and a mark by the mouse alone, on the sheet where it can be, reads what it
// ships with outside readers, and takes all of it back.
func TestMarkByMouse(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Marked","content":{"kind":"url","url":"marrowby.example/marked"}}`))
	verdictIs(t, p, proof.Flat)

	x, y := at(p, "eye-1")
	p.Mouse.MustMoveTo(x, y).MustClick(proto.InputMouseButtonLeft)
	until(t, p, "the eye's own form",
		`() => document.querySelector("[data-stub=wears]").getAttribute("aria-expanded") === "true" && document.getElementById("f-look-eyes-each-1-ring-ink").offsetParent !== null`)
	p.MustElement(`[data-for="f-look-eyes-each-1-ring-ink"][data-set="style:beetroot"]`).MustClick()
	until(t, p, "one ring in beetroot",
		`() => !!document.querySelector("#symbol path[fill='#5b1f33']") && !document.querySelector("#picture > svg").dataset.tried`)
	until(t, p, "the way back to the others",
		`() => document.querySelector("#own-1 button")?.innerText === "Make it like the others"`)

	x, y = at(p, "modules")
	p.Mouse.MustMoveTo(x, y).MustClick(proto.InputMouseButtonLeft)
	until(t, p, "the modules held", `() => document.querySelector(".held").dataset.part === "modules"`)
	openPart(p, "ink")
	p.MustElement("#f-look-ink-kind").MustSelect("from the middle out")
	hasText(t, p, "#line-wears", "radial")
	p.MustElementR("#stops button", "Add a colour").MustClick()
	until(t, p, "a third colour",
		`() => !!document.getElementById("f-look-ink-stops-2-colour") && !!document.getElementById("f-look-ink-stops-1-at")`)

	// A choice is tried by hovering, and gone when the pointer leaves.
	openPart(p, "mark")
	p.MustElement(`#icons [data-set="icon:leaf"]`).MustScrollIntoView().MustHover()
	until(t, p, "the leaf on the sheet, tried",
		`() => document.querySelector("#picture > svg").dataset.tried === "1" && !!document.querySelector("[data-part=mark]")`)
	p.Mouse.MustMoveTo(640, 20)
	until(t, p, "what was there before",
		`() => !document.querySelector("#picture > svg").dataset.tried && !document.querySelector("[data-part=mark]")`)
	p.MustElement(`#icons [data-set="icon:leaf"]`).MustClick()
	hasText(t, p, "#line-wears", "mark 22 %")
	hasText(t, p, "#h-f-look-mark-width", "error correction")

	// Dragged, it stays on the grid of modules, which has half steps for middles between two.
	x, y = at(p, "mark")
	p.Mouse.MustMoveTo(x, y).MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(x+20, y+9).MustMoveTo(x+42, y+31)
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	until(t, p, "the mark elsewhere",
		`() => { const [x, y] = document.getElementById("f-look-mark-place").value.split(", ").map(Number); const n = Number(document.getElementById("parts").dataset.size); const on = (f) => Math.abs(f * n / 50 - Math.round(f * n / 50)) < 0.01; return x > 52 && y > 52 && on(x) && on(y); }`)
	was := p.MustEval(`() => document.getElementById("f-look-mark-width").value`).Str()
	until(t, p, "the picture as far as the field, and the handle",
		`() => { const [x] = document.getElementById("f-look-mark-place").value.split(", ").map(Number), d = document.getElementById("parts").dataset, m = document.querySelector("[data-part=mark]"); const at = (Number(m.getAttribute("x")) + m.getAttribute("width") / 2 - d.left) / d.unit / d.size * 100; return Math.abs(at - x) < 0.1 && document.querySelectorAll(".htmx-request").length === 0 && document.querySelector(".handle").getBoundingClientRect().width > 0; }`)
	x, y = at(p, "mark-size")
	p.Mouse.MustMoveTo(x, y).MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(x-6, y-6).MustMoveTo(x-14, y-14)
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	// an answer on its way may bring other fields
	until(t, p, "a smaller mark",
		`(was) => Number(document.getElementById("f-look-mark-width").value) < Number(was) && document.querySelectorAll(".htmx-request").length === 0`, was)
	p.MustElement("#fold-mark-more summary").MustClick()
	for _, c := range [][2]string{{"#f-look-mark-clear", "disc"}, {"#f-look-mark-crop", "round"}} {
		p.MustElement(c[0]).MustSelect(c[1])
		until(t, p, c[1],
			`(id, words) => { const f = document.querySelector(id); return f.selectedOptions[0].text === words && document.querySelectorAll(".htmx-request").length === 0; }`, c[0], c[1])
	}
	openPart(p, "ink")
	p.MustElement(`#w-f-look-paper [data-set="style:seed-paper"]`).MustClick()
	hasText(t, p, "#line-wears", "radial")
	openPart(p, "modules")
	p.MustElement(`#w-f-look-modules-join [data-set=rows]`).MustClick()
	hasText(t, p, "#line-wears", "in rows")
	verdictIs(t, p, proof.Flat)

	openView(p, "damage")
	until(t, p, "the damage",
		`() => document.querySelectorAll("#damage tbody tr").length > 0 && [...document.querySelectorAll("#damage tbody tr")].some((r) => Number(r.cells[1].innerText) > 0)`)
	p.MustElement("[data-stub=ships]").MustClick()
	for _, format := range []string{"SVG", "PDF", "PNG"} {
		name, data := download(t, p, func() { takeFile(p, format) })
		readBack(t, name, data, "https://marrowby.example/marked")
	}
	if steps := undoAll(t, p); steps < 10 {
		t.Errorf("only %d steps were taken back", steps)
	}
	until(t, p, "the plain look again", `() => document.getElementById("line-wears").innerText.trim() === "black on white"`)
}

// TestMarkByKeys does as much with the keyboard alone: the mark moved and sized by its keys, a colour typed as CMYK.
func TestMarkByKeys(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Marked by keys","content":{"kind":"url","url":"marrowby.example/mark-keys"}}`))
	verdictIs(t, p, proof.Flat)
	p.MustElement("[data-part=modules]").MustFocus()
	p.Keyboard.MustType(input.Enter)
	p.MustElement("[data-part-of=ink]").MustWaitVisible().MustFocus()
	p.Keyboard.MustType(input.Enter)
	p.MustElement("#f-look-ink-kind").MustWaitVisible().MustFocus()
	p.Keyboard.MustType(input.ArrowDown)
	until(t, p, "a gradient", `() => !!document.querySelector("#symbol linearGradient")`)
	fill(p, "#f-look-ink-stops-0-colour", "cmyk(90, 40, 60, 50)")
	until(t, p, "the colour taken",
		`() => document.getElementById("e-f-look-ink-stops-0-colour").innerText === "" && document.querySelector("#symbol stop").getAttribute("stop-color") !== "#000000"`)
	fill(p, "#f-look-ink-stops-1-colour", "cmyk(90, 40)")
	hasText(t, p, "#e-f-look-ink-stops-1-colour", "is not a colour")
	fill(p, "#f-look-ink-stops-1-colour", "beetroot")
	until(t, p, "the name taken",
		`() => document.querySelector("#symbol stop:last-child").getAttribute("stop-color") === "#5b1f33"`)
	p.MustElement("[data-part-of=mark]").MustFocus()
	p.Keyboard.MustType(input.Enter)
	fill(p, "#icon-query", "basket")
	until(t, p, "baskets", `() => document.querySelector("#icons [data-set]")?.dataset.set.includes("basket")`)
	p.MustElement("#icon-query").MustFocus()
	p.Keyboard.MustType(input.Tab)
	until(t, p, "tried while it has the focus",
		`() => document.activeElement.dataset.set?.includes("basket") && document.querySelector("#picture > svg").dataset.tried === "1"`)
	p.Keyboard.MustType(input.Escape)
	until(t, p, "Escape returns", `() => !document.querySelector("#picture > svg").dataset.tried`)
	p.Keyboard.MustType(input.Enter)
	hasText(t, p, "#line-wears", "mark 22 %")
	p.MustElement("[data-part=mark]").MustFocus()
	n := p.MustEval(`() => Number(document.getElementById("parts").dataset.size)`).Num()
	for range 2 {
		p.Keyboard.MustType(input.ArrowRight)
	}
	p.Keyboard.MustType(input.ArrowUp)
	until(t, p, "two to the right, one up",
		`(n) => { const [x, y] = document.getElementById("f-look-mark-place").value.split(", ").map(Number); return Math.abs(x - 50 - 200 / n) < 0.01 && Math.abs(y - 50 + 100 / n) < 0.01; }`, n)
	before := p.MustEval(`() => Number(document.getElementById("f-look-mark-width").value)`).Num()
	p.Keyboard.MustType('-')
	until(t, p, "narrower by one",
		`(w) => Number(document.getElementById("f-look-mark-width").value) === w - 1 && document.activeElement.dataset.part === "mark"`, before)
	verdictIs(t, p, proof.Flat)
	taken(t, p, "https://marrowby.example/mark-keys")
	p.MustElement("[data-part=mark]").MustFocus()
	p.Keyboard.MustType(input.Delete)
	until(t, p, "no mark", `() => !document.getElementById("line-wears").textContent.includes("mark")`)
	until(t, p, "no mark on the sheet", `() => !document.querySelector("[data-part=mark]")`)
}

// TestUploads: files that cannot be taken say why at the field and change nothing; one that can is laid in, cut out, and at
// hand in the next code.
func TestUploads(t *testing.T) {
	t.Parallel()
	a := open(t)
	dir := t.TempDir()
	file := func(name string, data []byte) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	img := image.NewNRGBA(image.Rect(0, 0, 120, 120))
	for y := range 120 {
		for x := range 120 {
			c := color.NRGBA{246, 240, 226, 255}
			if math.Hypot(float64(x)-60, float64(y)-60) < 48 {
				c = color.NRGBA{18, 89, 74, 255}
			}
			img.SetNRGBA(x, y, c)
		}
	}
	var logo bytes.Buffer
	if err := png.Encode(&logo, img); err != nil {
		t.Fatal(err)
	}
	p := a.page(t, a.create(t, `{"name":"Uploads","content":{"kind":"url","url":"marrowby.example/uploads"}}`))
	verdictIs(t, p, proof.Flat)
	p.MustElement("[data-stub=wears]").MustClick()
	openPart(p, "mark")
	for _, bad := range []struct{ name, data, says string }{
		{"empty.png", "", "Is empty, 0 bytes"}, {"words.png", "a seed list", "Is none of SVG, PNG, JPEG and WebP"},
		{"bomb.svg", `<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg xmlns="http://www.w3.org/2000/svg"><text>&a;</text></svg>`,
			"declares entities"},
		{"foreign.svg", `<svg xmlns="http://www.w3.org/2000/svg"><foreignObject/><script>alert(1)</script></svg>`,
			"shows nothing"},
	} {
		p.MustElement("#mark-file").MustSetFiles(file(bad.name, []byte(bad.data)))
		until(t, p, bad.says,
			`(says) => document.getElementById("e-mark-file").innerText.toLowerCase().includes(says.toLowerCase())`, bad.says)
	}
	until(t, p, "no mark", `() => !document.getElementById("line-wears").textContent.includes("mark")`)
	large := image.NewNRGBA(image.Rect(0, 0, 900, 900)) // a photograph's worth: above what a form may hold otherwise
	seed := uint32(1)
	for i := range large.Pix {
		seed = seed*1664525 + 1013904223
		if large.Pix[i] = uint8(seed >> 24); i%4 == 3 {
			large.Pix[i] = 255
		}
	}
	var photo bytes.Buffer
	if err := png.Encode(&photo, large); err != nil || photo.Len() < 2<<20 {
		t.Fatal(err, photo.Len())
	}
	p.MustElement("#mark-file").MustSetFiles(file("photo.png", photo.Bytes()))
	hasText(t, p, "#line-wears", "mark 22 %")
	p.MustElement("#undo").MustClick()
	until(t, p, "no mark", `() => !document.getElementById("line-wears").textContent.includes("mark")`)
	p.MustElement("#mark-file").MustSetFiles(file("leaf.png", logo.Bytes()))
	hasText(t, p, "#line-wears", "mark 22 %")
	hasText(t, p, "#left-mark-file", "stands on one colour")
	until(t, p, "no error any more", `() => document.getElementById("e-mark-file").innerText === ""`)
	p.MustElement("#f-look-mark-ground").MustSelect("is cut out")
	until(t, p, "the disc without its ground",
		`() => Math.abs(document.querySelector("[data-part=mark]").getBoundingClientRect().width / document.querySelector("[data-part=mark]").getBoundingClientRect().height - 1) < 0.02 && document.getElementById("f-look-mark-ground").value === "cut"`)
	verdictIs(t, p, proof.Flat)
	taken(t, p, "https://marrowby.example/uploads")

	q := a.page(t, a.create(t, `{"name":"Next","content":{"kind":"url","url":"marrowby.example/next"}}`))
	q.MustElement("[data-stub=wears]").MustClick()
	openPart(q, "mark")
	q.MustElement(`#uploads [title="leaf.png"]`).MustClick()
	hasText(t, q, "#line-wears", "mark 22 %")
}
