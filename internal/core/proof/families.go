package proof

import (
	"slices"
	"strings"
)

// Families are those that read for a proof, our own last.
func (p *Proof) Families() (out []string) {
	for _, x := range p.Readings {
		if !slices.Contains(out, x.Family) {
			out = append(out, x.Family)
		}
	}
	slices.SortFunc(out, func(a, b string) int { return strings.Compare(b, a) })
	return out
}

// Engines are the readers of a family that read for a proof.
func (p *Proof) Engines(family string) (out []string) {
	for _, x := range p.Readings {
		if x.Family == family && !slices.Contains(out, x.Reader) {
			out = append(out, x.Reader)
		}
	}
	return out
}

// ReaderName is what a reader is called where it has to be named.
func ReaderName(name string) string {
	if name == Own {
		return "our own reader"
	}
	return name
}
