package bench

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"slices"

	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/paste"
	"sodrik/internal/web/ui"
)

// View is the page.
type View struct {
	ui.Frame
	Text    string
	Reading int
	Draft   string // what travels through the page beside the fields
	Fields  []forms.Field
	Taken   *paste.Taken
	Symbol  template.HTML // "" where there is none yet
	Says    ui.Says
	Price   string
	Missing []string // what is wrong, in sentences, where no field shows it
	Files   []fileKind
	Proved  *Proved
	Waiting string // why there is no proof or file yet
}

// Shape changes when other fields are there, and when a medium brings its width.
func (v View) Shape() string { return v.Fields[0].Value }

// fileKind is a format that strangers take away.
type fileKind struct{ Format, Title, What string }

// Proved is a verdict with what was found.
type Proved struct {
	Verdict  proof.Verdict
	Words    string
	Where    string
	Findings []Finding
	None     string
}

// Finding is a remark, with the patch of its fix.
type Finding struct {
	proof.Finding
	Patch string
}

func newView(r *http.Request, k *work) View {
	v := View{Frame: ui.FrameOf(r, "Make a code", "bench"), Text: k.text, Reading: k.reading, Taken: k.taken}
	f := k.plain
	f.Tell(k.tried)
	v.Draft = carriedText(f.Draft)
	v.Fields = fieldsOf(k)
	if made := f.Made; made != nil {
		v.Symbol, v.Says, v.Price, v.Files = ui.Picture(
			made.For(made.Place(k.place())),
		), ui.SaysOf(
			made.Job.Content,
		), forms.PriceWords(
			made.Price(),
		), fileKinds
		return v
	}
	if k.long {
		v.Missing = []string{
			fmt.Sprintf(
				"The text has %s bytes; a code holds %s at most.",
				measure.Count(len(k.text)),
				measure.Count(content.MaxBytes),
			),
		}
		return v
	}
	if k.taken == nil {
		if k.tried {
			v.Missing = []string{"The text is empty. Paste a link, or what else the code should say."}
		}
		return v
	}
	for _, p := range f.Problems {
		if !slices.ContainsFunc(v.Fields, func(x forms.Field) bool { return x.Path == p.Field }) {
			v.Missing = append(v.Missing, paste.FieldWords(k.taken.Kind, p.Field)+" "+p.Message+".")
		}
	}
	return v
}

func carriedText(draft any) string {
	out := map[string]any{}
	for _, key := range carried {
		if v, ok := patch.Get(draft, "/"+key); ok {
			out[key] = v
		}
	}
	b, err := json.Marshal(out)
	if err != nil {
		panic(err) // it was read from JSON
	}
	return string(b)
}

// fieldsOf are those beside the text: where it will hang, how wide, and in which colours.
func fieldsOf(k *work) []forms.Field {
	of := func(path string) forms.Field { return forms.Of(k.plain, "", path, job.Field("url", path)) }
	medium := of(mediumPath)
	medium.Value = k.plain.Text(mediumPath)
	medium.Label, medium.Kind, medium.Choices = "Where it goes", "choice", []forms.Choice{
		{Words: "not said yet", On: medium.Value == ""},
	}
	for _, name := range place.Groups {
		g := forms.ChoiceGroup{Name: name}
		for _, m := range place.Media {
			if m.Group == name {
				g.Choices = append(g.Choices, forms.Choice{Value: m.Key, Words: m.Name, On: m.Key == medium.Value})
			}
		}
		if len(g.Choices) > 0 {
			medium.Grouped = append(medium.Grouped, g)
		}
	}
	out := []forms.Field{medium}
	if m, ok := place.MediumOf(medium.Value); ok {
		width := of(widthPath)
		width.Hint = fmt.Sprintf(
			"In mm, with its border. Usual on this medium: %s, scanned from %s.",
			m.Width,
			m.Distance.Spoken(),
		)
		if made := k.plain.Made; made != nil {
			p := made.Place(0)
			width.Hint += fmt.Sprintf(" A module is %s.", measure.Length(float64(p.Width)/float64(made.For(p).Modules())))
		}
		out = append(out, width)
	}
	for path, usual := range map[string]string{inkPath: "#000000", paperPath: "#ffffff"} {
		f := of(path)
		f.Hint = ""
		if f.Hex = f.Value; f.Hex == "" {
			f.Value, f.Hex = usual, usual
		}
		out = append(out, f)
	}
	slices.SortStableFunc(out, func(a, b forms.Field) int { return order(a.Path) - order(b.Path) })
	return out
}

func order(path string) int {
	return slices.Index([]string{mediumPath, widthPath, inkPath, paperPath}, path)
}

func provedOf(k *work, p *proof.Proof) *Proved {
	out := &Proved{Verdict: p.Verdict, Words: p.Headline(), Where: p.Where, None: k.plain.Made.Unfound(p, k.place())}
	if out.Where == "" {
		out.Where = "As a picture only. Say where it goes, and it is proved for print."
	}
	for _, f := range p.Findings {
		one := Finding{Finding: f}
		if f.Fix != nil {
			one.Patch = forms.PatchText(f.Fix.Patch)
		}
		out.Findings = append(out.Findings, one)
	}
	return out
}
