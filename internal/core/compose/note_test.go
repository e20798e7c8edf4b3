package compose

import (
	"strings"
	"testing"
)

// TestNoteOverprint: the printer is told to keep inks that overprint, and to let none overprint where none does.
func TestNoteOverprint(t *testing.T) {
	for output, want := range map[string]string{
		`{"colour":"coated","overprint":true}`: "set to overprint. Keep that",
		`{"colour":"coated"}`:                  "do not overprint",
	} {
		t.Run(want, func(t *testing.T) {
			m, problems := Parse([]byte(`{"content":{"kind":"url","url":"marrowby.example/fair"},"output":`+output+`}`), nil)
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			got := Note(m, "Fair", 1, "1 March 2027", nil, nil)
			if !strings.Contains(got, want) || strings.Contains(got, "do not overprint") == strings.Contains(got, "Keep that") {
				t.Error(got)
			}
		})
	}
}
