package recognise

import (
	"encoding/csv"
	"fmt"
	"strings"

	"sodrik/internal/core/content"
)

var (
	anAddress = later(`(?i)(?:https?://[^\s<>"“”„]+|(?:www\.)?[\p{L}\p{N}][\p{L}\p{N}-]*(?:\.[\p{L}\p{N}-]+)*\.[\p{L}]{2,}(?:[/?#][^\s<>"“”„]*)?)`)
	bullet    = later(`^(?:[-–—•*·]|\d{1,2}[.)])\s+`)
)

// several reads a list of addresses, each with a name or without one: every one can be a code, and all together are rows. What
// has more columns than these is a table of its own.
func several(s string, out *[]Reading) bool {
	if strings.ContainsAny(s, "@\t") {
		return false
	}
	var names, addresses []string
	for line := range strings.SplitSeq(blanks(s), "\n") {
		line = bullet().ReplaceAllString(line, "")
		if line == "" {
			continue
		}
		found := anAddress().FindAllString(line, -1)
		rest := strings.TrimSpace(strings.Trim(anAddress().ReplaceAllString(line, ""), " ,;:|–—-\t"))
		switch {
		case len(found) == 0, strings.ContainsAny(rest, "%!?") || len(strings.Fields(rest)) > few:
			return false // a text that has addresses in it
		case len(found) == 1 && strings.ContainsAny(rest, ",;|"), len(found) > 1 && strings.Trim(rest, ",;| ") != "":
			return false
		}
		for _, a := range found {
			if a = strings.TrimRight(a, ".,;:"); !bareAddress.MatchString(a) && !strings.Contains(a, "://") {
				return false
			}
			addresses, names = append(addresses, a), append(names, strings.Trim(rest, ",;|"))
		}
	}
	if len(addresses) < 2 {
		return false
	}
	var rows strings.Builder
	w := csv.NewWriter(&rows)
	w.Write([]string{"Name", "Link"})
	for i, a := range addresses {
		name := names[i]
		if name == "" {
			name = nameOfAddress(a)
		}
		w.Write([]string{name, a})
	}
	w.Flush()
	for i, a := range addresses[:min(len(addresses), maxEntries)] {
		r := Reading{Took: fmt.Sprintf("Number %d of %d addresses", i+1, len(addresses)), Entry: true,
			Values: map[string]any{"kind": "url", "url": a}}
		if r.Content, r.Problems = content.New(r.Values); len(r.Problems) > 0 {
			r.Content = nil
		}
		*out = append(*out, r)
	}
	(*out)[0].Rows = rows.String()
	return true
}

// nameOfAddress is the last part of its path in words, else its host.
func nameOfAddress(a string) string {
	if _, rest, ok := strings.Cut(a, "://"); ok {
		a = rest
	}
	if i := strings.IndexAny(a, "?#"); i >= 0 {
		a = a[:i]
	}
	host, path, _ := strings.Cut(strings.Trim(a, "/"), "/")
	if path == "" {
		return host
	}
	word := []rune(strings.NewReplacer("-", " ", "_", " ").Replace(path[strings.LastIndexByte(path, '/')+1:]))
	return strings.ToUpper(string(word[:1])) + string(word[1:])
}
