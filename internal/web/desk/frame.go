package desk

import (
	"fmt"

	"sodrik/internal/core/content"
	"sodrik/internal/core/look"
	"sodrik/internal/core/typeface"
)

// frameFields are those of the frame.
func (v *View) frameFields(b builder) {
	f := b.c.Rendition.Job.Look.Frame
	shape := b.chosen("/look/frame/shape", f.Shape)
	shape.Choices = append([]Choice{{Words: "none", On: f.None()}}, shape.Choices...)
	round := b.c.Rendition.Job.Look.Outline == "round"
	outline := b.chosen("/look/outline", b.c.Rendition.Job.Look.Outline)
	v.Framing, v.FrameShape, v.FrameLine = []Field{shape, outline}, "none", "none"
	defer v.captionFields(b)
	if f.None() {
		if round {
			v.FrameLine = "none, in a disc"
		}
		return
	}
	v.FrameShape, v.FrameLine = "framed", look.FrameName(f.Shape)
	if f.Text != "" {
		v.FrameLine += ", “" + f.Text + "”"
	}
	text := b.at("/look/frame/text")
	if list := content.Calls(b.c.Rendition.Job.Content.Kind()); len(list) > 0 {
		text.Sample = list[0]
		text.Hint = fmt.Sprintf("Say what it does, such as %s.", list[len(list)-1])
	}
	font := b.at("/look/frame/font")
	font.Choices = b.faces(f.Face())
	size := b.slide("/look/frame/size", f.Size)
	ink := b.at("/look/frame/ink")
	ink.Swatches = append(b.inks(), Swatch{Value: "", Name: "That of the modules"})
	if ink.Hex = f.Ink.String(); !f.Inked {
		ink.Hex = b.c.Rendition.Job.Look.Ink.String()
	}
	words := b.at("/look/frame/text_ink")
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
	c := b.c.Rendition.Job.Look.Caption
	text := b.at("/look/caption/text")
	text.Sample = b.c.Rendition.Job.Content.Summary().Object
	v.Framing = append(v.Framing, text)
	if c.None() {
		return
	}
	side := b.chosen("/look/caption/side", c.Side)
	font := b.at("/look/caption/font")
	font.Choices = b.faces(c.Face())
	v.Framing = append(v.Framing, side, font)
	v.FrameShape += ", captioned"
	if v.FrameLine == "none" {
		v.FrameLine = "none, a caption"
	} else {
		v.FrameLine += ", a caption"
	}
}
