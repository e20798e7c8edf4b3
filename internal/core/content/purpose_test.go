package content

import "testing"

// TestPurposeOf: whole words of an address tell what opens there; parts of words and questions do not.
func TestPurposeOf(t *testing.T) {
	for address, want := range map[string]string{
		"https://marrowby.example/review":        "review",
		"marrowby.example/shop/write-review/":    "review",
		"HTTPS://REVIEWS.MARROWBY.EXAMPLE":       "review",
		"marrowby.example/newsletter?from=gate":  "sign-up",
		"marrowby.example/prune/watch#start":     "video",
		"marrowby.example/guides/sowing.PDF?v=2": "file",
		"marrowby.example/chat":                  "chat",
		"marrowby.example/preview":               "",
		"marrowby.example/joinery":               "",
		"marrowby.example/fair?next=/review":     "",
		"marrowby.example":                       "",
		"":                                       "",
	} {
		t.Run(address, func(t *testing.T) {
			if got := PurposeOf(address); got != want {
				t.Errorf("%s: %q, want %q", address, got, want)
			}
		})
	}
}
