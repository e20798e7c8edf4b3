// Package pattern is link patterns: web addresses with blanks, in the form of URI templates (RFC 6570, level 1), that a house
// fills in with what somebody knows: a telephone number, a text, an item such as the name of a profile or the id of a post.
package pattern

import (
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
)

// Pattern is an address with blanks, under a name.
type Pattern struct {
	Key, Name string
	Address   string // "https://chat.marrowby.example/{number}?text={text}"
}

// Blank is something that is left open in an address.
type Blank struct {
	Key    string // as it stands between braces
	Label  string
	Sample string
	fill   func(typed string) (value, wrong string)
}

// Blanks are those that a pattern can have, each at most once.
var Blanks = []Blank{
	{"number", "Telephone", "+44 113 496 0123", number},
	{"text", "Text", "When do the tulips come?", text},
	{"item", "Name or id", "marrowby-seeds", item},
}

// Bounds of a pattern and of what fills it, in bytes.
const (
	MaxAddress = 400
	maxText    = 500
	maxItem    = 100
)

var blank = regexp.MustCompile(`\{([^{}]*)\}`)

// Check says what is wrong with a pattern's address, as the rest of a sentence that begins with its field; "" for nothing.
func Check(address string) string {
	if address == "" {
		return "is missing; write it with a blank, such as https://feed.marrowby.example/{item}"
	}
	if len(address) > MaxAddress ||
		strings.ContainsFunc(address, func(r rune) bool { return unicode.IsControl(r) || unicode.IsSpace(r) }) ||
		!utf8.ValidString(address) {
		return fmt.Sprintf("has blanks between its characters, or is longer than %d bytes; write one address", MaxAddress)
	}
	seen := map[string]bool{}
	for _, m := range blank.FindAllStringSubmatch(address, -1) {
		switch {
		case !slices.ContainsFunc(Blanks, func(b Blank) bool { return b.Key == m[1] }):
			return fmt.Sprintf("has {%.20s}, which is no blank; there are {number}, {text} and {item}", m[1])
		case seen[m[1]]:
			return fmt.Sprintf("has {%s} twice; each blank stands in it once", m[1])
		}
		seen[m[1]] = true
	}
	switch {
	case strings.ContainsAny(blank.ReplaceAllString(address, ""), "{}"):
		return "has a brace without its other one; a blank is {number}, {text} or {item}"
	case len(seen) == 0:
		return "has no blank; put {number}, {text} or {item} where it differs each time"
	}
	u, err := url.Parse(blank.ReplaceAllString(address, "0"))
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" {
		return "is no web address; it begins with https://"
	}
	if head, _, _ := strings.Cut(address[strings.Index(address, "//")+2:], "/"); blank.MatchString(
		strings.SplitN(strings.SplitN(head, "?", 2)[0], "#", 2)[0],
	) {
		return "has a blank in the name of its host; whose page it opens must be certain"
	}
	if _, problems := content.New(map[string]any{"kind": "url", "url": blank.ReplaceAllString(address, "0")}); len(problems) > 0 {
		return problems[0].Message
	}
	return ""
}

// Blanks are those of the pattern, in the order in which they stand in it.
func (p Pattern) Blanks() (out []Blank) {
	for _, m := range blank.FindAllStringSubmatch(p.Address, -1) {
		for _, b := range Blanks {
			if b.Key == m[1] {
				out = append(out, b)
			}
		}
	}
	return out
}

// Fill puts values, by the keys of blanks, into the address. Every value is percent-encoded but for unreserved characters (RFC
// 6570, 3.2.2). Problems are at "/" and the key. A whole address that the pattern makes may stand for its values.
func (p Pattern) Fill(values map[string]string) (address string, problems problem.List) {
	encoded := map[string]string{}
	for _, b := range p.Blanks() {
		typed := strings.TrimSpace(values[b.Key])
		if back, ok := p.Match(typed); ok {
			typed = back[b.Key]
		}
		value, wrong := b.fill(typed)
		if wrong != "" {
			problems.Add("/"+b.Key, "pattern."+b.Key, "%s", wrong)
		}
		encoded[b.Key] = escape(value)
	}
	if len(problems) > 0 {
		return "", problems
	}
	return blank.ReplaceAllStringFunc(p.Address, func(s string) string { return encoded[s[1:len(s)-1]] }), nil
}

// Match takes an address apart that the pattern makes; ok is false where it makes no such.
func (p Pattern) Match(address string) (values map[string]string, ok bool) {
	var form strings.Builder
	at := 0
	for _, m := range blank.FindAllStringSubmatchIndex(p.Address, -1) {
		form.WriteString(regexp.QuoteMeta(p.Address[at:m[0]]) + `([A-Za-z0-9._~%-]+)`)
		at = m[1]
	}
	form.WriteString(regexp.QuoteMeta(p.Address[at:]))
	re, err := regexp.Compile("^" + form.String() + "$")
	if err != nil {
		return nil, false
	}
	found := re.FindStringSubmatch(address)
	if found == nil {
		return nil, false
	}
	values = map[string]string{}
	for i, b := range p.Blanks() {
		value, err := url.PathUnescape(found[i+1])
		if err != nil {
			return nil, false
		}
		if b.Key == "number" {
			value = "+" + value
		}
		if _, wrong := b.fill(value); wrong != "" {
			return nil, false
		}
		values[b.Key] = value
	}
	return values, true
}

// escape encodes everything but unreserved characters (RFC 3986, 2.3).
func escape(s string) string {
	var b strings.Builder
	for _, c := range []byte(s) {
		if c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || strings.IndexByte("-._~", c) >= 0 {
			b.WriteByte(c)
		} else {
			fmt.Fprintf(&b, "%%%02X", c)
		}
	}
	return b.String()
}

// number is a telephone number with the code of its country, as services that are reached by one write it: digits alone (E.164
// without its plus).
func number(typed string) (value, wrong string) {
	if typed == "" {
		return "", "is missing; write it with its country code, such as +44 113 496 0123"
	}
	n, wrong := content.ParseNumber(typed, "")
	if wrong == "" && n.Short {
		wrong = "is a short number, which has no country code; write a whole one such as +44 113 496 0123"
	}
	return strings.TrimPrefix(n.E164, "+"), wrong
}

func text(typed string) (value, wrong string) {
	switch {
	case typed == "":
		return "", "is missing; write what stands there"
	case len(typed) > maxText || strings.ContainsFunc(typed, func(r rune) bool {
		return unicode.IsControl(r) && r != '\n' && r != '\r'
	}):
		return "", fmt.Sprintf("is longer than %d bytes; say it shorter", maxText)
	}
	return strings.ReplaceAll(typed, "\r\n", "\n"), ""
}

var items = regexp.MustCompile(`^[A-Za-z0-9._~-]+$`)

// item is one step of a path; the @ before it, as people write names of profiles, is the pattern's own or none.
func item(typed string) (value, wrong string) {
	typed = strings.TrimPrefix(typed, "@")
	switch {
	case typed == "":
		return "", "is missing; write the name or id as it stands in the address, such as marrowby-seeds"
	case len(typed) > maxItem || !items.MatchString(typed) || strings.Trim(typed, ".") == "": // points alone are steps up a path
		return "", fmt.Sprintf(
			"holds something else than letters, digits, points and hyphens, or more than %d of them; copy it from the address",
			maxItem,
		)
	}
	return typed, ""
}
