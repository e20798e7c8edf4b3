package look

import (
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/schema"
	"sodrik/internal/core/typeface"
)

// Frame is what stands around a code, with words that say what it is for. It lies outside the quiet zone. The zero value is none.
type Frame struct {
	Shape     string  // one of Frames
	Text      string  // one line
	Font      string  // key of a typeface
	Size      float64 // of the words, against what the shape has
	Ink       ink.Colour
	Inked     bool // has an ink of its own; else that of the modules, gradient and all
	Shade     ink.Gradient
	TextInk   ink.Colour
	TextInked bool // else that of the frame, or of the paper where the words stand on ink

	Own *typeface.Face // what Font names where it came in as a file; whoever makes the job finds it
}

// FrameShapes are the shapes, from print, packets and garden labels, with what they are called.
var FrameShapes = schema.Words("rule", "rule with words", "brackets", "corner brackets", "packet", "seed packet", "flag",
	"band above", "label", "punched label",
	"plant-tag", "plant tag", "stamp", "stamp edge", "arch", "arch", "ribbon", "ribbon", "circle", "words on a circle")

// Frames are the values of "shape".
var Frames = schema.Values(FrameShapes)

// FrameName is what a shape is called.
func FrameName(shape string) string { return schema.WordsOf(FrameShapes, shape) }

// MaxWords is how many characters stand on a frame at most.
const MaxWords = 40

// None says that there is no frame.
func (f Frame) None() bool { return f.Shape == "" }

// Face is the typeface of the words.
func (f Frame) Face() *typeface.Face {
	if f.Own != nil {
		return f.Own
	}
	if face, ok := typeface.Of(f.Font); ok {
		return face
	}
	return typeface.Faces[0]
}

// ReadFont reads the key of a typeface: one at hand, or one that came in.
func ReadFont(o *fields.Object) string {
	if v, ok := o.Any("font"); ok {
		if key, _ := v.(string); typeface.Uploaded(key) {
			return key
		}
	}
	return o.OneOf("font", faceKeys()...)
}

func faceKeys() []string { return schema.Values(faces()) }

func faces() (out []schema.Choice) {
	for _, f := range typeface.Faces {
		out = append(out, schema.Choice{Value: f.Key, Words: f.Name})
	}
	return out
}

// FontField declares a typeface: one at hand, or one that came in.
func FontField[T any](at func(*T) *string) schema.Field {
	return schema.Field{Key: "font", ChoicesOf: faces, Open: true, Read: func(o schema.Reader, part any) {
		*at(part.(*T)) = ReadFont(o)
	},
		Write: func(part any) any {
			if key := *at(part.(*T)); key != typeface.Faces[0].Key {
				return key
			}
			return nil
		}, Called: "typeface", Label: "Typeface", Schema: `{"$ref": "#/$defs/typeface"}`}
}

var frameFields = schema.Part{
	Fields: []schema.Field{
		{Key: "shape", At: schema.In(func(f *Frame) any { return &f.Shape }), Required: true, Bears: true, Code: "frame.shape",
			Choices: FrameShapes, Called: "frame", Label: "Frame",
			About: "Outside the quiet zone; the width of a placement stays that of the code."},
		{Key: "text", Type: schema.Line, At: schema.In(func(f *Frame) any { return &f.Text }), Most: MaxWords,
			Called: "words on the frame", Label: "Words",
			About: "One line that says what the code does; every character has to be in the typeface."},
		FontField(func(f *Frame) *string { return &f.Font }),
		sliding("size", 0.5, 1.5, 0.05, schema.Field{Called: "size of the words", Label: "Size",
			About: "Of the words, against what the shape has."}, schema.In(func(f *Frame) any { return &f.Size })),
		{Key: "ink", Type: schema.Ink, Part: &gradientFields, Read: func(o schema.Reader, part any) {
			f := part.(*Frame)
			f.Ink, f.Shade, f.Inked = readShaded(o, "ink", f.Ink)
		}, Write: func(part any) any {
			f := part.(*Frame)
			switch {
			case !f.Shade.None():
				return f.Shade
			case f.Inked:
				return f.Ink
			}
			return nil
		}, Called: "ink of the frame", Label: "Frame ink", About: "That of the modules if not given, gradient and all."},
		{Key: "text_ink", Type: schema.Colour, At: schema.In(func(f *Frame) any {
			return schema.OwnInk{Colour: &f.TextInk, Has: &f.TextInked}
		}), Example: exampleInk,
			Called: "ink of the frame", Label: "Word ink",
			About: "That of the frame if not given, or of the paper where the words stand on ink."},
	},
	New:   func() any { return &Frame{Size: 1, Font: typeface.Faces[0].Key, Ink: ink.Black} },
	About: "Around the code, outside its quiet zone; the width of a placement stays that of the code.",
}

// quoted names characters.
func quoted(list []rune) string {
	var out []string
	for _, r := range list[:min(len(list), 5)] {
		out = append(out, string(r))
	}
	return strings.Join(out, " ")
}
