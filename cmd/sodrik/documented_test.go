package main

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"
)

// apart are the commands in the documents that this test does not run: they need a server, its database and its keys, for which
// other tests stand, or hours.
var apart = []string{"serve", "redirect", "log", "work", "export", "import", "backup", "restore", "links", "keys"}

var (
	inText = regexp.MustCompile("`((?:bin/)?sodrik [a-z]+ [^`]*)`")
	alone  = regexp.MustCompile(`(?m)^(?: {4})?((?:bin/)?sodrik [a-z]+ [^\n]+)$`)
	inDoc  = regexp.MustCompile(`(?s)    cat > (\S+) <<'JOB'\n(.*?)\n    JOB\n`)
)

// documented are the commands in a document, as they stand there; optional parts are given.
func documented(text string) (out []string) {
	for _, found := range append(inText.FindAllStringSubmatch(text, -1), alone.FindAllStringSubmatch(text, -1)...) {
		call := strings.NewReplacer("[", "", "]", "").Replace(found[1])
		if words := strings.Fields(call); !slices.Contains(apart, words[1]) && !slices.Contains(words, "-h") {
			out = append(out, call)
		}
	}
	return out
}

// TestDocumented: every command in the README and the documents works as it stands there, with files of the names that it gives.
func TestDocumented(t *testing.T) {
	dir := t.TempDir()
	files := map[string]string{
		"rows.csv":    "sku,variety,lot\nMB-0001,Leek Long Barn,L1\nMB-0002,Kale Old Fence,L2\n",
		"million.csv": "Name,Link\nOne,marrowby.example/1\nTwo,marrowby.example/2\n",
		"label.json":  `{"content":{"kind":"url","url":"https://marrowby.example/p/{sku}"},"placements":[{"name":"label","width_mm":20}]}`,
		"packet.json": `{"content":{"kind":"url","url":"https://marrowby.example"},"placements":[{"name":"packet","width_mm":22}]}`,
		"bill.json": `{"content":{"kind":"swiss","iban":"CH93 0076 2011 6238 5295 7","creditor":{"name":"Marrowby Samen AG",` +
			`"street":"Gartenweg","house":"4","postcode":"8001","city":"Zürich","country":"CH"},"amount":"49.75","currency":"CHF"}}`,
		"JOB.json":  gate,
		"LEAD.json": `{"to":{"kind":"url","url":"marrowby.example/fair"},"routes":[{"languages":["cy"],"to":{"kind":"url","url":"marrowby.example/ffair"}}]}`,
	}
	var calls []string
	documents, err := filepath.Glob("../../docs/*.md")
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range append([]string{"../../README.md"}, documents...) {
		text, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		for _, file := range inDoc.FindAllStringSubmatch(string(text), -1) {
			files[file[1]] = strings.ReplaceAll(file[2], "\n    ", "\n")
		}
		calls = append(calls, documented(string(text))...)
	}
	if len(calls) < 14 {
		t.Errorf("only %d commands are found: %q", len(calls), calls)
	}
	for name, text := range files {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	book := excelize.NewFile()
	for i, row := range [][]any{{"sku", "variety", "lot"}, {"MB-0001", "Leek Long Barn", "L1"}} {
		if err := book.SetSheetRow("Sheet1", "A"+string(rune('1'+i)), &row); err != nil {
			t.Fatal(err)
		}
	}
	if err := book.SaveAs(filepath.Join(dir, "rows.xlsx")); err != nil {
		t.Fatal(err)
	}
	self, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	shell := func(t *testing.T, line string) {
		t.Helper()
		cmd := exec.Command("sh", "-c", line)
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "SODRIK_AS_COMMAND=1", "SODRIK_DATABASE=",
			"PATH="+filepath.Join(dir, "bin")+":"+os.Getenv("PATH"))
		var errs bytes.Buffer
		cmd.Stderr = &errs
		if err := cmd.Run(); err != nil {
			t.Errorf("%s: %v\n%s", line, err, &errs)
		}
	}
	if err := os.Mkdir(filepath.Join(dir, "bin"), 0o700); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(self, filepath.Join(dir, "bin", "sodrik")); err != nil {
		t.Fatal(err)
	}
	// What a scanner and a camera would give.
	shell(t, "sodrik draw gate.json -o gate0.pdf && pdftoppm -png -singlefile -r 600 gate0.pdf scan && cp scan.png picture.png && cp scan.png PICTURE")
	for _, call := range calls {
		t.Run(call, func(t *testing.T) { shell(t, call) })
	}
}
