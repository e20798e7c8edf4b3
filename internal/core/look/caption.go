package look

import (
	"fmt"
	"strings"
	"unicode"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
	"sodrik/internal/core/typeface"
)

// Caption is a line under or over all that a code wears: its name, or its short address. The zero value is none.
type Caption struct {
	Text string // one line
	Side string // one of CaptionSides
	Font string // key of a typeface

	Own *typeface.Face // as that of a frame
}

// Values of "side".
var (
	captionSides = schema.Words("below", "below", "above", "above")
	CaptionSides = schema.Values(captionSides)
)

// MaxCaption is how many characters a caption has at most.
const MaxCaption = 60

// None says that there is no caption.
func (c Caption) None() bool { return c.Text == "" }

// Face is the typeface of the caption.
func (c Caption) Face() *typeface.Face { return Frame{Font: c.Font, Own: c.Own}.Face() }

var captionFields = schema.Part{
	Fields: []schema.Field{
		{
			Key:      "text",
			Heads:    "caption, printed line",
			Type:     schema.Line,
			At:       schema.In(func(c *Caption) any { return &c.Text }),
			Required: true,
			Bears:    true,
			Most:     MaxCaption,
			Called:   "caption",
			Label:    "Caption",
		},
		{Key: "side", At: schema.In(func(c *Caption) any { return &c.Side }), Choices: captionSides, Called: "caption",
			Label: "Side"},
		FontField(func(c *Caption) *string { return &c.Font }),
	},
	New:   func() any { return &Caption{Side: "below", Font: typeface.Faces[0].Key} },
	About: "A line under or over the code and all around it.",
}

func (c Caption) check(o *fields.Object) {
	if c.Text == "" && o.Sound("text") {
		o.Problem("text", "caption.text", "is missing; a caption is one line, such as the short address")
	}
	checkLine(o, c.Text, MaxCaption, "marrowby.example/fair", c.Font)
}

// checkLine notes what keeps a text from being set as one line in a typeface. One that came in is not known here: see Lacks.
func checkLine(o *fields.Object, text string, most int, example string, font string) {
	switch n := len([]rune(text)); {
	case n > most:
		o.Problem("text", "frame.text", "has %d characters; up to %d can be read in passing, such as %s", n, most, example)
	case strings.ContainsFunc(text, unicode.IsControl):
		o.Problem("text", "frame.text", "is more than a line; words beside a code are one")
	case !typeface.Uploaded(font):
		if says := Lacks((Frame{Font: font}).Face(), text); says != "" {
			o.Problem("text", "frame.glyph", "%s", says)
		}
	}
}

// Lacks says which characters of a text a typeface has not, "" where it has all.
func Lacks(face *typeface.Face, text string) string {
	missing := face.Set(text).Missing
	if len(missing) == 0 {
		return ""
	}
	return fmt.Sprintf("has %s, which %s has not; leave it out, or choose another typeface", quoted(missing), face.Name)
}
