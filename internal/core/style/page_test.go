package style

import (
	"testing"

	"sodrik/internal/core/ink"
)

func TestPage(t *testing.T) {
	for _, c := range []struct {
		name, on, paper string
		colours         []string
	}{
		{"none", "", "", nil},
		{"nothing legible", "", "", []string{"#ffffff", "#e9efdf"}},
		// the ratios of #777777 and #767676 to white are 4.48 and 4.54 by the formula of WCAG 2.2
		{"just too pale", "", "", []string{"#777777"}},
		{"just dark enough", "#767676", "#ffffff", []string{"#767676"}},
		{"the first that can be read, on the lightest", "#12352b", "#f6f0e2", []string{"#e9efdf", "#12352b", "#5a2d0c", "#f6f0e2"}},
		{"too dark a paper", "#12352b", "#ffffff", []string{"#12352b", "#5a2d0c"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := &Style{}
			for _, text := range c.colours {
				v, _ := ink.Parse(text)
				s.Colours = append(s.Colours, Colour{Value: v})
			}
			on, paper, ok := s.Page()
			wantOn, _ := ink.Parse(c.on)
			wantPaper, _ := ink.Parse(c.paper)
			if ok != (c.on != "") || ok && (!on.Same(wantOn) || !paper.Same(wantPaper)) {
				t.Errorf("%s: %v on %v, %v", c.name, on, paper, ok)
			}
		})
	}
}
