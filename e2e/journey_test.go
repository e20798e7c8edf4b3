package e2e

import (
	"archive/zip"
	"bytes"
	"io"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
)

func made(t *testing.T, job string) *compose.Rendition {
	t.Helper()
	m, problems := compose.Parse([]byte(job), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return m
}

// TestFromClipboardToPrint walks the whole job: paste, take the picture, open the desk, edit, prove, take the files, have
// others read them, come back and find the code.
func TestFromClipboardToPrint(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/")
	if n := len(p.MustElements("tr.code")); n < 8 {
		t.Fatalf("the ledger shows %d codes", n)
	}

	start := time.Now()
	paste(p, "marrowby.example/tasting?utm_source=gate")
	until(t, p, "the symbol of the paste", `() => !!document.querySelector("#found svg.symbol path")`)
	t.Logf("paste to symbol: %v", time.Since(start).Round(time.Millisecond))
	hasText(t, p, "#found", "Opens marrowby.example/tasting")
	name, data := download(t, p, func() { p.MustElementR("#found button", "Download PNG").MustClick() })
	if name != "marrowby-example-tasting.png" {
		t.Errorf("saved as %q", name)
	}
	readBack(t, name, data, "https://marrowby.example/tasting?utm_source=gate")
	p.MustElementR("#found button", "Leave out utm_source").MustClick()
	until(t, p, "the shorter code", `() => !document.querySelector("#found").innerText.includes("Leave out utm_source")`)

	p.MustElement("#find-text").MustFocus()
	wait := nextPage(t, p)
	p.Keyboard.MustType(input.Enter)
	wait()
	hasText(t, p, "#line-says", "Opens marrowby.example/tasting")
	verdictIs(t, p, proof.Flat)

	p.MustElement(".ticket-head .menu summary").MustClick()
	fill(p, "#campaign", "Tastings")
	fill(p, "#note", "Agreed with the caterer.")
	fill(p, "#labels", strings.Repeat("x", 41))
	p.MustElementR(".campaign button", "Save").MustClick()
	hasText(t, p, "#e-labels", "Has one of more than")
	if got := p.MustElement("#note").MustProperty("value").Str(); got != "Agreed with the caterer." {
		t.Errorf("the note is gone: %q", got)
	}
	fill(p, "#labels", "spring, Gate,  spring")
	wait = nextPage(t, p)
	p.MustElementR(".campaign button", "Save").MustClick()
	wait()
	hasText(t, p, ".ticket-head", "Tastings · spring, Gate · note")

	// Says.
	fill(p, "#f-content-url", "marrowby.example/tasting-day")
	hasText(t, p, "#line-says", "marrowby.example/tasting-day")
	hasText(t, p, ".handset", "/tasting-day")

	// Wears.
	p.MustElement("[data-stub=wears]").MustClick()
	p.MustElement(`.swatch[data-set="style:pine"]`).MustClick()
	hasText(t, p, "#line-wears", "pine on white")
	until(t, p, "the colour by its name", `() => document.getElementById("f-look-ink").value === "Marrowby Pine"`)
	fill(p, "#f-look-ink", "bark")
	hasText(t, p, "#line-wears", "bark on white")
	until(t, p, "the chooser following what is typed",
		`() => document.querySelector("input[type=color][data-for=f-look-ink]").value === "#5a2d0c"`)
	p.MustElement(`.swatch[data-set="style:pine"]`).MustClick()
	hasText(t, p, "#line-wears", "pine on white")
	until(t, p, "the chooser following, and the swatch keeping the focus",
		`() => document.querySelector("input[type=color][data-for=f-look-ink]").value === "#12352b" && document.activeElement.dataset.set === "style:pine"`)
	until(t, p, "pine modules on the sheet", `() => !!document.querySelector('#symbol path[fill="#12352b"]')`)

	// Sits.
	p.MustElement("[data-stub=sits]").MustClick()
	p.MustElement("#first-medium").MustSelect("A2 poster")
	wait = nextPage(t, p)
	p.MustElementR("button", "Put it there").MustClick()
	wait()
	hasText(t, p, "#line-sits", "A2 poster 160 mm, from 1.5 m")
	verdictIs(t, p, proof.Safe)
	fill(p, "#f-placements-0-width_mm", "8 cm")
	hasText(t, p, "#line-sits", "80 mm")
	verdictIs(t, p, proof.Care)
	hasText(t, p, ".finding", "a phone sees only")
	p.MustElementR(".finding button", "Print 150 mm wide").MustClick()
	verdictIs(t, p, proof.Safe)
	hasText(t, p, "#line-reads", "safe to print at A2 poster")
	p.MustElement("[data-stub=reads]").MustClick()
	until(t, p, "three kinds of reader", `() => document.querySelectorAll("#readings tbody tr").length === 3`)

	// Ships.
	fill(p, "#f-name", "Tasting day")
	until(t, p, "the name kept", `() => document.querySelector("#undo").title.includes("name to Tasting day")`)
	p.MustElement("[data-stub=ships]").MustClick()
	want := "https://marrowby.example/tasting-day"
	for _, format := range []string{"SVG", "PDF", "PNG"} {
		name, data := download(t, p, func() { takeFile(p, format) })
		if name != "tasting-day_150mm_v1."+strings.ToLower(format) {
			t.Errorf("saved as %q", name)
		}
		readBack(t, name, data, want)
	}
	hasText(t, p, "#issued", "v1 handed over")
	name, data = download(t, p, func() { p.MustElement("#hand-over").MustClick() })
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || name != "tasting-day_v1.zip" || len(z.File) != 3 {
		t.Fatalf("%s: %v", name, err)
	}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		b, _ := io.ReadAll(r)
		readBack(t, f.Name, b, want)
	}
	name, data = download(t, p, func() { takePNG(p) })
	if name != "tasting-day_v1.png" {
		t.Errorf("the bare PNG is saved as %q", name)
	}
	readBack(t, name, data, want)

	// The picture on the sheet can be saved by a right click: it is the PNG, under a name that means something.
	p.MustElement(".sheet").MustHover()
	until(t, p, "the PNG over the sheet",
		`() => { const i = document.querySelector(".bare"); return i.naturalWidth >= 2000 && decodeURI(i.src).includes("/tasting-day.png"); }`)

	// A new browser finds it again, by part of its name and by its address.
	p = a.page(t, "/codes")
	for _, words := range []string{"tasting", "day asting-d", "caterer", "spring gate"} {
		fill(p, "#find-text", words)
		until(t, p, "one code with "+words,
			`() => { const r = document.querySelectorAll("tr.code"); return r.length === 1 && r[0].innerText.includes("Tasting day"); }`)
	}
	paste(p, want)
	hasText(t, p, "#found", "You have this already: Tasting day")
}

func TestCopy(t *testing.T) {
	a := open(t)
	p := a.page(t, "/codes")
	grant := proto.BrowserGrantPermissions{Permissions: []proto.BrowserPermissionType{
		proto.BrowserPermissionTypeClipboardReadWrite, proto.BrowserPermissionTypeClipboardSanitizedWrite}, Origin: a.url,
		BrowserContextID: p.Browser().BrowserContextID}
	if err := grant.Call(p.Browser()); err != nil {
		t.Fatal(err)
	}
	p.MustActivate()
	paste(p, "marrowby.example/copied")
	p.MustElementR("#found button", "Copy picture").MustClick()
	hasText(t, p, "#notice", "Copied")
	got := p.MustEval(
		`async () => { const items = await navigator.clipboard.read(); const b = await items[0].getType("image/png"); const a = new Uint8Array(await b.arrayBuffer()); let s = ""; for (const x of a) s += String.fromCharCode(x); return items[0].types.join(" ") + "|" + btoa(s); }`).Str()
	types, picture, _ := strings.Cut(got, "|")
	if !strings.Contains(types, "image/png") || !strings.Contains(types, "text/html") {
		t.Errorf("the clipboard holds %s", types)
	}
	readBack(t, "clipboard.png", fromBase64(t, picture), "https://marrowby.example/copied")

	// From a place it has the width that it has there: 24 mm are 90.71 of the 96ths of an inch in which HTML measures.
	p.MustNavigate(a.url + a.create(t,
		`{"name":"Copied","content":{"kind":"url","url":"marrowby.example/copied-wide"},"placements":[{"name":"label","width_mm":24,"distance_mm":240}]}`)).MustWaitLoad()
	p.MustElementR("#takes button", "Copy").MustClick()
	hasText(t, p, "#notice", "Copied")
	html := p.MustEval(
		`async () => { const items = await navigator.clipboard.read(); return await (await items[0].getType("text/html")).text(); }`).Str()
	if !strings.Contains(html, `width="90.71"`) {
		t.Errorf("the clipboard holds %.100s … %s", html, html[max(0, len(html)-100):])
	}
}

// TestLedger works the ledger by keyboard alone: move, peek, rename, open; then duplicate, retire, restore. It peeks at the first
// of all rows, and so it is alone with the ledger.
func TestLedger(t *testing.T) {
	a := open(t)
	a.create(t, `{"name":"Ledger test, first","content":{"kind":"url","url":"marrowby.example/ledger-one"}}`)
	a.create(t, `{"name":"Ledger test, second","content":{"kind":"url","url":"marrowby.example/ledger-two"}}`)
	p := a.page(t, "/codes")
	p.Keyboard.MustType(input.Slash)
	p.MustInsertText("ledger test")
	until(t, p, "two codes", `() => document.querySelectorAll("tr.code").length === 2`)
	p.Keyboard.MustType(input.Enter)
	until(t, p, "focus on the first row",
		`() => document.activeElement.matches("tr.code") && document.activeElement.innerText.includes("second")`)
	p.Keyboard.MustType(input.ArrowDown)
	until(t, p, "focus on the second row", `() => document.activeElement.innerText.includes("first")`)
	p.Keyboard.MustType(input.Space)
	hasText(t, p, "#peek[open]", "https://marrowby.example/ledger-one")
	fill(p, "#peek-name", "Ledger test, renamed")
	time.Sleep(600 * time.Millisecond)
	p.Keyboard.MustType(input.Escape)
	until(t, p, "the peek closed and focus back",
		`() => !document.querySelector("#peek").open && document.activeElement.matches("tr.code")`)
	wait := nextPage(t, p)
	p.Keyboard.MustType(input.Enter)
	wait()
	if got := p.MustElement("#f-name").MustProperty("value").Str(); got != "Ledger test, renamed" {
		t.Errorf("the name is %q", got)
	}
	act := func(path, button string) {
		p.MustNavigate(a.url + path).MustWaitLoad()
		p.MustElement("tr.code").MustFocus()
		p.Keyboard.MustType(input.Space)
		hasText(t, p, "#peek[open]", "Open")
		wait := nextPage(t, p)
		p.MustElementR("#peek button", button).MustClick()
		wait()
	}
	act("/codes", "Duplicate")
	if got := p.MustElement("#f-name").MustProperty("value").Str(); !strings.HasSuffix(got, ", copy") {
		t.Errorf("the copy is called %q", got)
	}
	copied := p.MustElement("#f-name").MustProperty("value").Str()
	act("/codes", "Retire")
	until(t, p, "the retired code gone", `(n) => ![...document.querySelectorAll("tr.code")].some((r) => r.innerText.includes(n))`,
		copied)
	act("/codes?state=retired", "Restore")
	hasText(t, p, "tr.code", copied)
}

func TestUndoAndKeys(t *testing.T) {
	t.Parallel()
	a := open(t)
	path := a.create(t,
		`{"name":"Undo test","content":{"kind":"url","url":"marrowby.example/undo"},"look":{"ink":"#12352b"},"placements":[{"name":"gate","width_mm":240,"distance_mm":1500}]}`)
	p := a.page(t, path)
	p.MustElement("[data-stub=says]").MustFocus()
	for _, stub := range []string{"wears", "sits", "reads", "ships"} {
		p.Keyboard.MustType(input.BracketRight)
		until(t, p, stub+" opened",
			`(s) => document.activeElement.dataset.stub === s && document.activeElement.getAttribute("aria-expanded") === "true"`,
			stub)
	}
	p.Keyboard.MustType(input.BracketLeft)
	until(t, p, "the camera view with the proof",
		`() => document.querySelector("[data-stub=reads]").getAttribute("aria-expanded") === "true" && document.querySelector("#camera img").naturalWidth > 50`)
	p.MustElement("[data-stub=wears]").MustClick()
	fill(p, "#f-look-ink", "#5b1f33")
	hasText(t, p, "#line-wears", "beetroot")
	p.MustReload().MustWaitLoad()
	p.MustElement("#undo").MustClick()
	hasText(t, p, "#line-wears", "pine")
	if got := p.MustElement("#f-look-ink").MustProperty("value").Str(); got != "#12352b" {
		t.Errorf("after undo the field reads %q", got)
	}
	p.MustElement("#redo").MustClick()
	hasText(t, p, "#line-wears", "beetroot")

	fill(p, "#f-look-ink", "#eeeeee")
	verdictIs(t, p, proof.Stop)
	p.MustEval(`() => document.activeElement.blur()`)
	p.Keyboard.MustType(input.KeyF)
	verdictIs(t, p, proof.Safe)
}

// TestPlaces has two places and takes one away.
func TestPlaces(t *testing.T) {
	t.Parallel()
	a := open(t)
	path := a.create(t,
		`{"name":"Places test","content":{"kind":"url","url":"marrowby.example/places"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`)
	p := a.page(t, path)
	wait := nextPage(t, p)
	p.MustElement("#add-place summary").MustClick()
	p.MustElement("#also-medium").MustSelect("table tent")
	p.MustElementR("#add-place button", "Add this place").MustClick()
	wait()
	hasText(t, p, "#places [aria-current]", "table tent")
	p.MustElement("[data-stub=sits]").MustClick()
	p.MustElement("#f-placements-1-medium").MustSelect("business card")
	hasText(t, p, "#line-sits", "22 mm, from 200 mm")
	until(t, p, "the width following the medium", `() => document.querySelector("#f-placements-1-width_mm").value === "22 mm"`)
	p.MustElement("[data-stub=ships]").MustClick()
	name, data := download(t, p, func() { p.MustElement(`button[aria-label="Download zip"]`).MustClick() })
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(z.File) != 6 {
		t.Fatalf("%s: %v", name, err)
	}
	names := map[string]bool{}
	for _, f := range z.File {
		names[f.Name] = true
		if ext := filepath.Ext(f.Name); !strings.HasPrefix(f.Name, "places-test-") || ext == "" {
			t.Errorf("a file called %q", f.Name)
		}
	}
	if !names["places-test-gate_160mm_v1.svg"] || !names["places-test-table-tent_22mm_v1.pdf"] {
		t.Errorf("the zip holds %v", names)
	}
	p.MustElement("[data-stub=sits]").MustClick()
	wait = nextPage(t, p)
	p.MustElement("#fold-medium summary").MustClick()
	p.MustElementR("button", "Take table tent away").MustClick()
	wait()
	until(t, p, "one place left", `() => document.querySelectorAll("#places a").length === 1`)
}
