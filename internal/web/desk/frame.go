package desk

import (
	"sodrik/internal/core/content"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/typeface"
	"sodrik/internal/web/forms"
)

// frameFields are those of the frame.
func (v *View) frameFields(b builder) {
	f := b.c.Rendition.Job.Look.Frame
	worn := b.Text("/look/frame/shape")
	shape := b.chosen("/look/frame/shape", worn)
	shape.Kind, shape.Choices = "pick", append([]Choice{{Words: "none", On: worn == ""}}, shape.Choices...)
	for i := range shape.Choices {
		shape.Choices[i].Picture = framePicture(b.c, i)
	}
	v.Outlining, v.OutlineShape = []Field{b.chosen("/look/outline", b.c.Rendition.Job.Look.Outline)}, "outline"
	v.Framing, v.FrameShape = []Field{shape}, "none"
	v.captionFields(b)
	if f.None() {
		return
	}
	v.FrameShape += " framed"
	text := b.at("/look/frame/text")
	text.Sample = content.CallFor(b.c.Rendition.Job.Content)
	if f.Text == "" && text.Sample != "" {
		v.FrameActs = []Act{{b.c.ID, "Use “" + text.Sample + "”", forms.PatchText(patch.Set("/look/frame/text", text.Sample))}}
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
	v.Framing = append(v.Framing, text, font, size)
	v.FrameInks = []Field{ink, words}
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
	v.Captioning = []Field{text}
	if c.None() {
		return
	}
	side := b.chosen("/look/caption/side", c.Side)
	font := b.at("/look/caption/font")
	font.Choices = b.faces(c.Face())
	v.Captioning = append(v.Captioning, side, font)
	v.FrameShape += " captioned"
}
