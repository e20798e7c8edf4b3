// Package look is what a code wears, and the rules of it: ink, paper, the form of modules and eyes. Parameters rather than a
// catalogue: every value between the ends is a look of its own.
package look

import (
	"encoding/json"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
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
	Outline  string // one of Outlines
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
	return Look{Ink: ink.Black, Paper: Paper{Colour: ink.White}, Modules: defaultModules, Eyes: Eyes{All: defaultEye, Facing: "same", Alignment: "modules"}, Outline: "square"}
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
	out := map[string]any{}
	if !l.Shade.None() {
		out["ink"] = l.Shade
	} else if d := Default(); l.Ink != d.Ink {
		out["ink"] = l.Ink
	}
	if d := Default(); l.Paper != d.Paper {
		out["paper"] = l.Paper
	}
	if m := l.Modules.json(); len(m) > 0 {
		out["modules"] = m
	}
	if m := l.Eyes.json(); len(m) > 0 {
		out["eyes"] = m
	}
	if !l.Mark.None() {
		out["mark"] = l.Mark.json()
	}
	if !l.Frame.None() {
		out["frame"] = l.Frame.json()
	}
	if l.Outline == "round" {
		out["outline"] = l.Outline
	}
	if !l.Backdrop.None() {
		out["backdrop"] = l.Backdrop.json()
	}
	if !l.Caption.None() {
		out["caption"] = l.Caption.json()
	}
	return json.Marshal(out)
}

// Outlines are the values of "outline".
var Outlines = []string{"square", "round"}

// Read reads a look, every problem noted.
func Read(o *fields.Object) Look {
	l := Default()
	if v, ok := o.Any("ink"); ok && isGradient(v) {
		l.Shade = readGradient(o.Object("ink"))
		if l.Shade.N > 0 {
			l.Ink = l.Shade.Stops[0].Colour
		}
	} else if c, ok := ink.Read(o, "ink", "#12352b"); ok {
		l.Ink = c
	}
	if v, _ := o.Any("paper"); v == "none" {
		l.Paper = Paper{None: true}
	} else if c, ok := ink.Read(o, "paper", "#ffffff, or none"); ok {
		l.Paper.Colour = c
	}
	if !l.Paper.None && o.Sound("ink") && o.Sound("paper") && l.Ink.Same(l.Paper.Colour) {
		o.Problem("ink", "look.same", "is the colour of the paper, %s, so nothing would show; choose another ink or paper", l.Ink)
	}
	l.Modules = readModules(o.Object("modules"))
	l.Eyes = readEyes(o.Object("eyes"))
	if o.Has("mark") {
		l.Mark = readMark(o.Object("mark"))
	}
	if o.Has("frame") {
		l.Frame = readFrame(o.Object("frame"))
	}
	if l.Outline = o.OneOf("outline", Outlines...); l.Outline == "round" && !l.Frame.None() {
		o.Problem("outline", "look.outline", "is round, and there is a frame; take one of both")
	}
	if o.Has("backdrop") {
		l.Backdrop = readBackdrop(o.Object("backdrop"))
	}
	if o.Has("caption") {
		l.Caption = readCaption(o.Object("caption"))
	}
	if from := o.String("from"); len(from) > mostFrom {
		o.Problem("from", "look.from", "is longer than %d bytes; it is the key of the look that this one came from", mostFrom)
	}
	o.Close()
	return l
}

// mostFrom bounds the key of a look.
const mostFrom = 60
