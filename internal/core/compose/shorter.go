package compose

import (
	"slices"

	"sodrik/internal/core/content"
	"sodrik/internal/core/symbol"
)

// Shorter is an equivalent of the content that makes a smaller symbol.
type Shorter struct {
	Leaves []string // names of the parameters it leaves out
	Text   string   // the address without them
	Size   int      // modules along one side then, quiet zone not counted
}

// Shorter offers the address without tracking parameters, where that makes the symbol smaller; ok is false where it does
// not.
func (m *Made) Shorter() (s Shorter, ok bool) {
	u, isURL := m.Job.Content.(*content.URL)
	if !isURL {
		return s, false
	}
	s.Leaves = slices.Concat(u.CampaignTags(), u.Leftovers())
	if len(s.Leaves) == 0 {
		return s, false
	}
	s.Text = u.Without(s.Leaves...)
	short, problems := content.NewURL(s.Text)
	if len(problems) > 0 {
		return s, false
	}
	sym, err := symbol.Encode(short.Payload(), m.Job.Symbol.Options())
	if err != nil || sym.Size >= m.Symbol.Size {
		return s, false
	}
	s.Size = sym.Size
	return s, true
}
