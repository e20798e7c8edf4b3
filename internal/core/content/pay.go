package content

import (
	"net/url"
	"regexp"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/percent"
	"sodrik/internal/core/schema"
)

// UPI is a payment in Indian rupees to a virtual payment address. The payload is upi://pay with the parameters of the UPI
// linking specification: pa, pn, am, cu, tn, tr.
type UPI struct{ Payee, Name, Amount, Note, Reference string }

var upiForm = regexp.MustCompile(`^[A-Za-z0-9.\-_]{2,256}@[A-Za-z][A-Za-z0-9]{1,64}$`)

var upiFields = schema.Part{
	Fields: []schema.Field{
		{Key: "payee", Type: schema.Line, At: schema.In(func(u *UPI) any { return &u.Payee }), Required: true, Pattern: "@",
			Label: "Payee", Example: "marrowby@examplebank"},
		{Key: "name", Type: schema.Line, At: schema.In(func(u *UPI) any { return &u.Name }), Required: true, Most: 99,
			Search: true, Label: "Name"},
		amountField("Rupees", func(u *UPI) any { return &u.Amount }),
		{Key: "note", Type: schema.Line, At: schema.In(func(u *UPI) any { return &u.Note }), Most: 80, Called: "note",
			Label: "Note"},
		{Key: "reference", Type: schema.Line, At: schema.In(func(u *UPI) any { return &u.Reference }), Most: 35,
			Label: "Reference", Folded: "Reference"},
	},
	New: func() any { return &UPI{} },
}

var upiKind = Kind{Key: "upi", Long: "note", Name: "UPI", Outcome: "Someone pays us in rupees", Group: Payment,
	Calls: []string{"Scan to pay"}, Fields: &upiFields,
	Takes:   []Taker{{"upi:", takeUPI}},
	Stays:   "a payment app reads the code itself",
	Example: `{"kind": "upi", "payee": "marrowby@examplebank", "name": "Marrowby Seed House"}`}

func (u *UPI) check(o *fields.Object) {
	if o.Sound("payee") && !upiForm.MatchString(u.Payee) {
		o.Problem("payee", "upi.payee", "is %s; write a payment address, such as marrowby@examplebank", quoted(u.Payee))
	}
	if u.Name == "" && o.Sound("name") {
		o.Problem("name", "upi.name", "is empty; the payer's app shows the name of who is paid")
	}
	u.Amount = checkAmount(o, "amount", u.Amount, 9, 2)
	checkLines(o, "upi.text", upiFields, map[string]string{"name": u.Name, "note": u.Note, "reference": u.Reference})
}

// checkLines holds texts of one line against the lengths that a table declares.
func checkLines(o *fields.Object, code string, part schema.Part, texts map[string]string) {
	for _, f := range part.Fields {
		s, ok := texts[f.Key]
		if ok && (hasControl(s, "") || len([]rune(s)) > int(f.Most)) {
			o.Problem(f.Key, code, "is longer than %d characters or more than a line", int(f.Most))
		}
	}
}

func (u *UPI) Kind() string { return "upi" }

// Payload is the URI.
func (u *UPI) Payload() string {
	out := "upi://pay?pa=" + u.Payee + "&pn=" + percent.Encode(u.Name, percent.Unreserved)
	add := func(key, s string) {
		if s != "" {
			out += "&" + key + "=" + percent.Encode(s, percent.Unreserved)
		}
	}
	add("tr", u.Reference)
	add("tn", u.Note)
	if u.Amount != "" {
		add("am", padded(u.Amount, 2))
	}
	return out + "&cu=INR"
}

func dueOr(currency, amount string) string {
	if amount == "" {
		return "an amount to be typed"
	}
	return strings.TrimSpace(currency + " " + Grouped(amount, "\u2009"))
}

// Summary names amount and receiver.
func (u *UPI) Summary() Summary {
	return Summary{"Pays", dueOr("INR", u.Amount) + " to " + brief(u.Name, 40)}
}

// Phone opens a payment app.
func (u *UPI) Phone() Offer {
	return payOffer("Fills in a payment, not confirmed yet, to", u.Name, dueOr("INR", u.Amount), u.Payee, u.Note, u.Reference)
}

func payOffer(action, strong string, lines ...string) Offer {
	o := Offer{Action: action, Strong: strong}
	for _, l := range lines {
		if l != "" {
			o.Lines = append(o.Lines, l)
		}
	}
	return o
}

func takeUPI(payload string) (map[string]any, bool) {
	u, err := url.Parse(payload)
	if err != nil || !strings.EqualFold(u.Host, "pay") {
		return nil, false
	}
	q := u.Query()
	out := map[string]any{"kind": "upi", "payee": q.Get("pa"), "name": q.Get("pn")}
	put(out, "amount", q.Get("am"))
	put(out, "note", q.Get("tn"))
	put(out, "reference", q.Get("tr"))
	return out, q.Get("pa") != "" && (q.Get("cu") == "" || q.Get("cu") == "INR")
}

// PayTo is a payment by a payto: URI (RFC 8905).
type PayTo struct{ Target, Account, Amount, Currency, Receiver, Message string }

// PayToTargets are the payment target types of the registry (RFC 8905, clause 7).
var PayToTargets = []string{"iban", "ach", "bic", "upi", "bitcoin", "ilp", "void"}

var payToFields = schema.Part{
	Fields: []schema.Field{
		{Key: "target", Type: schema.Line, Required: true, Choices: schema.Choices(PayToTargets...), Label: "Account is",
			Read: func(o schema.Reader, part any) {
				part.(*PayTo).Target = strings.ToLower(strings.TrimSpace(o.String("target")))
			}, Write: func(part any) any { return part.(*PayTo).Target }},
		{Key: "account", Type: schema.Line, At: schema.In(func(p *PayTo) any { return &p.Account }), Required: true,
			Label: "Account"},
		amountField("Amount", func(p *PayTo) any { return &p.Amount }),
		{Key: "currency", Type: schema.Line, At: schema.In(func(p *PayTo) any { return &p.Currency }), Label: "Currency",
			Example: "EUR"},
		{Key: "receiver", Type: schema.Line, At: schema.In(func(p *PayTo) any { return &p.Receiver }), Most: 140, Search: true,
			Label: "Payee", Example: "who is paid"},
		{Key: "message", Type: schema.Line, At: schema.In(func(p *PayTo) any { return &p.Message }), Most: 140, Called: "message",
			Label: "Message"},
	},
	New:   func() any { return &PayTo{} },
	About: "RFC 8905.",
}

var payToKind = Kind{Key: "payto", Long: "message", Name: "payto, RFC 8905", Outcome: "Someone pays us by a payto: address",
	Group: Payment, Calls: []string{"Scan to pay"}, Fields: &payToFields,
	Takes:   []Taker{{"payto:", takePayTo}},
	Stays:   "a payment app reads the code itself",
	Example: `{"kind": "payto", "target": "iban", "account": "DE37999999990123456789", "receiver": "Marrowby Seed House"}`}

func (p *PayTo) check(o *fields.Object) {
	p.Currency = strings.ToUpper(p.Currency)
	if p.Target == "" && o.Sound("target") {
		o.Problem("target", "payto.target", "is missing; it is one of %s", strings.Join(PayToTargets, ", "))
	} else if p.Target != "" {
		p.Target = o.OneOf("target", PayToTargets...)
	}
	if o.Sound("account") && o.Sound("target") {
		var message string
		switch {
		case p.Account == "":
			message = "is empty; give the account that is paid"
		case p.Target == "iban":
			p.Account, message = IBAN(p.Account)
		case p.Target == "upi" && !upiForm.MatchString(p.Account):
			message = "is " + quoted(p.Account) + "; write a payment address, such as marrowby@examplebank"
		case p.Target == "bitcoin":
			message = bitcoinAddress(p.Account)
		case hasControl(p.Account, ""), strings.ContainsAny(p.Account, " ?#"):
			message = "is " + quoted(p.Account) + ", with a blank or sign that an account has not"
		}
		if message != "" {
			o.Problem("account", "payto.account", "%s", message)
		}
	}
	if p.Amount = checkAmount(o, "amount", p.Amount, 15, 8); p.Amount != "" &&
		(len(p.Currency) != 3 || strings.Trim(p.Currency, "ABCDEFGHIJKLMNOPQRSTUVWXYZ") != "") && p.Target != "bitcoin" {
		o.Problem("currency", "payto.currency", "is %s; an amount goes with the three letters of its currency, such as EUR",
			quoted(p.Currency))
	} else if p.Amount == "" && p.Currency != "" && o.Sound("amount") {
		o.Problem("currency", "payto.currency", "is set, and there is no amount")
	}
	checkLines(o, "payto.text", payToFields, map[string]string{"receiver": p.Receiver, "message": p.Message})
}

func (p *PayTo) Kind() string { return "payto" }

func (p *PayTo) currency() string {
	if p.Currency == "" && p.Target == "bitcoin" {
		return "BTC"
	}
	return p.Currency
}

// Payload is the URI.
func (p *PayTo) Payload() string {
	out, sep := "payto://"+p.Target+"/"+percent.Encode(p.Account, percent.Unreserved+"@:/"), "?"
	add := func(key, s string) {
		if s != "" {
			out += sep + key + "=" + percent.Encode(s, percent.Unreserved+":")
			sep = "&"
		}
	}
	if p.Amount != "" {
		add("amount", p.currency()+":"+p.Amount)
	}
	add("receiver-name", p.Receiver)
	add("message", p.Message)
	return out
}

func (p *PayTo) name() string {
	if p.Receiver != "" {
		return p.Receiver
	}
	return p.Account
}

// Summary names amount and receiver.
func (p *PayTo) Summary() Summary {
	return Summary{"Pays", dueOr(p.currency(), p.Amount) + " to " + brief(p.name(), 40)}
}

// Phone opens a payment app.
func (p *PayTo) Phone() Offer {
	account := p.Account
	if p.Target == "iban" {
		account = Fours(account)
	}
	return payOffer("Fills in a payment, not confirmed yet, to", p.name(), dueOr(p.currency(), p.Amount),
		p.Target+" "+account, p.Message)
}

func takePayTo(payload string) (map[string]any, bool) {
	u, err := url.Parse(payload)
	if err != nil || u.Host == "" {
		return nil, false
	}
	account := strings.TrimPrefix(u.Path, "/")
	if strings.EqualFold(u.Host, "iban") { // a BIC may stand in front
		if i := strings.LastIndexByte(account, '/'); i >= 0 {
			account = account[i+1:]
		}
	}
	out := map[string]any{"kind": "payto", "target": strings.ToLower(u.Host), "account": account}
	if currency, amount, ok := strings.Cut(u.Query().Get("amount"), ":"); ok {
		put(out, "currency", currency)
		put(out, "amount", amount)
	}
	put(out, "receiver", u.Query().Get("receiver-name"))
	put(out, "message", u.Query().Get("message"))
	return out, account != ""
}
