package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// TestMany chooses codes by mouse and by keys, acts on them in one, and takes that back in one: retired, moved, dressed.
func TestMany(t *testing.T) {
	t.Parallel()
	a := open(t)
	for _, name := range []string{"Many one", "Many two", "Many three"} {
		a.create(t, `{"name":"`+name+`","content":{"kind":"url","url":"marrowby.example/many"}}`)
	}
	p := a.page(t, "/codes")
	p.Keyboard.MustType(input.ArrowDown) // without a click
	until(t, p, "focus on the first row", `() => document.activeElement === document.querySelector("tr.code")`)

	fill(p, "#find-text", "many ")
	until(t, p, "three codes", `() => document.querySelectorAll("tr.code").length === 3`)
	p.MustEval(`() => document.activeElement.blur()`)
	p.Keyboard.MustType(input.ArrowDown)
	p.Keyboard.MustType('x')
	if err := p.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown).Type(input.ArrowDown).Release(input.ShiftLeft).
		Do(); err != nil {
		t.Fatal(err)
	}
	hasText(t, p, "#many-count", "3 codes")
	until(t, p, "campaigns and looks", `() => !!document.querySelector("#many select option")`)
	p.MustElement("#many input[name=campaign]").MustInput("Many at once")
	p.MustElementR("#many button", "Move").MustClick()
	hasText(t, p, ".acted", "3 codes moved to Many at once.")
	until(t, p, "one campaign",
		`() => [...document.querySelectorAll("tr.group")].map((g) => g.innerText).join().includes("Many at once") && document.querySelectorAll("tr.code").length === 3`)
	until(t, p, "the way back in focus", `() => document.activeElement.id === "undo"`)
	p.Keyboard.MustType(input.Enter)
	hasText(t, p, ".acted", "Undone on 3 codes.")
	until(t, p, "no campaign",
		`() => [...document.querySelectorAll("tr.group")].every((g) => g.innerText.includes("No campaign"))`)

	boxes := p.MustElements(".choose-cell input")
	boxes[0].MustClick()
	boxes[1].MustClick()
	hasText(t, p, "#many-count", "2 codes")
	p.MustElement("#many select[name=look]").MustWaitVisible().MustSelect("Pebble")
	p.MustElementR("#many button", "Put it on").MustClick()
	hasText(t, p, ".acted", "2 codes wear Pebble.")
	p.MustElement(".acted #undo").MustClick()
	hasText(t, p, ".acted", "Undone on 2 codes.")

	for _, box := range p.MustElements(".choose-cell input") {
		box.MustClick()
	}
	_, data := download(t, p, func() { p.MustElementR("#many-files button", "Download PNGs").MustClick() })
	files := unzipped(t, data)
	if len(files) != 3 {
		t.Errorf("the zip holds %v", keysOf(files))
	}
	for name, file := range files {
		readBack(t, name, file, "https://marrowby.example/many")
	}
	p.MustElementR("#many button", "Retire").MustClick()
	hasText(t, p, ".acted", "3 codes retired.")
	until(t, p, "no row left", `() => document.querySelectorAll("tr.code").length === 0`)
	p.MustElement(".acted #undo").MustClick()
	until(t, p, "all three again", `() => document.querySelectorAll("tr.code").length === 3`)

	// On each row.
	p.MustElement(`button[aria-label="Retire Many two"]`).MustClick()
	hasText(t, p, ".acted", "1 code retired.")
	until(t, p, "two left", `() => document.querySelectorAll("tr.code").length === 2`)
	wait := nextPage(t, p)
	p.MustElement(`button[aria-label="Duplicate Many one"]`).MustClick()
	wait()
	until(t, p, "the copy on its desk", `() => document.getElementById("f-name").value === "Many one, copy"`)
}
