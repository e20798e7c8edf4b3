package wears

import (
	"fmt"
	"strings"

	"sodrik/internal/core/look"
	"sodrik/internal/core/patch"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/forms"
)

// EachEye is one eye with a form of its own.
type EachEye struct {
	CodeID, Name string
	Fields       []forms.Field
	Patch        string // makes it like the others, "" where it is
}

func (v *Wears) eachEye(b bound.Code) {
	l := b.C.Rendition.Job.Look
	for i, name := range drawn.EyeNames {
		at := fmt.Sprintf("/look/eyes/each/%d/", i)
		eye := l.Eyes.Of(i)
		core := b.Chosen(at+"core/motif", eye.Core.Motif)
		core.Kind = "choice"
		e := EachEye{
			CodeID: b.C.ID,
			Name:   name,
			Fields: []forms.Field{
				b.Slide(at+"ring/corner", eye.Ring.Corners[0]),
				b.Slide(at+"core/corner", eye.Core.Corners[0]),
				core,
			},
		}
		for _, part := range []string{"ring", "core"} {
			f := b.At(at + part + "/ink")
			f.Swatches = append(b.Inks(), forms.Swatch{Value: "", Name: "As all three"})
			f.Hex = b.Hex(f.Value, l.Ink)
			e.Fields = append(e.Fields, f)
		}
		if l.Eyes.Own[i] && eye != l.Eyes.All {
			e.Patch = forms.PatchText(patch.Patch{{Op: "replace", Path: strings.TrimSuffix(at, "/"), Value: map[string]any{}}})
		}
		v.EachEye[i] = e
	}
}

// moduleFields are those of modules.
func (v *Wears) moduleFields(b bound.Code) {
	m := b.C.Rendition
	l := m.Job.Look
	join := b.At("/look/modules/join")
	join.Value, join.Choices = l.Modules.Join, nil
	for _, j := range b.Declared("/look/modules/join").Choices {
		form := l.Modules
		if form.Join = j.Value; j.Value != "none" {
			form.Motif = "square"
		}
		form.Corner = max(form.Corner, 0.7) // with square corners the four are alike
		join.Choices = append(
			join.Choices,
			forms.Choice{Value: j.Value, Words: j.Words, On: j.Value == l.Modules.Join, Picture: drawn.Sample(m, form)},
		)
	}
	v.Modules = []forms.Field{join}
	alone := l.Modules.Join == "none"
	if alone {
		pick := b.At("/look/modules/motif")
		pick.Value, pick.Choices = l.Modules.Motif, nil
		for _, x := range b.Declared("/look/modules/motif").Choices {
			form := l.Modules
			if form.Motif = x.Value; x.Value == "custom" && form.Path == "" {
				form.Path = look.ExampleForm
			}
			pick.Choices = append(
				pick.Choices,
				forms.Choice{Value: x.Value, Words: x.Words, On: x.Value == l.Modules.Motif, Picture: drawn.Sample(m, form)},
			)
		}
		v.Modules = append(v.Modules, pick)
		if b.Text("/look/modules/motif") == "custom" {
			f := b.At("/look/modules/path")
			v.Modules = append(v.Modules, f)
		}
	}
	if !alone || l.Modules.Motif == "square" {
		corner := b.Slide("/look/modules/corner", l.Modules.Corner)
		if l.Modules.Corner == 0 {
			corner.Hint = "Round ones show the joins."
		}
		v.Modules = append(v.Modules, corner)
	}
	if alone {
		v.Modules = append(v.Modules, b.Slide("/look/modules/scale", l.Modules.Scale))
	}
	var shape strings.Builder
	for _, f := range v.Modules {
		shape.WriteString(f.ID + " ")
	}
	v.ModulesShape = shape.String()
	v.ModulesLine = map[string]string{"all": "joined", "rows": "in rows", "columns": "in columns", "none": "each a " +
		l.Modules.Motif}[l.Modules.Join]
	switch rounded := l.Modules.Corner > 0 && (!alone || l.Modules.Motif == "square"); {
	case rounded && alone && l.Modules.Corner >= round:
		v.ModulesLine = "each a dot"
	case rounded:
		v.ModulesLine += ", corners " + number(l.Modules.Corner)
	}
}

// round is the share of half a side from which the corners of a square make a dot of it.
const round = 0.95

// eyeFields are those of the eyes.
func (v *Wears) eyeFields(b bound.Code) {
	l := b.C.Rendition.Job.Look
	v.eachEye(b)
	eye := l.Eyes.All
	v.Eyes = []forms.Field{
		b.Slide("/look/eyes/ring/corner", eye.Ring.Corners[0]),
		b.Slide("/look/eyes/core/corner", eye.Core.Corners[0]),
	}
	core := b.At("/look/eyes/core/motif")
	core.Value = eye.Core.Motif
	for _, x := range b.Declared("/look/eyes/core/motif").Choices {
		one := l
		one.Eyes.All.Core.Motif, one.Eyes.Own = x.Value, [3]bool{}
		core.Choices = append(
			core.Choices,
			forms.Choice{Value: x.Value, Words: x.Words, On: x.Value == eye.Core.Motif, Picture: drawn.Eye(one)},
		)
	}
	facing, texture, alignment := b.Chosen(
		"/look/eyes/facing",
		l.Eyes.Facing,
	), b.Chosen(
		"/look/eyes/ring/texture",
		eye.Ring.Texture,
	), b.Chosen(
		"/look/eyes/alignment",
		l.Eyes.Alignment,
	)
	v.Eyes = append(v.Eyes, core)
	v.EyeMore = []forms.Field{facing, texture, alignment}
	for i, name := range []string{"Top left", "Top right", "Below right", "Below left"} {
		f := b.Slide(fmt.Sprintf("/look/eyes/ring/corners/%d", i), eye.Ring.Corners[i])
		f.Label = name
		v.EyeCorners = append(v.EyeCorners, f)
	}
	for _, part := range []string{"ring", "core"} {
		f := b.At("/look/eyes/" + part + "/ink")
		f.Swatches = append(b.Inks(), forms.Swatch{Value: "", Name: "As the modules"})
		f.Hex = b.Hex(f.Value, l.Ink)
		v.EyeInks = append(v.EyeInks, f)
	}
}
