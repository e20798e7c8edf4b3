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
		{"tones 46.8 apart", `<path fill="#12352b" d="M0 0h60v60H0z"/><path fill="#2d5046" d="M60 60h30v30H60z"/>`, 3,
			[]string{"12352b"}},
		{"tones 50.2 apart", `<path fill="#12352b" d="M0 0h60v60H0z"/><path fill="#2f5248" d="M60 60h30v30H60z"/>`, 3,
			[]string{"12352b", "2f5248"}},
		{"a luminance of 0.896", `<path fill="#f3f3f3" d="M0 0h60v60H0z"/>`, 3, []string{"f3f3f3"}},
		{"a luminance of 0.905, which is paper", `<path fill="#f4f4f4" d="M0 0h60v60H0z"/>`, 3, nil},
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
