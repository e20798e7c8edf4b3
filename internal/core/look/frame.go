package look

import (
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
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

// Frames are the shapes, from print, packets and garden labels.
var Frames = []string{"rule", "brackets", "packet", "flag", "label", "plant-tag", "stamp", "arch", "ribbon", "circle"}

// FrameNames are what they are called.
var FrameNames = map[string]string{"rule": "rule with words", "brackets": "corner brackets", "packet": "seed packet", "flag": "band above", "label": "punched label",
	"plant-tag": "plant tag", "stamp": "stamp edge", "arch": "arch", "ribbon": "ribbon", "circle": "words on a circle"}

// MostWords is how many characters stand on a frame at most.
const MostWords = 40

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

func faceKeys() (out []string) {
	for _, f := range typeface.Faces {
		out = append(out, f.Key)
	}
	return out
}

func readFrame(o *fields.Object) Frame {
	f := Frame{Text: strings.TrimSpace(o.String("text")), Size: share(o, "size", 1, 0.5, 1.5)}
	if o.String("shape") == "" && o.Sound("shape") {
		o.Problem("shape", "frame.shape", "is missing; a frame is one of %s", strings.Join(Frames, ", "))
	} else {
		f.Shape = o.OneOf("shape", Frames...)
	}
	f.Font = ReadFont(o)
	if v, ok := o.Any("ink"); ok && isGradient(v) {
		if f.Shade = readGradient(o.Object("ink")); f.Shade.N > 0 {
			f.Ink, f.Inked = f.Shade.Stops[0].Colour, true
		}
	} else {
		f.Ink, f.Inked = readInk(o, ink.Black, false)
	}
	if c, ok := ink.Read(o, "text_ink", "#12352b"); ok {
		f.TextInk, f.TextInked = c, true
	}
	checkLine(o, f.Text, MostWords, "Scan to join our Wi-Fi", f.Font)
	o.Close()
	return f
}

// quoted names characters.
func quoted(list []rune) string {
	var out []string
	for _, r := range list[:min(len(list), 5)] {
		out = append(out, string(r))
	}
	return strings.Join(out, " ")
}

func (f Frame) json() map[string]any {
	out := map[string]any{"shape": f.Shape}
	if f.Text != "" {
		out["text"] = f.Text
	}
	if f.Font != typeface.Faces[0].Key {
		out["font"] = f.Font
	}
	if f.Size != 1 {
		out["size"] = f.Size
	}
	if !f.Shade.None() {
		out["ink"] = f.Shade
	} else if f.Inked {
		out["ink"] = f.Ink
	}
	if f.TextInked {
		out["text_ink"] = f.TextInk
	}
	return out
}
