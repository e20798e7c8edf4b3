package e2e

import (
	"errors"
	"flag"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
)

var shots = flag.String("screenshots", "", "folder to write pictures of the main views to")

// TestScreenshots draws the pictures of the README from the demonstration: go test ./e2e -run Screenshots -screenshots
// ../docs/screenshots
func TestScreenshots(t *testing.T) {
	if *shots == "" {
		t.Skip("no folder is given with -screenshots")
	}
	a, err := start("pictures")
	if err != nil {
		t.Fatal(err)
	}
	a = a.eagerly()
	request, err := http.NewRequest(http.MethodGet, a.url+a.demoCode(t, "programme")+"/proof-sheet", nil)
	if err != nil {
		t.Fatal(err)
	}
	request.AddCookie(a.cookie(t, "tamsin@marrowby.example"))
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Body.Close()
	sheet, err := io.ReadAll(answer.Body)
	file := filepath.Join(t.TempDir(), "sheet.pdf")
	if err = errors.Join(err, os.WriteFile(file, sheet, 0o600)); err != nil {
		t.Fatal(err)
	}
	tool(t, "pdftoppm", "-r", "90", "-png", "-singlefile", file, filepath.Join(*shots, "proof-sheet"))
	bench := a.pageAs(t, "", "/")
	bench.MustSetViewport(1280, 800, 1, false)
	bench.MustElement("#bench-text").MustInput("marrowby.example/fair")
	until(t, bench, "the code", `() => !!document.querySelector("#bench-files button")`)
	bench.MustElement("#f-placements-0-medium").MustSelect("flyer")
	until(t, bench, "a verdict for print",
		`() => document.querySelector("#bench-proof .verdict b")?.innerText === "Safe to print"`)
	if err := os.WriteFile(filepath.Join(*shots, "bench.png"), bench.MustScreenshot(), 0o644); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name, path string
		prepare    func(p *rod.Page)
	}{
		{"ledger", "/codes", func(p *rod.Page) {
			p.MustEval(`() => { for (const i of [1, 2]) document.querySelectorAll(".choose-cell input")[i].click(); }`)
			until(t, p, "campaigns and looks", `() => !!document.querySelector("#many select option")`)
		}},
		{"paste", "/codes", func(p *rod.Page) {
			paste(p, "orders@marrowby.example")
			hasText(t, p, "#found", "It could be")
		}},
		{"desk-says", a.demoCode(t, "gate poster"), nil},
		{"scans", "/scans", func(p *rod.Page) {
			wait := nextPage(t, p)
			p.MustElement(".scans-rows tbody .name a").MustClick()
			wait()
		}},
		{"desk-frame", a.demoCode(t, "potting shed"), func(p *rod.Page) {
			openPart(p, "frame")
			until(t, p, "the frames", `() => document.querySelector("#part-of-frame .sprite").naturalWidth > 0`)
		}},
		{"overview", "/scans/overview?days=90", nil},
		{"house-style", "/style", nil},
		{"desk-looks", a.demoCode(t, "show garden"), func(p *rod.Page) {
			p.MustElement("[data-stub=wears]").MustClick()
			openView(p, "looks")
			until(t, p, "verdicts", `() => document.querySelectorAll("#looks .tile-verdict").length >= 7`)
		}},
		{"batch", "/batches", func(p *rod.Page) {
			wait := nextPage(t, p)
			p.MustElementR("a.name", "Plant labels, show garden").MustClick()
			wait()
			// any change has it proved
			p.MustElement("#batch-settings > summary").MustClick()
			enter(p, "#b-set-name", "{Plant}, bed {Bed}")
			madeBatch(t, p)
			p.MustElementR(".batch-ships button", "Make sheets").MustClick()
			until(t, p, "the sheets", `() => document.querySelectorAll(".batch-runs a[download]").length === 2`)
			p.MustElement("#batch-settings > summary").MustClick()
			p.MustEval(`() => document.activeElement.blur()`)
		}},
		{"desk-wears", a.demoCode(t, "programme"), func(p *rod.Page) {
			x, y := at(p, "mark")
			p.Mouse.MustMoveTo(x, y).MustClick(proto.InputMouseButtonLeft)
		}},
		{"desk-routes", a.demoCode(t, "at the fair today"), func(p *rod.Page) {
			openView(p, "routes")
			fill(p, "#f-lead-to", "marrowby.example/fair/tea-tent")
			until(t, p, "the draft", `() => Boolean(document.getElementById("make-live"))`)
			fill(p, "[name=if-where]", "Newtown, Wales")
			fill(p, "[name=if-languages]", "Welsh, then English")
			hasText(t, p, "#what-if", "Route 1, marrowby.example/cy/ffair.")
			p.MustEval(`() => document.activeElement.blur()`)
		}},
		{"desk-sits", a.demoCode(t, "poster with tulips"), func(p *rod.Page) {
			p.MustElement("[data-stub=sits]").MustClick()
			until(t, p, "the poster", `() => !!document.querySelector("#in-place image")`)
		}},
		{"desk-reads", a.demoCode(t, "programme"), func(p *rod.Page) {
			p.MustElement("[data-stub=reads]").MustClick()
			until(t, p, "the picture", `() => !!document.querySelector("#camera img")`)
			was := *p.MustElement("#camera img").MustAttribute("src")
			p.MustEval(
				`() => { for (const [k, v] of [["tilt", 24], ["wear", 2], ["shade", 25]]) { const e = document.getElementById("see-" + k); e.value = v; e.dispatchEvent(new Event("input", { bubbles: true })); } }`)
			until(t, p, "the picture leaning back",
				`(was) => document.querySelector("#camera img").src !== was && document.querySelectorAll(".htmx-request").length === 0`, was)
			time.Sleep(time.Second)
		}},
		{"evidence", a.demoCode(t, "programme"), func(p *rod.Page) {
			p.MustElement("[data-stub=reads]").MustClick()
			openView(p, "evidence")
			until(t, p, "every condition", `() => document.querySelectorAll("#evidence li").length >= 25`)
			p.MustElementR("#readings summary", "Forecast of grades").MustClick()
		}},
		{"history", a.demoCode(t, "aldous"), func(p *rod.Page) {
			p.MustElement("[data-stub=wears]").MustClick()
			p.MustElement(`.swatch[data-set="style:bark"]`).MustClick()
			hasText(t, p, "#line-wears", "bark")
			fill(p, "#f-name", "Broad bean Aldous, new ink")
			hasText(t, p, "#issued", "Draft")
			p.MustElementR("button", "History").MustClick()
			hasText(t, p, "#compared", "ink")
			p.MustEval(`() => document.activeElement.blur()`)
		}},
		{"desk-ships", a.demoCode(t, "poster with tulips"), func(p *rod.Page) {
			p.MustElement("[data-stub=ships]").MustClick()
			p.MustElement("[data-whom=press]").MustClick()
		}},
		// Last of those of the programme: from here on it is in inks for uncoated paper.
		{"desk-plates", a.demoCode(t, "programme"), func(p *rod.Page) {
			p.MustElement("[data-stub=ships]").MustClick()
			p.MustElement("[data-whom=press]").MustClick()
			p.MustElement("#f-output-colour").MustSelect("uncoated paper, sheet-fed offset")
			hasText(t, p, "#line-ships", "PDF/X-1a")
			openView(p, "plates")
			until(t, p, "the plates", `() => document.querySelectorAll("#plates .plate-tile").length === 6`)
			until(t, p, "the proof of these inks", `() => document.getElementById("age").textContent === ""`)
		}},
	} {
		who := "tamsin@marrowby.example"
		if c.path == "" {
			who = ""
		}
		p := a.pageAs(t, who, c.path)
		if c.prepare != nil {
			c.prepare(p)
		}
		time.Sleep(900 * time.Millisecond)
		p.MustEval(`() => { if (document.activeElement.matches("button")) document.activeElement.blur(); }`)
		b, err := p.Screenshot(false, nil)
		if err == nil {
			err = os.WriteFile(filepath.Join(*shots, c.name+".png"), b, 0o644)
		}
		if err != nil {
			t.Fatal(err)
		}
		p.MustClose() // what it would still have proved is not needed
	}
}
