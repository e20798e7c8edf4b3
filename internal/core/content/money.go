package content

import (
	"regexp"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// Amounts are decimal strings all the way; no float touches money.

var amountForm = regexp.MustCompile(`^(\d+)(?:\.(\d+))?$`)

// amountField declares an amount; empty, who pays types it.
func amountField[T any](label string, at func(*T) any) schema.Field {
	return schema.Field{Key: "amount", Type: schema.Amount, At: schema.In(at), Pattern: `^\d+(\.\d+)?$`, Def: "amount",
		Called: "amount", Label: label, Mode: "decimal", Example: "left to who pays", About: "A decimal, such as 12.50, above 0."}
}

// beside stands on a form in the row of the field before it, of which it takes so many percent.
func beside(percent int, f schema.Field) schema.Field {
	f.Beside = percent
	return f
}

// checkAmount holds a decimal amount against at most places decimals and at most digits before the point, above nothing. It
// gives the amount without needless zeros in front, "" where there is none or the amount is refused.
func checkAmount(o *fields.Object, key, s string, digits, places int) string {
	if s == "" || !o.Sound(key) {
		return ""
	}
	m := amountForm.FindStringSubmatch(s)
	if m == nil {
		o.Problem(key, "amount", "is %s; write an amount as digits with a point, such as 12.50", quoted(s))
		return ""
	}
	whole := strings.TrimLeft(m[1], "0")
	switch {
	case len(m[2]) > places:
		o.Problem(key, "amount.places", "is %s, with %d places behind the point; there are at most %d", quoted(s),
			len(m[2]), places)
		return ""
	case len(whole) > digits:
		o.Problem(key, "amount.large", "is %s; the largest amount is %s", quoted(s),
			strings.Repeat("9", digits)+"."+strings.Repeat("9", places))
		return ""
	case whole == "" && strings.Trim(m[2], "0") == "":
		o.Problem(key, "amount.zero", "is nothing; the smallest amount is 0.%s1. Leave it out if people should type it",
			strings.Repeat("0", places-1))
		return ""
	}
	if whole == "" {
		whole = "0"
	}
	if m[2] == "" {
		return whole
	}
	return whole + "." + m[2]
}

// padded writes an amount with exactly so many decimals.
func padded(amount string, places int) string {
	whole, fraction, _ := strings.Cut(amount, ".")
	return whole + "." + fraction + strings.Repeat("0", places-len(fraction))
}

// trimmedAmount leaves out the decimals that are zero.
func trimmedAmount(amount string) string {
	if strings.Contains(amount, ".") {
		amount = strings.TrimRight(strings.TrimRight(amount, "0"), ".")
	}
	return amount
}

// Grouped writes an amount for people: a gap between thousands, two decimals or more; "" for none.
func Grouped(amount, gap string) string {
	if amount == "" {
		return ""
	}
	_, decimals, _ := strings.Cut(amount, ".")
	whole, fraction, _ := strings.Cut(padded(amount, max(2, len(decimals))), ".")
	var b strings.Builder
	for i, r := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			b.WriteString(gap)
		}
		b.WriteRune(r)
	}
	return b.String() + "." + fraction
}

// Prescription is what a standard prescribes for the symbol of a content.
type Prescription struct {
	Level      string  // exactly this level, "" for any
	MaxVersion int     // 0 for any
	Raw        bool    // no ECI: the payload's own charset is agreed
	Plain      bool    // dark on white, as readers of the trade expect it
	Side       float64 // millimetres of the symbol without quiet zone, 0 for any
	Cross      bool    // the Swiss cross in the middle
	Name       string  // of the standard, for sentences
	FNC1       bool    // FNC1 in first position
}

// Prescriptive is a content whose standard prescribes something of the symbol.
type Prescriptive interface{ Prescribes() Prescription }
