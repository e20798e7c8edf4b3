// Package says is the stub of what a code says: its content, what that costs, and the tags and link patterns of an address.
package says

import (
	"strconv"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// Says is the stub.
type Says struct {
	Line       ui.Says // of the ticket
	Fixed      string  // whether it works without us
	Ways       []Way   // to say it, where there are two
	Folded     bool    // they stand behind a word
	Form       forms.Form
	Tags       []forms.Field // of a web address
	TagsSet    string
	TagsOf     string     // the campaign's tags in words, "" where it has none or they are taken
	TagsFix    string     // the patch that takes them
	Links      []LinkForm // patterns of the house, of a web address
	Linked     bool       // the answer is to one of them
	Price      Price
	Level      forms.Field
	Mask       forms.Field
	MinVersion forms.Field
	QuietZone  forms.Field
}

// Symbol are the fields of the symbol, which stand at a gauge.
func (v *Says) Symbol() []forms.Field {
	return []forms.Field{v.Level, v.MinVersion, v.Mask, v.QuietZone}
}

// Fields are those of an address that stand beside its form.
func (v *Says) Fields() []forms.Field { return v.Tags }

// Of is the stub of a code.
func Of(b bound.Code) (v Says) {
	m := b.C.Rendition
	v.Line = ui.SaysOf(m.Job.Content)
	v.Fixed = "Fixed. Works for ever without us."
	kind := m.Job.Content.Kind()
	if text := b.Text("/content/kind"); text != "" {
		kind = text
	}
	v.Form = forms.Build(kind, b, b.C.ID, costs(m))
	v.Price = priceOf(b.C.ID, m)
	if forms.IsPayment(kind) {
		v.Fixed = "Fixed. Nobody stands between payer and account."
	}
	if kind == "url" {
		v.Fixed = "Fixed address. Works for ever without us."
		v.Links = linksOf(b.C.House, b.Text("/content/url"))
		var set []string
		for _, name := range content.TagNames {
			f := b.At("/content/tags/" + name)
			if f.Value != "" {
				set = append(set, f.Value)
			}
			v.Tags = append(v.Tags, f)
		}
		v.TagsSet = "none"
		if len(set) > 0 {
			v.TagsSet = strings.Join(set, " · ")
		}
	}
	v.Level = b.At("/symbol/level")
	v.Mask = b.At("/symbol/mask")
	v.MinVersion = b.At("/symbol/min_version")
	v.MinVersion.Hint = "So that a set looks alike: version 5 is 37 × 37."
	v.QuietZone = b.At("/symbol/quiet_zone")
	if v.QuietZone.Value == "" {
		v.QuietZone.Value = strconv.Itoa(m.Job.Symbol.QuietZone)
	}
	return v
}
