package ships

import (
	"slices"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/place"
	"sodrik/internal/web/forms"
)

// Recipient is somebody whom files are for.
type Recipient struct {
	Key, Name, Words string
	Usual            bool     // of the medium
	files            []string // by their keys, in the order in which they are offered
	settings         []string // of what is in them
}

// whom are those whom files are for, with the files that each can use, the best first.
var whom = []Recipient{
	{
		Key:      "press",
		Name:     "A press",
		Words:    "inks, outlines, bleed",
		files:    []string{"pdfx", "sheet-pdfx", "eps", "tif", "pdf", "sheet-pdf"},
		settings: []string{"colour", "bleed_mm", "reduction_mm", "marks", "overprint"},
	},
	{
		Key:      "office",
		Name:     "An office",
		Words:    "documents, labels",
		files:    []string{"pdf", "sheet-pdf", "png", "svg", "sheet-png"},
		settings: []string{"dpi", "pixels"},
	},
	{
		Key:      "screen",
		Name:     "A screen",
		Words:    "slides, posts",
		files:    []string{"png", "sheet-png", "jpg", "sheet-jpg", "webp"},
		settings: []string{"quality"},
	},
	{
		Key:   "page",
		Name:  "A web page",
		Words: "pictures, text to embed",
		files: []string{"svg", "svg-current", "webp", "sheet-svg"},
	},
	{Key: "person", Name: "A person", Words: "by mail"},
}

// recipients are those whom files of a placement may be for, the usual one of its medium marked.
func recipients(m *compose.Rendition, p *place.Placement) []Recipient {
	usual := "office"
	if p != nil {
		if s, _ := place.SubstrateOf(p.Substrate); s.Screen {
			usual = "screen"
		}
	}
	if m.Pressed() {
		usual = "press"
	}
	out := slices.Clone(whom)
	for i := range out {
		out[i].Usual = out[i].Key == usual
	}
	return out
}

// Settings are the fields that say what is in the files for a recipient.
func (s Ships) Settings(key string) (out []forms.Field) {
	for _, r := range whom {
		if r.Key != key {
			continue
		}
		for _, name := range r.settings {
			out = append(out, s.Field(name))
		}
	}
	return out
}
