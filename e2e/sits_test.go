package e2e

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// flyerFile is artwork as another program writes it: A5, two pages, the second turned, with an empty part at its foot.
func flyerFile(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	svg, one, two := filepath.Join(dir, "flyer.svg"), filepath.Join(dir, "one.pdf"), filepath.Join(dir, "flyer.pdf")
	if err := os.WriteFile(svg,
		[]byte(
			`<svg xmlns="http://www.w3.org/2000/svg" width="148mm" height="210mm" viewBox="0 0 148 210"><rect width="148" height="110" fill="#12352b"/><circle cx="40" cy="50" r="26" fill="#e9a820"/><path d="M15 120h90v8h-90zM15 132h60v5h-60z" fill="#16241f"/></svg>`), 0o600); err != nil {
		t.Fatal(err)
	}
	tool(t, "rsvg-convert", "-f", "pdf", "-o", one, svg)
	tool(t, "qpdf", one, "--pages", one, "1,1", "--", "--rotate=90:2", two)
	return two
}

// lies gives where the code lies in the view in place, in mm.
func lies(p *rod.Page) (x, y float64) {
	r := p.MustEval(
		`() => { const g = document.getElementById("placed"); return g ? [Number(g.dataset.x), Number(g.dataset.y)] : [-1, -1]; }`)
	return r.Get("0").Num(), r.Get("1").Num()
}

// TestSits walks the job of a place: a code goes onto a leaflet, its artwork comes in, the code is dragged to an empty part
// and nudged by keys, words come beside it, it goes onto a second medium too, and the leaflet leaves as the designer's own
// PDF with the code added.
func TestSits(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t, `{"name":"Leaflet","content":{"kind":"url","url":"https://marrowby.example/leaflet"}}`))
	p.MustElement("[data-stub=sits]").MustClick()
	wait := nextPage(t, p)
	p.MustElement("#first-medium").MustSelect("leaflet")
	p.MustElementR("button", "Put it there").MustClick()
	wait()
	hasText(t, p, ".in-place-words", "148 × 210 mm")
	hasText(t, p, "#sizes", "Find the smallest safe width")

	// A width in pixels or inches comes to be millimetres, and both are said.
	fill(p, "#f-placements-0-width_mm", "378 px at 300 dpi")
	hasText(t, p, "#h-f-placements-0-width_mm", "1.26 in")
	fill(p, "#f-placements-0-width_mm", "about a thumb")
	hasText(t, p, "#e-f-placements-0-width_mm", "is not a length")
	fill(p, "#f-placements-0-width_mm", "40 mm")
	hasText(t, p, "#line-sits", "leaflet 40 mm")

	// Artwork that cannot be taken says why; nothing else changes.
	flyer := flyerFile(t)
	p.MustElement("#fold-artwork summary").MustClick()
	locked := filepath.Join(t.TempDir(), "locked.pdf")
	tool(t, "qpdf", "--encrypt", "a", "b", "256", "--", flyer, locked)
	broken := filepath.Join(t.TempDir(), "broken.pdf")
	if err := os.WriteFile(broken, []byte("%PDF-1.7 and no more"), 0o600); err != nil {
		t.Fatal(err)
	}
	thin := filepath.Join(t.TempDir(), "thin.svg")
	if err := os.WriteFile(thin, []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="0.5mm" height="90mm"/>`),
		0o600); err != nil {
		t.Fatal(err)
	}
	for _, c := range [][2]string{{locked, "Is encrypted"}, {broken, "damaged"}, {thin, "0.5 × 90 mm"}} {
		p.MustElement("#artwork-file").MustSetFiles(c[0])
		hasText(t, p, "#e-artwork-file", c[1])
	}
	p.MustElement("#artwork-file").MustSetFiles(flyer)
	hasText(t, p, "#art-line", "148 × 210 mm, page 1 of 2")
	until(t, p, "the artwork drawn", `() => { const i = document.querySelector("#in-place image"); return !!i; }`)

	// Dragged near the empty part, the code is drawn to it; by keys it goes a millimetre on.
	until(t, p, "the code in the middle", `() => Math.abs((document.getElementById("placed")?.dataset.x ?? 0) - 54) < 0.1`)
	g := p.MustElement("#placed .grip").MustShape().Box()
	scale := g.Width / 40
	p.Mouse.MustMoveTo(g.X+g.Width/2, g.Y+g.Height/2).MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(g.X+g.Width/2+10, g.Y+g.Height/2+10).MustMoveTo(g.X+g.Width/2-(54-15)*scale, g.Y+g.Height/2+(150-85)*scale)
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	until(t, p, "the code moved",
		`() => { const d = document.getElementById("placed")?.dataset; return !!d && Math.abs(d.x - 15) < 9 && Math.abs(d.y - 150) < 9; }`)
	x, y := lies(p)
	until(t, p, "the way back", `() => document.getElementById("undo").title.includes("the code moved")`)
	p.MustElement("#placed").MustFocus()
	for range 3 {
		p.Keyboard.MustType(input.ArrowRight)
	}
	until(t, p, "three millimetres to the right",
		`(x) => Math.abs(document.getElementById("placed")?.dataset.x - x - 3) < 0.011`, x)
	if _, now := lies(p); now != y {
		t.Errorf("it moved down too: %v, was %v", now, y)
	}

	// The grip at its corner sizes it in millimetres; so do plus and minus.
	was := p.MustEval(`() => parseFloat(document.getElementById("f-placements-0-width_mm").value)`).Num()
	grip := p.MustElement("#place-size").MustShape().Box()
	p.Mouse.MustMoveTo(grip.X+grip.Width/2, grip.Y+grip.Height/2).MustDown(proto.InputMouseButtonLeft)
	p.Mouse.MustMoveTo(grip.X+12, grip.Y+12).MustMoveTo(grip.X+28, grip.Y+28)
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
	until(t, p, "a wider code, in whole millimetres",
		`(was) => { const w = parseFloat(document.getElementById("f-placements-0-width_mm").value), g = document.getElementById("placed"); return w > was && w === Math.round(w) && g && Math.abs(g.dataset.w - w) < 0.01; }`, was)
	wide := p.MustEval(`() => parseFloat(document.getElementById("f-placements-0-width_mm").value)`).Num()
	p.MustElement("#placed").MustFocus()
	p.Keyboard.MustType('-')
	until(t, p, "a millimetre less", `(wide) => Math.abs(document.getElementById("placed")?.dataset.w - wide + 1) < 0.01`, wide)
	fill(p, "#f-placements-0-width_mm", fmt.Sprint(was))
	until(t, p, "as wide as before", `(was) => Math.abs(document.getElementById("placed")?.dataset.w - was) < 0.01`, was)

	// Off the edge it must not be printed, and the remark's own key brings it back.
	fill(p, "#f-placements-0-artwork-x_mm", "-12 mm")
	hasText(t, p, ".finding", "beyond the edge")
	p.MustElementR(".finding button", "Move it back onto the sheet").MustClick()
	until(t, p, "on the sheet again", `() => Math.abs((document.getElementById("placed")?.dataset.x ?? 0) - 1) < 0.01`)
	hasText(t, p, ".finding", "Nothing beside it says what a scan brings")
	p.MustElement("#fold-words summary").MustClick()
	fill(p, "#f-placements-0-words-headline", "See what to sow")
	hasText(t, p, "#word-line", "See what to sow")
	fill(p, "#f-placements-0-words-address", "marrowby.example/leaflet")
	p.MustElement("#fold-artwork summary").MustClick()
	fill(p, "#f-placements-0-artwork-x_mm", "15")
	until(t, p, "its words kept",
		`() => document.getElementById("age").innerText === "" && !document.querySelector('.finding[data-code="words.none"]')`)
	verdictIs(t, p, "safe")

	// The whole is the designer's file, every byte of it, with the code behind.
	p.MustElement("[data-stub=ships]").MustClick()
	hasText(t, p, "#files-office", "Your file, the code added to page 1")
	name, data := download(t, p, func() { takeFile(p, "PDF of the whole") })
	original, err := os.ReadFile(flyer)
	if err != nil {
		t.Fatal(err)
	}
	if !bytes.HasPrefix(data, original) || name != "leaflet-whole_v1.pdf" {
		t.Errorf("%s is not the designer's file with more behind it", name)
	}
	file := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	if out := tool(t, "qpdf", "--check", file); !strings.Contains(out, "No syntax or stream encoding errors") {
		t.Errorf("qpdf: %s", out)
	}
	if info := tool(t, "pdfinfo", file); !strings.Contains(info, "Pages:           2") ||
		!strings.Contains(info, "419.528 x 595.276") {
		t.Errorf("pdfinfo: %s", info)
	}
	readBack(t, name, data, "https://marrowby.example/leaflet")

	// The turned page is another sheet; a second medium is proved and shipped beside the first.
	p.MustElement("[data-stub=sits]").MustClick()
	if p.MustEval(`() => !document.getElementById("fold-artwork").open`).Bool() {
		p.MustElement("#fold-artwork summary").MustClick()
	}
	p.MustElement("#art-page").MustSelect("page 2")
	hasText(t, p, "#art-line", "210 × 148 mm, page 2 of 2")
	p.MustElement("#add-place summary").MustClick()
	p.MustElement("#also-medium").MustSelect("shop window, from the street")
	wait = nextPage(t, p)
	p.MustElementR("#add-place button", "Add this place").MustClick()
	wait()
	hasText(t, p, "#line-sits", "shop window, from the street 150 mm")
	hasText(t, p, "#around-line", "behind glass")

	// A place is kept as a medium, and offered from then on.
	fill(p, "#f-placements-1-width_mm", "120")
	hasText(t, p, "#line-sits", "from the street 120 mm")
	p.MustElement("#fold-medium summary").MustClick()
	p.MustElement("#medium-name").MustInput("Garden door").MustType(input.Enter)
	hasText(t, p, "#left-medium-file", "Garden door is kept")
	p.MustElement("#medium-name").MustSelectAllText().MustInput("garden door").MustType(input.Enter)
	hasText(t, p, "#e-medium-file", "already a medium called")
	q := a.page(t, a.create(t, `{"name":"Door","content":{"kind":"url","url":"https://marrowby.example/door"}}`))
	q.MustElement("[data-stub=sits]").MustClick()
	wait = nextPage(t, q)
	q.MustElement("#first-medium").MustSelect("Garden door")
	q.MustElementR("button", "Put it there").MustClick()
	wait()
	hasText(t, q, "#line-sits", "Garden door 120 mm")
}

// TestLeastWidth: the smallest width that still proves safe is one key away.
func TestLeastWidth(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, a.create(t,
		`{"name":"Small","content":{"kind":"url","url":"https://marrowby.example/small"},"placements":[{"name":"card","medium":"business-card","width_mm":40}]}`))
	p.MustElement("[data-stub=sits]").MustClick()
	p.MustElementR("#sizes button", "Find the smallest safe width").MustClick()
	hasText(t, p, "#least-slot", "Safe down to")
	width := p.MustElement("#take-least").MustText()
	p.MustElement("#take-least").MustClick()
	var mm float64
	if _, err := fmt.Sscanf(width, "Print it %f mm wide", &mm); err != nil || mm >= 40 || mm < 5 {
		t.Fatalf("%q: %v", width, err)
	}
	hasText(t, p, "#line-sits", fmt.Sprintf("card %g mm", mm))
	verdictIs(t, p, "safe")
}
