package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// TestPress chooses a printing condition, looks at the plates, takes the remarks of the press and their fix, and downloads
// what a printer takes: PDF/X-1a with bleed and marks, EPS and TIFF, checked by others.
func TestPress(t *testing.T) {
	t.Parallel()
	a := open(t)
	const url = "https://marrowby.example/press"
	p := a.page(t, a.create(t,
		`{"name":"Seed tin","content":{"kind":"url","url":"`+url+`"},"look":{"ink":{"cmyk":[60,50,50,100]},"paper":"#f6f0e2"},"placements":[{"name":"tin","medium":"seed-packet","width_mm":40}]}`))
	p.MustElement("[data-stub=ships]").MustClick()
	p.MustElement("[data-whom=press]").MustClick()
	hasText(t, p, "#inks", "Ink: C 60 M 50 Y 50 K 100")
	p.MustElement("#f-output-colour").MustSelect("coated paper, sheet-fed offset")
	hasText(t, p, ".finding", "The ink is a black over 160 % of other inks")
	p.MustElementR(".finding button", "Print in black alone").MustClick()
	hasText(t, p, "#inks", "Ink: K 100")
	until(t, p, "no remark of the press",
		`() => document.getElementById("age").innerText === "" && !document.querySelector('.finding[data-code^="press."]')`)
	fill(p, "#f-output-bleed_mm", "40")
	hasText(t, p, "#e-f-output-bleed_mm", "lies between 0 and 20")
	fill(p, "#f-output-bleed_mm", "3")
	fill(p, "#f-output-reduction_mm", "2")
	hasText(t, p, "#e-f-output-reduction_mm", "lies between 0 and 0.5")
	fill(p, "#f-output-reduction_mm", "0.06")
	until(t, p, "the reduction", `() => document.getElementById("undo").title.includes("bar width reduction")`)
	p.MustElement("#f-output-marks").MustClick()
	until(t, p, "marks", `() => document.getElementById("undo").title.includes("marks")`)

	openView(p, "plates")
	hasText(t, p, "#plates", "Inks for coated paper")
	until(t, p, "the plates", `() => document.querySelectorAll("#plates .plate-tile").length >= 5`)
	// the paper colour is printed too
	if got := p.MustEval(
		`() => [...document.querySelectorAll("#plates .plate-tile")].filter((f) => /^(Cyan|Magenta|Yellow|Black)$/.test(f.querySelector("b").innerText)).map((f) => f.querySelector("b").innerText + " " + f.querySelectorAll("svg").length).join(", ")`).Str(); got != "Cyan 1, Magenta 1, Yellow 1, Black 1" {
		t.Errorf("plates: %s", got)
	}

	file := func(name string, data []byte) string {
		at := filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(at, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return at
	}
	name, data := download(t, p, func() { takeFile(p, "PDF/X-1a") })
	at := file(name, data)
	if name != "seed-tin-press_40mm_v1.pdf" || !strings.Contains(string(data), "PDF/X-1a:2003") ||
		!strings.Contains(string(data), "FOGRA39") {
		t.Errorf("%s is no PDF/X-1a for FOGRA39", name)
	}
	if out := tool(t, "qpdf", "--check", at); !strings.Contains(out, "No syntax or stream encoding errors") {
		t.Errorf("qpdf: %s", out)
	}
	if info := tool(t, "pdfinfo", "-box", at); !strings.Contains(strings.Join(strings.Fields(info), " "),
		"TrimBox: 36.85 36.85 150.24 150.24") || !strings.Contains(info, "Seed tin") {
		t.Errorf("pdfinfo: %s", info)
	}
	readBack(t, name, data, url)
	dir := t.TempDir()
	tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", "-r300", "-o", filepath.Join(dir, "p.tif"), at)
	if plates, err := filepath.Glob(filepath.Join(dir, "p(*).tif")); err != nil || len(plates) != 4 {
		t.Errorf("ghostscript finds the plates %v, %v", plates, err)
	}

	name, data = download(t, p, func() { takeFile(p, "EPS") })
	drawn := filepath.Join(dir, "eps.png")
	tool(t, "gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=png16m", "-dEPSCrop", "-r300", "-o", drawn, file(name, data))
	picture, err := os.ReadFile(drawn)
	if err != nil {
		t.Fatal(err)
	}
	readBack(t, "eps.png", picture, url)
	name, data = download(t, p, func() { takeFile(p, "TIFF") })
	if info := tool(t, "tiffinfo", file(name, data)); !strings.Contains(info, "separated") {
		t.Errorf("tiffinfo: %s", info)
	}
}
