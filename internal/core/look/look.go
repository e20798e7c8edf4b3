// Package look is what a code wears, and the rules of it: ink, paper, the form of modules and eyes. Parameters rather than a
// catalogue: every value between the ends is a look of its own.
package look

import (
	"encoding/json"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/schema"
)

// Look is the part of the job called "look".
type Look struct {
	Ink      ink.Colour // of a gradient, its first stop
	Shade    ink.Gradient
	Paper    Paper
	Modules  Modules
	Eyes     Eyes
	Mark     Mark
	Frame    Frame  // around it
	Outline  string // "square" or "round"
	Backdrop Backdrop
	Caption  Caption
}

// Paper is the colour behind the modules, or nothing.
type Paper struct {
	None   bool // the ground of the place shows through
	Colour ink.Colour
}

// Default is black on white.
func Default() Look {
	return Look{Ink: ink.Black, Paper: Paper{Colour: ink.White}, Modules: defaultModules,
		Eyes: Eyes{All: defaultEye, Facing: "same", Alignment: "modules"}, Outline: "square"}
}

// MarshalJSON writes a colour or "none".
func (p Paper) MarshalJSON() ([]byte, error) {
	if p.None {
		return []byte(`"none"`), nil
	}
	return p.Colour.MarshalJSON()
}

// MarshalJSON leaves out what is as in Default.
func (l Look) MarshalJSON() ([]byte, error) {
	return json.Marshal(Fields.Write(&l, nil).Map())
}

// Outlines of a code.
var outlines = schema.Words("square", "square", "round", "a disc, filled out")

// object declares a part that is only there where it is something.
func object(key, about string, part *schema.Part, at func(*Look) any) schema.Field {
	return schema.Field{Key: key, Type: schema.Object, At: schema.In(at), Part: part, About: about}
}

// Fields are those of a look.
var Fields = schema.Part{
	Fields: []schema.Field{
		{Key: "from", Read: func(o schema.Reader, _ any) {
			if from := o.String("from"); len(from) > maxFrom {
				o.Problem("from", "look.from", "is longer than %d bytes; it is the key of the look that this one came from",
					maxFrom)
			}
		}, Most: maxFrom, Off: true, Fixed: true, About: "Key of the saved look that this one came from."},
		{Key: "ink", Type: schema.Ink, Part: &gradientFields, Read: func(o schema.Reader, part any) {
			l := part.(*Look)
			l.Ink, l.Shade, _ = readShaded(o, "ink", l.Ink)
		}, Write: func(part any) any {
			l := part.(*Look)
			switch {
			case !l.Shade.None():
				return l.Shade
			case l.Ink != Default().Ink:
				return l.Ink
			}
			return nil
		}, Called: "ink", Label: "Ink"},
		{Key: "paper", Type: schema.Colour, Read: func(o schema.Reader, part any) {
			l := part.(*Look)
			if v, _ := o.Any("paper"); v == "none" {
				l.Paper = Paper{None: true}
			} else if c, ok := ink.Read(o, "paper", "#ffffff, or none"); ok {
				l.Paper.Colour = c
			}
		}, Write: func(part any) any {
			if p := part.(*Look).Paper; p != Default().Paper {
				return p
			}
			return nil
		}, Called: "paper", Label: "Paper",
			Schema: `{"anyOf": [{"const": "none"}, {"$ref": "#/$defs/colour"}], "default": "#ffffff"}`},
		object("modules", "", &moduleFields, func(l *Look) any { return &l.Modules }),
		object("eyes", "", &eyesFields, func(l *Look) any { return &l.Eyes }),
		object("mark", "", &markFields, func(l *Look) any { return &l.Mark }),
		object("frame", "", &frameFields, func(l *Look) any { return &l.Frame }),
		{Key: "outline", At: schema.In(func(l *Look) any { return &l.Outline }), Choices: outlines, Called: "outline",
			Label: "Outline",
			Hint:  "What fills a disc out says nothing, and keeps out of the quiet zone.",
			About: "round: a disc, filled out with modules that say nothing, outside the quiet zone. Not beside a frame."},
		object("backdrop", "", &backdropFields, func(l *Look) any { return &l.Backdrop }),
		object("caption", "", &captionFields, func(l *Look) any { return &l.Caption }),
	},
	New: func() any { l := Default(); return &l },
}

// Read reads a look, every problem noted.
func Read(o *fields.Object) Look {
	l := Default()
	Fields.Read(o, &l)
	if !l.Paper.None && o.Sound("ink") && o.Sound("paper") && l.Ink.Same(l.Paper.Colour) {
		o.Problem("ink", "look.same", "is the colour of the paper, %s, so nothing would show; choose another ink or paper", l.Ink)
	}
	l.Modules.check(o.Object("modules"))
	if o.Has("mark") {
		checkSource(o.Object("mark"), l.Mark.Source)
	}
	if o.Has("frame") {
		checkLine(o.Object("frame"), l.Frame.Text, MaxWords, "Scan to join our Wi-Fi", l.Frame.Font)
	}
	if o.Has("backdrop") {
		checkSource(o.Object("backdrop"), l.Backdrop.Source)
	}
	if o.Has("caption") {
		l.Caption.check(o.Object("caption"))
	}
	if l.Outline == "round" && !l.Frame.None() {
		o.Problem("outline", "look.outline", "is round, and there is a frame; take one of both")
	}
	o.Close()
	return l
}

// maxFrom bounds the key of a look.
const maxFrom = 60
