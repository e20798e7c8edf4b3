package assets

import (
	"regexp"
	"testing"
)

// TestFontsAreKept: what a style names is asked for by an address under which it is kept for ever.
func TestFontsAreKept(t *testing.T) {
	css := string(Files()["app.css"].Data)
	named := regexp.MustCompile(`url\(([^)]+\.woff2[^)]*)\)`).FindAllStringSubmatch(css, -1)
	if len(named) != 4 {
		t.Fatalf("%d fonts", len(named))
	}
	for _, n := range named {
		name := regexp.MustCompile(`^[^?]+`).FindString(n[1])
		if f := Files()[name]; f == nil || URL(name) != "/static/"+n[1] {
			t.Errorf("%s is not where %s is kept for ever", n[1], name)
		}
	}
}
