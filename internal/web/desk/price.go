package desk

import (
	"fmt"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/patch"
	"sodrik/internal/web/forms"
)

// Price is what the payload costs, in words, and what would make it smaller, the step that saves most apart.
type Price struct {
	Words string
	Fewer string
	First *PriceStep
	More  []PriceStep
}

// PriceStep is one rung of the ladder.
type PriceStep struct {
	CodeID, Label, Patch, Saves, Size string
	First                             bool
}

func priceOf(id string, m *compose.Rendition) Price {
	p := m.Price()
	out := Price{Words: forms.PriceWords(p), Fewer: forms.FewerWords(p)}
	for i, s := range p.Steps {
		step := PriceStep{id, s.Label, forms.PatchText(s.Patch), fmt.Sprintf("−%d", s.Saves), fmt.Sprintf("%d × %d", s.Size, s.Size), i == 0}
		if i == 0 {
			out.First = &step
		} else {
			out.More = append(out.More, step)
		}
	}
	return out
}

// costs says what a field that is still empty would cost.
func costs(m *compose.Rendition) func(path string) string {
	adding := m.Adding()
	return func(path string) string { return forms.Cost(adding[path]) }
}

// campaignTags offers the tags that other codes of the campaign carry, newest first, where the code has none of its own.
func (v *View) campaignTags(rows []code.Alike) {
	if v.Form.Kind != "url" || v.TagsSet != "none" || v.Campaign == "" {
		return
	}
	for _, r := range rows {
		u, ok := r.Rendition.Job.Content.(*content.URL)
		if !ok || r.ID == v.ID || u.Tags == [5]string{} {
			continue
		}
		tags, words := map[string]any{}, []string{}
		for i, t := range u.Tags {
			if t != "" {
				tags[content.TagNames[i]] = t
				words = append(words, t)
			}
		}
		v.TagsOf, v.TagsFix = strings.Join(words, " · "), forms.PatchText(patch.Set("/content/tags", tags))
		return
	}
}
