package compose

import (
	"sodrik/internal/core/content"
	"sodrik/internal/core/symbol"
)

// Saying is the symbol that a code would be if it said something else, with the same settings of its symbol; nil where no
// symbol holds it.
func (m *Rendition) Saying(c content.Content) *symbol.Symbol {
	j := *m.Job
	j.Content = c
	o, problems := options(&j)
	if len(problems) > 0 {
		return nil
	}
	s, err := encodeClear(c.Payload(), o, crossed(&j))
	if err != nil {
		return nil
	}
	return s
}
