package content

import (
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/percent"
	"sodrik/internal/core/schema"
)

// Phone is a number to call. The payload is a tel: URI with the global number (RFC 3966, clause 5.1.4), without separators.
type Phone struct {
	Number Number
	region string // whose way of dialling it is typed in
}

var phoneFields = schema.Part{
	Fields: []schema.Field{
		numberField(schema.Field{Label: "Number"}, func(p *Phone) any { return &p.Number.E164 }),
		regionField(func(p *Phone) any { return &p.region }),
	},
	New: func() any { return &Phone{} },
}

var phoneKind = Kind{Key: "phone", Long: "number", Name: "Call", Outcome: "Someone calls us",
	Calls: []string{"Scan to call us", "Ring us"}, Fields: &phoneFields,
	Takes:   []Taker{{"tel:", takeTel}},
	Example: `{"kind": "phone", "number": "+441134960123"}`}

func (p *Phone) check(o *fields.Object) {
	p.Number = checkNumber(o, "number", p.Number.E164, checkRegion(o, &p.region), false)
}

func (p *Phone) Kind() string    { return "phone" }
func (p *Phone) Payload() string { return "tel:" + p.Number.E164 }
func (p *Phone) Search() string  { return p.Number.E164 }

// Summary gives the number in groups.
func (p *Phone) Summary() Summary { return Summary{"Calls", p.Number.International()} }

// Phone shows the number; nothing is dialled before a person taps it.
func (p *Phone) Phone() Offer {
	return Offer{Action: "Calls this number", Strong: p.Number.International()}
}

// Cautions tell of a number that nobody has.
func (p *Phone) Cautions() []Caution { return numberCaution(p.Number, "the number") }

// takeTel reads a tel: URI; parameters other than the number are left out.
func takeTel(payload string) (map[string]any, bool) {
	number, _, _ := strings.Cut(payload[len("tel:"):], ";")
	number = percent.Decode(strings.TrimPrefix(number, "//"))
	return map[string]any{"kind": "phone", "number": number}, strings.ContainsAny(number, "0123456789")
}
