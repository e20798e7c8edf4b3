package content

import (
	"net/mail"
	"slices"
	"strings"

	"golang.org/x/net/idna"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/percent"
	"sodrik/internal/core/schema"
)

// Email is a message ready to be sent. The payload is a mailto: URI (RFC 6068); line breaks are %0D%0A (clause 5).
type Email struct {
	To, CC, BCC   []string // addr-specs (RFC 5322, clause 3.4.1), hosts in A-labels
	Subject, Body string
}

// addressesField declares a list of addresses.
func addressesField(f schema.Field, at func(*Email) *[]string) schema.Field {
	f.Type, f.Item = schema.List, &schema.Field{Keep: true, Called: "e-mail address", Label: f.Label, Mode: "email",
		Example: f.Example}
	f.Read = func(o schema.Reader, part any) { *at(part.(*Email)) = readAddresses(o, f.Key) }
	f.Write = func(part any) any {
		if list := *at(part.(*Email)); len(list) > 0 || f.Required {
			return texts(list)
		}
		return nil
	}
	return f
}

var emailFields = schema.Part{
	Fields: []schema.Field{
		addressesField(
			schema.Field{
				Key:      "to",
				Heads:    "email, mail, address",
				Label:    "To",
				Again:    "To somebody else too",
				Required: true,
				Least:    1,
				Example:  "orders@marrowby.example",
			},
			func(m *Email) *[]string { return &m.To },
		),
		{Key: "subject", At: schema.In(func(m *Email) any { return &m.Subject }), Pattern: oneLine, Def: "line",
			Called: "subject", Label: "Subject"},
		{
			Key:    "body",
			Heads:  "message",
			Type:   schema.Lines,
			At:     schema.In(func(m *Email) any { return &m.Body }),
			Called: "text",
			Label:  "Text",
			Hint:   "Typed in already; people can change it before they send it.",
		},
		addressesField(schema.Field{Key: "cc", Label: "Copy to", Folded: "A copy"}, func(m *Email) *[]string { return &m.CC }),
		addressesField(schema.Field{Key: "bcc", Label: "Hidden copy", Folded: "A hidden copy"}, func(m *Email) *[]string {
			return &m.BCC
		}),
	},
	New: func() any { return &Email{} },
}

var emailKind = Kind{Key: "email", Long: "body", Name: "E-mail", Outcome: "Someone e-mails us",
	Calls: []string{"Write to us", "Order by e-mail"}, Fields: &emailFields,
	Takes:   []Taker{{"mailto:", takeMailto}, {"matmsg:", takeMatmsg}},
	Example: `{"kind": "email", "to": ["orders@marrowby.example"], "subject": "Spring order"}`}

func (m *Email) check(o *fields.Object) {
	if len(m.To) == 0 && o.Sound("to") {
		o.Problem("to", "email.to", "is empty; write an e-mail address, such as orders@marrowby.example")
	}
	if hasControl(m.Subject, "") {
		o.Problem("subject", "email.subject", "holds a line break or another control character; a subject is one line")
	}
	if hasControl(m.Body, "\n\r\t") {
		o.Problem("body", "email.control", "holds a control character that mail programs do not send")
	}
	if n := len(m.Payload()); n > MaxBytes {
		o.Problem("body", "email.long",
			"makes the whole %d bytes long; no code holds more than %d, and one that people can scan rarely more than 300",
			n, MaxBytes)
	}
}

// readAddresses reads a list of addresses, or one alone; empty ones are left out.
func readAddresses(o *fields.Object, key string) (out []string) {
	v, ok := o.Any(key)
	if !ok {
		return nil
	}
	list, isList := v.([]any)
	if one, isText := v.(string); isText {
		list = []any{one}
	} else if !isList {
		o.Problem(key, "type", "must be a list of addresses")
		return nil
	}
	for i, v := range list {
		text, isText := v.(string)
		if !isText {
			o.Problem(key, "type", "must be a list of addresses, each of them text")
			return nil
		}
		if strings.TrimSpace(text) == "" {
			continue
		}
		address, message := Address(text)
		if message != "" {
			if isList {
				o.ProblemBelow(key, itoa(i), "email.address", message)
			} else {
				o.Problem(key, "email.address", "%s", message)
			}
			continue
		}
		out = append(out, address)
	}
	return out
}

// Address reads an e-mail address, its host as A-labels. message is "" where it is sound.
func Address(text string) (address, message string) {
	s := strings.TrimSpace(text)
	local, host, has := cutLast(s, "@")
	switch {
	case !has || local == "":
		return "", "has " + quoted(s) + "; write an e-mail address, such as orders@marrowby.example"
	case strings.ContainsAny(s, "\r\n\t <>,;"):
		return "", "has " + quoted(s) + ", with a blank or a sign that addresses do not have; give one address alone"
	}
	parsed, err := mail.ParseAddress("<" + s + ">")
	if err != nil || parsed.Name != "" {
		return "", "has " + quoted(s) + "; write an e-mail address, such as orders@marrowby.example"
	}
	ascii, err := idna.Lookup.ToASCII(strings.TrimSuffix(host, "."))
	if err != nil || !strings.Contains(ascii, ".") || len(ascii) > 253 || strings.Contains(ascii, "..") {
		return "", "has the host name " + quoted(host) + ", which is not one; a whole name has a dot, like marrowby.example"
	}
	if len(local) > 64 {
		return "", "has more than 64 bytes before the @, which mail servers refuse"
	}
	return local + "@" + ascii, ""
}

func cutLast(s, sep string) (before, after string, found bool) {
	if i := strings.LastIndex(s, sep); i >= 0 {
		return s[:i], s[i+len(sep):], true
	}
	return s, "", false
}

// Characters that stand as they are in an address and in a field of a mailto: URI (RFC 6068, clause 2). A plus sign may, but
// programs that take it for a blank are many, so that fields encode it.
const (
	addressSafe = percent.Unreserved + "!$'*+@"
	fieldSafe   = percent.Unreserved + "!$'()*,;:@"
)

func (m *Email) Kind() string { return "email" }

// Payload is the URI.
func (m *Email) Payload() string {
	list := func(addresses []string) string {
		encoded := make([]string, len(addresses))
		for i, a := range addresses {
			encoded[i] = percent.Encode(a, addressSafe)
		}
		return strings.Join(encoded, ",")
	}
	var fields []string
	add := func(name, value string) {
		if value != "" {
			fields = append(fields, name+"="+value)
		}
	}
	add("cc", list(m.CC))
	add("bcc", list(m.BCC))
	add("subject", percent.Encode(m.Subject, fieldSafe))
	add("body", percent.Encode(strings.ReplaceAll(strings.ReplaceAll(m.Body, "\r\n", "\n"), "\n", "\r\n"), fieldSafe))
	out := "mailto:" + list(m.To)
	if len(fields) > 0 {
		out += "?" + strings.Join(fields, "&")
	}
	return out
}

// With puts the keyword of a placement in brackets behind the subject.
func (m *Email) With(keyword string) Content {
	out := *m
	out.Subject = strings.TrimSpace(m.Subject + " [" + keyword + "]")
	return &out
}

// Summary names whom the message is for.
func (m *Email) Summary() Summary {
	if len(m.To) == 0 {
		return Summary{"Writes to", ""}
	}
	if len(m.To) > 1 {
		return Summary{"Writes to", displayAddress(m.To[0]) + " and " + itoa(len(m.To)-1) + " more"}
	}
	return Summary{"Writes to", displayAddress(m.To[0])}
}

// displayAddress shows the host as people read it.
func displayAddress(a string) string {
	local, host, _ := cutLast(a, "@")
	if u, err := idna.Display.ToUnicode(host); err == nil {
		host = u
	}
	return local + "@" + host
}

// Search is addresses, subject and text.
func (m *Email) Search() string { return strings.Join(m.To, " ") }

// Phone opens a message; a person sends it.
func (m *Email) Phone() Offer {
	o := Offer{Action: "Writes an e-mail, not sent yet, to", Strong: m.Summary().Object}
	if len(m.CC) > 0 {
		o.Lines = append(o.Lines, "Copy to "+strings.Join(m.CC, ", "))
	}
	if len(m.BCC) > 0 {
		o.Lines = append(o.Lines, "Hidden copy to "+strings.Join(m.BCC, ", "))
	}
	if m.Subject != "" {
		o.Lines = append(o.Lines, "Subject: "+m.Subject)
	}
	if m.Body != "" {
		o.Lines = append(o.Lines, strings.Split(strings.ReplaceAll(m.Body, "\r\n", "\n"), "\n")...)
	}
	return o
}

// Savings: each part that is not needed.
func (m *Email) Savings() (out []Saving) {
	cut := func(label, path string, change func(*Email)) {
		then := *m
		change(&then)
		out = append(out, Saving{label, "/content" + path, drop(path), &then})
	}
	if m.Body != "" {
		cut("Leave out the text", "/body", func(m *Email) { m.Body = "" })
	}
	if m.Subject != "" {
		cut("Leave out the subject", "/subject", func(m *Email) { m.Subject = "" })
	}
	return out
}

// Adding fills the next entry of each list.
func (m *Email) Adding() (out []Saving) {
	for _, list := range []struct {
		key string
		of  func(*Email) *[]string
	}{{"to", func(m *Email) *[]string { return &m.To }}, {"cc", func(m *Email) *[]string { return &m.CC }},
		{"bcc", func(m *Email) *[]string { return &m.BCC }}} {
		then := *m
		at := list.of(&then)
		*at = append(slices.Clone(*at), "nn@nnnnn.example")
		out = append(out, Saving{Field: "/content/" + list.key + "/" + itoa(len(*at)-1), Then: &then})
	}
	return out
}

func texts(list []string) []any {
	out := make([]any, len(list))
	for i, s := range list {
		out[i] = s
	}
	return out
}

func takeMailto(payload string) (map[string]any, bool) {
	to, query, _ := strings.Cut(payload[len("mailto:"):], "?")
	out := map[string]any{"kind": "email"}
	add := func(key, list string) {
		have, _ := out[key].([]any)
		for _, a := range strings.Split(list, ",") {
			if a = percent.Decode(a); a != "" {
				have = append(have, a)
			}
		}
		if len(have) > 0 {
			out[key] = have
		}
	}
	add("to", to)
	for _, f := range strings.Split(query, "&") {
		name, value, _ := strings.Cut(f, "=")
		switch name = strings.ToLower(name); name {
		case "to", "cc", "bcc":
			add(name, value)
		case "subject", "body":
			put(out, name, strings.ReplaceAll(percent.Decode(value), "\r\n", "\n"))
		}
	}
	return out, out["to"] != nil
}

// takeMatmsg reads MATMSG:TO:…;SUB:…;BODY:…;;, an older form that phones still read.
func takeMatmsg(payload string) (map[string]any, bool) {
	out := map[string]any{"kind": "email"}
	for key, values := range mecardFields(payload[len("matmsg:"):]) {
		switch key {
		case "TO":
			out["to"] = texts(values)
		case "SUB":
			put(out, "subject", values[0])
		case "BODY":
			put(out, "body", values[0])
		}
	}
	return out, out["to"] != nil
}
