package code

import "testing"

// TestNamedColours: a colour of the house typed by its name is a reference to it, whatever the case.
func TestNamedColours(t *testing.T) {
	s, _ := open(t)
	houseOf(t, s, aHouse)
	id := create(t, s, "a", "https://marrowby.example/a")
	for i, c := range []struct{ typed, ink string }{{"pine", "style:pine"}, {"#445566", "#445566"}, {" PINE ", "style:pine"}} {
		t.Run(c.typed, func(t *testing.T) {
			got, err := s.Edit(t.Context(), ws, id, Edit{Path: "/look/ink", Text: c.typed, Tab: "t", Seq: int64(i + 1), Base: -1})
			if err != nil || got.Text("/look/ink") != c.ink {
				t.Errorf("%q: %q %v, want %s", c.typed, got.Text("/look/ink"), err, c.ink)
			}
		})
	}
}
