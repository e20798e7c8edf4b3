package e2e

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/core/proof"
)

// TestFixesAlone: a look and a size that fail are brought to safe with nothing but the fixes on offer, each taken with the key f.
func TestFixesAlone(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t,
		`{"name":"Hopeless","content":{"kind":"url","url":"http://marrowby.example/fair?gclid=a1b2"},"symbol":{"quiet_zone":1},"look":{"ink":"#a9c4a0","modules":{"join":"none","scale":0.7},"eyes":{"ring":{"texture":"modules"},"core":{"motif":"kernel"}}},"placements":[{"name":"gate","width_mm":18,"distance_mm":400,"substrate":"uncoated"}]}`))
	verdictIs(t, p, proof.Stop)
	p.MustElement(`.finding[data-code^="quiet-zone"]`).MustHover() // what a remark is about is lit on the sheet
	until(t, p, "the border lit",
		`() => document.querySelectorAll("#picture .lit").length === 1 && document.querySelector("#picture .lit").dataset.about === "quiet"`)
	p.MustElement(".verdict").MustHover()
	until(t, p, "nothing lit", `() => document.querySelectorAll("#picture .lit").length === 0`)
	done := `() => document.getElementById("age").innerText === "" && !document.getElementById("remarks").classList.contains("older")`
	steps := 0
	for ; steps < 14; steps++ {
		until(t, p, "the proof of what is drawn", done)
		if p.MustEval(`() => document.querySelector(".verdict").dataset.verdict`).Str() == string(proof.Safe) {
			break
		}
		fix := p.MustEval(`() => { const b = document.querySelector(".finding .btn"); return b ? b.innerText : ""; }`).Str()
		if fix == "" {
			t.Fatalf("after %d fixes no more are offered: %s", steps, p.MustElement(".findings").MustText())
		}
		p.MustElement("body").MustEval(`() => document.activeElement.blur()`)
		p.Keyboard.MustType(input.KeyF)
		until(t, p, "the fix "+fix,
			`(was) => document.getElementById("undo").title !== was || document.getElementById("remarks").classList.contains("older")`, p.MustEval(`() => document.getElementById("undo").title`).Str())
	}
	verdictIs(t, p, proof.Safe)
	if steps < 4 {
		t.Errorf("only %d fixes were needed", steps)
	}
}

// TestEvidence: after the verdict come hard conditions, abuse and the measured range, and every picture can be looked at with
// what each reader makes of it. All by keyboard but for opening the view.
func TestEvidence(t *testing.T) {
	t.Parallel()
	a := open(t).eagerly()
	p := a.page(t, a.create(t,
		`{"name":"Looked into","content":{"kind":"url","url":"marrowby.example/evidence"},"placements":[{"name":"gate","width_mm":60,"distance_mm":500,"substrate":"uncoated","light":"outdoor"}]}`))
	verdictIs(t, p, proof.Safe)
	hasText(t, p, "#beyond", "Harder conditions: survives ")
	hasText(t, p, "#beyond", "Wear and damage: survives ")
	hasText(t, p, "#beyond", "See the evidence")
	until(t, p, "the measured range",
		`() => document.getElementById("gauge-text-4").textContent.includes("Every kind of phone reader reads it from 80 mm")`)
	p.MustElement("#beyond .link").MustClick()
	hasText(t, p, "#evidence", "Half in shadow") // ordinary out of doors
	const cards = `() => document.querySelectorAll("#evidence li").length`
	if n := p.MustEval(cards).Int(); n < 25 {
		t.Errorf("%d conditions are shown", n)
	}
	if bad := p.MustEval(
		`() => [...document.querySelectorAll("#evidence section:first-child .fails")].map((x) => x.innerText).join(" ")`).
		Str(); bad != "" {
		t.Errorf("called safe, and the evidence says %s", bad)
	}
	p.MustElementR("#evidence button", "Leaning back").MustFocus().MustType(input.Enter)
	hasText(t, p, "#evidence", "Picture 1 of 5")
	until(t, p, "the picture", `() => document.querySelector("#evidence img.camera").naturalWidth > 50`)
	until(t, p, "answers of four readers", `() => document.querySelectorAll("#evidence .answers li").length === 4`)
	first := p.MustElement("#evidence img.camera").MustAttribute("src")
	p.MustElementR("#evidence .draws button", "3").MustFocus().MustType(input.Enter)
	hasText(t, p, "#evidence", "Picture 3 of 5")
	if again := p.MustElement("#evidence img.camera").MustAttribute("src"); *again == *first {
		t.Error("two draws are the same picture")
	}
	p.MustElementR("#evidence button", "All conditions").MustClick()
	until(t, p, "the list again", `() => document.querySelectorAll("#evidence li").length >= 25`)

	// The same on paper, with a line to sign.
	p.MustElement("[data-stub=ships]").MustClick()
	name, data := download(t, p, func() { p.MustElement(`a[aria-label="Download proof sheet"]`).MustClick() })
	if name != "looked-into-proof-sheet.pdf" || !bytes.HasPrefix(data, []byte("%PDF-")) {
		t.Errorf("%s is not a sheet: %.20q", name, data)
	}
	readBack(t, "sheet.pdf", data, "https://marrowby.example/evidence")
}

// TestTryOnAPhone: what a person saw is noted for the version, with a clear word on what is missing, and stands beside the proof.
func TestTryOnAPhone(t *testing.T) {
	t.Parallel()
	a := open(t)
	at := a.create(t,
		`{"name":"Tried","content":{"kind":"url","url":"marrowby.example/tried"},"placements":[{"name":"till","width_mm":40,"distance_mm":300}]}`)
	p := a.page(t, at+"/phone?place=0")
	width := `() => document.querySelector(".trial-code svg").getBoundingClientRect().width`
	before := p.MustEval(width).Num()
	if before < 145 || before > 158 { // 40 mm at 96 dots an inch
		t.Errorf("40 mm are %.1f px wide", before)
	}
	p.MustElement("#card").MustFocus()
	for range 10 {
		p.Keyboard.MustType(input.ArrowRight)
	}
	if after := p.MustEval(width).Num(); after <= before+3 {
		t.Errorf("after calibrating against a card it is %.1f px wide, before %.1f", after, before)
	}
	fill(p, "#note", "In the shop window")
	p.MustElementR("button", "^Save$").MustClick()
	hasText(t, p, ".error", "name the phone")
	if got := p.MustElement("#note").MustProperty("value").Str(); got != "In the shop window" {
		t.Errorf("what was typed is lost: %q", got)
	}
	fill(p, "#phone", "shop phone")
	p.MustElementR("label", "Read at once").MustClick()
	p.MustElementR("button", "^Save$").MustClick()
	hasText(t, p, ".answers", "shop phone: read at once, at till. In the shop window.")
	p.MustElementR("a", "Back to the desk").MustClick()
	verdictIs(t, p, proof.Safe)
	p.MustElement("[data-stub=reads]").MustClick()
	hasText(t, p, "#readings", "shop phone: read at once")
	p.MustElementR("#beyond button", "Check harder conditions").MustFocus().MustType(input.Enter)
	hasText(t, p, "#beyond", "Harder conditions: survives ")
}

// TestMakeClean: a code in a picture is taken apart, and made again with the very same modules.
func TestMakeClean(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t,
		`{"name":"Old print","content":{"kind":"url","url":"marrowby.example/old-print"},"symbol":{"level":"H","mask":6},"look":{"mark":{"source":"icon:sprout","width":0.22}}}`))
	p.MustElement("[data-stub=ships]").MustClick()
	_, picture := download(t, p, func() { takeFile(p, "PNG") })
	file := filepath.Join(t.TempDir(), "old.png")
	if err := os.WriteFile(file, picture, 0o600); err != nil {
		t.Fatal(err)
	}
	p = a.page(t, "/codes")
	p.MustElement("#find-file input").MustSetFiles(file)
	hasText(t, p, "#found", "level H, mask 6")
	p.MustElementR("#found summary", "Where it was found").MustClick()
	until(t, p, "its outline in the picture",
		`() => { const s = document.querySelector("#found .outlined svg"), g = s.querySelector("polygon").getBBox(), all = s.viewBox.baseVal; return g.width > 0.7 * all.width && g.width < all.width && g.x > 0; }`)
	hasText(t, p, "#found", "had to be corrected")
	hasText(t, p, "#found", "deserves grade")
	clean := p.MustElementR("#found button", "Make it clean")
	if title := clean.MustAttribute("title"); title == nil || !strings.Contains(*title, "very same modules") {
		t.Errorf("it promises %v", title)
	}
	wait := nextPage(t, p)
	clean.MustClick()
	wait()
	hasText(t, p, "#gauge-0", "H")
	until(t, p, "the mask of the old print", `() => document.getElementById("gauge-text-0").textContent.includes("mask 6")`)
	hasText(t, p, "#line-says", "marrowby.example/old-print")
	if strings.Contains(p.MustElement("#line-wears").MustText(), "mark") {
		t.Error("it still wears the mark")
	}
}
