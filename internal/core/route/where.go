package route

import (
	"fmt"
	"slices"
	"strings"
	"sync"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"sodrik/internal/core/gazetteer"
)

// Name reads the name of a place as somebody types it, and gives it as a file keeps it: a country by its two letters (ISO
// 3166-1), anything within one by its name with the country behind it, such as "Wales (GB)". bad is set where there is none of
// that name, or where several would do.
func Name(text string) (name, bad string) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", ""
	}
	inner, country, given := cutCountry(text)
	if given {
		code, ok := countryNamed(country)
		if !ok {
			return "", fmt.Sprintf("names %s, and %q is no country; write its name or its two letters", text, country)
		}
		for _, c := range gazetteer.Named(inner) {
			if c.Country == code {
				return c.Name + " (" + code + ")", ""
			}
		}
		return inner + " (" + code + ")", "" // smaller than what is known here
	}
	if code, ok := countryNamed(text); ok {
		return code, ""
	}
	known := gazetteer.Named(text)
	if len(known) == 0 {
		return "", fmt.Sprintf("names %s, which is no country, part of one or larger town that is known here; write the country behind it, "+
			"such as %s (GB)", text, text)
	}
	first := known[0]
	var others []string
	for _, c := range known[1:] {
		if c.Country != first.Country && c.People*clearly > first.People && !slices.Contains(others, c.Name+" ("+c.Country+")") {
			others = append(others, c.Name+" ("+c.Country+")")
		}
	}
	own := first.Name + " (" + first.Country + ")"
	if len(others) > 0 {
		return "", fmt.Sprintf("names %s, of which there are several; write %s or %s", text, own, others[0])
	}
	return own, ""
}

// clearly is how many times as many people live in a town that is meant where nothing else is said.
const clearly = 10

// cutCountry takes apart "Wales (GB)".
func cutCountry(text string) (name, country string, given bool) {
	if i := strings.LastIndexByte(text, '('); i > 0 && strings.HasSuffix(text, ")") {
		return strings.TrimSpace(text[:i]), strings.TrimSpace(text[i+1 : len(text)-1]), true
	}
	return text, "", false
}

// countries are their letters by their folded English names.
var countries = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	for a := 'A'; a <= 'Z'; a++ {
		for b := 'A'; b <= 'Z'; b++ {
			r, err := language.ParseRegion(string(a) + string(b))
			if err == nil && r.IsCountry() && r.Canonicalize() == r {
				out[gazetteer.Fold(display.English.Regions().Name(r))] = r.String()
			}
		}
	}
	return out
})

// countryNamed is the two letters of a country by its name, or by letters.
func countryNamed(text string) (code string, ok bool) {
	if len(text) == 2 || len(text) == 3 {
		if r, err := language.ParseRegion(strings.ToUpper(text)); err == nil && r.IsCountry() {
			return r.Canonicalize().String(), true
		}
	}
	code, ok = countries()[gazetteer.Fold(text)]
	return code, ok
}

// area is a place that a rule names.
type area struct {
	country string // two letters
	name    string // of a part or a town, "" for all of the country
	folded  string
	plain   bool // the name is of ASCII letters and blanks: no other way of writing it folds to the same
}

func areaOf(name string) area {
	inner, country, given := cutCountry(name)
	if !given {
		return area{country: name}
	}
	a := area{country: country, name: inner, folded: gazetteer.Fold(inner)}
	a.plain = strings.EqualFold(a.folded, inner)
	return a
}

// holds says that an address is within an area.
func (a *area) holds(in *Input) bool {
	if a.country != in.Country {
		return false
	}
	return a.name == "" || a.is(in.Part) || a.is(in.Town)
}

func (a *area) is(text string) bool {
	switch {
	case text == "":
		return false
	case strings.EqualFold(text, a.name):
		return true
	}
	return !(a.plain && ascii(text)) && gazetteer.Fold(text) == a.folded
}

func ascii(s string) bool {
	for i := range len(s) {
		if c := s[i] | 0x20; (c < 'a' || c > 'z') && s[i] != ' ' {
			return false
		}
	}
	return true
}

// Says is a place in a sentence: "Ireland", "Wales", and "Perth, Australia" where there are several of a name.
func Says(name string) string {
	inner, country, given := cutCountry(name)
	if !given {
		return countryName(name)
	}
	for _, c := range gazetteer.Named(inner) {
		if c.Country != country {
			return inner + ", " + countryName(country)
		}
	}
	return inner
}

func countryName(code string) string {
	if r, err := language.ParseRegion(code); err == nil {
		return display.English.Regions().Name(r)
	}
	return code
}
