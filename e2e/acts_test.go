package e2e

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/core/proof"
)

// acts counts what a person does: a click, a choice, a field typed, a paste, a key, a file given.
type acts struct {
	t *testing.T
	p *rod.Page
	n int
}

func (a *acts) paste(text string) { a.n++; paste(a.p, text) }
func (a *acts) click(selector string) {
	a.n++
	a.p.MustElement(selector).MustWaitVisible().MustClick()
}
func (a *acts) press(words string) {
	a.n++
	a.p.MustElementR("button, summary", words).MustWaitVisible().MustClick()
}
func (a *acts) fields(below string, pairs ...string) {
	for i := 0; i < len(pairs); i += 2 {
		a.n++
		fill(a.p, below+pairs[i], pairs[i+1])
	}
}
func (a *acts) choose(selector, words string) {
	a.n++
	a.p.MustElement(selector).MustWaitVisible().MustSelect(words)
}
func (a *acts) file(selector, path string) { a.n += 2; a.p.MustElement(selector).MustSetFiles(path) }
func (a *acts) open() {
	a.n++
	until(a.t, a.p, "what was pasted", `() => !!document.querySelector("#found svg.symbol")`)
	openOnDesk(a.t, a.p)
}
func (a *acts) most(n int) {
	a.t.Helper()
	a.t.Logf("%d acts", a.n)
	if a.n > n {
		a.t.Errorf("%d acts; %d at most", a.n, n)
	}
}

// TestActs walks four journeys and counts what a person has to do for each.
func TestActs(t *testing.T) {
	t.Parallel()
	app := open(t)
	begin := func(t *testing.T, path string) *acts { return &acts{t: t, p: app.page(t, path)} }

	t.Run("a whole dressed review code", func(t *testing.T) {
		t.Parallel()
		a := begin(t, "/codes")
		a.paste("marrowby.example/acts/review")
		a.open()
		hasText(t, a.p, "#line-says", "Asks for a review at marrowby.example/acts")
		a.click("[data-stub=wears]")
		a.press("^Looks$")
		a.click("#looks .tile[data-look='garden-sign']")
		until(t, a.p, "the look", `() => document.getElementById("look-name").textContent === "Garden sign"`)
		a.click("[data-stub=sits]")
		a.choose("#first-medium", "table tent")
		wait := nextPage(t, a.p)
		a.press("Put it there")
		wait()
		_, data := download(t, a.p, func() { a.click("#hand-over") })
		for name, file := range unzipped(t, data) {
			readBack(t, name, file, "https://marrowby.example/acts/review")
		}
		a.most(9)
	})
	t.Run("gradient, mark and eyes", func(t *testing.T) {
		t.Parallel()
		a := begin(t, app.create(t, `{"name":"Acts","content":{"kind":"url","url":"marrowby.example/acts/look"}}`))
		a.click("[data-stub=wears]")
		a.choose("#f-look-ink-kind", "from side to side")
		a.click(`.swatch[data-for="f-look-ink-stops-1-colour"][data-set="style:beetroot"]`)
		a.click("[data-part-of=mark]")
		a.click(`#icons [data-set="icon:leaf"]`)
		a.click("[data-part-of=eyes]")
		a.click(`#w-f-look-eyes-core-motif [data-set="disc"]`)
		until(t, a.p, "all three on the sheet",
			`() => { const t = document.getElementById("line-wears").textContent; return t.includes("linear") && t.includes("mark") && !!document.querySelector('.pickable[data-for="f-look-eyes-core-motif"][data-set="disc"][aria-pressed=true]'); }`)
		a.most(8)
	})
	t.Run("a contact from a signature", func(t *testing.T) {
		t.Parallel()
		a := begin(t, "/codes")
		a.paste(
			"Kind regards,\nPosy Lark\nTrade sales\nMarrowby Seed House\nM 0113 496 " +
				"0129\nposy@marrowby.example\nmarrowby.example")
		a.open()
		hasText(t, a.p, "#line-says", "Saves Posy Lark")
		hasText(t, a.p, ".handset", "+44 113 496 0129")
		for field, want := range map[string]string{"given": "Posy", "family": "Lark", "emails-0-address": "posy@marrowby.example",
			"organisation": "Marrowby Seed House"} {
			until(t, a.p, field+" "+want, `(f, want) => document.getElementById("f-content-" + f).value === want`, field, want)
		}
		_, data := download(t, a.p, func() { a.click("#hand-over") })
		if len(unzipped(t, data)) != 3 {
			t.Error("three files are handed over")
		}
		a.most(5)
	})
	t.Run("a full contact by form", func(t *testing.T) {
		t.Parallel()
		a := begin(t, "/codes")
		wait := nextPage(t, a.p)
		a.n++
		a.p.MustElementR("a", "saves a contact").MustClick()
		wait()
		a.fields("#f-content-", "given", "Ines", "family", "Okafor-Lindqvist", "phones-0-number", "+44 113 496 0123",
			"emails-0-address", "ines@marrowby.example")
		a.n++ // the form comes anew while it is filled, and with it the button
		until(t, a.p, "all fields", `() => { const b = document.querySelector("[data-unfolds]"); b?.click(); return !!b; }`)
		until(t, a.p, "the organisation", `() => document.getElementById("f-content-organisation").checkVisibility()`)
		a.fields("#f-content-", "organisation", "Marrowby Seed House", "title", "Seed buyer", "urls-0",
			"marrowby.example/ines", "address-line",
			"1 Orchard Lane, Ludlow SY8 1AA, United Kingdom")
		hasText(t, a.p, "#h-f-content-address-line", "Street 1 Orchard Lane, town Ludlow, postcode SY8 1AA, country United Kingdom.")
		wait = nextPage(t, a.p)
		a.press("Open on the desk")
		wait()
		hasText(t, a.p, "#line-says", "Saves Ines Okafor-Lindqvist")
		for field, want := range map[string]string{"title": "Seed buyer", "urls-0": "https://marrowby.example/ines",
			"address-street": "1 Orchard Lane", "address-postcode": "SY8 1AA", "address-country": "United Kingdom"} {
			until(t, a.p, field+" "+want, `(f, want) => document.getElementById("f-content-" + f).value === want`, field, want)
		}
		a.most(12)
		until(t, a.p, "the address unfolded", `() => { const d = document.getElementById("f-content-address-line").closest("details"); d.open = true;
			return d.open; }`)
		fill(a.p, "#f-content-address-line", "Lindenweg 4, 80331 München")
		until(a.t, a.p, "the town of another address", `() => document.getElementById("f-content-address-city").value === "München"`)
		fill(a.p, "#f-content-address-city", "Freising")
		until(a.t, a.p, "the line", `() => document.getElementById("f-content-address-line").value === "Lindenweg 4, 80331 Freising"`)
	})
	t.Run("a video to the printer", func(t *testing.T) {
		t.Parallel()
		a := begin(t, "/codes")
		a.paste("marrowby.example/watch/sowing")
		a.open()
		a.click("[data-stub=sits]")
		a.choose("#first-medium", "flyer")
		wait := nextPage(t, a.p)
		a.press("Put it there")
		wait()
		verdictIs(t, a.p, proof.Safe)
		a.click("[data-stub=ships]")
		_, data := download(t, a.p, func() { a.click(`.stub.open .ship-row button`) })
		names := ""
		for name := range unzipped(t, data) {
			names += name + " "
		}
		if !strings.Contains(names, ".pdf") || !strings.Contains(names, "proof") {
			t.Errorf("the printer gets %s", names)
		}
		a.most(7)
	})
	t.Run("places compared", func(t *testing.T) {
		t.Parallel()
		a := begin(t, "/scans")
		for i := range 2 {
			a.n++
			a.p.MustElements(".scans-rows input[name=with]")[i].MustClick()
		}
		wait := nextPage(t, a.p)
		a.press("Compare the chosen")
		wait()
		hasText(t, a.p, ".scans-side", "against")
		a.most(3)
	})
	t.Run("behind somebody in a call", func(t *testing.T) {
		t.Parallel()
		a := begin(t, app.create(t, `{"name":"Call","content":{"kind":"url","url":"https://marrowby.example/acts/call"}}`))
		a.click("[data-stub=sits]")
		a.choose("#first-medium", "background of a video call")
		wait := nextPage(t, a.p)
		a.press("Put it there")
		wait()
		hasText(t, a.p, ".in-place-words", "The code 223 mm from the left, 12 mm from the top")
		a.file("#artwork-file", nightGarden(t))
		until(t, a.p, "the picture under it", `() => !!document.querySelector("#in-place image")`)
		hasText(t, a.p, ".in-place-words", "223 mm from the left, 12 mm from the top")
		hasText(t, a.p, ".verdict", "Safe on screens")
		a.most(5)
	})
	t.Run("white on a dark photograph", func(t *testing.T) {
		t.Parallel()
		a := begin(t, app.create(t, `{"name":"Night garden","content":{"kind":"url","url":"marrowby.example/acts/night"}}`))
		a.click("[data-stub=sits]")
		a.choose("#first-medium", "A2 poster")
		wait := nextPage(t, a.p)
		a.press("Put it there")
		wait()
		until(t, a.p, "the place", `() => !!document.querySelector("#in-place svg")`)
		a.file("#artwork-file", nightGarden(t)) // dropped onto it
		until(t, a.p, "the photograph in place, as large as the poster",
			`() => !!document.querySelector("#in-place image") && document.querySelector(".in-place-words").textContent.startsWith("420 × 594 mm")`)
		a.click("[data-stub=wears]")
		a.press("White on the artwork")
		hasText(t, a.p, ".finding", "The ink is lighter than its ground")
		verdictIs(t, a.p, proof.Stop)
		a.press("Put a pale panel behind it")
		verdictIs(t, a.p, proof.Safe)
		a.most(8)
		_, data := download(t, a.p, func() { takeFile(a.p, "PNG of the whole") })
		readBack(t, "whole.png", data, "https://marrowby.example/acts/night")
		a.p.MustEval(`() => document.activeElement.blur()`)
		a.p.Keyboard.MustType(input.KeyU)
	})
}

// nightGarden is a dark photograph in the shape of a poster, without a stated resolution.
func nightGarden(t *testing.T) string {
	t.Helper()
	img := image.NewNRGBA(image.Rect(0, 0, 700, 990))
	for y := range 990 {
		for x := range 700 {
			v := 18 + 10*math.Sin(float64(x)/90) + 8*math.Sin(float64(y)/70)
			img.SetNRGBA(x, y, color.NRGBA{uint8(v * 0.6), uint8(v), uint8(v * 0.8), 255})
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "night-garden.png")
	if err := os.WriteFile(path, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}
