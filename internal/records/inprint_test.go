package records

import (
	"strings"
	"testing"
	"time"
)

// TestReadPrinting: days as people write them, and what is refused, by field.
func TestReadPrinting(t *testing.T) {
	now := time.Date(2026, 11, 27, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct{ name, on, printer, quantity, wrong string }{
		{"by the browser's picker", "2026-11-02", "Okafor Print", "2000", ""},
		{"in words", " 2  November 2026", "", "", ""},
		{"in short words", "2 Nov 2026", "", "2,000", ""},
		{"no day", "", "", "", "/on"},
		{"no such day", "31 November 2026", "", "", "/on"},
		{"a year and more ahead", "2027-11-29", "", "", "/on"},
		{"long ago", "1989-12-31", "", "", "/on"},
		{"none of them", "2026-11-02", "", "0", "/quantity"},
		{"words for a number", "2026-11-02", "", "two", "/quantity"},
		{"a number with more behind", "2026-11-02", "", "12x", "/quantity"},
		{"a printer's whole letter", "2026-11-02", strings.Repeat("x", 121), "", "/printer"},
	} {
		t.Run(c.name, func(t *testing.T) {
			p, problems := ReadPrinting(c.on, c.printer, c.quantity, now)
			got := ""
			for _, x := range problems {
				got += x.Field
			}
			if got != c.wrong {
				t.Fatalf("%v", problems)
			}
			if c.wrong == "" && !p.On.Equal(time.Date(2026, 11, 2, 0, 0, 0, 0, time.UTC)) {
				t.Errorf("%v", p.On)
			}
			if c.quantity == "2,000" && p.Quantity != 2000 {
				t.Errorf("%d pieces", p.Quantity)
			}
		})
	}
}
