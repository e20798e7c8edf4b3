package style

import (
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/style"
)

// TestDress: the darkest colour of a logo is the ink of the first look where its contrast with white is 0.7 or more.
func TestDress(t *testing.T) {
	grey := func(v uint8) ink.Colour { return ink.Colour{R: v, G: v, B: v} }
	for _, c := range []struct {
		name    string
		colours []ink.Colour
		want    string
	}{
		{"none", nil, ""},
		{"contrast 0.704", []ink.Colour{grey(0x94)}, "grey"},
		{"contrast 0.700 less a little", []ink.Colour{grey(0x95)}, ""},
		{"the darkest, wherever it stands", []ink.Colour{grey(0x94), {R: 0x5b, G: 0x1f, B: 0x33}, {R: 0xe9, G: 0xa8,
			B: 0x20}}, "dark-red"},
	} {
		t.Run(c.name, func(t *testing.T) {
			var s style.Style
			dress(&s, "icon:leaf", c.colours)
			wear, _ := s.Looks[0].Wear.(map[string]any)
			worn, _ := wear["ink"].(map[string]any)
			if got, _ := worn["style"].(string); got != c.want || len(s.Colours) != len(c.colours) || len(s.Marks) != 1 {
				t.Errorf("ink %q of %d colours, %d marks", got, len(s.Colours), len(s.Marks))
			}
		})
	}
}
