package e2e

import (
	"flag"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
)

var shots = flag.String("screenshots", "", "folder to write pictures of the main views to")

// TestScreenshots draws the pictures of the README from the demonstration: go test ./e2e -run Screenshots -screenshots ../docs/screenshots
func TestScreenshots(t *testing.T) {
	if *shots == "" {
		t.Skip("no folder is given with -screenshots")
	}
	a, err := start("pictures")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name, path string
		prepare    func(p *rod.Page)
	}{
		{"ledger", "/codes", nil},
		{"paste", "/codes", func(p *rod.Page) {
			paste(p, "orders@marrowby.example")
			hasText(t, p, "#found", "It could be")
		}},
		{"desk-says", a.demoCode(t, "gate poster"), nil},
		{"new-wifi", "/new/wifi", func(p *rod.Page) {
			fill(p, "#f-content-ssid", "Marrowby Seed Library")
			fill(p, "#f-content-password", "snow")
			hasText(t, p, "#e-f-content-password", "phones will not join")
		}},
		{"desk-contact", a.demoCode(t, "tamsin"), nil},
		{"desk-place", a.demoCode(t, "way to the show"), nil},
		{"desk-swiss", a.demoCode(t, "swiss invoice"), func(p *rod.Page) { p.MustElement("[data-stub=ships]").MustClick() }},
		{"desk-product", a.demoCode(t, "sweet pea matucana"), nil},
		{"identifiers", "/identifiers", func(p *rod.Page) {
			fill(p, "#identifiers-text", "9521234500018\n9521234500019\n(01)09521234500018(10)A1209(17)271331\nhttps://id.marrowby.example/01/9521234500018/10/A1209")
			hasText(t, p, "#judged", "4 identifiers, 2 wrong")
		}},
		{"desk-wears", a.demoCode(t, "programme"), func(p *rod.Page) {
			x, y := at(p, "mark")
			p.Mouse.MustMoveTo(x, y).MustClick(proto.InputMouseButtonLeft)
		}},
		{"desk-eye", a.demoCode(t, "foxglove"), func(p *rod.Page) {
			x, y := at(p, "eye-1")
			p.Mouse.MustMoveTo(x, y).MustClick(proto.InputMouseButtonLeft)
		}},
		{"desk-damage", a.demoCode(t, "sowing guide"), func(p *rod.Page) {
			p.MustElement("[data-stub=wears]").MustClick()
			p.MustElement(`.views button:last-child`).MustClick()
		}},
		{"desk-sits", a.demoCode(t, "gate poster") + "?place=1", func(p *rod.Page) { p.MustElement("[data-stub=sits]").MustClick() }},
		{"desk-reads", a.demoCode(t, "programme"), func(p *rod.Page) {
			p.MustElement("[data-stub=reads]").MustClick()
			until(t, p, "the picture", `() => !!document.querySelector("#camera img")`)
			p.MustEval(`() => { for (const [k, v] of [["tilt", 24], ["wear", 2], ["shade", 25]]) { const e = document.getElementById("see-" + k); e.value = v; e.dispatchEvent(new Event("input", { bubbles: true })); } }`)
			time.Sleep(time.Second)
		}},
		{"history", a.demoCode(t, "aldous"), func(p *rod.Page) {
			p.MustElement("[data-stub=wears]").MustClick()
			p.MustElement(`.swatch[data-set="#3d3b1f"]`).MustClick()
			hasText(t, p, "#line-wears", "olive")
			fill(p, "#f-name", "Broad bean Aldous, new ink")
			hasText(t, p, "#issued", "Draft")
			p.MustElementR("button", "History").MustClick()
			hasText(t, p, "#compared", "ink")
			p.MustEval(`() => document.activeElement.blur()`)
		}},
		{"people", "/people", nil},
		{"api", "/api", nil},
		{"issued-version", a.demoCode(t, "programme") + "/versions/1", nil},
		{"desk-ships", a.demoCode(t, "aldous"), func(p *rod.Page) { p.MustElement("[data-stub=ships]").MustClick() }},
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
	}
}
