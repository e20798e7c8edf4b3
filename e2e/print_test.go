package e2e

import (
	"bytes"
	"image/jpeg"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"sodrik/internal/core/compose"
)

// TestCheckAPrint: what cannot be measured says why and how, and keeps what was typed; a scan is measured, stands beside the
// proof, in the history and on the proof sheet, and another code's is told from it.
func TestCheckAPrint(t *testing.T) {
	t.Parallel()
	a := open(t)
	at := a.create(
		t,
		`{"name":"Printed","content":{"kind":"url","url":"marrowby.example/printed"},"output":{"dpi":600},"placements":[{"name":"counter","width_mm":30,"distance_mm":250}]}`,
	)
	p := a.page(t, at+"/print?place=0")
	hasText(t, p, "main", "Nothing was handed over yet")
	p.MustElementR("a", "Back to the desk").MustClick()
	p.MustElement("[data-stub=ships]").MustClick()
	_, scan := download(t, p, func() { takeFile(p, "PNG") })
	p.MustElement("[data-stub=reads]").MustClick()
	there := nextPage(t, p)
	p.MustElementR("#readings a", "Check a print").MustClick()
	there()

	dir := t.TempDir()
	file := func(name string, data []byte) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	send := func(path, dpi string) {
		t.Helper()
		p.MustElement("#dpi")
		fill(p, "#dpi", dpi)
		if path != "" {
			p.MustElement("#picture").MustSetFiles(path)
		}
		wait := nextPage(t, p)
		p.MustElementR("button", "Check the print").MustFocus().MustType(input.Enter)
		wait()
	}
	send("", "600")
	hasText(t, p, "#e-picture", "The picture is missing; choose a photograph or a scan of the print.")
	if got := p.MustElement("#dpi").MustProperty("value").Str(); got != "600" {
		t.Errorf("what was typed is lost: %q", got)
	}
	send(file("words.png", []byte("no picture")), "600")
	hasText(t, p, "#e-picture", "is no picture that can be read")
	send(file("scan.png", scan), "60")
	hasText(t, p, "#e-dpi", "from 100 to 4800 dots an inch")
	send(file("other.png", drawnPNG(t, "https://marrowby.example/another")), "")
	hasText(t, p, "#e-picture", "shows another code than this one")
	send(file("scan.png", scan), "600")
	hasText(t, p, "#checked", "safe as forecast")
	hasText(t, p, "#checked", "Ink gained nothing") // it is the file itself
	hasText(t, p, "#checked", "It is 31.3 mm wide") // 37 modules of 20 whole pixels at 600 dpi
	hasText(t, p, "#checked", "Contrast is 100 %")
	hasText(t, p, "#checked", "Version 1 at counter")
	send(file("scan.png", scan), "")
	hasText(t, p, "#checked", "photographed at 20 pixels a module")
	img, err := png.Decode(bytes.NewReader(scan))
	if err != nil {
		t.Fatal(err)
	}
	var jpg bytes.Buffer
	if err := jpeg.Encode(&jpg, img, &jpeg.Options{Quality: 90}); err != nil {
		t.Fatal(err)
	}
	send(file("photo.jpg", jpg.Bytes()), "")
	hasText(t, p, "#checked", "photographed at 20 pixels a module")
	_, webp := download(t, p, func() {
		p.MustEval(
			`(to) => { const a = document.createElement("a"); a.href = to; a.download = "scan.webp"; document.body.append(a); a.click(); a.remove(); }`,
			strings.TrimPrefix(at, a.url)+"/versions/1/0/scan.webp")
	})
	send(file("scan.webp", webp), "600")
	hasText(t, p, "#checked", "scanned at 600 dpi")
	send(file("large.png", make([]byte, 12<<20)), "")
	hasText(t, p, "#e-picture", "was cut off on its way; choose a PNG, JPEG or WebP of at most 10 MB")
	send(file("scan.png", scan), "six hundred")
	hasText(t, p, "#e-dpi", "from 100 to 4800 dots an inch")
	if got := p.MustElement("#dpi").MustProperty("value").Str(); got != "six hundred" {
		t.Errorf("what was typed is lost: %q", got)
	}
	hasText(t, p, "main", "Checks so far")

	p.MustElementR("a", "Back to the desk").MustClick()
	p.MustElement("[data-stub=reads]").MustClick()
	hasText(t, p, "#readings", "Print checked")
	p.MustElementR("button", "History").MustClick()
	hasText(t, p, ".history", "Print checked: ")
}

// drawnPNG is a code that says something else.
func drawnPNG(t *testing.T, url string) []byte {
	t.Helper()
	m, problems := compose.Parse(
		[]byte(`{"content":{"kind":"url","url":"`+url+`"},"placements":[{"name":"a","width_mm":30,"distance_mm":250}]}`),
		nil,
	)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	f := compose.MustFormat("png")
	b, problems := m.File(f, m.Place(0), compose.MetaOf(f, "Other", time.Now()))
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return b
}
