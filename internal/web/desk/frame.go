package desk

import (
	"fmt"

	"sodrik/internal/core/content"
	"sodrik/internal/core/look"
	"sodrik/internal/core/typeface"
	"sodrik/internal/web/forms"
)

// frameFields are those of the frame.
func (v *View) frameFields(b builder) {
	f := b.c.Made.Job.Look.Frame
	shape := b.field("/look/frame/shape", "choice", "Frame")
	shape.Choices = []Choice{{Words: "none", On: f.None()}}
	for _, s := range look.Frames {
		shape.Choices = append(shape.Choices, Choice{Value: s, Words: look.FrameNames[s], On: s == f.Shape})
	}
	shape.Hint = "It stands outside the quiet zone and makes the picture larger; the width under Sits stays that of the code."
	round := b.c.Made.Job.Look.Outline == "round"
	outline := b.field("/look/outline", "choice", "Outline")
	outline.Choices = []Choice{{Words: "square", On: !round}, {Value: "round", Words: "a disc, filled out", On: round}}
	outline.Hint = "What fills a disc out says nothing, and keeps out of the quiet zone."
	v.Framing, v.FrameShape, v.FrameLine = []Field{shape, outline}, "none", "none"
	defer v.captionFields(b)
	if f.None() {
		if round {
			v.FrameLine = "none, in a disc"
		}
		return
	}
	v.FrameShape, v.FrameLine = "framed", look.FrameNames[f.Shape]
	if f.Text != "" {
		v.FrameLine += ", “" + f.Text + "”"
	}
	text := b.field("/look/frame/text", "text", "Words")
	if list := content.Calls(b.c.Made.Job.Content.Kind()); len(list) > 0 {
		text.Sample = list[0]
		text.Hint = fmt.Sprintf("Say what it does, such as %s.", list[len(list)-1])
	}
	font := b.field("/look/frame/font", "choice", "Typeface")
	font.Choices = b.faces(f.Face())
	size := b.slide("/look/frame/size", "Size", f.Size, "0.5", "1.5", "0.05")
	ink := b.field("/look/frame/ink", "colour", "Its ink")
	ink.Swatches = append(b.inks(), Swatch{Value: "", Name: "That of the modules"})
	if ink.Hex = f.Ink.String(); !f.Inked {
		ink.Hex = b.c.Made.Job.Look.Ink.String()
	}
	words := b.field("/look/frame/text_ink", "colour", "Ink of words")
	words.Swatches = append(b.inks(), Swatch{Value: "", Name: "As the frame has it"})
	if words.Hex = f.TextInk.String(); !f.TextInked {
		words.Hex = ink.Hex
	}
	v.Framing = append(v.Framing, text, font, size, ink, words)
}

// faces are the typefaces to choose from, with what those that come along are like.
func (b builder) faces(current *typeface.Face) (out []Choice) {
	for _, f := range b.c.House.Offered(current) {
		words := f.Name
		if face, ok := typeface.Of(f.Key); ok {
			words += ": " + face.Tone
		}
		out = append(out, Choice{Value: f.Key, Words: words, On: f.Key == current.Key})
	}
	return out
}

// captionFields are those of the line under or over all.
func (v *View) captionFields(b builder) {
	c := b.c.Made.Job.Look.Caption
	text := b.field("/look/caption/text", "text", "Caption")
	text.Sample = b.c.Made.Job.Content.Summary().Object
	v.Framing = append(v.Framing, text)
	if c.None() {
		return
	}
	side := b.field("/look/caption/side", "choice", "It stands")
	side.Choices = forms.Choices(c.Side, "below", "below", "above", "above")
	font := b.field("/look/caption/font", "choice", "Its typeface")
	font.Choices = b.faces(c.Face())
	v.Framing = append(v.Framing, side, font)
	v.FrameShape += ", captioned"
	if v.FrameLine == "none" {
		v.FrameLine = "none, a caption"
	} else {
		v.FrameLine += ", a caption"
	}
}
