package pattern

import (
	"maps"
	"net/url"
	"strings"
	"testing"
)

func TestCheck(t *testing.T) {
	for _, c := range []struct{ name, address, want string }{
		{"a number and a text", "https://chat.marrowby.example/{number}?text={text}", ""},
		{"an item", "https://feed.marrowby.example/@{item}", ""},
		{"an item in a fragment", "https://feed.marrowby.example/#{item}", ""},
		{"plain http", "http://feed.marrowby.example/{item}", ""},
		{"nothing", "", "is missing"}, {"no blank", "https://feed.marrowby.example/", "has no blank"},
		{"one that there is not", "https://feed.marrowby.example/{id}", "has {id}, which is no blank"},
		{"the same twice", "https://feed.marrowby.example/{item}/{item}", "has {item} twice"},
		{"a brace alone", "https://feed.marrowby.example/{item", "has a brace"},
		{"braces within braces", "https://feed.marrowby.example/{{item}}", "has a brace"},
		{"another scheme", "javascript:alert({text})", "is no web address"},
		{"no scheme", "feed.marrowby.example/{item}", "is no web address"},
		{"a blank in the host", "https://{item}.example/", "has a blank in the name of its host"},
		{"a host that is one", "https://{item}", "has a blank in the name of its host"},
		{"a port", "https://feed.marrowby.example:{number}/", ""},
		{"a line break", "https://feed.marrowby.example/{item}\n", "has blanks between"},
		{"a space", "https://feed.marrowby.example/a b/{item}", "has blanks between"},
		{"as long as may be", "https://feed.marrowby.example/{item}" + strings.Repeat("x", MaxAddress-36), ""},
		{"a byte longer", "https://feed.marrowby.example/{item}" + strings.Repeat("x", MaxAddress-35), "longer than 400 bytes"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if c.name == "a port" { // of which Go's reader says it itself
				c.want = "has a blank in the name of its host"
			}
			if got := Check(c.address); c.want == "" && got != "" || !strings.Contains(got, c.want) {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
}

// TestFill: the encoding of values is that of RFC 6570, 3.2.2 and the examples of its section 1.2 ("Hello%20World%21"); numbers
// are those of E.164 without the plus.
func TestFill(t *testing.T) {
	const chat, post = "https://chat.marrowby.example/{number}?text={text}", "https://feed.marrowby.example/@{item}/about"
	for _, c := range []struct {
		name, address string
		values        map[string]string
		want, wrong   string // wrong is the field of the problem
	}{
		{"number and text", chat, map[string]string{"number": "+44 (0)113 496-0123", "text": "Hello World!"},
			"https://chat.marrowby.example/441134960123?text=Hello%20World%21", ""},
		{"00 before it", chat, map[string]string{"number": "0044 113 496 0123", "text": "a"},
			"https://chat.marrowby.example/441134960123?text=a", ""},
		{"what ends a query", chat, map[string]string{"number": "+441134960123", "text": "50 % & more #1/ü~"},
			"https://chat.marrowby.example/441134960123?text=50%20%25%20%26%20more%20%231%2F%C3%BC~", ""},
		{"the ends of what stays as it is, and what lies beside them", chat,
			map[string]string{"number": "+441134960123", "text": "azAZ09-._~`{@[/:"},
			"https://chat.marrowby.example/441134960123?text=azAZ09-._~%60%7B%40%5B%2F%3A", ""},
		{"as long as may be", chat, map[string]string{"number": "+441134960123", "text": strings.Repeat("a", 500)},
			"https://chat.marrowby.example/441134960123?text=" + strings.Repeat("a", 500), ""},
		{"the longest item", post, map[string]string{"item": strings.Repeat("a", 100)}, "https://feed.marrowby.example/@" +
			strings.Repeat("a", 100) + "/about", ""},
		{"a line break", chat, map[string]string{"number": "+441134960123", "text": "a\r\nb"},
			"https://chat.marrowby.example/441134960123?text=a%0Ab", ""},
		{"a profile with its @", post, map[string]string{"item": " @marrowby.seeds "},
			"https://feed.marrowby.example/@marrowby.seeds/about", ""},
		{"the whole address", post, map[string]string{"item": "https://feed.marrowby.example/@marrowby/about"},
			"https://feed.marrowby.example/@marrowby/about", ""},
		{"no number", chat, map[string]string{"text": "a"}, "", "/number"},
		{"no country", chat, map[string]string{"number": "0113 496 0123", "text": "a"}, "", "/number"},
		{"a short number", chat, map[string]string{"number": "999", "text": "a"}, "", "/number"},
		{"no text", chat, map[string]string{"number": "+441134960123"}, "", "/text"},
		{"a text too long", chat, map[string]string{"number": "+441134960123", "text": strings.Repeat("a", 501)}, "", "/text"},
		{"no item", post, nil, "", "/item"}, {"a step further", post, map[string]string{"item": "a/b"}, "", "/item"},
		{"a step up", post, map[string]string{"item": ".."}, "", "/item"},
		{"another address", post, map[string]string{"item": "https://elsewhere.example/@a"}, "", "/item"},
		{"an item too long", post, map[string]string{"item": strings.Repeat("a", 101)}, "", "/item"},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, problems := Pattern{Address: c.address}.Fill(c.values)
			if got != c.want || c.wrong == "" && len(problems) > 0 ||
				c.wrong != "" && (len(problems) != 1 || problems[0].Field != c.wrong) {
				t.Errorf("%q %v, want %q, a problem at %q", got, problems, c.want, c.wrong)
			}
			if got != "" {
				if u, err := url.Parse(got); err != nil ||
					c.values["text"] != "" && u.Query().Get("text") != strings.ReplaceAll(c.values["text"], "\r\n", "\n") {
					t.Errorf("net/url reads %v, %v", u, err)
				}
			}
		})
	}
}

// TestMatch: what was filled in comes back, and no other address is taken for it.
func TestMatch(t *testing.T) {
	p := Pattern{Address: "https://chat.marrowby.example/{number}?text={text}"}
	values := map[string]string{"number": "+441134960123", "text": "50 % & more #1/ü~"}
	address, problems := p.Fill(values)
	if got, ok := p.Match(address); !ok || len(problems) > 0 || !maps.Equal(got, values) {
		t.Errorf("%v %v %v", got, ok, problems)
	}
	for _, other := range []string{"", "https://chat.marrowby.example/", "https://chat.marrowby.example/441134960123",
		"https://chat.marrowby.example/word?text=a", "https://elsewhere.example/441134960123?text=a",
		"https://chat.marrowby.example/441134960123?text=a&b=c"} {
		t.Run(other, func(t *testing.T) {
			if got, ok := p.Match(other); ok {
				t.Errorf("%s is taken for it: %v", other, got)
			}
		})
	}
}

// FuzzFill: whatever is filled in, the address is one, its host stays that of the pattern, and what matches is what was filled
// in.
func FuzzFill(f *testing.F) {
	f.Add("+441134960123", "When do the tulips come?", "marrowby")
	f.Fuzz(func(t *testing.T, number, text, item string) {
		p := Pattern{Address: "https://chat.marrowby.example/{number}/{item}?text={text}"}
		address, problems := p.Fill(map[string]string{"number": number, "text": text, "item": item})
		if len(problems) > 0 {
			return
		}
		u, err := url.Parse(address)
		if err != nil || u.Host != "chat.marrowby.example" || strings.Count(u.Path, "/") != 2 {
			t.Fatalf("%q: %v, %v", address, u, err)
		}
		back, ok := p.Match(address)
		again, problems := p.Fill(back)
		if !ok || len(problems) > 0 || again != address {
			t.Fatalf("%q comes back as %v, %q %v", address, back, again, problems)
		}
	})
}
