package schema

import "strings"

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
		case strings.Contains(f.Key, "/"): // another way of typing what has a column of its own
		case f.Type == Object:
			out = append(out, f.Part.Columns(at+"/"+f.Key)...)
		case f.Type == List && f.Item != nil:
			out = append(out, Column{at + "/" + f.Key + "/0", f.Item})
		case f.Type == List:
			out = append(out, f.Part.Columns(at+"/"+f.Key+"/0")...)
		case f.Type == Map:
		default:
			out = append(out, Column{at + "/" + f.Key, f})
		}
	}
	return out
}
