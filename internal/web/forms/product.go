package forms

import (
	"slices"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/gs1"
)

// attributes that a form offers by name; further ones are shown where they are there.
var attributes = []struct{ ai, words, label, sample string }{
	{"17", "Use by", "Use by", "31 March 2027"}, {"15", "Best before", "Best before", "31 March 2027"}, {"11", "Made on", "Made on", "1 October 2026"},
	{"3103", "Net weight", "Grams", "000500"}, {"30", "Pieces in it", "Pieces", "25"}, {"422", "Country of origin", "Origin", "826"}, {"8200", "Further address", "Address", ""},
}

func (b builder) product() {
	elements := false
	for ai := range gs1.Known() {
		if b.text("/content/elements/"+ai) != "" {
			elements = true
		}
	}
	if elements { // another primary key than the GTIN
		for _, ai := range slices.Sorted(gs1.Known()) {
			if b.text("/content/elements/"+ai) != "" {
				id, _ := gs1.Lookup(ai)
				b.add("/content/elements/"+ai, "text", "("+ai+")").Hint = id.Name
			}
		}
	} else {
		f := b.add("/content/gtin", "text", "GTIN")
		f.Sample = "9521234500018"
		if gtin, message := content.GTIN(f.Value); message == "" {
			f.Hint = "Check digit right. Written as " + gtin + "."
		}
		b.add("/content/lot", "text", "Lot").Sample = "A1209"
		b.add("/content/serial", "text", "Serial")
		b.more("Variant of the packaging", b.field("/content/cpv", "text", "Variant"))
		var shown []string
		for _, a := range attributes {
			f := b.field("/content/attributes/"+a.ai, "text", a.label)
			f.Sample = a.sample
			f.Hint = strings.TrimSpace(f.Hint + " " + dateWords(a.ai, f.Value))
			if a.ai == "3103" {
				f.Label, f.Hint = "Net weight", "Six digits, the last three grams: 000500 is 0.5 kg."
			}
			b.more(a.words+", ("+a.ai+")", f)
			shown = append(shown, a.ai)
		}
		for _, ai := range slices.Sorted(gs1.Known()) {
			if !slices.Contains(shown, ai) && b.text("/content/attributes/"+ai) != "" {
				id, _ := gs1.Lookup(ai)
				b.add("/content/attributes/"+ai, "text", "("+ai+")").Hint = id.Name
			}
		}
	}
	f := b.add("/content/domain", "text", "Resolver")
	f.Sample, f.Hint = gs1.Canonical, "Your own domain answers who scans it; any scanner takes the numbers from either."
}

// dateWords spells out a date of six digits.
func dateWords(ai, value string) string {
	if len(value) != 6 || ai[0] != '1' || len(ai) != 2 {
		return ""
	}
	if id, ok := gs1.Lookup(ai); !ok || id.Check(value) != "" {
		return ""
	}
	day := value[4:]
	if day == "00" {
		return "The end of the month, 20" + value[:2] + "-" + value[2:4] + "."
	}
	return strings.TrimSuffix(whenWords("20"+value[:2]+"-"+value[2:4]+"-"+day), ", all day") + "."
}
