package says

import (
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/patch"
	"sodrik/internal/web/forms"
)

// OfCampaign offers the tags that other codes of the campaign carry, newest first, where the code has none of its own.
func (v *Says) OfCampaign(campaign, id string, rows []code.Alike) {
	if v.Form.Kind != "url" || v.TagsSet != "none" || campaign == "" {
		return
	}
	for _, r := range rows {
		u, ok := r.Rendition.Job.Content.(*content.URL)
		if !ok || r.ID == id || u.Tags == [5]string{} {
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
