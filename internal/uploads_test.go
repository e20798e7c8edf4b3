package internal

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// asks is a call for the uploads of a workspace that asks for no right.
var asks = regexp.MustCompile(`\.(In\([\w.()]+, [\w.]*[wW]orkspace\)|Within\([\w.()]+, tx, )`)

// TestUploadsAreAskedFor: only the use cases of codes, which have asked for the right before, take the uploads of a workspace by
// its name; everybody else comes through Assets, which asks.
func TestUploadsAreAskedFor(t *testing.T) {
	used := 0
	for _, root := range []string{".", "../cmd"} {
		t.Run(root, func(t *testing.T) {
			err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
				if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
					return err
				}
				source, err := os.ReadFile(path)
				if err != nil {
					return err
				}
				for i, line := range strings.Split(string(source), "\n") {
					if !asks.MatchString(line) {
						continue
					}
					if used++; !strings.HasPrefix(path, "code/") && !strings.HasPrefix(path, "shelf/") {
						t.Errorf("%s:%d: %s", path, i+1, strings.TrimSpace(line))
					}
				}
				return nil
			})
			if err != nil {
				t.Fatal(err)
			}
		})
	}
	if used < 15 {
		t.Errorf("%d calls are found; there were 18", used)
	}
	if !asks.MatchString("find := h.Codes.Shelf.In(r.Context(), w.Workspace)") || asks.MatchString("f.In(x)") {
		t.Error("the pattern finds no call")
	}
}
