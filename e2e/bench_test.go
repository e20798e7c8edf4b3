package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// TestStrangers: without an account, by keys and mouse: a paste becomes a code, a place and a verdict, a fix is taken, every
// file is read by others, and the way to an account is there.
func TestStrangers(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.pageAs(t, "", "/")
	if got := p.MustEval(`() => document.activeElement.id`).Str(); got != "bench-text" {
		t.Errorf("one begins in %q", got)
	}
	p.MustElement("#bench-text").MustInput("marrowby.example/fair")
	until(t, p, "the code", `() => !!document.querySelector("#bench-code svg.symbol[aria-label^='QR']")`)
	until(t, p, "a verdict of the picture", `() => document.querySelector("#bench-proof .verdict b")?.innerText === "Reads flat"`)
	hasText(t, p, "#bench-code", "marrowby.example/fair")

	p.MustElement("#f-placements-0-medium").MustSelect("business card")
	until(t, p, "its width", `() => document.querySelector("#f-placements-0-width_mm")?.value === "22 mm"`)
	until(t, p, "a verdict for print", `() => document.querySelector("#bench-proof .verdict b")?.innerText === "Safe to print"`)
	p.MustElement("#f-placements-0-width_mm").MustFocus() // Enter in a field changes nothing
	p.Keyboard.MustType(input.Enter)
	until(t, p, "still a web address", `() => document.getElementById("took").innerText.includes("web address")`)
	if got := p.MustEval(`() => document.activeElement.id`).Str(); got != "f-placements-0-width_mm" {
		t.Errorf("after Enter one is in %q", got)
	}
	fill(p, "#f-placements-0-width_mm", "9")
	until(t, p, "what is wrong with it", `() => document.querySelectorAll("#bench-proof .finding button").length > 0`)
	fix := p.MustElement("#bench-proof .finding button")
	fix.MustFocus()
	wait := nextPage(t, p)
	p.Keyboard.MustType(input.Enter)
	wait()
	until(t, p, "it is safe again", `() => document.querySelector("#bench-proof .verdict b")?.innerText === "Safe to print"`)
	if got := p.MustElement("#bench-text").MustProperty("value").Str(); got != "marrowby.example/fair" {
		t.Errorf("after the fix the text is %q", got)
	}

	fill(p, "#f-look-ink", "#12")
	until(
		t,
		p,
		"that it is no colour",
		`() => document.querySelector("#e-f-look-ink").innerText !== "" && !document.querySelector("#bench-files button")`,
	)
	fill(p, "#f-look-ink", "#12352b")
	until(
		t,
		p,
		"files",
		`() => document.querySelectorAll("#bench-files button").length === 4 && document.querySelector("#e-f-look-ink").innerText === ""`,
	)
	for _, format := range []string{"PNG", "SVG", "PDF", "EPS"} {
		name, data := download(t, p, func() { p.MustElementR("#bench-files button", format).MustClick() })
		if !strings.HasPrefix(name, "marrowby-example-fair_") || !strings.HasSuffix(name, "."+strings.ToLower(format)) {
			t.Errorf("saved as %q", name)
		}
		readBack(t, name, data, "https://marrowby.example/fair")
	}

	p.MustSetViewport(390, 844, 1, true)
	if got := p.MustEval(`() => document.documentElement.scrollWidth`).Int(); got > 390 {
		t.Errorf("%d wide on a phone", got)
	}
	fill(p, "#bench-text", "WIFI:T:WPA;S:Marrowby Guests;P:tulip-seven;;")
	until(t, p, "a network", `() => document.querySelector("#took").innerText.includes("Wi-Fi")`)
	fill(p, "#bench-text", "")
	until(
		t,
		p,
		"nothing",
		`() => !document.querySelector("#bench-files button") && document.querySelector("#took").innerText === ""`,
	)
	wait = nextPage(t, p)
	p.MustElementR(".bench-says a", "Sign in").MustClick()
	wait()
	hasText(t, p, "main", "Sign in")
}
