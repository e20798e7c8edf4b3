package job

import (
	"testing"

	"sodrik/internal/core/fields"
)

// TestSuggested: a first frame brings words that say what a scan does; another frame, and one whose words were taken off, does
// not.
func TestSuggested(t *testing.T) {
	for _, c := range []struct {
		name, draft, text string
		want              bool
	}{
		{"a first frame", `{"content":{"kind":"url","url":"marrowby.example"}}`, "ribbon", true},
		{"none", `{"content":{"kind":"url","url":"marrowby.example"}}`, "", false},
		{"another", `{"content":{"kind":"url","url":"marrowby.example"},"look":{"frame":{"shape":"flag"}}}`, "ribbon", false},
		{"with words", `{"content":{"kind":"url","url":"marrowby.example"},"look":{"frame":{"text":"Walk in"}}}`, "ribbon",
			false},
		{"of nothing", `{}`, "ribbon", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			doc, err := fields.Decode([]byte(c.draft))
			if err != nil {
				t.Fatal(err)
			}
			p := Suggested(doc, "/look/frame/shape", c.text)
			if (len(p) == 1 && p[0].Path == "/look/frame/text" && p[0].Value != "") != c.want {
				t.Errorf("%+v", p)
			}
			if p := Suggested(doc, "/look/ink", c.text); p != nil {
				t.Errorf("of another field: %+v", p)
			}
		})
	}
}
