package redirect

import (
	"slices"
	"testing"
)

// TestAccepted: languages by their weight (RFC 9110, 12.5.4), whatever else stands in the header.
func TestAccepted(t *testing.T) {
	for header, want := range map[string][]string{
		"EN;Q=0.2,CY": {"cy", "en"}, "garbage;;;=,cy": {"cy"}, "cy, en;q=0.5": {"cy", "en"}, "en;q=0,cy": {"cy"},
		"": nil, ";;;": nil, "*,cy;q=0.1": {"cy"}, "de-CH;q=x, fr": {"fr"},
	} {
		t.Run(header, func(t *testing.T) {
			if got := languagesOf(header); !slices.Equal(got, want) {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
}
