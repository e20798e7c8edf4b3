// Package recognise tells what a pasted text is: ranked readings, each the fields of a content.
package recognise

import (
	"fmt"
	"regexp"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/gs1"
	"sodrik/internal/core/problem"
)

// Reading is one way to take a text.
type Reading struct {
	Took     string          // "A phone number"
	Values   map[string]any  // the part of a job called "content"
	Content  content.Content // of these values; nil where they have problems
	Problems problem.List    // pointers below "/content"
	Entry    bool            // one of several entries of a file, of which a person chooses
	Weak     bool            // any text can be read so: on its own it is rather something to search for
	Text     string          // what it was read from, where that is not the whole
	Rows     string          // of a list of addresses, as a table with a head: what many codes can be made of
	Said     bool            // the text says what it is, so that it is no table however its marks lie
}

// maxEntries bounds how many entries of a file are offered.
const maxEntries = 50

// Text reads what a code holds, or a cell of a table, in every way that makes sense, the likeliest first; the last is always
// plain text, marked weak, which it is alone where the text is nothing known. region is the country, by two letters, whose
// numbers need no country code. The list is nil for an empty text.
func Text(text, region string) []Reading { return read(text, region, false) }

// Written is Text of what people write to one another: lists of addresses, "Text SOW to 0113 496 0123", a date in a sentence.
func Written(text, region string) []Reading { return read(text, region, true) }

func read(text, region string, written bool) (out []Reading) {
	s := strings.TrimSpace(strings.TrimPrefix(text, "\ufeff"))
	if s == "" {
		return nil
	}
	add := func(took string, values map[string]any) {
		r := Reading{Took: took, Values: values}
		if r.Content, r.Problems = content.New(values); len(r.Problems) > 0 {
			r.Content = nil
		}
		out = append(out, r)
	}
	lower := strings.ToLower(s)
	switch {
	case strings.HasPrefix(lower, "begin:vcard"):
		entries("contact", "cards", content.VCards(s), add, &out)
	case strings.HasPrefix(lower, "begin:vcalendar"), strings.HasPrefix(lower, "begin:vevent"):
		entries("event", "dates", content.Events(s), add, &out)
	case written && several(s, &out):
	default:
		single(s, region, add)
		if written && len(out) == 0 && say(s, region, add) {
			out[0].Said = !strings.Contains(s, "\t") // cells of a table have tabs between them
		}
	}
	if len(s) <= content.MaxBytes {
		add("Plain text, shown as it is", map[string]any{"kind": "text", "text": s})
		out[len(out)-1].Weak = true
	}
	return out
}

func entries(kind, many string, list []map[string]any, add func(string, map[string]any), out *[]Reading) {
	took := map[string]string{"contact": "A vCard", "event": "A calendar entry"}[kind]
	if len(list) == 0 {
		add(took+" without anything in it", map[string]any{"kind": kind})
		return
	}
	for i, values := range list[:min(len(list), maxEntries)] {
		if len(list) > 1 {
			took = fmt.Sprintf("Number %d of %d %s", i+1, len(list), many)
		}
		add(took, values)
		(*out)[len(*out)-1].Entry = len(list) > 1
	}
}

var (
	// bareAddress is a host name of at least two labels, then a port, path, query, fragment or nothing; no space, no @.
	bareAddress = regexp.MustCompile(`(?i)^[\p{L}\p{N}][\p{L}\p{N}\p{So}.-]*\.[\p{L}]{2,}(:\d+)?([/?#]\S*)?$`)
	numberLike  = regexp.MustCompile(`^\+?[0-9(][0-9().\-/ \x{00a0}\x{2011}\x{2013}]{4,24}[0-9]$`)
	mailLike    = regexp.MustCompile(`^[^\s@<>]+@[^\s@<>]+\.[^\s@<>]{2,}$`)
	mailNamed   = regexp.MustCompile(`^(.{1,80}?)\s*<([^\s@<>]+@[^\s@<>]+\.[^\s@<>]{2,})>$`)
)

// webSchemes are those whose addresses are plainly meant as such, be they allowed or not.
var webSchemes = []string{"http:", "https:", "javascript:", "data:", "file:", "vbscript:"}

func single(s, region string, add func(string, map[string]any)) {
	lower := strings.ToLower(s)
	values, known := content.Fields(s)
	kind, _ := values["kind"].(string)
	switch {
	case known && tookWords[kind] != "":
		add(tookWords[kind], values)
	case known && kind == "phone":
		add("A number to call", values)
		add("A text message to this number", map[string]any{"kind": "sms", "number": values["number"], "region": region})
	case known && kind == "sms":
		withRegion(values, region)
		add("A text message", values)
	case known && kind == "gs1link":
		add("A product link, GS1 Digital Link", values)
		add("A web address", map[string]any{"kind": "url", "url": s})
	case strings.HasPrefix(s, "(") && elementsLike.MatchString(s):
		product(s, add)
	case hasPrefix(lower, webSchemes...), bareAddress.MatchString(s):
		address(s, add)
	case wifiCut.MatchString(s):
		add("Wi-Fi access, cut short", map[string]any{"kind": "wifi", "security": "open"})
	case strings.ContainsAny(s, "\n\r"):
		signature(s, region, add)
	case mailLike.MatchString(s):
		add("An e-mail address", map[string]any{"kind": "email", "to": []any{s}})
		add("A contact with this address", map[string]any{"kind": "contact", "emails": []any{map[string]any{"address": s}},
			"given": nameOf(s)})
	case mailNamed.MatchString(s):
		m := mailNamed.FindStringSubmatch(s)
		given, family := split(strings.Trim(m[1], `"' `))
		add("An e-mail address", map[string]any{"kind": "email", "to": []any{m[2]}})
		add("A contact with this address", map[string]any{"kind": "contact", "emails": []any{map[string]any{"address": m[2]}},
			"given": given, "family": family})
	case ibanLike.MatchString(strings.ToUpper(s)):
		account(s, add)
	default:
		if gtin, message := content.GTIN(s); message == "" && gtinLike.MatchString(s) {
			add("A product's number, GTIN", map[string]any{"kind": "gs1link", "gtin": gtin})
		}
		if lat, lon, ok := content.ParsePosition(s); ok {
			add("Coordinates", map[string]any{"kind": "place", "lat": lat, "lon": lon})
		} else {
			number(s, region, add)
		}
	}
}

// wifiCut is the beginning of the text that phones take for an access (WIFI:T:WPA), as against "Wifi: Shed".
var wifiCut = regexp.MustCompile(`^(?i:wifi):(?:[A-Z]{1,2}\d?:|$)`)

var (
	elementsLike = regexp.MustCompile(`^\(\d{2,4}\)\S`)
	gtinLike     = regexp.MustCompile(`^[0-9][0-9 -]{6,17}[0-9]$`)
)

// product reads elements in brackets: as data for scanners, and where they name one thing, as its link.
func product(s string, add func(string, map[string]any)) {
	add("Product data, GS1 element string", map[string]any{"kind": "gs1data", "elements": s})
	elements, err := gs1.Brackets(s)
	if err != nil {
		return
	}
	if _, err := gs1.PrimaryKey(elements); err != nil || len(gs1.Check(elements)) > 0 {
		return
	}
	values := map[string]any{}
	for _, e := range elements {
		values[e.AI] = e.Value
	}
	if values["01"] == nil || values["235"] != nil {
		add("A link to it, GS1 Digital Link", map[string]any{"kind": "gs1link", "elements": values})
		return
	}
	parts := map[string]any{"kind": "gs1link"}
	attributes := map[string]any{}
	for ai, v := range values {
		if key := map[string]string{"01": "gtin", "22": "cpv", "10": "lot", "21": "serial"}[ai]; key != "" {
			parts[key] = v
		} else {
			attributes[ai] = v
		}
	}
	if len(attributes) > 0 {
		parts["attributes"] = attributes
	}
	add("A product link, GS1 Digital Link", parts)
}

// tookWords say what a text of a kind was taken for, where one reading is enough.
var tookWords = map[string]string{"wifi": "Wi-Fi access", "contact": "A contact", "email": "An e-mail", "place": "A place",
	"webcal": "A calendar to follow", "sepa": "A transfer in euros", "swiss": "A Swiss QR-bill",
	"emv": "A merchant's payment code",
	"upi": "A payment in rupees", "payto": "A payment", "bitcoin": "A payment in bitcoin"}

var ibanLike = regexp.MustCompile(`^[A-Z]{2}\d{2}(?:[ -]?[A-Z0-9]){11,30}$`)

// account reads an IBAN as the beginning of a transfer: a name and perhaps an amount are still to come.
func account(s string, add func(string, map[string]any)) {
	iban, message := content.IBAN(s)
	if message != "" {
		iban = s
	}
	transfer := func() { add("An account, for a transfer in euros", map[string]any{"kind": "sepa", "iban": iban}) }
	if strings.HasPrefix(strings.ToUpper(s), "CH") || strings.HasPrefix(strings.ToUpper(s), "LI") {
		add("An account, for a Swiss QR-bill", map[string]any{"kind": "swiss", "iban": iban, "currency": "CHF"})
	}
	transfer()
}

func hasPrefix(s string, prefixes ...string) bool {
	for _, p := range prefixes {
		if strings.HasPrefix(s, p) {
			return true
		}
	}
	return false
}

// addressed is the reading of a web address.
func addressed(s string) (took string, values map[string]any) {
	values = map[string]any{"kind": "url", "url": s}
	if purpose := content.PurposeOf(s); purpose != "" {
		values["purpose"] = purpose
	}
	return "A web address", values
}

// address reads a web address; one that shows a point on a map can be the point itself.
func address(s string, add func(string, map[string]any)) {
	add(addressed(s))
	if lat, lon, ok := content.MapLink(s); ok {
		add("The place that the link shows", map[string]any{"kind": "place", "lat": lat, "lon": lon})
	}
}

func number(s, region string, add func(string, map[string]any)) {
	digits := 0
	for _, r := range s {
		if r >= '0' && r <= '9' {
			digits++
		}
	}
	if !numberLike.MatchString(s) || digits < 7 {
		return
	}
	n, message := content.ParseNumber(s, region)
	if message != "" && !strings.HasPrefix(s, "+") || message == "" && !n.Known && !strings.ContainsAny(s, "+ -()/") {
		return // a number of another sort, such as an article's
	}
	for _, r := range []struct{ took, kind string }{{"A phone number", "phone"}, {"A text message to this number", "sms"}} {
		values := map[string]any{"kind": r.kind, "number": s}
		withRegion(values, region)
		add(r.took, values)
	}
}

func withRegion(values map[string]any, region string) {
	if region != "" {
		values["region"] = region
	}
}

// nameOf makes a name of the part before the @: "tamsin.ashdown" is Tamsin Ashdown.
func nameOf(address string) string {
	local, _, _ := strings.Cut(address, "@")
	words := strings.FieldsFunc(local, func(r rune) bool { return r == '.' || r == '_' || r == '-' })
	for i, w := range words {
		r := []rune(w)
		words[i] = strings.ToUpper(string(r[:1])) + string(r[1:])
	}
	return strings.Join(words, " ")
}

func split(name string) (given, family string) {
	if i := strings.LastIndex(name, " "); i > 0 {
		return name[:i], name[i+1:]
	}
	return name, ""
}
