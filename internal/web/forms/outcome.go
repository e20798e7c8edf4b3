package forms

import (
	"slices"
	"strings"

	"sodrik/internal/core/content"
)

// Outcome is a kind as what happens when somebody scans, for those who start with nothing to paste.
type Outcome struct{ Kind, Words, Name string }

// Rest is the sentence without its first word, for a list that begins with it.
func (o Outcome) Rest() string {
	if rest, ok := strings.CutPrefix(o.Words, "Someone "); ok {
		return rest
	}
	return strings.ToLower(o.Words[:1]) + o.Words[1:]
}

// pay is the outcome behind which the ways to be paid stand; it is offered before the kind named here.
var pay = Outcome{"pay", "Someone pays us", "Payment"}

const afterPay = "gs1link"

// Outcomes in the order in which they are offered.
func Outcomes() []Outcome {
	out := group(content.Everyday)
	if i := slices.IndexFunc(out, func(o Outcome) bool { return o.Kind == afterPay }); i >= 0 {
		return slices.Insert(out, i, pay)
	}
	return append(out, pay)
}

// Trade are outcomes for those who know them by name.
func Trade() []Outcome { return group(content.Trade) }

// Payments are the ways to be paid, behind the outcome of kind pay.
func Payments() []Outcome { return group(content.Payment) }

func group(g content.Group) (out []Outcome) {
	for _, k := range content.Register() {
		if k.Group == g {
			out = append(out, Outcome{k.Key, k.Outcome, k.Name})
		}
	}
	return out
}

func all() []Outcome { return slices.Concat(Outcomes(), Payments(), Trade()) }

// OutcomeOf finds a kind's outcome; ok is false where there is none.
func OutcomeOf(kind string) (o Outcome, ok bool) {
	for _, o := range all() {
		if o.Kind == kind {
			return o, true
		}
	}
	return o, false
}

// FixedWords says what it means that a code of a kind is static.
func FixedWords(kind string) string {
	if IsPayment(kind) {
		return "Fixed content, and never redirected: nobody comes between the payer and the account. Works for ever without us."
	}
	return "Works for ever without us."
}

// IsPayment says whether a kind moves money.
func IsPayment(kind string) bool {
	k := content.KindOf(kind)
	return k != nil && k.Group == content.Payment
}

// Matching gives the outcomes whose words hold every word that is looked for.
func Matching(query string) (out []Outcome) {
	words := strings.Fields(strings.ToLower(query))
	offered := Outcomes()
	if len(words) > 0 {
		offered = all()
	}
	for _, o := range offered {
		text, found := strings.ToLower(o.Words+" "+o.Name), true
		for _, w := range words {
			found = found && strings.Contains(text, w)
		}
		if found {
			out = append(out, o)
		}
	}
	return out
}
