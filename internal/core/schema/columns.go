package schema

import (
	"fmt"
	"slices"
	"strings"
)

// Column is one field as the column of a table of many rows, or as the line of a reference.
type Column struct {
	Path  string // JSON Pointer; the entries of a list are its first, "0"
	Field *Field
}

// Columns lists the fields of a part that hold one value each, in the order of its table. Lists give their first entry.
func (p *Part) Columns(at string) (out []Column) {
	for i := range p.Fields {
		f := &p.Fields[i]
		switch {
		case f.Type == Object:
			out = append(out, f.Part.Columns(at+"/"+f.Key)...)
		case f.Type == List && f.Item != nil:
			out = append(out, Column{at + "/" + f.Key + "/0", f.Item})
		case f.Type == List:
			out = append(out, f.Part.Columns(at+"/"+f.Key+"/0")...)
		case f.Type == Map: // those that a form has a name for
			for _, key := range f.Offer {
				out = append(out, Column{at + "/" + f.Key + "/" + key, f.Entry(key)})
			}
		default:
			out = append(out, Column{at + "/" + f.Key, f})
		}
	}
	return out
}

// Holds says in words what a field holds: its type, its bounds, its values.
func (f *Field) Holds() string {
	out := []string{"text", "one line", "text", "true or false", "a whole number", "a number", "a share", "millimetres",
		"a colour", "a colour, or a gradient", "a decimal amount",
		"a date, or date and time", "a date of six digits"}[f.Type]
	number := f.Type == Whole || f.Type == Number || f.Type == Share || f.Type == Length
	switch values := f.Values(); {
	case len(values) > 0 && len(values) <= maxListed && !f.Open:
		out = "one of " + strings.Join(slices.DeleteFunc(values, func(s string) bool { return s == "" }), ", ")
	case number && (f.Least != 0 || f.Most != 0):
		out = fmt.Sprintf("%s from %v to %v", out, f.Least, f.Most)
	case f.Most > 0:
		out = fmt.Sprintf("%s, up to %v characters", out, f.Most)
	}
	if f.About != "" {
		out += ". " + strings.TrimSuffix(f.About, ".")
	}
	return out
}

// maxListed is how many values are listed one by one.
const maxListed = 30
