package leads

import (
	"slices"
	"strings"
	"testing"

	"sodrik/internal/core/fields"
)

func TestBars(t *testing.T) {
	b := Bars{Own: []string{"go.marrowby.example", "go.marrowby.example:8443"}, Files: "/f/",
		Blocked: func(host string) bool { return host == "trap.example" }, Allowed: []string{"marrowby.example", "shop.example"}}
	for _, c := range []struct{ lead, want string }{
		{`{"to":{"kind":"url","url":"marrowby.example/fair"}}`, ""},
		{`{"to":{"kind":"url","url":"diary.marrowby.example"}}`, ""},
		{`{"to":{"kind":"url","url":"notmarrowby.example"}}`, "/to lead.host"},
		{`{"to":{"kind":"url","url":"http://trap.example/marrowby.example"}}`, "/to lead.blocked"},
		{`{"to":{"kind":"url","url":"https://GO.marrowby.example/fair/"}}`, "/to lead.circle"},
		{`{"to":{"kind":"url","url":"https://go.marrowby.example:8443/fair"}}`, "/to lead.circle"},
		{`{"to":{"kind":"url","url":"https://go.marrowby.example/f/K7/guide.pdf"}}`, ""},
		{`{"to":{"kind":"url","url":"https://marrowby.example/f/K7"}}`, ""},
		{`{"to":{"kind":"url","url":"https://go.marrowby.example/"}}`, ""}, // the host's own page
		{`{"to":{"kind":"url","url":"https://go.marrowby.example:443/fair"}}`, "/to lead.circle"},
		{`{"to":{"kind":"url","url":"http://go.marrowby.example:80/fair"}}`, "/to lead.circle"},
		{`{"to":{"kind":"url","url":"https://go.marrowby.example//fair//"}}`, "/to lead.circle"},
		{`{"to":{"kind":"url","url":"https://go.marrowby.example./fair"}}`, "/to lead.circle"},
		{`{"to":{"kind":"url","url":"https://go.marrowby.example/old/menu/spring"}}`, "/to lead.circle"}, // a path that moved in
		{`{"to":{"kind":"url","url":"https://go.marrowby.example/f/../fair"}}`, "/to lead.circle"},
		{`{"to":{"kind":"url","url":"https://go.marrowby.example/f/%2e%2e/fair"}}`, "/to lead.circle"},
		{`{"to":{"kind":"url","url":"http://trap.example./"}}`, "/to lead.blocked"},
		{`{"to":{"kind":"url","url":"https://trap.example:443/"}}`, "/to lead.blocked"},
		{`{"to":{"kind":"url","url":"https://go.marrowby.example:9000/fair"}}`, ""},
		{`{"to":{"kind":"phone","number":"+44 1632 960123"}}`, ""},
		{`{"to":{"kind":"url","url":"marrowby.example"},"then":{"kind":"url","url":"trap.example"},"from":"2027-03-20T16:00","timezone":"Europe/London",
			"instead":"else.example"}`, "/then lead.blocked, /instead lead.host"},
	} {
		t.Run(c.lead, func(t *testing.T) {
			v, err := fields.Decode([]byte(c.lead))
			if err != nil {
				t.Fatal(err)
			}
			l, problems := Read(v)
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			var got []string
			for _, p := range b.Check(l) {
				got = append(got, p.Field+" "+p.Code)
			}
			if strings.Join(got, ", ") != c.want {
				t.Errorf("%s: %q, want %q", c.lead, got, c.want)
			}
			if c.want == "/to lead.host" {
				if problems := (Bars{}).Check(l); len(problems) > 0 {
					t.Errorf("%s: nothing bars it, and yet %v", c.lead, problems)
				}
			}
		})
	}
}

func TestHosts(t *testing.T) {
	got, problems := Hosts("Marrowby.example, https://shop.example/a\nshop.example;diary.marrowby.example bücher.example:80")
	if want := []string{"marrowby.example", "shop.example", "xn--bcher-kva.example"}; len(problems) > 0 ||
		!slices.Equal(got, want) {
		t.Errorf("%v %v, want %v", got, problems, want)
	}
	if _, problems := Hosts("marrowby"); len(problems) != 1 || problems[0].Field != "/hosts" {
		t.Errorf("a word that is no host: %v", problems)
	}
	if got, problems := Hosts(" \n"); got != nil || problems != nil {
		t.Errorf("nothing typed: %v %v", got, problems)
	}
	many := func(n int) (text string) {
		for i := range n {
			text += strings.Repeat("a", 1+i%50) + strings.Repeat("b", 1+i/50) + ".example\n"
		}
		return text
	}
	if got, problems := Hosts(many(100)); len(got) != 100 || problems != nil {
		t.Errorf("a hundred: %d %v", len(got), problems)
	}
	if _, problems := Hosts(many(101)); len(problems) != 1 || problems[0].Code != "host.many" {
		t.Errorf("a hundred and one: %v", problems)
	}
}
