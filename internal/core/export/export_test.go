package export

import (
	"testing"

	"sodrik/internal/core/measure"
)

func TestFileName(t *testing.T) {
	for _, c := range []struct {
		name          string
		width         float64
		version       int
		ending, wants string
	}{
		{"Fair, gate poster", 160, 1, "svg", "fair-gate-poster_160mm_v1.svg"},
		{"Grüße & Straße / ÆØ", 22.5, 0, "png", "grusse-strasse-aeo_22.5mm.png"},
		{"春の市", 0, 3, "zip", "code_v3.zip"},
		{"../../etc/passwd", 0, 0, "pdf", "etc-passwd.pdf"},
		{"", 0, 0, "svg", "code.svg"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := FileName(c.name, measure.Length(c.width), c.version, c.ending); got != c.wants {
				t.Errorf("%q: %q, want %q", c.name, got, c.wants)
			}
		})
	}
}
