package content

import (
	"strings"
	"unicode/utf8"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// Swiss is a Swiss QR-bill (Swiss Implementation Guidelines QR-bill, version 2.3). The payload is its data set, with
// structured addresses, in a symbol of level M and version 25 at most, 46 mm wide without its quiet zone of 5 mm, the Swiss
// cross in its middle.
type Swiss struct {
	IBAN             string
	Creditor, Debtor Party // Debtor is zero where people write themselves in
	Amount, Currency string
	ReferenceType    string // one of ReferenceTypes
	Reference        string
	Message, Billing string
	Procedures       []string // up to two
}

// Party is who is paid or pays, with a structured address.
type Party struct{ Name, Street, House, Postcode, City, Country string }

// ReferenceTypes are the values of "reference_type".
var ReferenceTypes = []string{"QRR", "SCOR", "NON"}

// maxSwiss is the greatest length of the data set (guidelines, clause 5.2).
const maxSwiss = 997

func partyLine(key, label string, most float64, must bool, at func(*Party) any) schema.Field {
	return schema.Field{Key: key, Type: schema.Line, At: schema.In(at), Required: must, Most: most, Called: "address",
		Label: label}
}

var partyFields = schema.Part{
	Fields: []schema.Field{
		partyLine("name", "Name", 70, true, func(p *Party) any { return &p.Name }),
		partyLine("street", "Street", 70, false, func(p *Party) any { return &p.Street }),
		beside(30, partyLine("house", "No.", 16, false, func(p *Party) any { return &p.House })),
		partyLine("postcode", "Postcode", 16, true, func(p *Party) any { return &p.Postcode }),
		beside(45, partyLine("city", "Town", 35, true, func(p *Party) any { return &p.City })),
		{Key: "country", Type: schema.Line, At: schema.In(func(p *Party) any { return &p.Country }), Required: true, Most: 2,
			Pattern: "^[A-Za-z]{2}$",
			Called:  "address", Label: "Country", Example: "CH", Schema: `{"type": "string", "pattern": "^[A-Za-z]{2}$"}`},
	},
	New:  func() any { return &Party{} },
	Name: "party",
}

var swissFields = schema.Part{
	Fields: []schema.Field{
		ibanField(func(s *Swiss) any { return &s.IBAN }),
		{Key: "currency", At: schema.In(func(s *Swiss) any { return &s.Currency }), Type: schema.Line, Required: true,
			Choices: schema.Words("CHF", "CHF", "EUR", "EUR"), Called: "currency", Label: "Currency"},
		beside(45, amountField("Amount", func(s *Swiss) any { return &s.Amount })),
		{Key: "creditor", Type: schema.Object, At: schema.In(func(s *Swiss) any { return &s.Creditor }), Part: &partyFields,
			Required: true, Label: "Payee"},
		{Key: "reference_type", Type: schema.Line, Choices: schema.Words("", "as the IBAN asks for", "QRR",
			"QR reference, 27 digits", "SCOR", "creditor reference, RF", "NON", "none"),
			Read: func(o schema.Reader, part any) {
				part.(*Swiss).ReferenceType = strings.ToUpper(o.String("reference_type"))
			}, Write: func(part any) any { return part.(*Swiss).ReferenceType },
			Called: "sort of reference", Label: "Reference"},
		{Key: "reference", Type: schema.Line, At: schema.In(func(s *Swiss) any { return &s.Reference }), Label: "Its number"},
		{Key: "message", Type: schema.Line, At: schema.In(func(s *Swiss) any { return &s.Message }), Most: 140, Called: "message",
			Label: "Message"},
		{Key: "debtor", Type: schema.Object, At: schema.In(func(s *Swiss) any { return &s.Debtor }), Part: &partyFields,
			Folded: "Who pays"},
		{Key: "billing", Type: schema.Line, At: schema.In(func(s *Swiss) any { return &s.Billing }), Most: 140, Label: "Billing",
			Folded: "Billing information"},
		{Key: "procedures", Type: schema.List, Item: &schema.Field{Type: schema.Line, Keep: true, Most: 100, Called: "procedure",
			Label: "Procedure"}, Most: 2,
			Read: readProcedures, Write: func(part any) any {
				if list := part.(*Swiss).Procedures; len(list) > 0 {
					return texts(list)
				}
				return nil
			}, Folded: "Alternative procedure"},
	},
	New:   func() any { return &Swiss{} },
	About: "Swiss QR-bill, structured addresses. Level M, version 25 at most.",
}

var swissKind = Kind{Key: "swiss", Long: "message", Name: "Swiss QR-bill", Outcome: "Someone pays a Swiss QR-bill",
	Group: Payment, Calls: []string{"Scan to pay"}, Fields: &swissFields,
	Takes:   []Taker{{"spc\n", takeSwiss}, {"spc\r\n", takeSwiss}},
	Stays:   "a bank's app reads the code itself",
	Example: `{"kind": "swiss", "iban": "CH8599999000012345678", "currency": "CHF", "creditor": {"name": "Marrowby Seed House", "postcode": "8000", "city": "Zürich", "country": "CH"}}`}

func readProcedures(o schema.Reader, part any) {
	s := part.(*Swiss)
	for i, v := range o.List("procedures") {
		p, isText := v.(string)
		switch p = strings.TrimSpace(p); {
		case !isText:
			o.ProblemBelow("procedures", itoa(i), "type", "must be text")
		case p == "":
		case i > 1:
			o.ProblemBelow("procedures", itoa(i), "swiss.procedures",
				"is one too many; a bill names at most two alternative procedures")
		case utf8.RuneCountInString(p) > 100:
			o.ProblemBelow("procedures", itoa(i), "swiss.long", "has more than 100 characters")
		default:
			s.Procedures = append(s.Procedures, p)
		}
	}
}

func (s *Swiss) check(o *fields.Object) {
	text := s.IBAN
	if s.IBAN = ""; o.Sound("iban") {
		var message string
		if s.IBAN, message = IBAN(text); message == "" && s.IBAN[:2] != "CH" && s.IBAN[:2] != "LI" {
			message = "is of " + RegionName(s.IBAN[:2]) + "; a Swiss QR-bill pays into an account of Switzerland or Liechtenstein"
		}
		if message != "" {
			o.Problem("iban", "iban", "%s", message)
			s.IBAN = ""
		}
	}
	if !o.Has("creditor") {
		o.Problem("creditor", "swiss.creditor", "is missing; give name, postcode, city and country of who is paid")
	} else {
		s.Creditor.check(o.Object("creditor"))
	}
	if s.Debtor != (Party{}) {
		s.Debtor.check(o.Object("debtor"))
	}
	s.Amount = checkAmount(o, "amount", s.Amount, 9, 2)
	if s.Currency == "" && o.Sound("currency") {
		o.Problem("currency", "swiss.currency", "is missing; it is CHF or EUR")
	}
	s.reference(o)
	swissText(o, "message", s.Message, 140)
	swissText(o, "billing", s.Billing, 140)
	if n := utf8.RuneCountInString(s.Message + s.Billing); n > 140 && o.Sound("message") && o.Sound("billing") {
		o.Problem("message", "swiss.long",
			"and the billing information have %d characters together; the bill has room for 140", n)
	}
	if n := utf8.RuneCountInString(s.Payload()); n > maxSwiss {
		o.Problem("message", "swiss.long", "makes the data set %d characters long; it has room for %d", n, maxSwiss)
	}
}

// musts are what the bank needs of an address.
var musts = map[string]string{"name": "the bank needs the name", "postcode": "the bank needs the postcode, without country",
	"city":    "the bank needs the town",
	"country": "it is the two letters of a country, such as CH"}

func (p *Party) check(o *fields.Object) {
	for i := range partyFields.Fields {
		f := &partyFields.Fields[i]
		s := *f.At(p).(*string)
		if must := musts[f.Key]; s == "" && must != "" && o.Sound(f.Key) {
			o.Problem(f.Key, "swiss.address", "is empty; %s", must)
		}
		swissText(o, f.Key, s, int(f.Most))
	}
	p.Country = strings.ToUpper(p.Country)
	if len(p.Country) != 2 && o.Sound("country") || p.Country != "" && RegionName(p.Country) == p.Country && o.Sound("country") {
		o.Problem("country", "swiss.country", "is %s; write the two letters of a country, such as CH", quoted(p.Country))
	}
}

// swissText holds a text against the permitted characters (guidelines, annex on the character set): Basic Latin, Latin-1
// Supplement, Latin Extended-A, Ș ș Ț ț and the euro sign.
func swissText(o *fields.Object, key, s string, most int) {
	if !o.Sound(key) {
		return
	}
	if n := utf8.RuneCountInString(s); n > most {
		o.Problem(key, "swiss.long", "has %d characters; the bill has room for %d", n, most)
		return
	}
	for _, r := range s {
		if r >= 0x20 && r <= 0x7E || r >= 0xA0 && r <= 0x17F || strings.ContainsRune("ȘșȚț€", r) {
			continue
		}
		o.Problem(key, "swiss.character", "holds %q, which a Swiss QR-bill cannot carry", string(r))
		return
	}
}

// QRIBAN says whether an IBAN is a QR-IBAN: its institution number lies from 30000 to 31999, kept for payments with QR
// reference.
func QRIBAN(iban string) bool { return len(iban) == 21 && iban[4:9] >= "30000" && iban[4:9] <= "31999" }

func (s *Swiss) reference(o *fields.Object) {
	ref := strings.Join(strings.Fields(s.Reference), "")
	s.Reference = ""
	if s.ReferenceType == "" { // it follows from what is there
		switch {
		case strings.HasPrefix(strings.ToUpper(ref), "RF"):
			s.ReferenceType = "SCOR"
		case ref != "" || QRIBAN(s.IBAN):
			s.ReferenceType = "QRR"
		default:
			s.ReferenceType = "NON"
		}
	} else if s.ReferenceType = o.OneOf("reference_type", ReferenceTypes...); !o.Sound("reference_type") {
		return
	}
	if !o.Sound("reference") || s.IBAN == "" {
		return
	}
	var message string
	switch {
	case s.ReferenceType == "QRR" && !QRIBAN(s.IBAN):
		o.Problem("iban", "swiss.iban",
			"is an ordinary IBAN, and a QR reference goes with a QR-IBAN only, whose fifth to ninth characters lie from 30000 "+
				"to 31999; ask the bank for it, or use a creditor reference")
		return
	case s.ReferenceType != "QRR" && QRIBAN(s.IBAN):
		o.Problem("reference", "swiss.reference",
			"is missing: the IBAN is a QR-IBAN, and banks take it with a QR reference of 27 digits only")
		return
	case s.ReferenceType == "QRR":
		ref, message = qrReference(ref)
	case s.ReferenceType == "SCOR":
		ref, message = rfReference(ref)
	case ref != "":
		message = "is set, and the reference type NON means that there is none"
	}
	if message != "" {
		o.Problem("reference", "swiss.reference", "%s", message)
		return
	}
	s.Reference = ref
}

// qrReference reads a QR reference: 26 digits and a check digit, zeros in front filled in.
func qrReference(ref string) (string, string) {
	switch {
	case ref == "" || strings.Trim(ref, "0123456789") != "" || len(ref) > 27:
		return "", "is " + quoted(ref) + "; a QR reference has 27 digits, the last a check digit"
	case strings.Trim(ref, "0") == "":
		return "", "is all zeros"
	}
	ref = strings.Repeat("0", 27-len(ref)) + ref
	if want := recursive(ref[:26]); ref[26] != want {
		return "", "has a digit wrong: its check digit would be " + string(want) + ". Compare it with the invoice"
	}
	return ref, ""
}

// recursive is the check digit modulo 10, recursive (guidelines, annex B).
func recursive(digits string) byte {
	table := [10]int{0, 9, 4, 6, 8, 2, 7, 1, 3, 5}
	carry := 0
	for _, d := range digits {
		carry = table[(carry+int(d-'0'))%10]
	}
	return byte('0' + (10-carry)%10)
}

func (s *Swiss) Kind() string { return "swiss" }

// Prescribes level M, version 25, 46 mm and the cross (guidelines, clauses 6.1 to 6.4).
func (s *Swiss) Prescribes() Prescription {
	return Prescription{Level: "M", MaxVersion: 25, Raw: true, Plain: true, Side: 46, Cross: true, Name: "the Swiss QR-bill"}
}

func (p Party) lines() []string {
	if p == (Party{}) {
		return make([]string, 7)
	}
	return []string{"S", p.Name, p.Street, p.House, p.Postcode, p.City, p.Country}
}

// Payload is the data set (guidelines, clause 4.2.2): header, account, creditor, room for an ultimate creditor, amount, debtor,
// reference, message, trailer, billing information, alternative procedures.
func (s *Swiss) Payload() string {
	l := append([]string{"SPC", "0200", "1", s.IBAN}, s.Creditor.lines()...)
	l = append(l, make([]string, 7)...)
	amount := ""
	if s.Amount != "" {
		amount = padded(s.Amount, 2)
	}
	l = append(l, amount, s.Currency)
	l = append(l, s.Debtor.lines()...)
	l = append(l, s.ReferenceType, s.Reference, s.Message, "EPD")
	if s.Billing != "" || len(s.Procedures) > 0 {
		l = append(l, s.Billing)
	}
	return strings.Join(append(l, s.Procedures...), "\n")
}

func (s *Swiss) due() string {
	if s.Amount == "" {
		return s.Currency + ", an amount to be typed,"
	}
	return s.Currency + " " + Grouped(s.Amount, "\u2009")
}

// Summary names amount and receiver.
func (s *Swiss) Summary() Summary {
	return Summary{"Pays", s.due() + " to " + brief(s.Creditor.Name, 40)}
}

// Search is receiver and what the payment is for.
func (s *Swiss) Search() string { return strings.Join([]string{s.Creditor.Name, s.Creditor.City}, " ") }

// Phone opens a banking app; nothing is paid before a person signs.
func (s *Swiss) Phone() Offer {
	o := Offer{Action: "Fills in a payment, not signed yet, to", Strong: s.Creditor.Name,
		Lines: []string{strings.TrimSuffix(s.due(), ","), Fours(s.IBAN)}}
	for _, l := range []string{ReferenceText(s.Reference), s.Message, s.Debtor.Name} {
		if l != "" {
			o.Lines = append(o.Lines, l)
		}
	}
	return o
}

// ReferenceText sets a reference as the bill prints it: a QR reference in fives from the right, another in fours.
func ReferenceText(ref string) string {
	if len(ref) != 27 {
		return Fours(ref)
	}
	out := ref[:2]
	for i := 2; i < 27; i += 5 {
		out += " " + ref[i:i+5]
	}
	return out
}

// Savings: what a bill can do without.
func (s *Swiss) Savings() (out []Saving) {
	cut := func(words, path string, change func(*Swiss)) {
		then := *s
		change(&then)
		out = append(out, Saving{"Leave out " + words, "/content" + path, drop(path), &then})
	}
	if s.Message != "" {
		cut("the message", "/message", func(s *Swiss) { s.Message = "" })
	}
	if s.Billing != "" {
		cut("the billing information", "/billing", func(s *Swiss) { s.Billing = "" })
	}
	if s.Debtor != (Party{}) {
		cut("who pays", "/debtor", func(s *Swiss) { s.Debtor = Party{} })
	}
	return out
}

func takeSwiss(payload string) (map[string]any, bool) {
	l := strings.Split(strings.ReplaceAll(payload, "\r\n", "\n"), "\n")
	if len(l) < 31 || l[0] != "SPC" || l[2] != "1" || len(l[1]) != 4 || l[1][:2] != "02" || l[30] != "EPD" || len(l) > 34 {
		return nil, false
	}
	for len(l) < 34 {
		l = append(l, "")
	}
	party := func(at int) map[string]any {
		out := map[string]any{}
		for i, key := range []string{"name", "street", "house", "postcode", "city", "country"} {
			put(out, key, l[at+1+i])
		}
		return out
	}
	// combined addresses have ended; an ultimate creditor is not used yet
	if l[4] != "S" || l[20] != "S" && l[20] != "" || strings.Join(l[11:18], "") != "" {
		return nil, false
	}
	out := map[string]any{"kind": "swiss", "iban": l[3], "creditor": party(4), "currency": l[19], "reference_type": l[27]}
	if d := party(20); len(d) > 0 {
		out["debtor"] = d
	}
	put(out, "amount", l[18])
	put(out, "reference", l[28])
	put(out, "message", l[29])
	put(out, "billing", l[31])
	var procedures []any
	for _, p := range l[32:34] {
		if p != "" {
			procedures = append(procedures, p)
		}
	}
	if len(procedures) > 0 {
		out["procedures"] = procedures
	}
	return out, true
}
