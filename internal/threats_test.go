package internal

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// TestThreats checks that each line of docs/threats.md names a test, and that each test it names exists.
func TestThreats(t *testing.T) {
	text, err := os.ReadFile("../docs/threats.md")
	if err != nil {
		t.Fatal(err)
	}
	have := map[string]bool{}
	for _, root := range []string{".", "../e2e", "../cmd"} {
		t.Run(root, func(t *testing.T) {
			err := filepath.WalkDir(root, func(path string, _ os.DirEntry, err error) error {
				if err != nil || !strings.HasSuffix(path, "_test.go") {
					return err
				}
				source, err := os.ReadFile(path)
				for _, m := range regexp.MustCompile(`(?m)^func (Test\w+)\(`).FindAllStringSubmatch(string(source), -1) {
					have[m[1]] = true
				}
				return err
			})
			if err != nil {
				t.Fatal(err)
			}
		})
	}
	lines := 0
	for line := range strings.Lines(string(text)) {
		if !strings.HasPrefix(line, "| ") || strings.HasPrefix(line, "| tried") || strings.HasPrefix(line, "| ---") {
			continue
		}
		lines++
		names := regexp.MustCompile("`(Test\\w+)`").FindAllStringSubmatch(line, -1)
		if len(names) == 0 {
			t.Errorf("no test holds %s", line)
		}
		for _, m := range names {
			if !have[m[1]] {
				t.Errorf("%s is no test: %s", m[1], line)
			}
		}
	}
	if lines < 30 {
		t.Errorf("only %d lines were found", lines)
	}
}
