package recognise

import (
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"
	"unicode"

	"sodrik/internal/core/content"
)

// pasted is a text of the corpus, and what it is.
type pasted struct {
	language, kind, text string
	want                 map[string]string
}

// corpus reads testdata/pasted.txt: "@ language kind field=value | …", and the text below.
func corpus(t *testing.T) (out []pasted) {
	t.Helper()
	b, err := os.ReadFile("testdata/pasted.txt")
	if err != nil {
		t.Fatal(err)
	}
	for _, part := range strings.Split("\n"+strings.TrimSpace(string(b)), "\n@ ")[1:] {
		head, text, _ := strings.Cut(part, "\n")
		words := strings.SplitN(head, " ", 3)
		p := pasted{language: words[0], kind: words[1], text: text, want: map[string]string{}}
		if len(words) == 3 {
			for _, pair := range strings.Split(words[2], " | ") {
				key, value, _ := strings.Cut(pair, "=")
				p.want[key] = value
			}
		}
		out = append(out, p)
	}
	return out
}

// wrong says how the likeliest reading of a text differs from what it is, "" where it does not.
func (p pasted) wrong() string {
	region := strings.ToUpper(p.language)
	if p.language == "en" {
		region = "GB"
	}
	list := Written(p.text, region)
	if len(list) == 0 {
		return "nothing"
	}
	if last := list[len(list)-1]; last.Values["text"] != p.text {
		return fmt.Sprintf("as it is it cannot be had: %v", last.Values)
	}
	r := list[0]
	if p.kind == "urls" {
		n := 0
		for _, r := range list {
			if r.Entry && r.Values["kind"] == "url" && r.Content != nil {
				n++
			}
		}
		if strconv.Itoa(n) != p.want["n"] || strings.Count(strings.TrimSpace(r.Rows), "\n") != n {
			return fmt.Sprintf("%d addresses, rows %q", n, r.Rows)
		}
		return ""
	}
	if kind := r.Values["kind"]; kind != p.kind {
		return fmt.Sprintf("a %v", kind)
	}
	for key, want := range p.want {
		if got := valueOf(r.Values, key, region); got != want {
			return fmt.Sprintf("%s is %q, not %q (%v)", key, got, want, r.Values)
		}
	}
	return ""
}

// valueOf is a field of a content as the corpus writes it: of a list how many it holds, a number with its country's code, an
// address with its scheme.
func valueOf(values map[string]any, key, region string) string {
	key, below, deep := strings.Cut(key, ".")
	v := values[key]
	if deep {
		m, _ := v.(map[string]any)
		return valueOf(m, below, region)
	}
	if list, is := v.([]any); is {
		if key == "to" {
			return fmt.Sprint(list[0])
		}
		return strconv.Itoa(len(list))
	}
	if v == nil {
		return ""
	}
	text := fmt.Sprint(v)
	switch key {
	case "number":
		if n, message := content.ParseNumber(text, region); message == "" {
			return strings.Map(func(r rune) rune {
				if unicode.IsDigit(r) || r == '+' {
					return r
				}
				return -1
			}, n.E164)
		}
	case "url":
		if !strings.Contains(text, ":") {
			text = "https://" + text
		}
	case "lat", "lon":
		f, err := strconv.ParseFloat(text, 64)
		if err != nil {
			return text
		}
		return strconv.FormatFloat(float64(int(f*10000+0.5*sign(f)))/10000, 'f', -1, 64)
	case "iban":
		return strings.ReplaceAll(text, " ", "")
	case "gtin":
		return strings.Repeat("0", max(0, 14-len(text))) + text
	}
	return text
}

func sign(f float64) float64 {
	if f < 0 {
		return -1
	}
	return 1
}

// TestPasted: of 200 texts in six languages 95 in 100 are taken for what they are, and no word of any is lost. Three of each ten
// were kept aside while the rules were made, and were looked at afterwards alone.
func TestPasted(t *testing.T) {
	all := corpus(t)
	for name, aside := range map[string]bool{"made with": false, "kept aside": true} {
		t.Run(name, func(t *testing.T) {
			n, wrong := 0, 0
			for i, p := range all {
				if is := i%10 == 2 || i%10 == 5 || i%10 == 8; is != aside {
					continue
				}
				n++
				if w := p.wrong(); w != "" {
					wrong++
					if !aside || testing.Verbose() {
						t.Logf("%s %s %q: %s", p.language, p.kind, p.text, w)
					}
				}
			}
			t.Logf("%d of %d are taken for what they are", n-wrong, n)
			if wrong*20 > n {
				t.Errorf("%d of %d are taken for something else", wrong, n)
			}
		})
	}
	if len(all) < 200 {
		t.Errorf("%d texts", len(all))
	}
}
