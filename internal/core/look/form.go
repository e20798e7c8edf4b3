package look

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/motif"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/schema"
)

// Modules is the form of the modules.
type Modules struct {
	Join   string  // one of Joins: which neighbours grow together
	Corner float64 // 0 square to 1 round
	Scale  float64 // 0.5 to 1 of a module's side, where modules are not joined
	Motif  string  // key of a motif, or "custom"; where modules are not joined
	Path   string  // of a custom motif, in a unit square
}

// Values of "join", which neighbours grow together, and of "facing", the default first.
var (
	joins   = schema.Words("all", "all that touch", "none", "each alone", "rows", "in rows", "columns", "in columns")
	facings = schema.Words("same", "all the same way", "inward", "towards the middle")
	Joins   = schema.Values(joins)
	Facings = schema.Values(facings)
)

var defaultModules = Modules{Join: "all", Scale: 1, Motif: "square"}

// Form is the path of the motif, in a unit square.
func (m Modules) Form() scene.Path { return form(m.Motif, m.Path) }

func form(key, path string) scene.Path {
	if key == "custom" {
		if p, err := motif.Custom(path); err == nil {
			return p
		}
	}
	x, ok := motif.Of(key)
	if !ok {
		x = motif.All[0]
	}
	return x.Path
}

// Eyes are the three finder patterns.
type Eyes struct {
	All       Eye
	Facing    string // one of Facings: inward turns each eye towards the middle
	Each      [3]Eye // top left, top right, bottom left
	Own       [3]bool
	Alignment string // "modules" or "eyes": which form the alignment patterns follow
}

// Of is the eye at a place: 0 top left, 1 top right, 2 bottom left.
func (e Eyes) Of(i int) Eye {
	if e.Own[i] {
		return e.Each[i]
	}
	return e.All
}

// Eye is one finder pattern.
type Eye struct {
	Ring Ring
	Core Core
}

// Ring is the outer part, seven modules wide and one thick. Its corners are shares of half its side.
type Ring struct {
	Corners [4]float64 // top left, top right, bottom right, bottom left
	Texture string     // "solid", or "modules": built of modules
	Ink     ink.Colour
	Inked   bool // has an ink of its own
}

// Core is the inner part, three modules wide.
type Core struct {
	Corners [4]float64
	Motif   string
	Scale   float64 // 0.8 to 1.2 of three modules
	Ink     ink.Colour
	Inked   bool
}

var defaultEye = Eye{Ring{Texture: "solid"}, Core{Motif: "square", Scale: 1}}

// Form is the path of the core's motif, in a unit square.
func (c Core) Form() scene.Path { return form(c.Motif, "") }

// Motifs are the values of "motif": the shipped ones, and for modules custom.
func Motifs() (out []string) {
	for _, m := range motif.All {
		out = append(out, m.Key)
	}
	return out
}

// sliding declares a number with its bounds.
func sliding(key string, least, most, step float64, f schema.Field, at func(any) any) schema.Field {
	f.Key, f.Type, f.At, f.Least, f.Most, f.Step, f.Code, f.Control = key, schema.Number, at, least, most, step,
		"look.share", "range"
	return f
}

func motifs() (out []schema.Choice) {
	for _, m := range motif.All {
		out = append(out, schema.Choice{Value: m.Key, Words: m.Name})
	}
	return out
}

// ExampleForm is the custom form before a person draws their own.
const ExampleForm = "M.5 0L1 1H0Z"

var moduleFields = schema.Part{
	Fields: []schema.Field{
		{Key: "join", At: schema.In(func(m *Modules) any { return &m.Join }), Choices: joins, Called: "form of the modules",
			Label: "Joined", Control: "pick",
			About: "Which neighbouring modules grow together."},
		{Key: "motif", At: schema.In(func(m *Modules) any { return &m.Motif }),
			Choices: append(motifs(), schema.Words("custom", "a form of your own")...),
			Called:  "form of the modules", Label: "Form", Control: "pick", Along: customForm,
			Schema: `{"anyOf": [{"$ref": "#/$defs/motif"}, {"const": "custom"}]}`,
			About:  "Where modules are not joined."},
		{Key: "path", Type: schema.Line, At: schema.In(func(m *Modules) any { return &m.Path }), Called: "custom form",
			Label: "Path", Control: "area",
			Hint:   "As in an SVG, in a square from 0,0 to 1,1. It covers a fifth of it, and its middle.",
			Schema: `{"type": "string", "minLength": 1}`,
			About:  "Of a custom motif: an SVG path in a square from 0,0 to 1,1, covering a fifth of it and its middle."},
		sliding("corner", 0, 1, 0.05, schema.Field{Called: "modules", Label: "Corners", About: "0 square, 1 round."},
			schema.In(func(m *Modules) any { return &m.Corner })),
		sliding("scale", 0.5, 1, 0.02, schema.Field{Called: "modules", Label: "Size", About: "Where modules are not joined."},
			schema.In(func(m *Modules) any { return &m.Scale })),
	},
	New: func() any { m := defaultModules; return &m },
	Rules: `"if": {"required": ["motif"], "properties": {"motif": {"const": "custom"}}},
		"then": {"required": ["path"]}, "else": {"not": {"required": ["path"]}}`,
}

// customForm is what changes along with the motif: only a custom one has a path.
func customForm(draft any, _, typed string) patch.Patch {
	if typed != "custom" {
		return patch.Without(draft, "/look/modules/path")
	}
	if _, ok := patch.Get(draft, "/look/modules/path"); !ok {
		return patch.Set("/look/modules/path", ExampleForm)
	}
	return nil
}

func (m Modules) check(o *fields.Object) {
	switch {
	case m.Motif == "custom" && m.Path == "":
		o.Problem("path", "look.path", "is missing; a custom motif is a path in a square from 0,0 to 1,1, such as M0 0H1V1H0Z")
	case m.Motif == "custom":
		if _, err := motif.Custom(m.Path); err != nil {
			o.Problem("path", "look.path", "%v", err)
		}
	case m.Path != "":
		o.Problem("path", "look.path", "is set, and the motif is %s; choose custom, or leave the path out", m.Motif)
	}
}

func cornerFields[T any](label string, at func(*T) *[4]float64) []schema.Field {
	one := schema.Field{Type: schema.Number, Keep: true, Most: 1, Step: 0.05, Control: "range", Code: "look.share",
		Called: "corner of the eyes", Put: putCorner}
	return []schema.Field{
		{Key: "corner", Typed: true, Type: schema.Number, Most: 1, Step: 0.05, Control: "range", Called: "corners of the eyes",
			Label: label, Put: putCorners, Show: showCorners},
		{Key: "corners", Type: schema.List, At: schema.In(func(t *T) any { return at(t) }), Item: &one, Least: 4, Most: 4,
			Def:   "corners",
			About: "Top left, top right, bottom right, bottom left; 0 square, 1 round."},
	}
}

func eyeInk[T any](label string, at func(*T) schema.OwnInk) schema.Field {
	return schema.Field{Key: "ink", Type: schema.Colour, At: schema.In(func(t *T) any { return at(t) }), Example: exampleInk,
		Called: "ink of the eyes", Label: label}
}

// exampleInk is the colour that problems show.
const exampleInk = "#12352b"

var (
	ringFields = schema.Part{
		Fields: append(cornerFields("Ring corners", func(r *Ring) *[4]float64 { return &r.Corners }),
			schema.Field{Key: "texture", At: schema.In(func(r *Ring) any { return &r.Texture }),
				Choices: schema.Words("solid", "solid", "modules", "built of modules"),
				Called:  "eyes", Label: "Texture", Schema: `{"enum": ["solid", "modules"]}`},
			eyeInk("Ring ink", func(r *Ring) schema.OwnInk { return schema.OwnInk{Colour: &r.Ink, Has: &r.Inked} })),
		New: func() any { r := defaultEye.Ring; return &r }, Name: "ring",
	}
	coreFields = schema.Part{
		Fields: append(cornerFields("Core corners", func(c *Core) *[4]float64 { return &c.Corners }),
			schema.Field{Key: "motif", At: schema.In(func(c *Core) any { return &c.Motif }), Choices: motifs(), Called: "eyes",
				Label: "Core form", Control: "pick",
				Schema: `{"$ref": "#/$defs/motif"}`},
			sliding("scale", 0.8, 1.2, 0.05, schema.Field{Called: "eye core", Label: "Core size"}, schema.In(func(c *Core) any {
				return &c.Scale
			})),
			eyeInk("Core ink", func(c *Core) schema.OwnInk { return schema.OwnInk{Colour: &c.Ink, Has: &c.Inked} })),
		New: func() any { c := defaultEye.Core; return &c }, Name: "core",
	}
	eyeParts = []schema.Field{
		{Key: "ring", Type: schema.Object, At: schema.In(func(e *Eye) any { return &e.Ring }), Part: &ringFields},
		{Key: "core", Type: schema.Object, At: schema.In(func(e *Eye) any { return &e.Core }), Part: &coreFields},
	}
	eyeFields  = schema.Part{Fields: eyeParts, New: func() any { e := defaultEye; return &e }}
	eyesFields = schema.Part{
		Fields: []schema.Field{
			{Key: "ring", Type: schema.Object, At: schema.In(func(e *Eyes) any { return &e.All.Ring }), Part: &ringFields},
			{Key: "core", Type: schema.Object, At: schema.In(func(e *Eyes) any { return &e.All.Core }), Part: &coreFields},
			{Key: "facing", At: schema.In(func(e *Eyes) any { return &e.Facing }), Choices: facings, Called: "eyes",
				Label: "Direction"},
			{Key: "alignment", At: schema.In(func(e *Eyes) any { return &e.Alignment }),
				Choices: schema.Words("modules", "like the modules", "eyes", "like the eyes"),
				Called:  "eyes", Label: "Small eyes", About: "Which form the small alignment patterns follow."},
			{Key: "each", Type: schema.List, Part: &eyeFields, Most: 3, Read: readEach, Write: eachEye,
				About: "Top left, top right, bottom left; what is not given is that of all."},
		},
		New: func() any { e := Default().Eyes; return &e },
	}
)

// readEach reads the eyes with a form of their own; what is not given is that of all.
func readEach(o schema.Reader, part any) {
	e := part.(*Eyes)
	for i, x := range o.Objects("each") {
		if i > 2 {
			o.Problem("each", "look.each", "has %d eyes; a code has three", i+1)
			continue
		}
		e.Each[i], e.Own[i] = e.All, true
		eyeFields.Read(x, &e.Each[i])
		x.Close()
	}
}

func eachEye(part any) any {
	e := part.(*Eyes)
	last := -1
	for i := range 3 {
		if e.Own[i] {
			last = i
		}
	}
	var each []any
	for i := 0; i <= last; i++ {
		eye := e.Of(i)
		each = append(each, eyeFields.Write(&eye, &e.All).Map())
	}
	if each == nil {
		return nil
	}
	return each
}

// putCorners sets all four at once.
func putCorners(_ any, path, typed string) (patch.Patch, *problem.Problem) {
	f, bad := typedNumber(path, typed)
	if bad != nil {
		return nil, bad
	}
	return patch.Set(path+"s", []any{f, f, f, f}), nil
}

// putCorner sets one of four: the others stay as they are, or square.
func putCorner(draft any, path, typed string) (patch.Patch, *problem.Problem) {
	f, bad := typedNumber(path, typed)
	if bad != nil {
		return nil, bad
	}
	at := path[:strings.LastIndexByte(path, '/')]
	all := []any{0.0, 0.0, 0.0, 0.0}
	old, _ := patch.Get(draft, at)
	if l, isList := old.([]any); isList && len(l) == 4 {
		copy(all, l)
	}
	all[path[len(path)-1]-'0'] = f
	return patch.Set(at, all), nil
}

func typedNumber(path, typed string) (any, *problem.Problem) {
	return (&schema.Field{Type: schema.Number}).Parse(path, typed)
}

// showCorners is one figure where the four are alike.
func showCorners(draft any, path string) string {
	list, _ := patch.Get(draft, path+"s")
	l, ok := list.([]any)
	if !ok || len(l) == 0 {
		return ""
	}
	figure := schema.Field{Type: schema.Number}
	first := figure.Format(l[0])
	for _, v := range l {
		if figure.Format(v) != first {
			return ""
		}
	}
	return first
}

// Plain says that neither modules nor eyes have a form of their own; the zero values have none either.
func (l Look) Plain() bool {
	d := Default()
	return (l.Modules == d.Modules || l.Modules == Modules{}) && (l.Eyes == d.Eyes || l.Eyes == Eyes{})
}

// Part is one ink of a look: whose it is, and where the job keeps it.
type Part struct {
	Path   string // JSON Pointer, from the job's root
	Words  string // such as "Ink", "The ring of an eye"
	Colour ink.Colour
}

// Parts are the inks that a look prints with, the modules' first.
func (l Look) Parts() (out []Part) {
	if l.Shade.None() {
		out = append(out, Part{"/look/ink", "Ink", l.Ink})
	}
	for i, s := range l.Shade.Stops[:l.Shade.N] {
		out = append(out, Part{fmt.Sprintf("/look/ink/stops/%d/colour", i), "The palest part of the ink", s.Colour})
	}
	eye := func(path string, e, like Eye) {
		if e.Ring.Inked && (!like.Ring.Inked || e.Ring.Ink != like.Ring.Ink) {
			out = append(out, Part{path + "/ring/ink", "The ring of an eye", e.Ring.Ink})
		}
		if e.Core.Inked && (!like.Core.Inked || e.Core.Ink != like.Core.Ink) {
			out = append(out, Part{path + "/core/ink", "The core of an eye", e.Core.Ink})
		}
	}
	eye("/look/eyes", l.Eyes.All, Eye{})
	for i, e := range l.Eyes.Each {
		if l.Eyes.Own[i] {
			eye(fmt.Sprintf("/look/eyes/each/%d", i), e, l.Eyes.All)
		}
	}
	return out
}

// Palest is the part whose ink differs least from a light paper.
func (l Look) Palest() Part {
	return slices.MaxFunc(l.Parts(), func(a, b Part) int { return cmp.Compare(a.Colour.Luminance(), b.Colour.Luminance()) })
}
