package content

import (
	"cmp"
	"slices"
	"strings"
	"sync"

	"github.com/nyaruka/phonenumbers"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// Number is a telephone number. Where it is whole it is kept in the form of E.164, a plus sign and up to 15 digits; a short
// code, which only works inside a country, is kept as its digits.
type Number struct {
	E164  string // "+441134960123", or the digits of a short code
	Short bool
	Known bool // lies in a range that its country gives out
}

// ParseNumber reads a number as people write it. region is the country (ISO 3166-1, two letters) whose way of dialling a
// number without plus sign follows, "" for none. The message is "" where the number is sound.
func ParseNumber(text, region string) (n Number, message string) {
	s := strings.TrimSpace(text)
	digits := strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, s)
	if s == "" {
		return n, "is empty; type a telephone number such as +44 113 496 0123"
	}
	if strings.ContainsFunc(s, func(r rune) bool { return !strings.ContainsRune("0123456789+-.()/ \u00a0\u2011\u2013", r) }) {
		return n, "has " + quoted(s) + ", which is not a telephone number; digits, blanks, + - . / and brackets may stand in it"
	}
	whole := strings.HasPrefix(s, "+")
	if !whole && strings.HasPrefix(digits, "00") {
		digits = digits[2:]
		s, whole = "+"+digits, true
	}
	if !whole && region == "" && len(digits) > 6 {
		return n, "has no country code; write one such as +44 113 496 0123, or choose its country"
	}
	p, err := phonenumbers.Parse(s, region)
	if !whole && len(digits) >= 3 && len(digits) <= 6 && digits[0] != '0' && (err != nil || !phonenumbers.IsValidNumber(p)) {
		return Number{E164: digits, Short: true, Known: true}, ""
	}
	if err != nil || !phonenumbers.IsPossibleNumber(p) {
		where := "any country"
		if region != "" && !whole {
			where = RegionName(region)
		} else if p != nil {
			if r := phonenumbers.GetRegionCodeForCountryCode(int(p.GetCountryCode())); r != "ZZ" && r != "" && r != "001" {
				where = RegionName(r)
			}
		}
		why := "does not have the length of a number of "
		if len(digits) > 15 {
			why = "has more digits than a number of "
		}
		return n, why + where + "; compare its digits"
	}
	n = Number{E164: phonenumbers.Format(p, phonenumbers.E164), Known: phonenumbers.IsValidNumber(p)}
	if whole && !n.Known { // nothing is known of it, so that nothing in it is taken for a prefix of dialling
		n.E164 = "+" + digits
	}
	return n, ""
}

func quoted(s string) string { return "“" + brief(s, 30) + "”" }

// International writes the number in groups, as people read it: "+44 113 496 0123".
func (n Number) International() string {
	if p, err := phonenumbers.Parse(n.E164, ""); err == nil && !n.Short {
		return phonenumbers.Format(p, phonenumbers.INTERNATIONAL)
	}
	return n.E164
}

// Region is a country that numbers can belong to.
type Region struct{ Code, Name, Calling string } // "GB", "United Kingdom", "+44"

// Regions lists the countries, by name.
var Regions = sync.OnceValue(func() (out []Region) {
	for code := range phonenumbers.GetSupportedRegions() {
		out = append(out, Region{code, RegionName(code), "+" + itoa(phonenumbers.GetCountryCodeForRegion(code))})
	}
	slices.SortFunc(out, func(a, b Region) int { return cmp.Compare(a.Name, b.Name) })
	return out
})

func itoa(n int) string {
	var b [20]byte
	i := len(b)
	for {
		i--
		b[i] = byte('0' + n%10)
		if n /= 10; n == 0 {
			return string(b[i:])
		}
	}
}

// RegionName is a country's name in English, or its code where it has none.
func RegionName(code string) string {
	if r, err := language.ParseRegion(code); err == nil {
		if name := display.English.Regions().Name(r); name != "" && name != "Unknown Region" {
			return name
		}
	}
	return code
}

// RegionKey is the key of the country whose way of dialling numbers are typed in.
const RegionKey = "region"

// regionField declares the country whose way of dialling numbers are typed in. It says how a number is read, and is not kept.
func regionField[T any](at func(*T) any) schema.Field {
	return schema.Field{Key: RegionKey, Type: schema.Line, Read: func(o schema.Reader, part any) {
		*at(part.(*T)).(*string) = o.String("region")
	},
		ChoicesOf: func() []schema.Choice {
			out := schema.Words("", "with country code")
			for _, r := range Regions() {
				out = append(out, schema.Choice{Value: r.Code, Words: r.Name + " " + r.Calling})
			}
			return out
		}, Open: true, Called: "country", Label: "Numbers of", Folded: "Country of numbers",
		Hint:   "Numbers typed without country code are of it.",
		Schema: `{"type": "string"}`, Def: "region",
		About: "The country, by its two letters (ISO 3166-1), whose numbers are written without country code."}
}

// numberField declares a telephone number, with what is told apart in f.
func numberField[T any](f schema.Field, at func(*T) any) schema.Field {
	f.Key, f.At, f.Keep, f.Required = "number", schema.In(at), true, true
	f.Called, f.Mode, f.Example, f.Heads = "number", "tel", "+44 113 496 0123", "phone, telephone, tel, mobile, cell"
	f.About = "Kept in the form of E.164."
	f.Note = func(value string, get func(string) string) string {
		if n, message := ParseNumber(value, get("region")); message == "" && n.E164 != value {
			return "Kept as " + n.E164 + "."
		}
		return ""
	}
	return f
}

// checkRegion holds a country against those that have numbers, and gives it by its two letters; "" where it is none.
func checkRegion(o *fields.Object, region *string) string {
	typed := strings.ToUpper(strings.TrimSpace(*region))
	if *region = ""; typed != "" && phonenumbers.GetCountryCodeForRegion(typed) == 0 {
		o.Problem("region", "number.region", "is %q, which is no country; write its two letters, such as GB", typed)
		return ""
	}
	return typed
}

// checkNumber reads the text of a number under a key. Short codes are for those who say so.
func checkNumber(o *fields.Object, key, text, region string, short bool) Number {
	if !o.Sound(key) {
		return Number{}
	}
	n, message := ParseNumber(text, region)
	if message != "" {
		o.Problem(key, "number", "%s", message)
	} else if n.Short && !short {
		o.Problem(key, "number.short",
			"is a short number, which works in one country only and from some networks; write the whole number with its "+
				"country code")
	}
	return n
}

// numberCaution tells of a number that no operator has.
func numberCaution(n Number, what string) []Caution {
	if n.Known || n.E164 == "" {
		return nil
	}
	return []Caution{{Code: "number.unknown", Message: "No operator is known to have numbers like " + n.International() +
		". Compare the digits of " + what + "."}}
}
