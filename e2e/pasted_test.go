package e2e

import (
	"strings"
	"testing"
)

// TestPasted: what people copy out of mails, chats and shop windows becomes what it is in two acts; a list of addresses becomes
// rows, or one code of them.
func TestPasted(t *testing.T) {
	t.Parallel()
	a := open(t)
	for _, c := range []struct{ text, took, says string }{
		{"Wifi: Potting Shed\nPassword: sow;thin;water", "Wi-Fi access", "Potting Shed"},
		{"Text GUIDE to +44 113 496 0123", "A text message", "+44 113 496 0123"},
		{"call +44 113 496 0100", "A number to call", "+44 113 496 0100"},
		{"Open evening, 12 March 2027, 18:00–20:00, Show garden gate", "A date for the calendar", "Open evening"},
		{"Greta Amsel\nGärtnerei Amsel GmbH\n10115 Berlin\nTel. +49 30 23125101, Mobil +49 171 3920101", "A contact",
			"Greta Amsel"},
	} {
		t.Run(c.took, func(t *testing.T) {
			p := a.page(t, "/codes")
			paste(p, c.text)
			hasText(t, p, ".found .says", c.took)
			hasText(t, p, ".found .says", c.says)
			if p.MustHas(`.found[aria-label="The rows you pasted"]`) {
				t.Errorf("%q is offered as rows", c.text)
			}
			wait := nextPage(t, p)
			p.MustElement(".found [data-enter]").MustClick()
			wait()
			if at := p.MustInfo().URL; !strings.Contains(at, "/codes/") {
				t.Errorf("%q opens %s", c.text, at)
			}
		})
	}
	p := a.page(t, "/codes")
	paste(p,
		"Name\tPhone\tLink\nWren Okafor\t+44 113 496 0123\tmarrowby.example/w\nIdris Penn\t+44 113 496 0124\tmarrowby.example/i")
	hasText(t, p, ".found", "2 rows with Name, Phone and Link")
	if p.MustHas(`.found[aria-label="What you pasted"]`) {
		t.Error("rows of a table are taken for something else too")
	}
	paste(p, "Shop: https://marrowby.example/pasted/shop\nGarden: https://marrowby.example/pasted/garden\n"+
		"https://marrowby.example/pasted/sowing-guide")
	hasText(t, p, ".found", "3 rows with Name and Link")
	hasText(t, p, ".found .entries", "marrowby.example/pasted/garden")
	wait := nextPage(t, p)
	p.MustElementR(".found button", "Make a batch").MustClick()
	wait()
	until(t, p, "a name made of an address",
		`() => [...document.querySelectorAll(".batch-cell")].some((e) => e.value === "Sowing guide")`)
}
