package content

import (
	"strings"

	"sodrik/internal/core/content/line"
)

var mecardEscapes = strings.NewReplacer(`\`, `\\`, `;`, `\;`, `:`, `\:`, `,`, `\,`, "\r\n", `\n`, "\n", `\n`)

// mecard writes the card as MECARD:, fields ended by semicolons, \ ; : , escaped. ORG is not among the fields first
// published, and is read by phones all the same.
func (c *Contact) mecard() string {
	var b strings.Builder
	put := func(key, value string) {
		if value != "" {
			b.WriteString(key + ":" + value + ";")
		}
	}
	escape := mecardEscapes.Replace
	b.WriteString("MECARD:")
	switch {
	case c.Family != "" && c.Given != "":
		put("N", escape(c.Family)+","+escape(c.Given))
	default:
		put("N", escape(c.Name()))
	}
	if c.Organisation != c.Name() {
		put("ORG", escape(c.Organisation))
	}
	for _, p := range c.Phones {
		put("TEL", p.Number.E164)
	}
	for _, e := range c.Emails {
		put("EMAIL", escape(e.Address))
	}
	for _, u := range c.URLs {
		put("URL", escape(u.URL))
	}
	if a := c.Address; a != (PostalAddress{}) {
		put("ADR", strings.Join([]string{"", "", escape(a.Street), escape(a.City), escape(a.Region), escape(a.Postcode),
			escape(a.Country)}, ","))
	}
	put("BDAY", strings.ReplaceAll(c.Birthday, "-", ""))
	put("NOTE", escape(c.Note))
	b.WriteString(";")
	return b.String()
}

// mecardFields takes KEY:value;… apart, values unescaped.
func mecardFields(s string) map[string][]string {
	out := map[string][]string{}
	for _, part := range line.Cut(s, ';') {
		if key, value, ok := strings.Cut(part, ":"); ok && value != "" {
			key = strings.ToUpper(strings.TrimSpace(key))
			out[key] = append(out[key], line.Unescape(value))
		}
	}
	return out
}

func takeMecard(payload string) (map[string]any, bool) {
	card := map[string]any{"kind": "contact", "format": "mecard"}
	add := func(key string, item any) {
		list, _ := card[key].([]any)
		card[key] = append(list, item)
	}
	for _, part := range line.Cut(payload[len("mecard:"):], ';') {
		key, raw, ok := strings.Cut(part, ":")
		value := line.Unescape(raw)
		if !ok || value == "" {
			continue
		}
		switch strings.ToUpper(strings.TrimSpace(key)) {
		case "N":
			n := line.Split(raw, ',')
			if len(n) > 1 {
				put(card, "family", strings.TrimSpace(n[0]))
				put(card, "given", strings.TrimSpace(strings.Join(n[1:], " ")))
			} else {
				put(card, "given", n[0])
			}
		case "ORG":
			put(card, "organisation", value)
		case "TEL":
			add("phones", map[string]any{"number": value})
		case "EMAIL":
			add("emails", map[string]any{"address": value})
		case "URL":
			add("urls", value)
		case "BDAY":
			put(card, "birthday", dateOf(value))
		case "NOTE":
			put(card, "note", value)
		case "ADR":
			a := line.Split(raw, ',')
			address := map[string]any{}
			if len(a) < 7 {
				put(address, "street", strings.Join(a, ", "))
			} else {
				put(address, "street", strings.Trim(strings.Join(a[:3], "\n"), "\n"))
				put(address, "city", a[3])
				put(address, "region", a[4])
				put(address, "postcode", a[5])
				put(address, "country", strings.Join(a[6:], ", "))
			}
			card["address"] = address
		}
	}
	return card, card["given"] != nil || card["family"] != nil || card["organisation"] != nil
}
