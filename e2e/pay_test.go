package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"sodrik/internal/core/proof"
)

// TestSepaJourney: from a pasted IBAN to a transfer that outside readers and the handset agree on.
func TestSepaJourney(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/codes")
	paste(p, "DE37 9999 9999 0123 4567 89")
	hasText(t, p, "#found .says", "An account, for a transfer in euros, which cannot become a code yet")
	hasText(t, p, "#found [role=alert]", "banks refuse a transfer without the name of who is paid")
	openOnDesk(t, p) // leads to the form
	until(t, p, "the IBAN in its form", `() => document.getElementById("f-content-iban")?.value === "DE37999999990123456789"`)
	hasText(t, p, "#h-f-content-iban", "Germany, check digits right")
	fill(p, "#f-content-name", "Seed & Co")
	hasText(t, p, "#e-f-content-name", `Holds "&", which banks do not pass on; write + or and`)
	fill(p, "#f-content-name", "Marrowby Seed House")
	fill(p, "#f-content-amount", "1,005")
	hasText(t, p, "#e-f-content-amount", "write an amount as digits with a point")
	fill(p, "#f-content-amount", "1249,50")
	fill(p, "#f-content-reference", "RF18 5390 0754 7035")
	hasText(t, p, "#e-f-content-reference", "check digits do not fit")
	fill(p, "#f-content-reference", "RF18 5390 0754 7034")
	hasText(t, p, "#new-symbol", "Pays EUR 1\u2009249.50 to Marrowby Seed House")
	wait := nextPage(t, p)
	p.MustElementR("button", "Open on the desk").MustClick()
	wait()
	hasText(t, p, ".stub-body", "a bank's app reads the code itself")
	hasText(t, p, ".handset", "Fills in a transfer, not signed yet, to")
	hasText(t, p, ".handset", "EUR 1\u2009249.50")
	payload := "BCD\n002\n1\nSCT\n\nMarrowby Seed House\nDE37999999990123456789\nEUR1249.5\n\nRF18539007547034"
	taken(t, p, payload)

	// A look that banks may refuse is pointed out, and mended by its button.
	p.MustElement("[data-stub=wears]").MustClick()
	p.MustElement(`.swatch[data-set="style:seed-paper"]`).MustClick()
	hasText(t, p, ".finding", "is meant dark on white")
	p.MustElementR(".finding button", "Print black on white").MustClick()
	verdictIs(t, p, proof.Flat)
	p.MustElement("details.gauge summary").MustClick()
	p.MustElement("#f-symbol-level").MustSelect("H, about 30 %")
	hasText(t, p, "#e-f-symbol-level", "prescribes M")

	// The copied code is known again.
	p = a.page(t, "/codes")
	paste(p, payload)
	hasText(t, p, "#found", "You have this already")
}

// TestSwissJourney: a bill from its form to its payment part in four languages.
func TestSwissJourney(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/new/swiss")
	for path, text := range map[string]string{"iban": "CH61 3199 9000 0123 4567 8", "amount": "1949.75",
		"creditor-name": "Marrowby Samen AG", "creditor-postcode": "8000", "creditor-city": "Zürich", "creditor-country": "ch",
		"message": "Tulips"} {
		fill(p, "#f-content-"+path, text)
	}
	hasText(t, p, "#h-f-content-iban", "A QR-IBAN")
	fill(p, "#f-content-reference", "210000000003139471430009018")
	hasText(t, p, "#e-f-content-reference", "its check digit would be 7")
	fill(p, "#f-content-reference", "21 00000 00003 13947 14300 09017")
	hasText(t, p, "#new-symbol", "Pays CHF 1\u2009949.75 to Marrowby Samen AG")
	wait := nextPage(t, p)
	p.MustElementR("button", "Open on the desk").MustClick()
	wait()
	hasText(t, p, ".handset", "Marrowby Samen AG")
	hasText(t, p, ".handset", "21 00000 00003 13947 14300 09017")
	payload := "SPC\n0200\n1\nCH6131999000012345678\nS\nMarrowby Samen " +
		"AG\n\n\n8000\nZürich\nCH\n\n\n\n\n\n\n\n1949.75\nCHF\n\n\n\n\n\n\n\nQRR\n210000000003139471430009017\nTulips\nEPD"
	taken(t, p, payload)

	// At the wrong size it is no bill; the button sets the right one.
	p.MustElement("[data-stub=sits]").MustClick()
	wait = nextPage(t, p)
	p.MustElementR("button", "Put it there").MustClick()
	wait()
	hasText(t, p, ".finding", "is 46 mm wide without its border")
	p.MustElementR(".finding button", "Print 51 mm wide").MustClick()
	until(t, p, "the size",
		`() => ![...document.querySelectorAll(".finding")].some((f) => f.innerText.includes("46 mm")) && document.getElementById("age").innerText === ""`)

	p.MustElement("[data-stub=ships]").MustClick()
	for language, key := range map[string]string{"German": "de", "French": "fr", "Italian": "it", "English": "en"} {
		name, data := download(t, p, func() { p.MustElement(`[aria-label="Download ` + language + ` PDF"]`).MustClick() })
		if !strings.Contains(name, "-payment-part-"+key+"_") || !strings.HasSuffix(name, ".pdf") {
			t.Errorf("saved as %q", name)
		}
		file := filepath.Join(t.TempDir(), "slip.pdf")
		if err := os.WriteFile(file, data, 0o600); err != nil {
			t.Fatal(err)
		}
		tool(t, "pdftoppm", "-r", "300", "-singlefile", "-png", file, strings.TrimSuffix(file, ".pdf"))
		picture, err := os.ReadFile(strings.TrimSuffix(file, ".pdf") + ".png")
		if err != nil {
			t.Fatal(err)
		}
		readBack(t, "slip.png", picture, payload)
	}
}

// TestProductJourney: from the number under a bar code to a packet with its link and its figures.
func TestProductJourney(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/codes")
	paste(p, "952 1234 60004 6")
	hasText(t, p, "#found .says", "A product's number, GTIN")
	openOnDesk(t, p)
	fill(p, "#f-content-gtin", "9521234600047")
	hasText(t, p, "#e-f-content-gtin", "with these digits it is 9521234600046")
	fill(p, "#f-content-gtin", "9521234600046")
	fill(p, "#f-content-lot", strings.Repeat("L", 21))
	hasText(t, p, "#e-f-content-lot", "it has 1 to 20 characters")
	fill(p, "#f-content-lot", "A/12")
	until(t, p, "the lot taken",
		`() => document.getElementById("e-f-content-lot").innerText === "" && document.getElementById("line-says").innerText.includes("A/12")`)
	p.MustElementR(".more summary", "Use by").MustClick()
	fill(p, "#f-content-attributes-17", "30 September 2027")
	hasText(t, p, "#h-f-content-attributes-17", "Thu 30 September 2027")
	fill(p, "#f-content-domain", "id.marrowby.example")
	hasText(t, p, ".handset", "/01/09521234600046/10/A%2F12?17=270930")
	hasText(t, p, ".handset", "(10) BATCH/LOT A/12")
	payload := "https://id.marrowby.example/01/09521234600046/10/A%2F12?17=270930"
	taken(t, p, payload)

	p.MustElement("[data-stub=sits]").MustClick()
	p.MustElement("#first-medium").MustSelect("seed packet")
	wait := nextPage(t, p)
	p.MustElementR("button", "Put it there").MustClick()
	wait()
	p.MustElement("#f-placements-0-use").MustSelect("general distribution")
	hasText(t, p, ".finding", "it has to be 0.743 to 1.5 mm")
	p.MustElement("#f-placements-0-use").MustSelect("the till")
	until(t, p, "no remark on the size",
		`() => ![...document.querySelectorAll(".finding")].some((f) => f.innerText.includes("it has to be")) && document.getElementById("age").innerText === ""`)
	p.MustElement("#f-placements-0-readable").MustClick()
	until(t, p, "figures on the sheet", `() => document.querySelectorAll("#symbol path").length >= 5`)
	p.MustElement("[data-stub=ships]").MustClick()
	for _, format := range []string{"SVG", "PDF", "PNG"} {
		name, data := download(t, p, func() { takeFile(p, format) })
		readBack(t, name, data, payload)
	}
}

// TestIdentifierPage tells line by line what is wrong.
func TestIdentifierPage(t *testing.T) {
	t.Parallel()
	a := open(t)
	p := a.page(t, "/identifiers")
	fill(p, "#identifiers-text",
		"9521234500018\n9521234500019\n(21)7\n(01)09521234500018(10)A\nhttps://id.marrowby.example/01/9521234500018")
	hasText(t, p, "#judged", "5 identifiers, 2 wrong")
	hasText(t, p, ".judged tr:nth-child(2)", "With these digits it is 8: 9521234500018")
	hasText(t, p, ".judged tr:nth-child(3)", "SERIAL stands alone")
	hasText(t, p, ".judged tr:nth-child(5)", "https://id.marrowby.example/01/09521234500018")
	wait := nextPage(t, p)
	p.MustElement(".judged tr:nth-child(4) button").MustClick()
	wait()
	hasText(t, p, "#line-says", "Carries GTIN 9521234500018, lot A")
	hasText(t, p, ".handset", "010952123450001810A")
}
