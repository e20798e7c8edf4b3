package content

import (
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/percent"
)

// Phone is a number to call. The payload is a tel: URI with the global number (RFC 3966, clause 5.1.4), without separators.
type Phone struct{ Number Number }

func readPhone(o *fields.Object) *Phone {
	return &Phone{readNumber(o, "number", readRegion(o), false)}
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

// JSON gives the fields, the number in E.164.
func (p *Phone) JSON() any { return map[string]any{"kind": "phone", "number": p.Number.E164} }

// takeTel reads a tel: URI; parameters other than the number are left out.
func takeTel(payload string) (map[string]any, bool) {
	number, _, _ := strings.Cut(payload[len("tel:"):], ";")
	number = percent.Decode(strings.TrimPrefix(number, "//"))
	return map[string]any{"kind": "phone", "number": number}, strings.ContainsAny(number, "0123456789")
}
