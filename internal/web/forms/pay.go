package forms

import (
	"fmt"
	"slices"
	"strings"

	"sodrik/internal/core/content"
)

// amount is the amount of a payment; empty, who pays types it.
func (b builder) amount(label string) {
	f := b.add("/content/amount", "text", label)
	f.Mode, f.Sample, f.Hint = "decimal", "left to who pays", ""
}

func (b builder) sepa() {
	b.add("/content/name", "text", "Payee").Sample = "who is paid"
	b.iban()
	b.amount("Euros")
	b.add("/content/reference", "text", "Reference").Sample = "RF18 …"
	b.add("/content/text", "text", "or text").Sample = "Invoice 2027-114"
	b.more("BIC of the bank", b.field("/content/bic", "text", "BIC"))
	b.more("Purpose code", b.field("/content/purpose", "text", "Purpose"))
	b.more("A note to who pays", b.field("/content/information", "text", "Note"))
	b.choice("/content/version", "Version", "2", "2, BIC only where it is needed", "1", "1, always with BIC")
}

func (b builder) iban() {
	f := b.add("/content/iban", "text", "IBAN")
	if iban, message := content.IBAN(f.Value); message == "" && len(iban) > 1 {
		f.Hint = content.RegionName(iban[:2]) + ", check digits right"
		if content.QRIBAN(iban) && strings.HasPrefix(iban, "CH") {
			f.Hint += ". A QR-IBAN"
		}
		f.Hint += "."
	}
}

func (b builder) party(path string) []Field {
	var out []Field
	for _, f := range []struct{ key, label string }{{"name", "Name"}, {"street", "Street"}, {"house", "Number"}, {"postcode", "Postcode"}, {"city", "Town"}, {"country", "Country"}} {
		out = append(out, b.field("/content/"+path+"/"+f.key, "text", f.label))
	}
	out[5].Sample = "CH"
	return out
}

func (b builder) swiss() {
	b.iban()
	b.choice("/content/currency", "Currency", "CHF", "CHF, Swiss francs", "EUR", "EUR, euros")
	b.amount("Amount")
	for i, f := range b.party("creditor") {
		if i == 0 {
			f.Label = "Payee"
		}
		b.form.Rows = append(b.form.Rows, Row{Field: f})
	}
	b.choice("/content/reference_type", "Reference", "", "as the IBAN asks for", "QRR", "QR reference, 27 digits", "SCOR", "creditor reference, RF", "NON", "none")
	b.add("/content/reference", "text", "is")
	b.add("/content/message", "text", "Message")
	b.more("Who pays", b.party("debtor")...)
	b.more("Billing information", b.field("/content/billing", "text", "Billing"))
	for i := range min(2, b.items("/content/procedures/", "")) {
		b.more("Alternative procedure", b.field(fmt.Sprintf("/content/procedures/%d", i), "text", "Procedure"))
	}
}

func (b builder) emv() {
	b.add("/content/merchant", "text", "Payee").Sample = "the merchant"
	b.add("/content/city", "text", "Town")
	b.add("/content/country", "text", "Country").Sample = "SG"
	b.amount("Amount")
	b.add("/content/currency", "text", "Currency").Sample = "SGD or 702"
	b.add("/content/mcc", "text", "Trade").Sample = "5261, a nursery"
	for i := range b.items("/content/accounts/", "/id") {
		at := fmt.Sprintf("/content/accounts/%d/", i)
		id := b.field(at+"id", "text", "Account")
		id.Hint = "02 to 25 hold a plain value, 26 to 51 the template of a scheme."
		rows := []Field{id}
		switch n := id.Value; {
		case n >= "02" && n <= "25":
			rows = append(rows, b.field(at+"value", "text", "Value"))
		case n >= "26" && n <= "51":
			rows = append(rows, b.field(at+"guid", "text", "Scheme"))
			for k := 1; k <= 5; k++ {
				rows = append(rows, b.field(fmt.Sprintf("%svalues/%02d", at, k), "text", fmt.Sprintf("Value %02d", k)))
			}
		}
		if i == 0 {
			for _, f := range rows {
				b.form.Rows = append(b.form.Rows, Row{Field: f})
			}
		} else {
			b.more("Another account", rows...)
		}
	}
	b.choice("/content/initiation", "Used", "static", "again and again", "dynamic", "once")
	tip := b.field("/content/tip/kind", "choice", "Tip")
	tip.Choices = Choices(tip.Value, "", "none", "prompt", "asked for", "fixed", "a fixed amount", "percent", "in percent")
	tips := []Field{tip}
	if slices.Contains([]string{"fixed", "percent"}, tip.Value) {
		tips = append(tips, b.field("/content/tip/value", "text", "It is"))
	}
	b.more("A tip", tips...)
	b.more("Bill and references", b.field("/content/additional/bill", "text", "Bill"), b.field("/content/additional/reference", "text", "Reference"), b.field("/content/additional/store", "text", "Store"), b.field("/content/additional/terminal", "text", "Terminal"),
		b.field("/content/additional/purpose", "text", "Purpose"))
	b.more("Name in another script", b.field("/content/local/language", "text", "Language"), b.field("/content/local/merchant", "text", "Name"), b.field("/content/local/city", "text", "Town"))
	b.more("Postcode", b.field("/content/postcode", "text", "Postcode"))
}

func (b builder) upi() {
	b.add("/content/payee", "text", "Payee").Sample = "marrowby@examplebank"
	b.add("/content/name", "text", "Name")
	b.amount("Rupees")
	b.add("/content/note", "text", "Note")
	b.more("Reference", b.field("/content/reference", "text", "Reference"))
}

func (b builder) payto() {
	pairs := []string{}
	for _, t := range content.PayToTargets {
		pairs = append(pairs, t, t)
	}
	b.choice("/content/target", "Account is", pairs...)
	b.add("/content/account", "text", "Account")
	b.amount("Amount")
	b.add("/content/currency", "text", "Currency").Sample = "EUR"
	b.add("/content/receiver", "text", "Payee").Sample = "who is paid"
	b.add("/content/message", "text", "Message")
}

func (b builder) bitcoin() {
	b.add("/content/address", "text", "Address")
	b.amount("Bitcoin")
	b.add("/content/label", "text", "Payee").Sample = "who is paid"
	b.more("Message", b.field("/content/message", "text", "Message"))
}
