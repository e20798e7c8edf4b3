package wears

import (
	"encoding/json"
	"fmt"
	"hash/fnv"
	"html/template"
	"maps"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/patch"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/forms"
)

// frameFields are those of the frame.
func (v *Wears) frameFields(b bound.Code) {
	f := b.C.Rendition.Job.Look.Frame
	worn := b.Text("/look/frame/shape")
	shape := b.Chosen("/look/frame/shape", worn)
	shape.Kind, shape.Choices = "pick", append([]forms.Choice{{Words: "none", On: worn == ""}}, shape.Choices...)
	for i := range shape.Choices {
		shape.Choices[i].Picture = framePicture(b.C, i)
	}
	v.Outlining, v.OutlineShape = []forms.Field{b.Chosen("/look/outline", b.C.Rendition.Job.Look.Outline)}, "outline"
	v.Framing, v.FrameShape = []forms.Field{shape}, "none"
	v.captionFields(b)
	if f.None() {
		return
	}
	v.FrameShape += " framed"
	text := b.At("/look/frame/text")
	text.Sample = content.CallFor(b.C.Rendition.Job.Content)
	if f.Text == "" && text.Sample != "" {
		v.FrameActs = []bound.Act{b.Act("Use “"+text.Sample+"”", patch.Set("/look/frame/text", text.Sample))}
	}
	font := b.At("/look/frame/font")
	font.Choices = b.Faces(f.Face())
	size := b.Slide("/look/frame/size", f.Size)
	ink := b.At("/look/frame/ink")
	ink.Swatches = append(b.Inks(), forms.Swatch{Value: "", Name: "That of the modules"})
	if ink.Hex = f.Ink.String(); !f.Inked {
		ink.Hex = b.C.Rendition.Job.Look.Ink.String()
	}
	words := b.At("/look/frame/text_ink")
	words.Swatches = append(b.Inks(), forms.Swatch{Value: "", Name: "As the frame has it"})
	if words.Hex = f.TextInk.String(); !f.TextInked {
		words.Hex = ink.Hex
	}
	v.Framing = append(v.Framing, text, font, size)
	v.FrameInks = []forms.Field{ink, words}
}

// captionFields are those of the line under or over all.
func (v *Wears) captionFields(b bound.Code) {
	c := b.C.Rendition.Job.Look.Caption
	text := b.At("/look/caption/text")
	text.Sample = b.C.Rendition.Job.Content.Summary().Object
	v.Captioning = []forms.Field{text}
	if c.None() {
		return
	}
	side := b.Chosen("/look/caption/side", c.Side)
	font := b.At("/look/caption/font")
	font.Choices = b.Faces(c.Face())
	v.Captioning = append(v.Captioning, side, font)
	v.FrameShape += " captioned"
}

// framePicture shows the picture of frame i; the browser fetches it when it comes into view. Its address is another only
// where the code looks otherwise within its frame, so that nobody who types words on a frame sees all of them drawn anew.
func framePicture(c *code.Code, i int) template.HTML {
	sum := fnv.New64a()
	sum.Write([]byte(c.Rendition.Symbol.Digest()))
	if worn, ok := patch.Get(c.Draft, "/look"); ok {
		if m, ok := worn.(map[string]any); ok {
			within := maps.Clone(m)
			delete(within, "frame")
			json.NewEncoder(sum).Encode(within)
		}
	}
	return template.HTML(
		fmt.Sprintf(`<img class="sprite s%d" src="/codes/%s/frames?of=%x" loading="lazy" alt="">`, i, c.ID, sum.Sum64()),
	)
}
