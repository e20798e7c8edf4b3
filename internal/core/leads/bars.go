package leads

import (
	"slices"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/shortlink"
)

// Bars are what keeps a destination from being chosen, beside what it is.
type Bars struct {
	Own     []string               // hosts of short links: people would go round in a circle, or through two
	Allowed []string               // hosts that an owner allows, each with all names below it; nil for any
	Blocked func(host string) bool // by whoever runs the server; nil for none
	// Files is the path below which a host of short links keeps files of ours, which may be led to
	Files string
}

// Check says what is wrong with the destinations of a lead, each at its field.
func (b Bars) Check(l *Lead) (out problem.List) {
	for _, f := range append(l.Destinations(), Destination{"instead", instead(l.Instead)}) {
		if f.To == nil {
			continue
		}
		host, path, web, err := shortlink.Normal(f.To.Payload())
		if err != nil {
			out.Add("/"+f.Key, "lead.form", "%s", err)
		}
		if err != nil || !web {
			continue
		}
		name, _, _ := strings.Cut(host, ":")
		switch {
		case slices.Contains(b.Own, host) && (path == "/" || b.Files != "" && strings.HasPrefix(path,
			b.Files)): // its own page, or a file
		case slices.Contains(b.Own, host):
			out.Add("/"+f.Key, "lead.circle", "is %s, a short link of ours; write the address that it leads to", host+path)
		case b.Blocked != nil && b.Blocked(name):
			out.Add("/"+f.Key, "lead.blocked", "leads to %s, which is blocked on this server; ask whoever runs it", name)
		case b.Allowed != nil && !Within(name, b.Allowed):
			out.Add("/"+f.Key, "lead.host", "leads to %s; an owner allows %s only", name, strings.Join(b.Allowed, ", "))
		}
	}
	return out
}

// instead is the address on a quiet page as a destination, nil for none.
func instead(text string) content.Content {
	if text == "" {
		return nil
	}
	c, bad := content.New(map[string]any{"kind": "url", "url": text})
	if len(bad) > 0 {
		return nil
	}
	return c
}

// Within says whether a host is one of a list, or a name below one.
func Within(host string, list []string) bool {
	for _, h := range list {
		if host == h || strings.HasSuffix(host, "."+h) {
			return true
		}
	}
	return false
}

// MaxAllowed is how many hosts an owner can name.
const MaxAllowed = 100

// Hosts reads a list of hosts as somebody types it: one a line, or with commas or blanks between. Whole addresses are taken for
// their hosts.
func Hosts(text string) (out []string, problems problem.List) {
	for _, word := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(" ,;\n\r\t", r) }) {
		if _, rest, ok := strings.Cut(word, "://"); ok {
			word = rest
		}
		word, _, _ = strings.Cut(word, "/")
		host, err := shortlink.Host(word)
		if err != nil {
			problems.Add("/hosts", "host", "holds %q; write whole names, such as marrowby.example", word)
			continue
		}
		host, _, _ = strings.Cut(host, ":")
		if !Within(host, out) {
			out = append(out, host)
		}
	}
	if len(out) > MaxAllowed {
		problems.Add("/hosts", "host.many", "names %d hosts; there is room for %d", len(out), MaxAllowed)
	}
	return out, problems
}
