package content

import (
	"regexp"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/percent"
	"sodrik/internal/core/schema"
)

// SMS is a message ready to be sent to a number. The payload is SMSTO: with number and raw text, which phones of all makes
// read, or with form sms a URI (RFC 5724), whose body parameter some phones leave out.
type SMS struct {
	Number     Number
	Body, Form string
	region     string // whose way of dialling the number is typed in
}

// maxSMS bounds a text: ten messages of 153 characters strung together (3GPP TS 23.040, clause 9.2.3.24.1).
const maxSMS = 1530

var smsFields = schema.Part{
	Fields: []schema.Field{
		numberField(schema.Field{Label: "To"}, func(m *SMS) any { return &m.Number.E164 }),
		regionField(func(m *SMS) any { return &m.region }),
		{Key: "body", Heads: "message", Type: schema.Lines, At: schema.In(func(m *SMS) any { return &m.Body }), Most: maxSMS,
			Called: "text", Label: "Text", Hint: "Typed in already; people can change it before they send it."},
		{Key: "form", At: schema.In(func(m *SMS) any { return &m.Form }),
			Choices: schema.Words("smsto", "SMSTO, read by most phones", "sms", "sms: address, RFC 5724"),
			Called:  "form", Label: "Written as", Folded: "Format"},
	},
	New: func() any { return &SMS{Form: "smsto"} },
}

var smsKind = Kind{Key: "sms", Long: "body", Name: "Text message", Outcome: "Someone texts us",
	Calls: []string{"Text us", "Send us a line"}, Fields: &smsFields,
	Takes:   []Taker{{"smsto:", takeSMS}, {"sms:", takeSMS}},
	Example: `{"kind": "sms", "number": "+441134960123", "body": "When do the bulbs go out?"}`}

func (m *SMS) check(o *fields.Object) {
	m.Number = checkNumber(o, "number", m.Number.E164, checkRegion(o, &m.region), true)
	switch {
	case hasControl(m.Body, "\n\r\t"):
		o.Problem("body", "sms.control", "holds a control character that phones do not send")
	case len([]rune(m.Body)) > maxSMS:
		o.Problem("body", "sms.long", "has %s characters; a message has at most %s", measure.Count(len([]rune(m.Body))),
			measure.Count(maxSMS))
	}
}

func (m *SMS) Kind() string { return "sms" }

// Payload is the message in its form.
func (m *SMS) Payload() string {
	if m.Form == "sms" {
		if m.Body == "" {
			return "sms:" + m.Number.E164
		}
		return "sms:" + m.Number.E164 + "?body=" + percent.Encode(m.Body, fieldSafe)
	}
	if m.Body == "" {
		return "SMSTO:" + m.Number.E164
	}
	return "SMSTO:" + m.Number.E164 + ":" + m.Body
}

// With puts the keyword of a placement in front of the text.
func (m *SMS) With(keyword string) Content {
	out := *m
	out.Body = strings.TrimSpace(keyword + " " + m.Body)
	return &out
}

// Summary gives the number and the beginning of the text.
func (m *SMS) Summary() Summary { return Summary{"Texts", m.Number.International()} }

// Search is number and text.
func (m *SMS) Search() string { return m.Number.E164 }

// Phone opens a message; a person sends it.
func (m *SMS) Phone() Offer {
	o := Offer{Action: "Writes a message, not sent yet, to", Strong: m.Number.International()}
	if m.Body != "" {
		o.Lines = strings.Split(m.Body, "\n")
	}
	return o
}

// Cautions tell of numbers that nobody has and of texts that cost more than one message.
func (m *SMS) Cautions() []Caution {
	out := numberCaution(m.Number, "the number")
	if parts := messages(m.Body); parts > 1 {
		out = append(out, Caution{Code: "sms.parts", Message: "The text is sent, and paid, as " + itoa(parts) + " messages."})
	}
	return out
}

// gsm is the characters of the default alphabet (3GPP TS 23.038, clause 6.2.1); those of gsmTwice take two places.
const (
	gsm = "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ " +
		"!\"#¤%&'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà" +
		gsmTwice
	gsmTwice = "^{}\\[~]|€"
)

// messages is how many messages a text takes (3GPP TS 23.040): 160 places of the default alphabet or 70 of UCS-2, 153 and 67
// where several are strung together.
func messages(body string) int {
	places, one, many := 0, 160, 153
	for _, r := range body {
		places++
		if strings.ContainsRune(gsmTwice, r) {
			places++
		}
		if !strings.ContainsRune(gsm, r) {
			one, many = 70, 67
		}
	}
	if one == 70 {
		places = 0
		for _, r := range body {
			places++
			if r > 0xFFFF {
				places++
			}
		}
	}
	if places <= one {
		return 1
	}
	return (places + many - 1) / many
}

var smsBody = regexp.MustCompile(`(?i)[?;&]+body=([^&]*)`)

func takeSMS(payload string) (map[string]any, bool) {
	scheme, rest, _ := strings.Cut(payload, ":")
	out := map[string]any{"kind": "sms"}
	number, body := rest, ""
	if strings.EqualFold(scheme, "smsto") {
		number, body, _ = strings.Cut(rest, ":")
	} else {
		if m := smsBody.FindStringSubmatch(rest); m != nil {
			body = percent.Decode(m[1])
		} else if n, b, ok := strings.Cut(rest, ":"); ok { // sms:number:body, as some programs write it
			number, body = n, b
		}
		number = percent.Decode(strings.TrimPrefix(number, "//"))
		if i := strings.IndexAny(number, "?;&"); i >= 0 {
			number = number[:i]
		}
		out["form"] = "sms"
	}
	out["number"] = number
	put(out, "body", body)
	return out, number != ""
}
