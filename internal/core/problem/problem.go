// Package problem holds what a user can do wrong, said once: which field, which rule, and in words what would be right.
// Page, API and command line show the same text. The package is a leaf; it knows no field by name.
package problem

import (
	"fmt"
	"strings"
)

// Problem is one thing that stops a job.
type Problem struct {
	Field   string `json:"field"`   // JSON Pointer into the job (RFC 6901), "" for the whole
	Code    string `json:"code"`    // stable, for programs: "url.scheme"
	Message string `json:"message"` // for people: what is wrong and what would be right
}

// Dotted gives the field as the command line prints it: "/content/url" is "content.url".
func (p Problem) Dotted() string {
	parts := strings.Split(strings.TrimPrefix(p.Field, "/"), "/")
	for i, s := range parts {
		parts[i] = strings.ReplaceAll(strings.ReplaceAll(s, "~1", "/"), "~0", "~")
	}
	return strings.Join(parts, ".")
}

func (p Problem) Error() string {
	if p.Field == "" {
		return p.Message
	}
	return p.Dotted() + ": " + p.Message
}

// List is every problem found in one pass, in the order of the job's fields.
type List []Problem

// Add appends a problem; format and args are those of fmt.Sprintf.
func (l *List) Add(field, code, format string, args ...any) {
	*l = append(*l, Problem{Field: field, Code: code, Message: fmt.Sprintf(format, args...)})
}

// Unique leaves out what is said a second time.
func (l List) Unique() List {
	seen, out := make(map[Problem]bool, len(l)), l[:0]
	for _, p := range l {
		if !seen[p] {
			seen[p], out = true, append(out, p)
		}
	}
	return out
}

// Nest moves every problem below prefix, a JSON Pointer such as "/content".
func (l List) Nest(prefix string) List {
	out := make(List, len(l))
	for i, p := range l {
		p.Field = prefix + p.Field
		out[i] = p
	}
	return out
}

// At returns the problems of exactly this field, or of anything below it.
func (l List) At(field string) List {
	var out List
	for _, p := range l {
		if p.Field == field || strings.HasPrefix(p.Field, field+"/") {
			out = append(out, p)
		}
	}
	return out
}

// Err is nil for an empty list, so that a List can be returned as an error.
func (l List) Err() error {
	if len(l) == 0 {
		return nil
	}
	return l
}

// Error gives one line a problem, "field: message".
func (l List) Error() string {
	lines := make([]string, len(l))
	for i, p := range l {
		lines[i] = p.Error()
	}
	return strings.Join(lines, "\n")
}

// Escape makes a key fit for one step of a JSON Pointer (RFC 6901, clause 3).
func Escape(key string) string {
	return strings.ReplaceAll(strings.ReplaceAll(key, "~", "~0"), "/", "~1")
}
