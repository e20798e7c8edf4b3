package content

import (
	"strings"

	"sodrik/internal/core/content/line"
)

// vcard writes the card. FN is there always (RFC 2426, clause 3.1.1; RFC 6350, clause 6.2.1), N always in 3.0 (clause 3.1.2).
func (c *Contact) vcard() string {
	v4 := c.Format == "vcard4"
	var w line.Writer
	w.Raw("BEGIN", "VCARD")
	if v4 {
		w.Raw("VERSION", "4.0")
	} else {
		w.Raw("VERSION", "3.0")
	}
	if name := []string{c.Family, c.Given, "", c.Prefix, c.Suffix}; strings.Join(name, "") != "" {
		w.Parts("N", name...)
	} else if !v4 {
		w.Raw("N", ";;;;")
	}
	text := w.Text
	if v4 {
		text = w.Plain
	}
	text("FN", c.Name())
	w.Parts("ORG", c.Organisation)
	text("TITLE", c.Title)
	for _, p := range c.Phones {
		kind := ""
		if p.Type != "" {
			kind = ";TYPE=" + map[string]string{"mobile": "CELL", "work": "WORK", "home": "HOME", "fax": "FAX"}[p.Type]
		}
		w.Raw("TEL"+kind, p.Number.E164)
	}
	for _, e := range c.Emails {
		kind := ""
		if e.Type != "" {
			kind = ";TYPE=" + strings.ToUpper(e.Type)
		}
		text("EMAIL"+kind, e.Address)
	}
	for _, u := range c.URLs {
		w.Raw("URL", u.URL)
	}
	a := c.Address
	w.Parts("ADR", "", "", a.Street, a.City, a.Region, a.Postcode, a.Country)
	if v4 {
		w.Raw("BDAY", basicDate(c.Birthday))
	} else {
		w.Raw("BDAY", c.Birthday)
	}
	for _, s := range c.Socials {
		if v4 { // RFC 9554, clauses 3.5 and 4.9
			w.Raw("SOCIALPROFILE;SERVICE-TYPE="+parameter(s.Service), s.URL)
		} else { // an extension that address books have in common
			w.Raw("X-SOCIALPROFILE;TYPE="+parameter(s.Service), s.URL)
		}
	}
	text("NOTE", c.Note)
	w.Raw("END", "VCARD")
	return w.String()
}

// basicDate writes a date without its inner dashes; those in place of a year stay (RFC 6350, clause 4.3.1).
func basicDate(s string) string {
	if rest, ok := strings.CutPrefix(s, "--"); ok {
		return "--" + strings.ReplaceAll(rest, "-", "")
	}
	return strings.ReplaceAll(s, "-", "")
}

// parameter quotes a value that holds a separator (RFC 6350, clause 3.3).
func parameter(s string) string {
	if strings.ContainsAny(s, ":;, ") {
		return `"` + s + `"`
	}
	return s
}

// takeVCard reads the first card of a text, of version 2.1, 3.0 or 4.0. Properties without a field are left out.
func takeVCard(text string) (map[string]any, bool) {
	cards := VCards(text)
	if len(cards) == 0 {
		return nil, false
	}
	return cards[0], true
}

// VCards takes each card of a text, such as a .vcf file, for the fields of a contact.
func VCards(text string) (out []map[string]any) {
	var card map[string]any
	fullName := ""
	for _, l := range line.Parse(text) {
		switch value := line.Unescape(l.Value); {
		case l.Name == "BEGIN" && strings.EqualFold(value, "VCARD"):
			card, fullName = map[string]any{"kind": "contact"}, ""
		case card == nil:
		case l.Name == "END":
			named(card, fullName)
			out = append(out, card)
			card = nil
		case l.Name == "FN":
			fullName = value
		default:
			property(card, l, value)
		}
	}
	return out
}

// named makes a name of the FN property where the card has no other.
func named(card map[string]any, fullName string) {
	if card["given"] != nil || card["family"] != nil || card["prefix"] != nil || card["suffix"] != nil || fullName == "" ||
		fullName == card["organisation"] {
		return
	}
	if given, family, ok := cutLast(strings.TrimSpace(fullName), " "); ok {
		card["given"], card["family"] = given, family
	} else {
		card["given"] = fullName
	}
}

func property(card map[string]any, l line.Line, value string) {
	add := func(key string, item any) {
		list, _ := card[key].([]any)
		card[key] = append(list, item)
	}
	part := func(list []string, i int) string {
		if i < len(list) {
			return strings.TrimSpace(list[i])
		}
		return ""
	}
	switch l.Name {
	case "VERSION":
		if strings.HasPrefix(value, "4") {
			card["format"] = "vcard4"
		}
	case "N":
		n := line.Split(l.Value, ';')
		put(card, "family", part(n, 0))
		put(card, "given", strings.TrimSpace(part(n, 1)+" "+part(n, 2)))
		put(card, "prefix", part(n, 3))
		put(card, "suffix", part(n, 4))
	case "ORG":
		put(card, "organisation",
			strings.Join(strings.FieldsFunc(strings.Join(line.Split(l.Value, ';'), "\x00"), func(r rune) bool {
				return r == 0
			}), ", "))
	case "TITLE":
		put(card, "title", value)
	case "NOTE":
		put(card, "note", value)
	case "TEL":
		number, _, _ := strings.Cut(value, ";")
		if len(number) > 4 && strings.EqualFold(number[:4], "tel:") {
			number = number[4:]
		}
		add("phones", typedItem("number", number, l.Params["TYPE"],
			map[string]string{"FAX": "fax", "CELL": "mobile", "WORK": "work", "HOME": "home"}, "FAX", "CELL", "WORK", "HOME"))
	case "EMAIL":
		add("emails", typedItem("address", value, l.Params["TYPE"], map[string]string{"WORK": "work", "HOME": "home"},
			"WORK", "HOME"))
	case "URL":
		add("urls", value)
	case "ADR":
		a := line.Split(l.Value, ';')
		address := map[string]any{}
		put(address, "street", strings.Trim(strings.Join([]string{part(a, 0), part(a, 1), part(a, 2)}, "\n"), "\n"))
		put(address, "city", part(a, 3))
		put(address, "region", part(a, 4))
		put(address, "postcode", part(a, 5))
		put(address, "country", part(a, 6))
		if card["address"] == nil && len(address) > 0 {
			card["address"] = address
		}
	case "BDAY":
		put(card, "birthday", dateOf(value))
	case "SOCIALPROFILE":
		add("socials", map[string]any{"service": l.Param("SERVICE-TYPE"), "url": value})
	case "X-SOCIALPROFILE":
		add("socials", map[string]any{"service": l.Param("TYPE"), "url": value})
	}
}

// typedItem is an entry of a list with the first of the types in order that the card gives it.
func typedItem(key, value string, types []string, names map[string]string, order ...string) map[string]any {
	item := map[string]any{key: value}
	for _, want := range order {
		for _, t := range types {
			if strings.EqualFold(t, want) {
				item["type"] = names[want]
				return item
			}
		}
	}
	return item
}

// dateOf brings a date of a card, basic or extended, into the form of the job; others stay as they are.
func dateOf(s string) string {
	day, _, _ := strings.Cut(s, "T")
	switch {
	case len(day) == 8 && strings.Trim(day, "0123456789") == "":
		return day[:4] + "-" + day[4:6] + "-" + day[6:]
	case len(day) == 6 && strings.HasPrefix(day, "--") && strings.Trim(day[2:], "0123456789") == "":
		return day[:4] + "-" + day[4:]
	}
	return day
}
