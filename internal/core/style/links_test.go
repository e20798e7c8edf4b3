package style

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// TestLinks: link patterns are read, written and told apart; each has a name of its own, and there are 24 at most.
func TestLinks(t *testing.T) {
	const two = `{"links":[{"key":"chat","name":"Chat","address":"https://chat.marrowby.example/{number}"},{"name":"Our profile","address":"https://feed.marrowby.example/@{item}"}]}`
	s, problems := Parse([]byte(two))
	if len(problems) > 0 || len(s.Links) != 2 || s.Links[1].Key != "our-profile" {
		t.Fatal(s, problems)
	}
	text, err := json.Marshal(s)
	again, problems := Parse(text)
	if err != nil || len(problems) > 0 || fmt.Sprint(again.Links) != fmt.Sprint(s.Links) {
		t.Errorf("%s comes back as %v, %v %v", text, again, err, problems)
	}
	if p, ok := s.Link("chat"); !ok || p.Name != "Chat" {
		t.Errorf("%v %v", p, ok)
	}
	if _, ok := (*Style)(nil).Link("chat"); ok {
		t.Error("no house has a pattern")
	}
	if got := Changed(&Style{}, s); got != "link pattern Chat new, link pattern Our profile new" {
		t.Errorf("%q", got)
	}
	many := func(n int) string {
		var list []string
		for i := range n {
			list = append(list, fmt.Sprintf(`{"name":"p%d","address":"https://feed.marrowby.example/%d/{item}"}`, i, i))
		}
		return `{"links":[` + strings.Join(list, ",") + `]}`
	}
	for _, c := range []struct{ name, text, field string }{
		{"no name", `{"links":[{"address":"https://feed.marrowby.example/{item}"}]}`, "/links/0/name"},
		{"no address", `{"links":[{"name":"a"}]}`, "/links/0/address"},
		{"no blank", `{"links":[{"name":"a","address":"https://feed.marrowby.example/"}]}`, "/links/0/address"},
		{"another key", `{"links":[{"name":"a","address":"https://feed.marrowby.example/{item}","host":"b"}]}`, "/links/0/host"},
		{"the same name", strings.Replace(two, "Our profile", "chat", 1), "/links/1/name"}, {"24", many(24), ""},
		{"25", many(25), "/links"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, problems := Parse([]byte(c.text))
			if c.field == "" && len(problems) > 0 || c.field != "" && (len(problems) == 0 || problems[0].Field != c.field) {
				t.Errorf("%v, want one at %q", problems, c.field)
			}
		})
	}
}
