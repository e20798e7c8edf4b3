// Package content holds what a code says: fields ⇄ payload, what is wrong with them, a summary in words, and what a phone
// offers to do. One file a kind, two where the format is one of its own.
package content

import (
	"slices"
	"strings"
	"unicode/utf8"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Content is one kind with its fields filled in.
type Content interface {
	Kind() string     // as in the job file
	Payload() string  // what is encoded; only meaningful where Read noted no problem
	Summary() Summary // in words; never a secret
	Phone() Offer     // what a phone does with the payload

	check(o *fields.Object) // the rules of the kind, once the fields are read; irregular fields are read here
}

// Found is a content that may be found by more than its fields declare.
type Found interface{ Search() string }

// Search is what may be found of a content without opening it: names and public addresses, never an account, a message or a
// key; "" for nothing.
func Search(c Content) string {
	if f, ok := c.(Found); ok {
		return f.Search()
	}
	return strings.Join(searchable(KindOf(c.Kind()).Fields, c), " ")
}

// searchable are the texts of a part that it may be found by.
func searchable(p *schema.Part, part any) (out []string) {
	for i := range p.Fields {
		f := &p.Fields[i]
		switch {
		case f.At == nil:
		case f.Type == schema.Object:
			out = append(out, searchable(f.Part, f.At(part))...)
		case f.Search:
			if s := *f.At(part).(*string); s != "" {
				out = append(out, s)
			}
		}
	}
	return out
}

// Secretive is a content that holds a secret, such as the password of a network.
type Secretive interface {
	Shown() string // the payload with its secrets masked
}

// Shown is a payload as pages, labels and the metadata of files show it: without its secrets.
func Shown(c Content) string {
	if s, ok := c.(Secretive); ok {
		return s.Shown()
	}
	return c.Payload()
}

// Keyed is a content that can carry the keyword of a placement, so that what people send tells where they stood.
type Keyed interface {
	With(keyword string) Content
}

// Caution is something a content does that is allowed and likely to be regretted.
type Caution struct {
	Code, Message string
	Label         string      // of the change that mends it, "" where there is none
	Patch         patch.Patch // on the job
	Note          bool        // worth knowing, and may well be meant
}

// Careful is a content with cautions.
type Careful interface{ Cautions() []Caution }

// Saving is a change that makes a payload shorter, or another longer; its price is for others to work out.
type Saving struct {
	Label string
	Field string      // pointer of the field it empties or fills, "" where it is of another sort
	Patch patch.Patch // on the job
	Then  Content     // what is said then
}

// Thrifty is a content that knows shorter ways to say much the same.
type Thrifty interface{ Savings() []Saving }

// Growing is a content with fields still empty. Adding fills each with a text of SampleLength characters, so that a form
// can say what it would cost.
type Growing interface{ Adding() []Saving }

// SampleLength is the length of the text that stands for what may be typed into an empty field.
const SampleLength = 12

var sample = strings.Repeat("n", SampleLength)

// Summary says what a code does in a verb and an object: Opens marrowby.example/fair.
type Summary struct{ Verb, Object string }

func (s Summary) String() string { return s.Verb + " " + s.Object }

// Offer is what a phone shows after reading: an action, the part a person checks, and the rest.
type Offer struct {
	Action string   // "Opens in the browser"
	Strong string   // the host, the number, the network
	Rest   string   // follows it at once: the path
	Lines  []string // parameters and other details
	Warn   string   // what a careful phone would add
}

// New reads the fields of a content that stands on its own. Problems have pointers below "/content".
func New(values map[string]any) (Content, problem.List) {
	var problems problem.List
	c := Read(fields.Open(values, "/content", &problems))
	return c, problems.Unique()
}

// Fields takes a payload apart: the part of a job called "content" that says the same. ok is false where it has no form
// known here; what it holds may still be wrong, which reading it tells.
func Fields(payload string) (values map[string]any, ok bool) {
	head := strings.ToLower(payload[:min(len(payload), 24)])
	for _, k := range register {
		for _, t := range k.Takes {
			if strings.HasPrefix(head, t.Prefix) {
				values, ok = t.Take(payload)
				return values, ok && isText(values)
			}
		}
	}
	return nil, false
}

// isText says that every text in a value is UTF-8, which percent-encoding and escapes can break.
func isText(v any) bool {
	switch v := v.(type) {
	case string:
		return utf8.ValidString(v)
	case []any:
		return !slices.ContainsFunc(v, func(x any) bool { return !isText(x) })
	case map[string]any:
		for k, x := range v {
			if !utf8.ValidString(k) || !isText(x) {
				return false
			}
		}
	}
	return true
}

func takeURL(payload string) (map[string]any, bool) {
	if values, ok := takeGS1Link(payload); ok {
		return values, true
	}
	out := map[string]any{"kind": "url", "url": payload}
	scheme, rest, ok := strings.Cut(payload, "://")
	host := rest[:len(rest)-len(strings.TrimLeft(rest, "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789.:-"))]
	if scheme == strings.ToUpper(scheme) && host != "" &&
		(len(host) == len(rest) || strings.ContainsRune("/?#", rune(rest[len(host)]))) {
		out["capitals"] = true
	}
	return out, ok
}

// Of takes a payload, as a reader gives it, for the content it is; what is no sound content of another kind is text, as a
// phone shows it. It is nil where it is not even text.
func Of(payload string) Content {
	if values, ok := Fields(payload); ok {
		if c, problems := New(values); len(problems) == 0 {
			return c
		}
	}
	c, problems := New(map[string]any{"kind": "text", "text": payload})
	if len(problems) > 0 {
		return nil
	}
	return c
}

// set is the patch that puts a value into a field of the content; drop takes the field away.
func set(path string, value any) patch.Patch { return patch.Set("/content"+path, value) }
func drop(path string) patch.Patch           { return patch.Patch{{Op: "remove", Path: "/content" + path}} }

// brief shortens a text to n characters, in one line.
func brief(s string, n int) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > n {
		return strings.TrimSpace(string(r[:n-1])) + "…"
	}
	return s
}

// put sets a key unless the text is empty.
func put(m map[string]any, key, text string) {
	if text != "" {
		m[key] = text
	}
}

// hasControl finds a control character other than those named in but.
func hasControl(s, but string) bool {
	return strings.ContainsFunc(s, func(r rune) bool { return (r < ' ' || r == 0x7F) && !strings.ContainsRune(but, r) })
}
