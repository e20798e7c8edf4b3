package job

import (
	"bytes"
	"fmt"
	"os"
	"strings"
	"testing"

	"sodrik/internal/core/content"
	"sodrik/internal/core/schema"
)

// reference is the list of all fields that users find.
const reference = "../../../docs/fields.md"

// TestReference holds the published list of fields against the declared ones.
func TestReference(t *testing.T) {
	var b bytes.Buffer
	b.WriteString(
		"# The fields of a job\n\nMade from what the program declares: `go test ./internal/core/job -run TestReference " +
			"-update` writes it anew. " +
			"Entries of a list are shown by their first, `0`. The rules between fields are in " +
			"[job.schema.json](job.schema.json).\n")
	for _, k := range content.Register() {
		fmt.Fprintf(&b, "\n## content, kind `%s`\n\n%s. Example: `%s`\n\n", k.Key, k.Outcome, k.Example)
		lines(&b, k.Fields.Columns("/content"))
	}
	for i := range Fields.Fields {
		if f := &Fields.Fields[i]; f.Part != nil && f.Key != "content" {
			at := "/" + f.Key
			if f.Type == schema.List {
				at += "/0"
			}
			fmt.Fprintf(&b, "\n## %s\n\n", f.Key)
			lines(&b, f.Part.Columns(at))
		}
	}
	if *update {
		if err := os.WriteFile(reference, b.Bytes(), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if kept, err := os.ReadFile(reference); err != nil || !bytes.Equal(kept, b.Bytes()) {
		t.Errorf("the fields have changed; go test ./internal/core/job -run TestReference -update writes the list anew (%v)", err)
	}
}

func lines(b *bytes.Buffer, columns []schema.Column) {
	b.WriteString("| field | is the | holds | heads of a column besides |\n| --- | --- | --- | --- |\n")
	for _, c := range columns {
		if c.Field.Typed {
			continue
		}
		fmt.Fprintf(b, "| `%s` | %s | %s | %s |\n", strings.ReplaceAll(c.Path[1:], "/", "."), c.Field.Name(),
			strings.ReplaceAll(c.Field.Holds(), "|", "\\|"), c.Field.Heads)
	}
}

// TestColumns: every column of a table of many rows is a field that can be typed, and what is typed there comes back from the
// draft.
func TestColumns(t *testing.T) {
	for _, k := range content.Register() {
		for _, c := range Columns(k.Key) {
			if !Editable(map[string]any{"content": map[string]any{"kind": k.Key}}, c.Path) {
				t.Errorf("%s: %s cannot be typed", k.Key, c.Path)
			}
		}
	}
	var paths []string
	for _, c := range Columns("wifi") {
		paths = append(paths, c.Path)
	}
	if got := strings.Join(paths[:3], " "); got != "/name /content/ssid /content/security" {
		t.Errorf("the first columns of a network are %s", got)
	}
}
