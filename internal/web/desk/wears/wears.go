// Package wears is the stub of the look: ink, modules, eyes, mark, frame, what is behind, outline.
package wears

import (
	"html/template"
	"slices"

	"sodrik/internal/core/ink"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/forms"
)

// Wears is the stub.
type Wears struct {
	Line     string        // of the ticket
	Drawdown template.HTML // ink on paper, before the line
	LookSlot LookSlot
	Parts    []drawn.PartButton // of the look
	locked   bool               // to parts of the house

	Ink, Paper forms.Field
	Inks       []forms.Field // of the modules
	InksShape  string
	Stops      []bound.Act // what can be done with the colours of a gradient
	Reverse    []bound.Act

	Modules      []forms.Field
	ModulesShape string
	ModulesLine  string
	Eyes         []forms.Field
	EyeCorners   []forms.Field
	EyeMore      []forms.Field
	EyeInks      []forms.Field
	EachEye      [3]EachEye

	Mark           []forms.Field
	MarkMore       []forms.Field
	MarkShape      string
	Icons, Uploads []forms.Choice
	HouseMarks     []forms.Choice
	Uploaded       string // the answer is to an upload, of a mark or a backdrop; "" otherwise
	Left           string // what of an upload was left out

	Framing       []forms.Field
	FrameInks     []forms.Field
	FrameActs     []bound.Act
	Captioning    []forms.Field
	FrameShape    string
	Outlining     []forms.Field
	OutlineShape  string
	Backdrop      []forms.Field
	BackdropShape string
	BackdropLine  string
}

// Fields are all fields of the stub.
func (v *Wears) Fields() []forms.Field {
	out := slices.Concat(v.Inks, []forms.Field{v.Paper}, v.Modules, v.Eyes, v.EyeMore, v.EyeCorners, v.EyeInks)
	for _, e := range v.EachEye {
		out = append(out, e.Fields...)
	}
	return slices.Concat(out, v.Mark, v.MarkMore, v.Framing, v.FrameInks, v.Captioning, v.Outlining, v.Backdrop)
}

// Of is the stub of a code.
func Of(b bound.Code) (v Wears) {
	v.LookSlot, v.locked = LookSlotOf(b.C), b.Locked()
	l := b.C.Rendition.Job.Look
	v.Ink = b.At("/look/ink")
	v.Ink.Swatches, v.Ink.Hex = b.Inks(), l.Ink.String()
	if v.Ink.Value == "" {
		v.Ink.Value = ink.Black.String()
	}
	v.Paper = b.At("/look/paper")
	v.Paper.Swatches, v.Paper.Hex = b.Papers(), l.Paper.Colour.String()
	if v.Paper.Value == "" {
		v.Paper.Value = ink.White.String()
	}
	paper := "no paper"
	if !l.Paper.None {
		paper = b.ColourName(l.Paper.Colour)
	}
	v.Line = b.ColourName(l.Ink) + " on " + paper
	v.inkFields(b)
	v.Reverse = reversing(b)
	v.moduleFields(b)
	v.eyeFields(b)
	v.markFields(b)
	v.frameFields(b)
	v.backdropFields(b)
	if !l.Plain() {
		v.Line = v.ModulesLine + " · " + v.Line
	}
	if b.C.Rendition.Mark != nil {
		v.Line += " · mark " + measure.Share(b.C.Rendition.Mark.Look.Width)
	}
	if !l.Frame.None() {
		v.Line += " · " + look.FrameName(l.Frame.Shape)
	}
	if l.Outline == "round" {
		v.Line += " · in a disc"
	}
	if v.BackdropLine != "none" {
		v.Line += " · " + v.BackdropLine
	}
	v.Drawdown = drawn.Drawdown(l.Ink, l.Paper.None, l.Paper.Colour)
	return v
}

func number(f float64) string { return measure.Number(f, 2) }
