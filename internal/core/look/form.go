package look

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/motif"
	"sodrik/internal/core/scene"
)

// Modules is the form of the modules.
type Modules struct {
	Join   string  // one of Joins: which neighbours grow together
	Corner float64 // 0 square to 1 round
	Scale  float64 // 0.5 to 1 of a module's side, where modules are not joined
	Motif  string  // key of a motif, or "custom"; where modules are not joined
	Path   string  // of a custom motif, in a unit square
}

// Joins are the values of "join", Facings of "facing".
var (
	Joins   = []string{"all", "none", "rows", "columns"}
	Facings = []string{"same", "inward"}
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

// share reads a number between least and most.
func share(o *fields.Object, key string, def, least, most float64) float64 {
	f := o.Number(key, def)
	if f < least || f > most || math.IsNaN(f) {
		o.Problem(key, "look.share", "is %.3g; it lies between %v and %v", f, least, most)
		return def
	}
	return f
}

func readModules(o *fields.Object) Modules {
	m := Modules{Join: o.OneOf("join", Joins...), Corner: share(o, "corner", 0, 0, 1), Scale: share(o, "scale", 1, 0.5, 1), Motif: o.OneOf("motif", append(Motifs(), "custom")...), Path: strings.TrimSpace(o.String("path"))}
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
	o.Close()
	return m
}

func readEyes(o *fields.Object) Eyes {
	e := Eyes{All: readEye(o, defaultEye), Facing: o.OneOf("facing", Facings...), Alignment: o.OneOf("alignment", "modules", "eyes")}
	for i, x := range o.Objects("each") {
		if i > 2 {
			o.Problem("each", "look.each", "has %d eyes; a code has three", i+1)
			continue
		}
		e.Each[i], e.Own[i] = readEye(x, e.All), true
		x.Close()
	}
	o.Close()
	return e
}

func readEye(o *fields.Object, def Eye) Eye {
	e := def
	r := o.Object("ring")
	e.Ring.Corners = readCorners(r, def.Ring.Corners)
	if s := r.String("texture"); s != "" {
		e.Ring.Texture = r.OneOf("texture", "solid", "modules")
	}
	e.Ring.Ink, e.Ring.Inked = readInk(r, def.Ring.Ink, def.Ring.Inked)
	r.Close()
	c := o.Object("core")
	e.Core.Corners = readCorners(c, def.Core.Corners)
	if s := c.String("motif"); s != "" {
		e.Core.Motif = c.OneOf("motif", Motifs()...)
	}
	e.Core.Scale = share(c, "scale", def.Core.Scale, 0.8, 1.2)
	e.Core.Ink, e.Core.Inked = readInk(c, def.Core.Ink, def.Core.Inked)
	c.Close()
	return e
}

func readCorners(o *fields.Object, def [4]float64) [4]float64 {
	if !o.Has("corners") {
		return def
	}
	list := o.List("corners")
	if o.Sound("corners") && len(list) != 4 {
		o.Problem("corners", "look.corners", "has %d entries; it has four: top left, top right, bottom right, bottom left", len(list))
		return def
	}
	out := def
	for i, v := range list {
		f, ok := fields.Float(v)
		if !ok || f < 0 || f > 1 {
			o.ProblemBelow("corners", string(rune('0'+i)), "look.share", "lies between 0, square, and 1, round")
			continue
		}
		out[i] = f
	}
	return out
}

func readInk(o *fields.Object, def ink.Colour, has bool) (ink.Colour, bool) {
	c, ok := ink.Read(o, "ink", "#12352b")
	if !ok {
		return def, has
	}
	return c, true
}

func (m Modules) json() map[string]any {
	out, d := map[string]any{}, defaultModules
	if m.Join != d.Join {
		out["join"] = m.Join
	}
	if m.Corner != d.Corner {
		out["corner"] = m.Corner
	}
	if m.Scale != d.Scale {
		out["scale"] = m.Scale
	}
	if m.Motif != d.Motif {
		out["motif"] = m.Motif
	}
	if m.Path != "" {
		out["path"] = m.Path
	}
	return out
}

func (e Eyes) json() map[string]any {
	out := e.All.json(defaultEye)
	if e.Facing != Facings[0] {
		out["facing"] = e.Facing
	}
	if e.Alignment != "modules" {
		out["alignment"] = e.Alignment
	}
	last := -1
	for i := range 3 {
		if e.Own[i] {
			last = i
		}
	}
	var each []any
	for i := 0; i <= last; i++ {
		each = append(each, e.Of(i).json(e.All))
	}
	if each != nil {
		out["each"] = each
	}
	return out
}

func (e Eye) json(d Eye) map[string]any {
	out := map[string]any{}
	ring, core := map[string]any{}, map[string]any{}
	if e.Ring.Corners != d.Ring.Corners {
		ring["corners"] = e.Ring.Corners
	}
	if e.Ring.Texture != d.Ring.Texture {
		ring["texture"] = e.Ring.Texture
	}
	if e.Ring.Inked && (!d.Ring.Inked || e.Ring.Ink != d.Ring.Ink) {
		ring["ink"] = e.Ring.Ink
	}
	if e.Core.Corners != d.Core.Corners {
		core["corners"] = e.Core.Corners
	}
	if e.Core.Motif != d.Core.Motif {
		core["motif"] = e.Core.Motif
	}
	if e.Core.Scale != d.Core.Scale {
		core["scale"] = e.Core.Scale
	}
	if e.Core.Inked && (!d.Core.Inked || e.Core.Ink != d.Core.Ink) {
		core["ink"] = e.Core.Ink
	}
	if len(ring) > 0 {
		out["ring"] = ring
	}
	if len(core) > 0 {
		out["core"] = core
	}
	return out
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
