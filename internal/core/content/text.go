package content

import (
	"unicode/utf8"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/schema"
)

// Text is plain text in UTF-8, which a phone shows.
type Text struct{ Text string }

var textFields = schema.Part{
	Fields: []schema.Field{{Key: "text", Type: schema.Lines, At: schema.In(func(t *Text) any { return &t.Text }), Required: true,
		Keep: true, Most: MaxBytes,
		Called: "text", Label: "Text", Example: "Sow under glass from March"}},
	New: func() any { return &Text{} },
}

var textKind = Kind{Key: "text", Long: "text", Name: "Plain text", Outcome: "Someone reads a few lines",
	Calls: []string{"Read me"}, Fields: &textFields,
	Example: `{"kind": "text", "text": "Sow under glass from March, plant out after the last frost."}`}

func (t *Text) check(o *fields.Object) {
	switch {
	case !o.Sound("text"):
	case t.Text == "":
		o.Problem("text", "text.empty", "is empty; type what the phone should show")
	case !utf8.ValidString(t.Text):
		o.Problem("text", "text.encoding", "holds bytes that are not text in UTF-8")
	case hasControl(t.Text, "\n\r\t"):
		o.Problem("text", "text.control",
			"holds a control character that phones do not show; only line breaks and tabs may stand in it")
	case len(t.Text) > MaxBytes:
		o.Problem("text", "text.long",
			"is %s bytes long; no code holds more than %s, and one that people can scan rarely more than 300",
			measure.Count(len(t.Text)), measure.Count(MaxBytes))
	}
}

func (t *Text) Kind() string    { return "text" }
func (t *Text) Payload() string { return t.Text }

// Summary gives the beginning of the text.
func (t *Text) Summary() Summary { return Summary{"Shows", brief(t.Text, 48)} }

// Phone shows it as it is.
func (t *Text) Phone() Offer { return Offer{Action: "Shows this text", Rest: t.Text} }
