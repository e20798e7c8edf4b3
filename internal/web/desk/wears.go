package desk

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/scene"
	"sodrik/internal/web/forms"
)

// sampleSide is how many modules of the person's own symbol a choice shows.
const sampleSide = 5

// sampleOf draws modules of the symbol in a form.
func sampleOf(m *compose.Rendition, form look.Modules) template.HTML {
	s := &scene.Scene{Width: sampleSide, Height: sampleSide}
	s.Items = []scene.Item{{Path: layout.Sample(m.Symbol, form, 9, 9, sampleSide), At: scene.Unit, Fill: ink.Black}}
	return template.HTML(svg.Inline(s, "", `aria-hidden="true"`))
}

// eyeOf draws an eye in black.
func eyeOf(l look.Look) template.HTML {
	l.Ink = ink.Black
	s := &scene.Scene{Width: 7, Height: 7, Items: layout.EyeSample(l)}
	return template.HTML(svg.Inline(s, "", `aria-hidden="true"`))
}

func number(f float64) string { return measure.Number(f, 2) }

// hex is what a colour chooser shows of a colour as it is typed, or of another where it is none.
func (b builder) hex(text string, other ink.Colour) string {
	if key, house := strings.CutPrefix(text, ink.House); house {
		if c, ok := b.c.House.Colour(key); ok {
			return c.Value.String()
		}
	}
	if c, ok := ink.Typed(text); ok {
		return c.String()
	}
	return other.String()
}

// inkFields are the ink's: one colour, or the colours of a gradient with its angle.
func (v *View) inkFields(b builder) {
	l := b.c.Rendition.Job.Look
	kind := b.at("/look/ink/kind")
	v.Inks = []Field{kind}
	v.InksShape = kind.Value
	if kind.Value == "plain" {
		v.Inks = append(v.Inks, v.Ink)
		return
	}
	for i := range max(2, l.Shade.N) {
		path := fmt.Sprintf("/look/ink/stops/%d/colour", i)
		f := b.at(path)
		f.Label = []string{"From", "to"}[min(1, i)]
		f.Swatches, f.Hex = b.inks(), b.hex(f.Value, l.Ink)
		v.Inks = append(v.Inks, f)
		v.InksShape += path
	}
	v.stops(b)
	for i := range l.Shade.N {
		if l.Shade.N > 2 {
			f := b.slide(fmt.Sprintf("/look/ink/stops/%d/at", i), l.Shade.Stops[i].At)
			f.Label = fmt.Sprintf("Place of %d", i+1)
			v.Inks = append(v.Inks, f)
		}
	}
	if kind.Value == "linear" {
		f := b.slide("/look/ink/angle", l.Shade.Angle)
		v.Inks = append(v.Inks, f)
	}
	if v.Wears = strings.ToLower(l.Shade.Kind) + " " + l.Shade.Stops[0].Colour.String() + " to " + l.Shade.Stops[max(0, l.Shade.N-1)].Colour.String(); l.Shade.None() {
		v.Wears = "a gradient"
	}
}

// Act is a change that one button makes.
type Act struct{ CodeID, Label, Patch string }

// stops are what can be done with the colours of a gradient: one more between the last two, each inner one taken away.
func (v *View) stops(b builder) {
	g := b.c.Rendition.Job.Look.Shade
	if g.N >= 2 && g.N < ink.MaxStops {
		at := (g.Stops[g.N-2].At + g.Stops[g.N-1].At) / 2
		stop := map[string]any{"at": math.Round(at*100) / 100, "colour": ink.Mix(g.Stops[:g.N], at).String()}
		v.Stops = append(v.Stops, Act{b.c.ID, "Add a colour", forms.PatchText(patch.Patch{{Op: "add", Path: fmt.Sprintf("/look/ink/stops/%d", g.N-1), Value: stop}})})
	}
	for i := 1; i < g.N-1; i++ {
		v.Stops = append(v.Stops, Act{b.c.ID, fmt.Sprintf("Take colour %d away", i+1), forms.PatchText(patch.Patch{{Op: "remove", Path: fmt.Sprintf("/look/ink/stops/%d", i)}})})
	}
}

// reversing swaps ink and paper: light on dark, or back.
func reversing(b builder) (out []Act) {
	l := b.c.Rendition.Job.Look
	if dark, ok := b.c.Rendition.DarkArtwork(b.place); ok && dark && !(l.Paper.None && l.Ink.Same(ink.White)) {
		out = append(out, Act{b.c.ID, "White on the artwork", forms.PatchText(patch.Patch{{Op: "add", Path: "/look/ink", Value: ink.White}, {Op: "add", Path: "/look/paper", Value: "none"}})})
	}
	if l.Paper.None || !l.Shade.None() {
		return out
	}
	label := "Reverse: light on dark"
	if l.Ink.Luminance() > l.Paper.Colour.Luminance() {
		label = "Back to dark on light"
	}
	return append(out, Act{b.c.ID, label, forms.PatchText(patch.Patch{{Op: "add", Path: "/look/ink", Value: l.Paper.Colour}, {Op: "add", Path: "/look/paper", Value: l.Ink}})})
}

// EachEye is one eye with a form of its own.
type EachEye struct {
	CodeID, Name string
	Fields       []Field
	Patch        string // makes it like the others, "" where it is
}

func (v *View) eachEye(b builder) {
	l := b.c.Rendition.Job.Look
	for i, name := range eyeNames {
		at := fmt.Sprintf("/look/eyes/each/%d/", i)
		eye := l.Eyes.Of(i)
		core := b.chosen(at+"core/motif", eye.Core.Motif)
		core.Kind = "choice"
		e := EachEye{CodeID: b.c.ID, Name: name, Fields: []Field{b.slide(at+"ring/corner", eye.Ring.Corners[0]), b.slide(at+"core/corner", eye.Core.Corners[0]), core}}
		for _, part := range []string{"ring", "core"} {
			f := b.at(at + part + "/ink")
			f.Swatches = append(b.inks(), Swatch{Value: "", Name: "As all three"})
			f.Hex = b.hex(f.Value, l.Ink)
			e.Fields = append(e.Fields, f)
		}
		if l.Eyes.Own[i] && eye != l.Eyes.All {
			e.Patch = forms.PatchText(patch.Patch{{Op: "replace", Path: strings.TrimSuffix(at, "/"), Value: map[string]any{}}})
		}
		v.EachEye[i] = e
	}
}

// formFields are those of modules and eyes.
func (v *View) formFields(b builder) {
	m := b.c.Rendition
	l := m.Job.Look
	join := b.at("/look/modules/join")
	join.Value, join.Choices = l.Modules.Join, nil
	for _, j := range b.declared("/look/modules/join").Choices {
		form := l.Modules
		if form.Join = j.Value; j.Value != "none" {
			form.Motif = "square"
		}
		form.Corner = max(form.Corner, 0.7) // with square corners the four are alike
		join.Choices = append(join.Choices, Choice{Value: j.Value, Words: j.Words, On: j.Value == l.Modules.Join, Picture: sampleOf(m, form)})
	}
	v.Modules = []Field{join}
	alone := l.Modules.Join == "none"
	if alone {
		pick := b.at("/look/modules/motif")
		pick.Value, pick.Choices = l.Modules.Motif, nil
		for _, x := range b.declared("/look/modules/motif").Choices {
			form := l.Modules
			if form.Motif = x.Value; x.Value == "custom" && form.Path == "" {
				form.Path = look.ExampleForm
			}
			pick.Choices = append(pick.Choices, Choice{Value: x.Value, Words: x.Words, On: x.Value == l.Modules.Motif, Picture: sampleOf(m, form)})
		}
		v.Modules = append(v.Modules, pick)
		if b.Text("/look/modules/motif") == "custom" {
			f := b.at("/look/modules/path")
			v.Modules = append(v.Modules, f)
		}
	}
	if !alone || l.Modules.Motif == "square" {
		corner := b.slide("/look/modules/corner", l.Modules.Corner)
		if l.Modules.Corner == 0 {
			corner.Hint = "Round ones show the joins."
		}
		v.Modules = append(v.Modules, corner)
	}
	if alone {
		v.Modules = append(v.Modules, b.slide("/look/modules/scale", l.Modules.Scale))
	}
	v.eachEye(b)
	eye := l.Eyes.All
	v.Eyes = []Field{b.slide("/look/eyes/ring/corner", eye.Ring.Corners[0]), b.slide("/look/eyes/core/corner", eye.Core.Corners[0])}
	core := b.at("/look/eyes/core/motif")
	core.Value = eye.Core.Motif
	for _, x := range b.declared("/look/eyes/core/motif").Choices {
		one := l
		one.Eyes.All.Core.Motif, one.Eyes.Own = x.Value, [3]bool{}
		core.Choices = append(core.Choices, Choice{Value: x.Value, Words: x.Words, On: x.Value == eye.Core.Motif, Picture: eyeOf(one)})
	}
	facing, texture, alignment := b.chosen("/look/eyes/facing", l.Eyes.Facing), b.chosen("/look/eyes/ring/texture", eye.Ring.Texture), b.chosen("/look/eyes/alignment", l.Eyes.Alignment)
	v.Eyes = append(v.Eyes, core)
	v.EyeMore = []Field{facing, texture, alignment}
	for i, name := range []string{"Top left", "Top right", "Below right", "Below left"} {
		f := b.slide(fmt.Sprintf("/look/eyes/ring/corners/%d", i), eye.Ring.Corners[i])
		f.Label = name
		v.EyeCorners = append(v.EyeCorners, f)
	}
	for _, part := range []string{"ring", "core"} {
		f := b.at("/look/eyes/" + part + "/ink")
		f.Swatches = append(b.inks(), Swatch{Value: "", Name: "As the modules"})
		f.Hex = b.hex(f.Value, l.Ink)
		v.EyeInks = append(v.EyeInks, f)
	}
	var shape strings.Builder
	for _, f := range v.Modules {
		shape.WriteString(f.ID + " ")
	}
	v.ModulesShape = shape.String()
	v.ModulesLine = map[string]string{"all": "joined", "rows": "in rows", "columns": "in columns", "none": "each a " + l.Modules.Motif}[l.Modules.Join]
	if l.Modules.Corner > 0 && (!alone || l.Modules.Motif == "square") {
		v.ModulesLine += ", corners " + number(l.Modules.Corner)
	}
}
