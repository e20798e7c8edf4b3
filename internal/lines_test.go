package internal

import (
	"bytes"
	"go/scanner"
	"go/token"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"unicode/utf8"
)

// columns is how wide a line may be, a tab counted as four; datum is how wide a text or a number in it must be to be let off,
// since a text is found again by searching for it.
const columns, datum = 130, 40

// TestLines: no line of Go is wider than 130 columns, but where one text within it is long.
func TestLines(t *testing.T) {
	out, err := exec.Command("git", "-C", "..", "ls-files", "-z", "*.go").Output()
	if err != nil {
		t.Skip("no git here:", err)
	}
	files := strings.Split(strings.Trim(string(out), "\x00"), "\x00")
	if len(files) < 300 {
		t.Fatalf("%d files", len(files))
	}
	for _, name := range files {
		source, err := os.ReadFile("../" + name)
		if os.IsNotExist(err) { // taken away, and not yet said
			continue
		} else if err != nil {
			t.Fatal(err)
		}
		for _, n := range wide(source) {
			t.Errorf("%s:%d is wider than %d columns", name, n, columns)
		}
	}
}

func TestWide(t *testing.T) {
	long := strings.Repeat("a", columns)
	for text, want := range map[string]int{
		"package a\n\n// " + long:                 1,
		"package a\n\nvar " + long:                1,
		"package a\n\nvar b = \"" + long + "\"":   0,
		"package a\n\nvar b = `\n" + long + "`":   0,
		"package a\n\nvar b = \"c\" // " + long:   1,
		"package a\n\nvar b = 1\n":                0,
		"package a\n\nvar " + long[:columns-4]:    0,
		"package a\n\n\tvar " + long[:columns-4]:  1,
		"package a\n\nvar é" + long[:columns-4-1]: 0,
	} {
		t.Run(text, func(t *testing.T) {
			if got := wide([]byte(text)); len(got) != want {
				t.Errorf("%.30q: %v", text, got)
			}
		})
	}
}

// wide gives the numbers of the lines that are too wide, but for those with a long text in them.
func wide(source []byte) (out []int) {
	long := map[int]bool{}
	for i, line := range bytes.Split(source, []byte("\n")) {
		if utf8.RuneCount(line)+3*bytes.Count(line, []byte("\t")) > columns {
			long[i+1] = true
		}
	}
	if len(long) == 0 {
		return nil
	}
	set := token.NewFileSet()
	file := set.AddFile("", -1, len(source))
	var s scanner.Scanner
	s.Init(file, source, nil, scanner.ScanComments)
	for {
		at, kind, text := s.Scan()
		if kind == token.EOF {
			break
		}
		first := file.Line(at)
		for i, part := range strings.Split(text, "\n") {
			if kind == token.STRING && utf8.RuneCountInString(part) >= datum {
				delete(long, first+i)
			}
		}
	}
	for n := range long {
		out = append(out, n)
	}
	return out
}

// quoted is a value of an attribute that nothing may be put into.
var quoted = regexp.MustCompile(`"[^"]{60,}"|'[^']{60,}'`)

// TestLinesOfTemplates: no line of a template is wider than 130 columns, but where one value within it is long.
func TestLinesOfTemplates(t *testing.T) {
	files, err := filepath.Glob("web/*/*.html")
	if err != nil || len(files) < 15 {
		t.Fatal(files, err)
	}
	for _, name := range files {
		source, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		for i, line := range strings.Split(string(source), "\n") {
			if utf8.RuneCountInString(line)+3*strings.Count(line, "\t") > columns && !quoted.MatchString(line) {
				t.Errorf("%s:%d is wider than %d columns", name, i+1, columns)
			}
		}
	}
}
