package content

import (
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// Sepa is a credit transfer in euros, ready to be signed in a banking app. The payload is the European Payments Council's
// (EPC069-12): twelve lines in UTF-8, at most 331 bytes, empty ones at the end left out, in a symbol of level M and version
// 13 at most.
type Sepa struct {
	Name, IBAN, BIC, Amount, Purpose, Reference, Text, Information string
	Version                                                        int // 1 or 2
}

// maxSepa is the greatest length of the payload in bytes (EPC069-12, section 3).
const maxSepa = 331

var purposeForm = regexp.MustCompile(`^[A-Z0-9]{1,4}$`)

var sepaFields = schema.Part{
	Fields: []schema.Field{
		{Key: "name", Type: schema.Line, At: schema.In(func(s *Sepa) any { return &s.Name }), Required: true, Most: 70,
			Search: true, Label: "Payee", Example: "who is paid"},
		ibanField(func(s *Sepa) any { return &s.IBAN }),
		amountField("Euros", func(s *Sepa) any { return &s.Amount }),
		{Key: "reference", Type: schema.Line, At: schema.In(func(s *Sepa) any { return &s.Reference }), Label: "Reference",
			Example: "RF18 …"},
		{Key: "text", Type: schema.Line, At: schema.In(func(s *Sepa) any { return &s.Text }), Most: 140, Called: "text",
			Label: "Message", Example: "Invoice 2027-114"},
		{Key: "bic", At: schema.In(func(s *Sepa) any { return &s.BIC }), Type: schema.Line, Called: "BIC", Label: "BIC",
			Folded: "BIC of the bank"},
		{Key: "purpose", Type: schema.Line, At: schema.In(func(s *Sepa) any { return &s.Purpose }), Most: 4, Called: "purpose",
			Label: "Purpose", Folded: "Purpose code"},
		{Key: "information", Type: schema.Line, At: schema.In(func(s *Sepa) any { return &s.Information }), Most: 70,
			Label: "Note", Folded: "A note to who pays"},
		{Key: "version", Type: schema.Whole, At: schema.In(func(s *Sepa) any { return &s.Version }), Least: 1, Most: 2,
			Choices: schema.Words("2", "2, BIC only where it is needed", "1", "1, always with BIC"), Called: "version",
			Label: "Version", Schema: `{"enum": [1, 2]}`},
	},
	New:   func() any { return &Sepa{Version: 2} },
	About: "EPC069-12. Level M, version 13 at most, 331 bytes.",
	Rules: `"not": {"required": ["reference", "text"]}, "if": {"required": ["version"], "properties": {"version": {"const": 1}}}, "then": {"required": ["bic"]}`,
}

var sepaKind = Kind{Key: "sepa", Long: "text", Name: "SEPA transfer", Outcome: "Someone pays us in euros, by a transfer",
	Group: Payment, Calls: []string{"Scan to pay", "Pay this invoice"},
	Fields: &sepaFields, Takes: []Taker{{"bcd\n", takeSepa}, {"bcd\r\n", takeSepa}},
	Stays:   "a bank's app reads the code itself",
	Example: `{"kind": "sepa", "name": "Marrowby Seed House", "iban": "DE37999999990123456789", "amount": "12.50"}`}

func (s *Sepa) check(o *fields.Object) {
	s.Purpose = strings.ToUpper(s.Purpose)
	if s.Name == "" && o.Sound("name") {
		o.Problem("name", "sepa.name", "is empty; banks refuse a transfer without the name of who is paid")
	}
	bankText(o, "name", s.Name, 70)
	s.account(o)
	s.Amount = checkAmount(o, "amount", s.Amount, 9, 2)
	if s.Purpose != "" && !purposeForm.MatchString(s.Purpose) {
		o.Problem("purpose", "sepa.purpose", "is %s; a purpose code has up to 4 letters, such as GDDS for goods",
			quoted(s.Purpose))
	}
	if ref := s.Reference; ref != "" {
		if strings.HasPrefix(strings.ToUpper(ref), "RF") {
			var message string
			if s.Reference, message = rfReference(ref); message != "" {
				o.Problem("reference", "reference", "%s", message)
			}
		}
		bankText(o, "reference", s.Reference, 35)
		if s.Text != "" {
			o.Problem("text", "sepa.both", "is set, and so is the reference; a transfer carries one of the two")
		}
	}
	bankText(o, "text", s.Text, 140)
	bankText(o, "information", s.Information, 70)
	if n := len(s.Payload()); n > maxSepa {
		o.Problem("text", "sepa.long", "makes the whole %d bytes long; banking apps read at most %d", n, maxSepa)
	}
}

// account holds IBAN and BIC against their check digits and against what SEPA takes.
func (s *Sepa) account(o *fields.Object) {
	text := s.IBAN
	if s.IBAN = ""; o.Sound("iban") {
		var message string
		if s.IBAN, message = IBAN(text); message == "" && !strings.Contains(sepa, " "+s.IBAN[:2]+" ") {
			message = "is of " + RegionName(s.IBAN[:2]) + ", which takes no part in SEPA; the bank would refuse it"
		}
		if message != "" {
			o.Problem("iban", "iban", "%s", message)
		}
	}
	switch {
	case s.BIC != "":
		var message string
		if s.BIC, message = bicOf(s.BIC); message != "" {
			o.Problem("bic", "bic", "%s", message)
		}
	case s.Version == 1:
		o.Problem("bic", "bic", "is empty, and version 1 of the payment code needs it; give it, or leave version at 2")
	case s.IBAN != "" && !strings.Contains(eea, " "+s.IBAN[:2]+" "):
		o.Problem("bic", "bic", "is empty; outside the European Economic Area, as for %s, banks need it", RegionName(s.IBAN[:2]))
	}
}

// bankText holds a text against the characters that banks pass on (EPC217-08): the Latin letters, digits and / - ? : ( ) . , ' +
// and blanks, and the further letters of Europe's languages.
func bankText(o *fields.Object, key, s string, most int) {
	if !o.Sound(key) || s == "" {
		return
	}
	if n := utf8.RuneCountInString(s); n > most {
		o.Problem(key, "bank.long", "has %d characters; at most %d are passed on", n, most)
		return
	}
	for _, r := range s {
		if r >= '0' && r <= '9' || strings.ContainsRune("/-?:().,'+ ", r) ||
			unicode.In(r, unicode.Latin, unicode.Greek, unicode.Cyrillic) && unicode.IsLetter(r) {
			continue
		}
		hint := ""
		if r == '&' {
			hint = "; write + or and"
		}
		o.Problem(key, "bank.character", "holds %q, which banks do not pass on%s", string(r), hint)
		return
	}
}

func (s *Sepa) Kind() string { return "sepa" }

// Prescribes level M, version 13, and a charset of its own (EPC069-12, section 3).
func (s *Sepa) Prescribes() Prescription {
	return Prescription{Level: "M", MaxVersion: 13, Raw: true, Plain: true, Name: "the SEPA payment code"}
}

// Payload is the data set: service tag, version, charset (1, UTF-8), SCT, BIC, name, IBAN, amount, purpose, reference, text,
// information.
func (s *Sepa) Payload() string {
	amount := ""
	if s.Amount != "" {
		amount = "EUR" + trimmedAmount(s.Amount)
	}
	return strings.TrimRight(strings.Join([]string{"BCD", "00" + itoa(s.Version), "1", "SCT", s.BIC, s.Name, s.IBAN, amount,
		s.Purpose, s.Reference, s.Text, s.Information}, "\n"), "\n")
}

func (s *Sepa) due() string {
	if s.Amount == "" {
		return "an amount to be typed"
	}
	return "EUR " + Grouped(s.Amount, "\u2009")
}

// Summary names amount and receiver.
func (s *Sepa) Summary() Summary { return Summary{"Pays", s.due() + " to " + brief(s.Name, 40)} }

// Phone opens a banking app; nothing is paid before a person signs.
func (s *Sepa) Phone() Offer {
	o := Offer{Action: "Fills in a transfer, not signed yet, to", Strong: s.Name, Lines: []string{s.due(), Fours(s.IBAN)}}
	for _, l := range []string{s.BIC, Fours(s.Reference), s.Text, s.Information} {
		if l != "" {
			o.Lines = append(o.Lines, l)
		}
	}
	return o
}

// Savings: what a transfer can do without.
func (s *Sepa) Savings() (out []Saving) {
	for _, p := range []struct {
		key, words string
		field      func(*Sepa) *string
	}{{"information", "the note to who pays", func(s *Sepa) *string { return &s.Information }},
		{"text", "the text", func(s *Sepa) *string { return &s.Text }}, {"purpose", "the purpose", func(s *Sepa) *string {
			return &s.Purpose
		}},
		{"bic", "the BIC", func(s *Sepa) *string { return &s.BIC }}} {
		if *p.field(s) == "" || p.key == "bic" && (s.Version == 1 || s.IBAN == "" || !strings.Contains(eea, " "+s.IBAN[:2]+" ")) {
			continue
		}
		then := *s
		*p.field(&then) = ""
		out = append(out, Saving{"Leave out " + p.words, "/content/" + p.key, drop("/" + p.key), &then})
	}
	return out
}

func takeSepa(payload string) (map[string]any, bool) {
	l := strings.Split(strings.ReplaceAll(payload, "\r\n", "\n"), "\n")
	if len(l) < 7 || l[0] != "BCD" || l[3] != "SCT" || len(l) > 12 {
		return nil, false
	}
	for len(l) < 12 {
		l = append(l, "")
	}
	out := map[string]any{"kind": "sepa", "name": l[5], "iban": l[6]}
	if l[1] == "001" {
		out["version"] = number(1)
	}
	put(out, "bic", l[4])
	put(out, "amount", strings.TrimPrefix(l[7], "EUR"))
	put(out, "purpose", l[8])
	put(out, "reference", l[9])
	put(out, "text", l[10])
	put(out, "information", l[11])
	return out, (l[1] == "001" || l[1] == "002") && (l[7] == "" || strings.HasPrefix(l[7], "EUR"))
}
