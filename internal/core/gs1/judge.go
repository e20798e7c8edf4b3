package gs1

import (
	"fmt"
	"strings"
)

// Judged is what a pasted identifier is, what is wrong with it, and its forms.
type Judged struct {
	Text   string
	What   string // "A GTIN-13"
	Sound  bool
	Faults []string // sentences
	Forms  []Form   // of a sound one, and of one whose check digit alone is wrong or missing, as it would be right
}

// Form is one way to write an identifier.
type Form struct{ Name, Text string }

// Judge tells what a line is: a number of a kind by its length, elements in brackets or as a scanner gives them, or a Digital
// Link URI.
func Judge(line string) Judged {
	s := strings.TrimSpace(line)
	j := Judged{Text: s}
	digits := strings.NewReplacer(" ", "", "-", "", "\u00a0", "").Replace(s)
	switch {
	case strings.HasPrefix(s, "("):
		elements, err := Brackets(s)
		j.elements("Elements in brackets", "", elements, err)
	case strings.Contains(s, "://"):
		domain, elements, others, ok := ParseLink(s)
		if !ok {
			j.What, j.Faults = "A web address",
				[]string{"It is no Digital Link: no primary key, such as /01/ with a GTIN, stands in its path."}
			return j
		}
		j.elements("A GS1 Digital Link", domain, elements, nil)
		if j.Sound {
			if uri, err := Link(domain, elements); err == nil && uri != s && len(others) == 0 {
				j.Forms = append([]Form{{"As the standard writes it", uri}}, j.Forms...)
			}
		}
		if len(others) > 0 {
			j.Faults = append(j.Faults, "It carries "+strings.Join(others, ", ")+", which is no identifier.")
		}
	case strings.HasPrefix(s, "]") || strings.ContainsRune(s, Separator) || strings.ContainsRune(s, '␝'):
		elements, err := ParseRaw(strings.ReplaceAll(s, "␝", string(Separator)))
		j.elements("An element string", "", elements, err)
	case digits != "" && strings.Trim(digits, "0123456789") == "":
		j.number(digits)
	default:
		if elements, err := ParseRaw(s); err == nil && len(Check(elements)) == 0 {
			j.elements("An element string", "", elements, nil)
		} else {
			j.What, j.Faults = "Nothing known",
				[]string{"It is neither a number, nor elements with their identifiers, nor a Digital Link."}
		}
	}
	return j
}

// numbers are the identifiers by their number of digits, with the application identifier that holds each.
var numbers = map[int]struct{ what, ai string }{8: {"A GTIN-8", "01"}, 12: {"A GTIN-12", "01"}, 13: {"A GTIN-13, or a GLN", "01"},
	14: {"A GTIN-14", "01"}, 17: {"A GSIN", "402"}, 18: {"An SSCC", "00"}}

func (j *Judged) number(digits string) {
	n, known := numbers[len(digits)]
	if !known {
		if n, known = numbers[len(digits)+1]; known {
			full := digits + string(CheckDigit(digits))
			j.What = n.what + " without its check digit"
			j.Faults = []string{fmt.Sprintf("It has %d digits; with its check digit it would be %s.", len(digits), full)}
			j.forms(n.ai, full)
			return
		}
		if elements, err := ParseRaw(digits); err == nil && len(Check(elements)) == 0 {
			j.elements("An element string", "", elements, nil)
			return
		}
		j.What, j.Faults = "A number",
			[]string{fmt.Sprintf("It has %d digits; GTINs have 8, 12, 13 or 14, an SSCC 18.", len(digits))}
		return
	}
	j.What = n.what
	right := digits[:len(digits)-1] + string(CheckDigit(digits[:len(digits)-1]))
	if j.Sound = right == digits; !j.Sound {
		j.Faults = []string{fmt.Sprintf("Its check digit does not fit. With these digits it is %c: %s. Compare the others too.",
			right[len(right)-1], right)}
	}
	j.forms(n.ai, right)
}

func (j *Judged) forms(ai, digits string) {
	if ai == "01" {
		digits = strings.Repeat("0", 14-len(digits)) + digits
	}
	e := []Element{{ai, digits}}
	j.Forms = append(j.Forms, Form{"In brackets", Bracketed(e)})
	if uri, err := Link(Canonical, e); err == nil {
		j.Forms = append(j.Forms, Form{"Digital Link", uri})
	}
}

func (j *Judged) elements(what, domain string, elements []Element, err error) {
	j.What = what
	if err != nil {
		j.Faults = []string{"It " + err.Error() + "."}
		return
	}
	for _, f := range Check(elements) {
		name := f.AI
		if id, ok := Lookup(f.AI); ok {
			name = f.AI + ") " + id.Name
			j.Faults = append(j.Faults, "("+name+" "+f.Message+".")
			continue
		}
		j.Faults = append(j.Faults, "("+name+") "+f.Message+".")
	}
	if j.Sound = len(j.Faults) == 0; !j.Sound {
		return
	}
	if what != "Elements in brackets" {
		j.Forms = append(j.Forms, Form{"In brackets", Bracketed(elements)})
	}
	if domain == "" {
		if uri, err := Link(Canonical, elements); err == nil {
			j.Forms = append(j.Forms, Form{"Digital Link", uri})
		}
	}
	if what != "An element string" {
		j.Forms = append(j.Forms, Form{"Element string", strings.ReplaceAll(Raw(Ordered(elements)), string(Separator), "␝")})
	}
}
