package content

import (
	"regexp"
	"slices"
	"strings"
	"sync"

	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
)

// towns are the ways in which the line of a town is written, with the groups of its postcode and its name.
var towns = sync.OnceValue(func() []townForm {
	return []townForm{
		{regexp.MustCompile(`^(\d{4} ?[A-Z]{2}) (\p{Lu}[\p{L} .'-]+)$`), 1, 2},                     // Dutch
		{regexp.MustCompile(`^(?:[A-Z]{1,2}-)?(\d{4,5}) (\p{Lu}[\p{L} .'-]+)$`), 1, 2},             // most of Europe
		{regexp.MustCompile(`^(\p{Lu}[\p{L} .'-]+?),? ([A-Z]{1,2}\d[A-Z\d]? ?\d[A-Z]{2})$`), 2, 1}, // British
		{regexp.MustCompile(`^(\p{Lu}[\p{L} .'-]+?,? [A-Z]{2}),? (\d{5}(?:-\d{4})?)$`), 2, 1},      // of the United States
	}
})

type townForm struct {
	form           *regexp.Regexp
	postcode, city int
}

// Town reads the line of a postal address that has the town with its postcode.
func Town(line string) (postcode, city string, ok bool) {
	for _, t := range towns() {
		if m := t.form.FindStringSubmatch(line); m != nil {
			return m[t.postcode], m[t.city], true
		}
	}
	return "", "", false
}

// ParsePostal reads a postal address from one line, its parts between commas or line breaks: street, then the town with its
// postcode in the order of the country, then what follows, of which the last is the country. ok is false where no town with a
// postcode is found.
func ParsePostal(text string) (a PostalAddress, ok bool) {
	parts := strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == '\n' || r == '\r' })
	for i := range parts {
		parts[i] = strings.Join(strings.Fields(parts[i]), " ")
	}
	parts = slices.DeleteFunc(parts, func(s string) bool { return s == "" })
	for i := range parts {
		postcode, city, ok := Town(parts[i])
		after := i + 1
		if !ok && after < len(parts) { // "Ludlow, SY8 1AA"
			postcode, city, ok = Town(parts[i] + ", " + parts[after])
			after++
		}
		if !ok {
			continue
		}
		a = PostalAddress{Street: strings.Join(parts[:i], ", "), City: city, Postcode: postcode}
		if rest := parts[after:]; len(rest) > 0 {
			a.Region, a.Country = strings.Join(rest[:len(rest)-1], ", "), rest[len(rest)-1]
		}
		return a, true
	}
	return a, false
}

// OneLine is a postal address in one line, as ParsePostal reads it.
func (a PostalAddress) OneLine() string {
	town := strings.TrimSpace(a.Postcode + " " + a.City)
	if _, _, ok := Town(town); !ok {
		town = strings.TrimSpace(a.City + " " + a.Postcode)
	}
	var out []string
	for _, part := range []string{a.Street, town, a.Region, a.Country} {
		if part = strings.Join(strings.Fields(part), " "); part != "" {
			out = append(out, part)
		}
	}
	return strings.Join(out, ", ")
}

// putPostal takes a postal address that is typed in one line.
func putPostal(_ any, path, typed string) (out patch.Patch, bad *problem.Problem) {
	a, ok := ParsePostal(typed)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "contact.address",
			Message: "has no town with a postcode that is known; write it such as 1 Orchard Lane, Ludlow SY8 1AA, or in the fields below"}
	}
	values := map[string]any{}
	for key, text := range map[string]string{"street": a.Street, "city": a.City, "postcode": a.Postcode, "region": a.Region,
		"country": a.Country} {
		if text != "" {
			values[key] = text
		}
	}
	return set("/address", values), nil
}

// notePostal says what an address in one line is taken for.
func notePostal(typed string, _ func(string) string) string {
	a, ok := ParsePostal(typed)
	if !ok {
		return ""
	}
	out := "Town " + a.City + ", postcode " + a.Postcode
	if a.Street != "" {
		out = "Street " + a.Street + ", town " + a.City + ", postcode " + a.Postcode
	}
	if a.Region != "" {
		out += ", county " + a.Region
	}
	if a.Country != "" {
		out += ", country " + a.Country
	}
	return out + "."
}

func showPostal(draft any, _ string) string {
	text := func(key string) string {
		v, _ := patch.Get(draft, "/content/address/"+key)
		s, _ := v.(string)
		return s
	}
	return PostalAddress{text("street"), text("city"), text("region"), text("postcode"), text("country")}.OneLine()
}
