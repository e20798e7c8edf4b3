package bound_test

import (
	"strings"
	"testing"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/style"
	"sodrik/internal/web/desk/bound/boundtest"
	"sodrik/internal/web/forms"
)

const plain = `{"content":{"kind":"url","url":"marrowby.example/fair"}}`

func named(list []forms.Swatch) string {
	var out []string
	for _, s := range list {
		out = append(out, s.Name)
	}
	return strings.Join(out, ", ")
}

// TestInks: a house offers its dark colours as inks and its light ones as papers; a locked one offers no others.
func TestInks(t *testing.T) {
	colours := []style.Colour{
		{Key: "pine", Name: "Pine", Value: colour(t, "#12352b")},
		{Key: "chalk", Name: "Chalk", Value: colour(t, "#f4f1ea")},
	}
	for _, c := range []struct {
		name         string
		house        *style.Style
		inks, papers string
	}{
		{"open", &style.Style{Colours: colours}, "Pine, " + ink.Inks[0].Name, ink.Papers[0].Name + ", Chalk, No paper"},
		{"locked", &style.Style{Colours: colours, Locked: true}, "Pine", ink.Papers[0].Name + ", Chalk, No paper"},
	} {
		t.Run(c.name, func(t *testing.T) {
			b := boundtest.Of(t, plain, c.house)
			if got := named(b.Inks()); got != c.inks {
				t.Errorf("inks: %s, want %s", got, c.inks)
			}
			if got := named(b.Papers()); got != c.papers {
				t.Errorf("papers: %s, want %s", got, c.papers)
			}
			if f := b.At("/look/ink"); f.Locked != c.house.Locked {
				t.Errorf("the field of the ink is locked: %v", f.Locked)
			}
		})
	}
	if b := boundtest.Of(t, plain, nil); len(b.Inks()) != len(ink.Inks) || b.Locked() {
		t.Errorf("without a house there are %d inks, locked %v", len(b.Inks()), b.Locked())
	}
}

// TestHex: a colour chooser shows what is typed, the house's colour where it is named, and another where the text is no colour.
func TestHex(t *testing.T) {
	b := boundtest.Of(t, plain, &style.Style{Colours: []style.Colour{{Key: "pine", Name: "Marrowby Pine", Value: colour(t,
		"#12352b")}}})
	for text, want := range map[string]string{"#A1B2C3": "#a1b2c3", ink.House + "pine": "#12352b", "greenish": "#000000",
		"": "#000000", "marrowby pine": "#12352b", "Dark Red": "#8b0000"} {
		t.Run(text, func(t *testing.T) {
			if got := b.Hex(text, ink.Black); got != want {
				t.Errorf("%q: %s, want %s", text, got, want)
			}
		})
	}
}

// TestPlaced: a field of a place says which place it is of, so that an edit finds it after another was taken away.
func TestPlaced(t *testing.T) {
	b := boundtest.Of(
		t,
		`{"content":{"kind":"url","url":"marrowby.example"},"placements":[{"id":"p7","name":"gate","width_mm":60}]}`,
		nil,
	)
	if f := b.At("/placements/0/width_mm"); f.At != "p7" {
		t.Errorf("the width is of place %q", f.At)
	}
	if f := b.At("/name"); f.At != "" {
		t.Errorf("the name is of place %q", f.At)
	}
}

func colour(t *testing.T, text string) ink.Colour {
	t.Helper()
	c, ok := ink.Typed(text)
	if !ok {
		t.Fatal(text)
	}
	return c
}
