package main

import (
	"archive/zip"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

const seeds = "sku;variety;link\nMB-1;Möhre;https://marrowby.example/1\nMB-2;\"Bean; broad\";https://marrowby.example/2\n" +
	"MB-2;Kale;https://marrowby.example/3\nMB-4;Leek;no address\n"

// TestBatch makes a zip, sheets, pages and a listing of rows of which two are refused.
func TestBatch(t *testing.T) {
	rows, dir := write(t, "rows.csv", seeds), t.TempDir()
	out := filepath.Join(dir, "codes.zip")
	code, _, errs := sodrik(t, "", "batch", rows, "-o", out, "-key", "sku", "-names", "{sku} {variety}", "-formats", "svg,png")
	if code != exitRows || !strings.Contains(errs, "semicolons between cells") ||
		!strings.Contains(errs, `row 3: key is "MB-2", as in row 2`) || !strings.Contains(errs, "row 4: content.url") {
		t.Fatal(code, errs)
	}
	z, err := zip.OpenReader(out)
	if err != nil {
		t.Fatal(err)
	}
	defer z.Close()
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	if got := strings.Join(names, " "); got != "mb-1-mohre.svg mb-1-mohre.png mb-2-bean-broad.svg mb-2-bean-broad.png rows.csv" {
		t.Error(got)
	}
	pattern := write(t, "label.json", `{"name":"{variety}","content":{"kind":"url","url":"https://marrowby.example/v/{sku}"},
		"placements":[{"name":"label","medium":"plant-tag","width_mm":20}],"output":{"colour":"coated"}}`)
	out = filepath.Join(dir, "labels.pdf")
	code, _, errs = sodrik(
		t,
		"",
		"batch",
		rows,
		"-job",
		pattern,
		"-o",
		out,
		"-sheet",
		"a4-3x7",
		"-order",
		"stack",
		"-line",
		"{sku}",
	)
	if code != exitOK || !strings.Contains(errs, "All 4 labels read back from the file") {
		t.Fatal(code, errs)
	}
	if info, err := exec.Command("pdfinfo", out).CombinedOutput(); err != nil ||
		!strings.Contains(string(info), "Pages:           1\n") {
		t.Error(string(info), err)
	}
	code, list, errs := sodrik(
		t,
		"",
		"batch",
		"MB-0998..MB-1001",
		"-job",
		pattern,
		"-set",
		"content.url=https://marrowby.example/{Number}",
		"-set",
		"name=No {Number}",
		"-o",
		"-",
	)
	if code != exitOK || strings.Count(list, "\n") != 5 ||
		!strings.Contains(list, "No MB-1001,https://marrowby.example/MB-1001") {
		t.Error(code, list, errs)
	}
	code, list, _ = sodrik(t, seeds, "batch", "-", "-o", "-", "-quiet")
	if code != exitRows || !strings.Contains(list, "content.url") {
		t.Error(code, list)
	}
}

// TestBatchRefuses: what is wrong with the call is said, and no file is left.
func TestBatchRefuses(t *testing.T) {
	rows, out := write(t, "rows.csv", seeds), filepath.Join(t.TempDir(), "x.pdf")
	for _, c := range []struct {
		args []string
		says string
	}{
		{[]string{rows}, "needs -o"},
		{[]string{rows, "-o", out, "-sheet", "a9"}, "sheet.sheet"},
		{[]string{rows, "-o", out, "-set", "content.url={lot}"}, "which is no column; there are sku, variety, link"},
		{[]string{rows, "-o", out, "-key", "lot"}, "is no column"},
		{[]string{rows, "-o", filepath.Join(t.TempDir(), "x.doc")}, "ends in .zip, .pdf or .csv"},
		{[]string{rows, "-o", filepath.Join(t.TempDir(), "x.zip"), "-formats", "bmp"}, "bmp"},
		{[]string{"1..x", "-o", "-"}, "holds no number"},
		{[]string{"nothing.csv", "-o", "-"}, "cannot be read"},
		{[]string{rows, "-o", out, "-kind", "dance"}, "dance"},
		{[]string{rows, "-o", out, "-sheet", "a4-5x13", "-set", "placements.0.width_mm=40", "-set", "placements.0.name=tag"},
			"the label has room for"},
	} {
		code, _, errs := sodrik(t, "", append([]string{"batch"}, c.args...)...)
		if code != exitProblems || !strings.Contains(errs, c.says) {
			t.Errorf("%q: %d %s", c.args[1:], code, errs)
		}
	}
	if _, err := os.Stat(out); err == nil {
		t.Error("a file is left of what failed")
	}
}
