package says

import (
	"testing"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/pattern"
	"sodrik/internal/core/style"
	"sodrik/internal/web/desk/bound/boundtest"
)

// TestOfCampaign: the newest other code of the campaign that has tags is asked, and only where the code has none of its own.
func TestOfCampaign(t *testing.T) {
	alike := func(id, tags string) code.Alike {
		m, problems := compose.Parse([]byte(`{"content":{"kind":"url","url":"marrowby.example","tags":{`+tags+`}}}`), nil)
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		return code.Alike{ID: id, Rendition: m}
	}
	rows := []code.Alike{
		alike("c0de", `"source":"own"`),
		alike("none", ""),
		alike("newer", `"source":"flyer","campaign":"spring"`),
		alike("older", `"source":"poster"`),
	}
	for _, c := range []struct{ name, job, campaign, want string }{
		{"taken", `{"content":{"kind":"url","url":"marrowby.example"}}`, "Spring", "flyer · spring"},
		{"own tags", `{"content":{"kind":"url","url":"marrowby.example","tags":{"source":"x"}}}`, "Spring", ""},
		{"no campaign", `{"content":{"kind":"url","url":"marrowby.example"}}`, "", ""},
		{"no address", `{"content":{"kind":"text","text":"Seeds"}}`, "Spring", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := Of(boundtest.Of(t, c.job, nil))
			if v.OfCampaign(c.campaign, "c0de", rows); v.TagsOf != c.want || (v.TagsFix == "") != (c.want == "") {
				t.Errorf("%q with %q, want %q", v.TagsOf, v.TagsFix, c.want)
			}
		})
	}
}

// TestLinks: a pattern that makes the code's address holds what stands at its blanks.
func TestLinks(t *testing.T) {
	house := &style.Style{
		Links: []pattern.Pattern{
			{Key: "shop", Name: "Shop", Address: "https://shop.marrowby.example/{item}"},
			{Key: "chat", Name: "Chat", Address: "https://chat.example/{number}"},
		},
	}
	v := Of(boundtest.Of(t, `{"content":{"kind":"url","url":"https://shop.marrowby.example/nasturtium"}}`, house))
	if len(v.Links) != 2 || len(v.Links[0].Blanks) != 1 || v.Links[0].Blanks[0].Value != "nasturtium" ||
		v.Links[1].Blanks[0].Value != "" {
		t.Errorf("%+v", v.Links)
	}
	if v := Of(boundtest.Of(t, `{"content":{"kind":"text","text":"Seeds"}}`, house)); v.Links != nil || v.Tags != nil {
		t.Errorf("a text has %v and %v", v.Links, v.Tags)
	}
}
