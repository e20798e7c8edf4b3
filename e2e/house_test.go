package e2e

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/access"
	"sodrik/internal/core/compose"
	"sodrik/internal/standin"
)

// TestHouseStyle makes a house style and locks it, makes a look of it, wears that on three codes, picks a variation and takes
// it back. In the workspace of the show garden, which no other test dresses.
func TestHouseStyle(t *testing.T) {
	t.Parallel()
	a := open(t)
	var codes []string
	for _, name := range []string{"Shed door", "Fern house", "Gate bell"} {
		m,
			problems := compose.Parse(
			[]byte(
				fmt.Sprintf(
					`{"name":%q,"content":{"kind":"url","url":"https://marrowby.example/garden/%d"},"placements":[{"name":"sign","width_mm":60,"distance_mm":500}]}`, name, len(codes))), nil)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		id, err := a.store.Create(t.Context(), access.OfProgram(standin.Garden, ""), m, "")
		if err != nil {
			t.Fatal(err)
		}
		codes = append(codes, "/codes/"+id)
	}
	p := a.page(t, "/account#workspaces")
	wait := nextPage(t, p)
	p.MustElementR("#workspaces button", "Go there").MustClick()
	wait()
	submit := func(selector, button string) {
		t.Helper()
		wait := nextPage(t, p)
		p.MustElementR(selector, button).MustClick()
		wait()
		p.MustWaitLoad()
	}

	// What is wrong is named, and what was typed stays.
	p.MustNavigate(a.url + "/style").MustWaitLoad()
	p.MustElement("#colours .add input[name=name]").MustInput("Moss")
	p.MustElement("#colours .add input[name=screen]").MustInput("greenish")
	submit("#colours button", "Add colour")
	hasText(t, p, "#colours .error", "write six hexadecimal digits")
	if got := p.MustElement("#colours .add input[name=name]").MustProperty("value").Str(); got != "Moss" {
		t.Errorf("the name is lost: %q", got)
	}
	p.MustElement("#colours .add input[name=screen]").MustSelectAllText().MustInput("#3d5a2c")
	p.MustElement("#colours .add input[name=cmyk]").MustInput("70, 30, 95, 40")
	p.MustElement("#colours .add input[name=spot]").MustInput("Marrowby Moss")
	submit("#colours button", "Add colour")
	hasText(t, p, "#colour-moss", "spot Marrowby Moss")
	for _, c := range [][2]string{{"Straw", "#f3e9c8"}, {"Moss", "#123456"}} {
		p.MustElement("#colours .add input[name=name]").MustInput(c[0])
		p.MustElement("#colours .add input[name=screen]").MustInput(c[1])
		submit("#colours button", "Add colour")
	}
	hasText(t, p, "#colours .error", "already a colour called Moss")
	p.MustElement("#marks .add input[name=name]").MustInput("Sprout")
	p.MustElement("#marks .add input[name=icon]").MustInput("sprout")
	submit("#marks button", "Add mark")
	hasText(t, p, "#marks", "1 module free around it")
	words := filepath.Join(t.TempDir(), "words.ttf")
	if err := os.WriteFile(words, []byte("no font"), 0o600); err != nil {
		t.Fatal(err)
	}
	for file, want := range map[string]string{words: "The file is not a TrueType or OpenType font",
		"../internal/core/typeface/fonts/caveat.ttf": ""} {
		p.MustElement("#typefaces input[type=file]").MustSetFiles(file)
		submit("#typefaces button", "Add this typeface")
		if hasText(t, p, "#typefaces", want); want == "" {
			hasText(t, p, "#typefaces", "came in as a file")
		}
	}
	p.MustElement("#rules input[name=contrast]").MustInput("50 %")
	p.MustElement("#rules input[name=locked]").MustClick()
	submit("#rules button", "Set the rules")
	hasText(t, p, "main", "Locked: only its parts are offered")

	// The desk offers the house's alone, and remarks on what is not of it.
	p.MustNavigate(a.url + codes[0]).MustWaitLoad()
	hasText(t, p, ".finding", "Not in a colour of the house: the ink.")
	p.MustElement("[data-stub=wears]").MustClick()
	if got := p.MustEval(`() => [...document.querySelectorAll("#inks-form .swatch")].map((b) => b.dataset.set).join(" ")`).
		Str(); got != "style:moss" {
		t.Errorf("inks on offer: %s", got)
	}
	if p.MustElement("#w-f-look-ink .colour").MustVisible() {
		t.Error("any other colour can still be chosen")
	}
	p.MustElementR(".finding button", "Print it in Moss").MustClick()
	hasText(t, p, "#line-wears", "moss on white")
	p.MustElement(`.swatch[data-set="style:straw"]`).MustClick()
	hasText(t, p, "#line-wears", "moss on straw")
	until(t, p, "no remark of the house",
		`() => document.getElementById("age").innerText === "" && !document.querySelector("#remarks.older") && !document.querySelector('.finding[data-code^="style."]')`)

	openPart(p, "frame")
	pick(p, "f-look-frame-shape", "rule")
	p.MustElement("#f-look-frame-text").MustInput("Mind the ferns")
	if got := p.MustElement("#f-look-frame-font").MustEval(`() => [...this.options].map((o) => o.innerText).join(", ")`).
		Str(); got != "Caveat Bold, Instrument Sans: plain, friendly" {
		t.Errorf("typefaces on offer: %q", got)
	}
	pick(p, "f-look-frame-shape", "")
	until(t, p, "no frame", `() => !document.getElementById("f-look-frame-text")`)

	// A look, kept, and worn by the others.
	p.MustElementR("#look-slot summary", "Save as a look").MustClick()
	p.MustElement("#look-keep").MustInput("Potting bench").MustType(input.Enter)
	hasText(t, p, "#look-slot", "Potting bench is kept")
	p.MustElementR("#look-slot summary", "Save as a look").MustClick().MustClick()
	p.MustElement("#look-keep").MustInput("potting bench").MustType(input.Enter)
	hasText(t, p, "#e-look-keep", "already a look called")
	p.MustNavigate(a.url + "/style/looks/potting-bench").MustWaitLoad()
	for _, name := range []string{"Fern house", "Gate bell"} {
		p.MustElementR(".wearers label", name).MustClick()
	}
	submit("button", "Put it on the chosen codes")
	hasText(t, p, "main", "worn by 3 codes")

	// A variation by its key; undo takes it back.
	p.MustNavigate(a.url + codes[1]).MustWaitLoad()
	hasText(t, p, "#line-wears", "moss on straw")
	p.MustElement("[data-stub=wears]").MustClick()
	hasText(t, p, "#look-slot", "Look: Potting bench")
	openView(p, "variations")
	until(t, p, "nine, each proved",
		`() => document.querySelectorAll("#variations [data-variation] [data-verdict]").length === 9`)
	if bad := p.MustEval(
		`() => [...document.querySelectorAll("#variations [data-verdict]")].filter((x) => x.dataset.verdict !== "safe").length`).
		Int(); bad > 1 {
		t.Errorf("%d of nine are not safe", bad)
	}
	p.MustEval(`() => document.activeElement.blur()`)
	p.Keyboard.MustType(input.Digit3)
	until(t, p, "variation 3", `() => document.getElementById("undo").title.includes("variation 3")`)
	hasText(t, p, "#look-slot", "Potting bench, altered")
	p.MustElement("#undo").MustClick()
	until(t, p, "the look again", `() => document.getElementById("look-name").innerText === "Potting bench"`)

	// Changed on one code, for the drafts that wear it too.
	p.MustElement("#f-look-modules-corner").
		MustEval(`() => { this.value = "0.6"; this.dispatchEvent(new Event("input", { bubbles: true })); }`)
	hasText(t, p, "#look-slot", "Potting bench, altered")
	p.MustElementR("#look-slot summary", "Save as a look").MustClick()
	p.MustElementR("#look-slot button", "on drafts that wear it too").MustClick()
	hasText(t, p, "#look-slot", "is changed, and on 2 further drafts")
	p.MustNavigate(a.url + codes[2]).MustWaitLoad()
	p.MustElement("[data-stub=wears]").MustClick()
	if got := p.MustElement("#f-look-modules-corner").MustProperty("value").Str(); got != "0.6" {
		t.Errorf("the third has corners %s", got)
	}

	// A colour in use stays; the house style leaves as a zip and comes in again.
	p.MustNavigate(a.url + "/style").MustWaitLoad()
	p.MustElementR("#colour-moss summary", "Change").MustClick()
	submit("#colour-moss button", "Take Moss away")
	hasText(t, p, "#colours .error", "Moss is in use: ")
	_, kit := download(t, p, func() { p.MustElementR("a", "Download house style").MustClick() })
	z, err := zip.NewReader(bytes.NewReader(kit), int64(len(kit)))
	if err != nil || len(z.File) != 2 || z.File[0].Name != "house-style.json" ||
		!strings.HasPrefix(z.File[1].Name, "typefaces/") {
		t.Fatalf("%+v, %v", z, err)
	}
	for _, c := range []struct {
		name, want string
		data       []byte
	}{{"broken.zip", "no zip", kit[:50]}, {"style.zip", "", kit}} {
		file := filepath.Join(t.TempDir(), c.name)
		if err := os.WriteFile(file, c.data, 0o600); err != nil {
			t.Fatal(err)
		}
		p.MustElement("#kit input[type=file]").MustSetFiles(file)
		submit("#kit button", "Replace the house style")
		if c.want != "" {
			hasText(t, p, "#kit .error", c.want)
		} else if !strings.Contains(p.MustElement("main").MustText(), "is replaced") {
			t.Error("a house style that left does not come in")
		}
	}
}
