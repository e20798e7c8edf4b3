package leads

import (
	"os"
	"strings"
	"testing"
)

// TestDocumented: the page of short links names every field of a lead.
func TestDocumented(t *testing.T) {
	page, err := os.ReadFile("../../../docs/links.md")
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range Fields.Fields {
		if !strings.Contains(string(page), "`"+f.Key+"`") {
			t.Errorf("docs/links.md does not name %s", f.Key)
		}
	}
}
