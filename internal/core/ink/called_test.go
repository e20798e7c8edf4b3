package ink

import "testing"

// TestCalled: colours of the made-up house are called what people call them.
func TestCalled(t *testing.T) {
	for hex, want := range map[string]string{"#12352b": "Dark teal", "#5a2d0c": "Brown", "#5b1f33": "Dark red",
		"#1f3a5a": "Dark teal",
		"#e9a820": "Yellow", "#000000": "Black", "#a8321f": "Red", "#2c7a4b": "Green", "#0000a0": "Navy", "#ff66aa": "Pink"} {
		t.Run(hex, func(t *testing.T) {
			c, _, ok := CSS(hex)
			if got := c.Called(); !ok || got != want {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
	for _, p := range plain {
		c, _, ok := CSS(p.css)
		if got := c.Called(); !ok || got != p.word {
			t.Errorf("%s is called %q", p.css, got)
		}
	}
}
