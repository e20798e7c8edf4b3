package artwork

import (
	"fmt"
	"slices"
	"testing"
)

// TestColours: a drawing has the colours that most of it is drawn in, the most frequent first; paper, specks and steps of a soft
// edge are none.
func TestColours(t *testing.T) {
	for _, c := range []struct {
		name, body string
		most       int
		want       []string
	}{
		{"two and a white", `<path fill="#fff" d="M0 0h100v100H0z"/><path fill="#12352b" d="M0 0h60v60H0z"/><path fill="#e9a820" d="M60 60h30v30H60z"/>`,
			3, []string{"12352b", "e9a820"}},
		{"no more than asked for", `<path fill="#12352b" d="M0 0h60v60H0z"/><path fill="#e9a820" d="M60 60h30v30H60z"/>`, 1, []string{"12352b"}},
		{"a speck", `<path fill="#12352b" d="M0 0h100v100H0z"/><path fill="#e9a820" d="M60 60h13v13H60z"/>`, 3, []string{"12352b"}},
		{"more than a speck", `<path fill="#12352b" d="M0 0h100v100H0z"/><path fill="#e9a820" d="M60 60h15v15H60z"/>`, 3,
			[]string{"12352b", "e9a820"}},
		{"tones that look alike", `<path fill="#12352b" d="M0 0h60v60H0z"/><path fill="#1a4438" d="M60 60h30v30H60z"/>`, 3,
			[]string{"12352b"}},
		{"tones that do not", `<path fill="#12352b" d="M0 0h60v60H0z"/><path fill="#2f5f50" d="M60 60h30v30H60z"/>`, 3,
			[]string{"12352b", "2f5f50"}},
		{"a pale one that is not paper", `<path fill="#f0e4b8" d="M0 0h60v60H0z"/>`, 3, []string{"f0e4b8"}},
		{"off-white paper", `<path fill="#fdfaf4" d="M0 0h60v60H0z"/>`, 3, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			a, err := Read([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">` + c.body + `</svg>`))
			if err != nil {
				t.Fatal(err)
			}
			var got []string
			for _, k := range a.Colours(c.most) {
				got = append(got, fmt.Sprintf("%02x%02x%02x", k.R, k.G, k.B))
			}
			if !slices.Equal(got, c.want) {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
}
