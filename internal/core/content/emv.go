package content

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// EMV is a merchant-presented payment code (EMV QR Code Specification for Payment Systems, Merchant-Presented Mode, version
// 1.1). The payload is a list of objects, each of a two-digit identifier, a two-digit length and a value, closed by a CRC.
type EMV struct {
	Accounts                       []EMVAccount
	Initiation                     string // "static" or "dynamic"
	MCC, Currency, Amount, Country string // currency by its three digits (ISO 4217)
	Merchant, City, Postcode       string
	Tip                            Tip
	Additional                     []EMVValue // of template 62, by identifier
	Language, LocalName, LocalCity string     // of template 64
}

// EMVAccount is one way to pay the merchant: a plain value for identifiers 02 to 25, or a template of a scheme, named by a
// globally unique identifier, for 26 to 51.
type EMVAccount struct {
	ID, Value, GUID string
	Values          []EMVValue
}

// EMVValue is one object of a template.
type EMVValue struct{ ID, Value string }

// Tip says how a tip comes in: Kind is "", "prompt", "fixed" or "percent".
type Tip struct{ Kind, Value string }

// additional are the objects of template 62 by their names in the job, with their identifiers and greatest lengths.
var additional = []struct {
	key, id, label string
	most           float64
}{{"bill", "01", "Bill", 25}, {"mobile", "02", "Mobile", 25}, {"store", "03", "Store", 25}, {"loyalty", "04", "Loyalty", 25},
	{"reference", "05", "Reference", 25},
	{"customer", "06", "Customer", 25}, {"terminal", "07", "Terminal", 25}, {"purpose", "08", "Purpose", 25},
	{"ask", "09", "Asked for", 3}}

// asked are those of additional that have a field on the form; the others are kept where they are there.
var asked = []string{"bill", "reference", "store", "terminal", "purpose"}

func additionalFields() (out []schema.Field) {
	for _, a := range additional {
		out = append(out, schema.Field{Key: a.key, Type: schema.Line, Most: a.most, Called: "reference", Label: a.label,
			Off: !slices.Contains(asked, a.key),
			Read: func(o schema.Reader, part any) {
				if v := strings.TrimSpace(o.String(a.key)); v != "" {
					e := part.(*EMV)
					e.Additional = append(e.Additional, EMVValue{a.id, v})
				}
			}, Write: func(part any) any {
				for _, v := range part.(*EMV).Additional {
					if v.ID == a.id {
						return v.Value
					}
				}
				return nil
			}})
	}
	return out
}

var (
	accountFields = schema.Part{
		Fields: []schema.Field{
			{Key: "id", Type: schema.Line, At: schema.In(func(a *EMVAccount) any { return &a.ID }), Required: true,
				Pattern: `^\d\d$`, Called: "account", Label: "Account",
				Example: "26", About: "02 to 25 hold a plain value, 26 to 51 the template of a scheme.",
				Schema: `{"type": "string", "pattern": "^\\d\\d$"}`},
			{Key: "value", Type: schema.Line, At: schema.In(func(a *EMVAccount) any { return &a.Value }), Called: "account",
				Label: "Value", When: func(get func(string) string) bool { return get("id") >= "02" && get("id") <= "25" }},
			{Key: "guid", Type: schema.Line, At: schema.In(func(a *EMVAccount) any { return &a.GUID }), Most: 32,
				Called: "account", Label: "Scheme", Beside: 45, When: ofScheme},
			{Key: "values", Type: schema.Map, Keys: regexp.MustCompile(`^\d\d$`), Entry: accountValue, Read: readAccountValues,
				Write: accountValues,
				Offer: []string{"01", "02", "03", "04", "05"}, When: ofScheme, Folded: "Values of the account"},
		},
		New: func() any { return &EMVAccount{} },
	}
	tipFields = schema.Part{
		Fields: []schema.Field{
			{Key: "kind", At: schema.In(func(t *Tip) any { return &t.Kind }),
				Choices: schema.Words("", "none", "prompt", "asked for", "fixed", "a fixed amount", "percent", "in percent"),
				Called:  "tip", Label: "Tip"},
			{Key: "value", Type: schema.Amount, At: schema.In(func(t *Tip) any { return &t.Value }), Called: "tip",
				Label: "Value", When: func(get func(string) string) bool {
					return get("kind") == "fixed" || get("kind") == "percent"
				}},
		},
		New: func() any { return &Tip{} },
	}
	localFields = schema.Part{
		Fields: []schema.Field{
			{Key: "language", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.Language }), Called: "local name",
				Label: "Language"},
			{Key: "merchant", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.LocalName }), Most: 25, Search: true,
				Called: "local name", Label: "Name", Schema: `{"type": "string"}`},
			{Key: "city", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.LocalCity }), Most: 15,
				Called: "local name", Label: "Town", Schema: `{"type": "string"}`},
		},
		New: func() any { return &EMV{} },
	}
)

func ofScheme(get func(string) string) bool { return get("id") >= "26" && get("id") <= "51" }

func accountValue(id string) *schema.Field {
	return &schema.Field{Key: id, Type: schema.Line, Most: 99, Called: "account", Label: "Value " + id}
}

var emvFields = schema.Part{
	Fields: []schema.Field{
		{Key: "merchant", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.Merchant }), Required: true, Most: 25,
			Search: true, Label: "Payee", Example: "the merchant"},
		{Key: "city", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.City }), Required: true, Most: 15,
			Search: true, Label: "Town"},
		{Key: "country", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.Country }), Required: true, Beside: 45,
			Label: "Country", Example: "SG", Schema: `{"type": "string", "pattern": "^[A-Za-z]{2}$"}`},
		amountField("Amount", func(e *EMV) any { return &e.Amount }),
		{Key: "currency", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.Currency }), Required: true, Beside: 45,
			Label: "Currency", Example: "SGD or 702",
			Schema: `{"type": "string"}`, About: "Three digits of ISO 4217, or its letters."},
		{Key: "mcc", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.MCC }), Required: true, Label: "Trade",
			Example: "5261, a nursery", Schema: `{"type": "string", "pattern": "^\\d{4}$"}`},
		{Key: "accounts", Type: schema.List, At: schema.In(func(e *EMV) any { return &e.Accounts }), Part: &accountFields,
			Required: true, Least: 1, Again: "Another account"},
		{Key: "initiation", At: schema.In(func(e *EMV) any { return &e.Initiation }),
			Choices: schema.Words("static", "again and again", "dynamic", "once"), Label: "Use"},
		{Key: "tip", Type: schema.Object, At: schema.In(func(e *EMV) any { return &e.Tip }), Part: &tipFields, Folded: "A tip"},
		{Key: "additional", Type: schema.Object, At: schema.In(func(e *EMV) any { return e }),
			Part: &schema.Part{Fields: additionalFields(), New: func() any { return &EMV{} }}, Folded: "Bill and references"},
		{Key: "local", Type: schema.Object, At: schema.In(func(e *EMV) any { return e }), Part: &localFields,
			Folded: "Name in another script"},
		{Key: "postcode", Type: schema.Line, At: schema.In(func(e *EMV) any { return &e.Postcode }), Most: 10, Label: "Postcode",
			Folded: "Postcode"},
	},
	New:   func() any { return &EMV{Initiation: "static"} },
	About: "EMV merchant-presented code.",
}

var emvKind = Kind{Key: "emv", Long: "accounts", Name: "Merchant payment code, EMV",
	Outcome: "Someone pays us in a payment app, at the counter", Group: Payment, Calls: []string{"Scan to pay"},
	Fields:  &emvFields,
	Takes:   []Taker{{"000201", takeEMV}},
	Stays:   "a payment app reads the code itself",
	Example: `{"kind": "emv", "accounts": [{"id": "26", "guid": "org.example.pay", "values": {"01": "marrowby"}}], "mcc": "5261", "currency": "702", "country": "SG", "merchant": "Marrowby", "city": "Singapore"}`}

func readAccountValues(o schema.Reader, part any) {
	if !o.Has("values") {
		return
	}
	x, v := part.(*EMVAccount), o.Object("values")
	for _, id := range v.Keys() {
		text := strings.TrimSpace(v.String(id))
		if n, err := strconv.Atoi(id); err != nil || len(id) != 2 || n < 1 || n > 99 {
			v.Problem(id, "emv.id", "is no identifier within a template; they are 01 to 99")
		}
		emvValue(v, id, text, 99)
		x.Values = append(x.Values, EMVValue{id, text})
	}
}

func accountValues(part any) any {
	values := part.(*EMVAccount).Values
	if len(values) == 0 {
		return nil
	}
	out := map[string]any{}
	for _, v := range values {
		out[v.ID] = v.Value
	}
	return out
}

func (e *EMV) check(o *fields.Object) {
	e.accounts(o)
	if o.Sound("mcc") && (len(e.MCC) != 4 || strings.Trim(e.MCC, "0123456789") != "") {
		o.Problem("mcc", "emv.mcc", "is %s; a merchant category code has four digits, such as 5261 for a nursery", quoted(e.MCC))
	}
	e.Currency = strings.ToUpper(e.Currency)
	if n, ok := currencyNumbers[e.Currency]; ok {
		e.Currency = n
	}
	if o.Sound("currency") && (len(e.Currency) != 3 || strings.Trim(e.Currency, "0123456789") != "") {
		o.Problem("currency", "emv.currency", "is %s; it is the three digits of a currency (ISO 4217), such as 978 for the euro",
			quoted(e.Currency))
	}
	e.Amount = checkAmount(o, "amount", e.Amount, 10, 2)
	if e.Country = strings.ToUpper(e.Country); o.Sound("country") && (len(e.Country) != 2 || RegionName(e.Country) == e.Country) {
		o.Problem("country", "emv.country", "is %s; it is the two letters of a country, such as SG", quoted(e.Country))
	}
	e.must(o, "merchant", e.Merchant, "the merchant's name")
	e.must(o, "city", e.City, "the merchant's town")
	emvValue(o, "postcode", e.Postcode, 10)
	e.tip(o)
	if o.Has("additional") {
		e.references(o.Object("additional"))
	}
	if o.Has("local") {
		e.local(o.Object("local"))
	}
	if _, err := e.objects(); err != nil {
		o.Problem("accounts", "emv.long", "%v", err)
	} else if n := len(e.Payload()); n > 512 {
		o.Problem("accounts", "emv.long", "make the whole %d bytes long; a payment code has at most 512", n)
	}
}

// references holds the objects of template 62 against their lengths.
func (e *EMV) references(o *fields.Object) {
	for _, f := range additional {
		v := strings.TrimSpace(o.String(f.key))
		emvValue(o, f.key, v, int(f.most))
		if f.key == "ask" && strings.Trim(v, "AME") != "" {
			o.Problem("ask", "emv.ask", "is %s; it is made of A for address, M for mobile and E for e-mail", quoted(v))
		}
	}
}

// local holds the merchant's name in another script against template 64.
func (e *EMV) local(o *fields.Object) {
	e.Language = strings.ToUpper(e.Language)
	if e.Language+e.LocalName+e.LocalCity != "" {
		if len(e.Language) != 2 {
			o.Problem("language", "emv.language", "is %s; it is the two letters of a language, such as ZH", quoted(e.Language))
		}
		if e.LocalName == "" {
			o.Problem("merchant", "emv.local", "is empty; a local language goes with the merchant's name in it")
		}
	}
	for key, v := range map[string]string{"merchant": e.LocalName, "city": e.LocalCity} {
		if most := int(localFields.Field(key).Most); utf8.RuneCountInString(v) > most {
			o.Problem(key, "emv.long", "has %d characters; the code has room for %d", utf8.RuneCountInString(v), most)
		}
	}
}

func (e *EMV) must(o *fields.Object, key, s, what string) {
	if s == "" && o.Sound(key) {
		o.Problem(key, "emv."+key, "is empty; the payer's app shows %s", what)
	}
	emvValue(o, key, s, int(emvFields.Field(key).Most))
}

// emvValue holds a value against the common characters of the specification (ans: printable ASCII) and its length.
func emvValue(o *fields.Object, key, s string, most int) {
	switch {
	case !o.Sound(key):
	case len(s) > most && !strings.ContainsFunc(s, func(r rune) bool { return r > '~' }):
		o.Problem(key, "emv.long", "has %d characters; the code has room for %d", len(s), most)
	case strings.ContainsFunc(s, func(r rune) bool { return r < ' ' || r > '~' }):
		o.Problem(key, "emv.character",
			"holds a letter beyond A to Z; payment apps read plain letters, digits and signs here. Other scripts go under local")
	}
}

func (e *EMV) accounts(o *fields.Object) {
	seen := map[string]bool{}
	list := o.Objects("accounts")
	for i, x := range e.Accounts {
		a := list[i]
		n, err := strconv.Atoi(x.ID)
		switch {
		case err != nil || len(x.ID) != 2 || n < 2 || n > 51:
			a.Problem("id", "emv.id", "is %s; accounts have the identifiers 02 to 51", quoted(x.ID))
		case seen[x.ID]:
			a.Problem("id", "emv.twice", "is %s, which another account has already", x.ID)
		case n <= 25 && (x.Value == "" || x.GUID != "" || a.Has("values")):
			a.Problem("value", "emv.value", "is missing: identifiers 02 to 25 hold a plain value and nothing else")
		case n > 25 && (x.GUID == "" || x.Value != ""):
			a.Problem("guid", "emv.guid",
				"is missing: identifiers 26 to 51 hold a template, which begins with the identifier of its scheme")
		}
		seen[x.ID] = true
		emvValue(a, "value", x.Value, 99)
		emvValue(a, "guid", x.GUID, 32)
	}
	if len(list) == 0 && o.Sound("accounts") {
		o.Problem("accounts", "emv.accounts", "is empty; give at least one account of the merchant")
	}
	slices.SortStableFunc(e.Accounts, func(a, b EMVAccount) int { return strings.Compare(a.ID, b.ID) })
}

func (e *EMV) tip(o *fields.Object) {
	if !o.Has("tip") {
		return
	}
	t, typed := o.Object("tip"), e.Tip.Value
	switch e.Tip.Kind {
	case "fixed":
		if e.Tip.Value = checkAmount(t, "value", typed, 10, 2); e.Tip.Value == "" && t.Sound("value") {
			t.Problem("value", "emv.tip", "is missing; a fixed tip has an amount")
		}
	case "percent":
		if e.Tip.Value = checkAmount(t, "value", typed, 2, 2); e.Tip.Value == "" && t.Sound("value") {
			t.Problem("value", "emv.tip", "is missing; it lies between 0.01 and 99.99 percent")
		}
	default:
		if e.Tip.Value = ""; typed != "" {
			t.Problem("value", "emv.tip", "is set, and nothing says whether it is fixed or in percent")
		}
	}
}

func (e *EMV) Kind() string { return "emv" }

// Prescribes plain modules; the level is free.
func (e *EMV) Prescribes() Prescription {
	return Prescription{Plain: true, Raw: true, Name: "the merchant payment code"}
}

// tlv writes one object. The length counts characters, which beyond ASCII are those of template 64 alone.
func tlv(id, value string) (string, error) {
	n := utf8.RuneCountInString(value)
	if n > 99 {
		return "", fmt.Errorf("make object %s %d characters long; it has room for 99", id, n)
	}
	return fmt.Sprintf("%s%02d%s", id, n, value), nil
}

// objects are all objects but the CRC.
func (e *EMV) objects() (string, error) {
	var b strings.Builder
	var failed error
	add := func(id, value string) {
		if value == "" {
			return
		}
		s, err := tlv(id, value)
		if err != nil && failed == nil {
			failed = err
		}
		b.WriteString(s)
	}
	template := func(values ...EMVValue) string {
		var t strings.Builder
		for _, v := range values {
			if v.Value != "" {
				s, err := tlv(v.ID, v.Value)
				if err != nil && failed == nil {
					failed = err
				}
				t.WriteString(s)
			}
		}
		return t.String()
	}
	add("00", "01")
	add("01", map[string]string{"static": "11", "dynamic": "12"}[e.Initiation])
	for _, a := range e.Accounts {
		if a.Value != "" {
			add(a.ID, a.Value)
		} else {
			add(a.ID, template(append([]EMVValue{{"00", a.GUID}}, a.Values...)...))
		}
	}
	add("52", e.MCC)
	add("53", e.Currency)
	add("54", e.Amount)
	switch e.Tip.Kind {
	case "prompt":
		add("55", "01")
	case "fixed":
		add("55", "02")
		add("56", e.Tip.Value)
	case "percent":
		add("55", "03")
		add("57", e.Tip.Value)
	}
	add("58", e.Country)
	add("59", e.Merchant)
	add("60", e.City)
	add("61", e.Postcode)
	add("62", template(e.Additional...))
	add("64", template(EMVValue{"00", e.Language}, EMVValue{"01", e.LocalName}, EMVValue{"02", e.LocalCity}))
	return b.String(), failed
}

// Payload is the objects, closed by 63, 04 and the CRC over all of them and over 6304.
func (e *EMV) Payload() string {
	s, _ := e.objects()
	s += "6304"
	return s + fmt.Sprintf("%04X", crc16(s))
}

// crc16 is CRC-16/CCITT-FALSE: polynomial 1021, initial FFFF, nothing reflected (ISO/IEC 13239, as the specification uses it).
func crc16(s string) uint16 {
	crc := uint16(0xFFFF)
	for i := range len(s) {
		crc ^= uint16(s[i]) << 8
		for range 8 {
			if crc&0x8000 != 0 {
				crc = crc<<1 ^ 0x1021
			} else {
				crc <<= 1
			}
		}
	}
	return crc
}

func (e *EMV) due() string {
	currency := e.Currency
	for letters, digits := range currencyNumbers {
		if digits == e.Currency {
			currency = letters
		}
	}
	if e.Amount == "" {
		return currency + ", an amount to be typed,"
	}
	return currency + " " + Grouped(e.Amount, "\u2009")
}

// Summary names amount and merchant.
func (e *EMV) Summary() Summary { return Summary{"Pays", e.due() + " to " + e.Merchant} }

// Phone opens a payment app.
func (e *EMV) Phone() Offer {
	o := Offer{Action: "Pays in a payment app, once confirmed, to", Strong: e.Merchant,
		Lines: []string{strings.TrimSuffix(e.due(), ","), e.City + ", " + RegionName(e.Country)}}
	switch e.Tip.Kind {
	case "prompt":
		o.Lines = append(o.Lines, "Asks for a tip")
	case "fixed":
		o.Lines = append(o.Lines, "Adds a tip of "+e.Tip.Value)
	case "percent":
		o.Lines = append(o.Lines, "Adds a tip of "+e.Tip.Value+" %")
	}
	for _, v := range e.Additional {
		for _, f := range additional {
			if f.id == v.ID && f.key != "ask" {
				o.Lines = append(o.Lines, strings.ToUpper(f.key[:1])+f.key[1:]+" "+v.Value)
			}
		}
	}
	return o
}

// objectsOf takes a list of objects apart; ok is false where it is none.
func objectsOf(s string) (out []EMVValue, ok bool) {
	runes := []rune(s)
	for len(runes) > 0 {
		if len(runes) < 4 {
			return nil, false
		}
		n, err := strconv.Atoi(string(runes[2:4]))
		id := string(runes[:2])
		if err != nil || n < 1 || len(runes) < 4+n || strings.Trim(id, "0123456789") != "" {
			return nil, false
		}
		out = append(out, EMVValue{id, string(runes[4 : 4+n])})
		runes = runes[4+n:]
	}
	return out, true
}

// takeEMV reads a merchant-presented code whose CRC is right; objects without a field here make it one that is not taken.
func takeEMV(payload string) (map[string]any, bool) {
	if len(payload) < 12 || payload[len(payload)-8:len(payload)-4] != "6304" ||
		fmt.Sprintf("%04X", crc16(payload[:len(payload)-4])) != strings.ToUpper(payload[len(payload)-4:]) {
		return nil, false
	}
	list, ok := objectsOf(payload[:len(payload)-8])
	if !ok {
		return nil, false
	}
	out := map[string]any{"kind": "emv"}
	tip := map[string]any{}
	var accounts []any
	for _, v := range list {
		n, _ := strconv.Atoi(v.ID)
		switch {
		case v.ID == "00":
		case v.ID == "01":
			if v.Value == "12" {
				out["initiation"] = "dynamic"
			}
		case n >= 2 && n <= 25:
			accounts = append(accounts, map[string]any{"id": v.ID, "value": v.Value})
		case n >= 26 && n <= 51:
			inner, ok := objectsOf(v.Value)
			if !ok {
				return nil, false
			}
			a, values := map[string]any{"id": v.ID}, map[string]any{}
			for _, x := range inner {
				if x.ID == "00" {
					a["guid"] = x.Value
				} else {
					values[x.ID] = x.Value
				}
			}
			if len(values) > 0 {
				a["values"] = values
			}
			accounts = append(accounts, a)
		case v.ID == "55":
			tip["kind"] = map[string]string{"01": "prompt", "02": "fixed", "03": "percent"}[v.Value]
		case v.ID == "56", v.ID == "57":
			tip["value"] = v.Value
		case v.ID == "62", v.ID == "64":
			inner, ok := objectsOf(v.Value)
			if !ok {
				return nil, false
			}
			m := map[string]any{}
			for _, x := range inner {
				key := map[string]string{"00": "language", "01": "merchant", "02": "city"}[x.ID]
				if v.ID == "62" {
					key = ""
					for _, f := range additional {
						if f.id == x.ID {
							key = f.key
						}
					}
				}
				if key == "" {
					return nil, false
				}
				m[key] = x.Value
			}
			out[map[string]string{"62": "additional", "64": "local"}[v.ID]] = m
		default:
			key := map[string]string{"52": "mcc", "53": "currency", "54": "amount", "58": "country", "59": "merchant",
				"60": "city", "61": "postcode"}[v.ID]
			if key == "" {
				return nil, false
			}
			out[key] = v.Value
		}
	}
	out["accounts"] = accounts
	if len(tip) > 0 {
		out["tip"] = tip
	}
	return out, len(accounts) > 0
}

// currencyNumbers are the digits of currencies by their letters (ISO 4217).
var currencyNumbers = func() map[string]string {
	out := map[string]string{}
	for _, f := range strings.Fields("AED784 ARS032 AUD036 BDT050 BHD048 BND096 BRL986 CAD124 CHF756 CLP152 CNY156 COP170 CZK203 DKK208 EGP818 EUR978 GBP826 GHS936 HKD344 HUF348 IDR360 ILS376 INR356 ISK352 JPY392 KES404 KHR116 KRW410 KWD414 LAK418 LKR144 MAD504 MMK104 MOP446 MXN484 MYR458 NGN566 NOK578 NPR524 NZD554 OMR512 PEN604 PHP608 PKR586 PLN985 QAR634 RON946 RSD941 SAR682 SEK752 SGD702 THB764 TND788 TRY949 TWD901 TZS834 UAH980 UGX800 USD840 UYU858 VND704 XOF952 ZAR710") {
		out[f[:3]] = f[3:]
	}
	return out
}()
