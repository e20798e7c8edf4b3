package route

import (
	"fmt"
	"slices"
	"strings"
	"sync"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"sodrik/internal/core/gazetteer"
)

// tongues are language tags by their folded names, in English and as they name themselves.
var tongues = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	add := func(t language.Tag) {
		for _, name := range []string{display.Self.Name(t), display.English.Tags().Name(t)} {
			if key := gazetteer.Fold(name); key != "" && out[key] == "" { // "English" is that of no region
				out[key] = t.String()
			}
		}
	}
	for a := 'a'; a <= 'z'; a++ {
		for b := 'a'; b <= 'z'; b++ {
			if base, err := language.ParseBase(string(a) + string(b)); err == nil {
				if t, err := language.Compose(base); err == nil {
					add(t)
				}
			}
		}
	}
	for _, t := range display.Supported.Tags() {
		add(t)
	}
	return out
})

// Language reads a language as somebody types it, by its name or its tag, and gives the tag (BCP 47).
func Language(text string) (tag, bad string) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", ""
	}
	if tag, ok := tongues()[gazetteer.Fold(text)]; ok && len(text) > 3 {
		return tag, ""
	}
	if t, err := language.Parse(strings.ReplaceAll(text, "_", "-")); err == nil && t != language.Und && len(text) != 1 {
		return t.String(), ""
	}
	return "", fmt.Sprintf("names %q, which is no language; write one such as Welsh, or its tag, such as cy", text)
}

// LanguageName is a language in a sentence: "Welsh", "Brazilian Portuguese".
func LanguageName(tag string) string {
	t, err := language.Parse(tag)
	if err != nil {
		return tag
	}
	if name := display.English.Tags().Name(t); name != "" {
		return name
	}
	return tag
}

// widened are the tags that a tag takes in beside those that begin with it (RFC 4647, 3.4): one that names a script takes in
// what is usually written in it, so that zh-Hant holds zh-TW.
func widened(tag string) []string {
	out := []string{tag}
	t, err := language.Parse(tag)
	if err != nil {
		return out
	}
	base, _ := t.Base()
	script, sure := t.Script()
	if sure != language.Exact || strings.Count(tag, "-") != 1 {
		return out
	}
	if s, _ := language.Make(base.String()).Script(); s == script {
		out = append(out, base.String()+"\x00") // alone, and no longer tag
	}
	for _, code := range regionCodes() {
		if u, err := language.Parse(base.String() + "-" + code); err == nil {
			if s, c := u.Script(); s == script && c != language.No {
				out = append(out, u.String())
			}
		}
	}
	return out
}

var regionCodes = sync.OnceValue(func() (out []string) {
	for _, code := range countries() {
		out = append(out, code)
	}
	slices.Sort(out)
	return out
})

// speaks says that a language of a phone is one that a widened tag takes in.
func speaks(tag, phone string) bool {
	if alone, only := strings.CutSuffix(tag, "\x00"); only {
		return phone == alone
	}
	return strings.HasPrefix(phone, tag) && (len(phone) == len(tag) || phone[len(tag)] == '-')
}
