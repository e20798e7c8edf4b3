package says

import (
	"sodrik/internal/core/pattern"
	"sodrik/internal/core/style"
)

// LinkForm is a link pattern of the house with its blanks.
type LinkForm struct {
	Key, Name string
	Blanks    []LinkBlank
}

// LinkBlank is one of them. It holds what the code's address has there, where the pattern makes that address.
type LinkBlank struct {
	pattern.Blank
	ID, Value string
}

// BlankID is the id of the control of a blank.
func BlankID(p pattern.Pattern, b pattern.Blank) string { return "link-" + p.Key + "-" + b.Key }

func linksOf(house *style.Style, address string) (out []LinkForm) {
	if house == nil {
		return nil
	}
	for _, p := range house.Links {
		f := LinkForm{Key: p.Key, Name: p.Name}
		values, _ := p.Match(address)
		for _, b := range p.Blanks() {
			f.Blanks = append(f.Blanks, LinkBlank{b, BlankID(p, b), values[b.Key]})
		}
		out = append(out, f)
	}
	return out
}
