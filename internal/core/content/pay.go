package content

import (
	"net/url"
	"regexp"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/percent"
)

// UPI is a payment in Indian rupees to a virtual payment address. The payload is upi://pay with the parameters of the UPI
// linking specification: pa, pn, am, cu, tn, tr.
type UPI struct{ Payee, Name, Amount, Note, Reference string }

var upiForm = regexp.MustCompile(`^[A-Za-z0-9.\-_]{2,256}@[A-Za-z][A-Za-z0-9]{1,64}$`)

func readUPI(o *fields.Object) *UPI {
	u := &UPI{Payee: strings.TrimSpace(o.String("payee")), Name: strings.TrimSpace(o.String("name")), Note: strings.TrimSpace(o.String("note")), Reference: strings.TrimSpace(o.String("reference"))}
	if o.Sound("payee") && !upiForm.MatchString(u.Payee) {
		o.Problem("payee", "upi.payee", "is %s, which is no payment address; write it like marrowby@examplebank", quoted(u.Payee))
	}
	if u.Name == "" && o.Sound("name") {
		o.Problem("name", "upi.name", "is empty; the payer's app shows the name of who is paid")
	}
	u.Amount = readAmount(o, "amount", 9, 2)
	for key, s := range map[string]string{"name": u.Name, "note": u.Note, "reference": u.Reference} {
		most := map[string]int{"name": 99, "note": 80, "reference": 35}[key]
		if hasControl(s, "") || len([]rune(s)) > most {
			o.Problem(key, "upi.text", "is longer than %d characters or more than a line", most)
		}
	}
	return u
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

// Search is the receiver and the note.
func (u *UPI) Search() string { return u.Name }

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

// JSON gives the fields.
func (u *UPI) JSON() any {
	out := map[string]any{"kind": "upi", "payee": u.Payee, "name": u.Name}
	put(out, "amount", u.Amount)
	put(out, "note", u.Note)
	put(out, "reference", u.Reference)
	return out
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

func readPayTo(o *fields.Object) *PayTo {
	p := &PayTo{Target: strings.ToLower(strings.TrimSpace(o.String("target"))), Account: strings.TrimSpace(o.String("account")), Currency: strings.ToUpper(strings.TrimSpace(o.String("currency"))), Receiver: strings.TrimSpace(o.String("receiver")), Message: strings.TrimSpace(o.String("message"))}
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
			message = "is " + quoted(p.Account) + ", which is no payment address; write it like marrowby@examplebank"
		case p.Target == "bitcoin":
			message = bitcoinAddress(p.Account)
		case hasControl(p.Account, ""), strings.ContainsAny(p.Account, " ?#"):
			message = "is " + quoted(p.Account) + ", with a blank or sign that an account has not"
		}
		if message != "" {
			o.Problem("account", "payto.account", "%s", message)
		}
	}
	if p.Amount = readAmount(o, "amount", 15, 8); p.Amount != "" && (len(p.Currency) != 3 || strings.Trim(p.Currency, "ABCDEFGHIJKLMNOPQRSTUVWXYZ") != "") && p.Target != "bitcoin" {
		o.Problem("currency", "payto.currency", "is %s; an amount goes with the three letters of its currency, such as EUR", quoted(p.Currency))
	} else if p.Amount == "" && p.Currency != "" && o.Sound("amount") {
		o.Problem("currency", "payto.currency", "is set, and there is no amount")
	}
	for key, s := range map[string]string{"receiver": p.Receiver, "message": p.Message} {
		if hasControl(s, "") || len([]rune(s)) > 140 {
			o.Problem(key, "payto.text", "is longer than 140 characters or more than a line")
		}
	}
	return p
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

// Search is receiver, account and message.
func (p *PayTo) Search() string { return p.Receiver }

// Phone opens a payment app.
func (p *PayTo) Phone() Offer {
	account := p.Account
	if p.Target == "iban" {
		account = Fours(account)
	}
	return payOffer("Fills in a payment, not confirmed yet, to", p.name(), dueOr(p.currency(), p.Amount), p.Target+" "+account, p.Message)
}

// JSON gives the fields.
func (p *PayTo) JSON() any {
	out := map[string]any{"kind": "payto", "target": p.Target, "account": p.Account}
	put(out, "amount", p.Amount)
	put(out, "currency", p.Currency)
	put(out, "receiver", p.Receiver)
	put(out, "message", p.Message)
	return out
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
