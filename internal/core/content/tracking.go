package content

import (
	"slices"
	"strings"
)

// leftovers are parameters that link sharing and advertisement systems append to tell one click, one mail or one person
// from another. In print they are dead weight: every scan would count as the click the link was copied from.
var leftovers = []string{"gclid", "gclsrc", "dclid", "gbraid", "wbraid", "msclkid", "fbclid", "igshid", "igsh",
	"twclid", "ttclid",
	"yclid", "li_fat_id", "mc_cid", "mc_eid", "_ga", "_gl", "_hsenc", "_hsmi", "mkt_tok", "vero_id", "epik", "s_kwcid", "si"}

// Leftovers names the parameters of the address that stem from copying a tracked link.
func (u *URL) Leftovers() []string {
	return u.params(func(key string) bool { return slices.Contains(leftovers, strings.ToLower(key)) })
}

// CampaignTags names the utm_ parameters that stand in the address itself.
func (u *URL) CampaignTags() []string {
	return u.params(func(key string) bool { return strings.HasPrefix(key, "utm_") })
}

func (u *URL) params(is func(string) bool) []string {
	var found []string
	for _, p := range strings.Split(u.query, "&") {
		if key, _, _ := strings.Cut(p, "="); key != "" && is(key) {
			found = append(found, key)
		}
	}
	return found
}

// Without gives the address as typed less the named parameters, and nothing else changed.
func (u *URL) Without(names ...string) string {
	raw, anchor, hasAnchor := strings.Cut(u.Raw, "#")
	head, query, _ := strings.Cut(raw, "?")
	kept := slices.DeleteFunc(strings.Split(query, "&"), func(p string) bool {
		key, _, _ := strings.Cut(p, "=")
		return key == "" || slices.Contains(names, key)
	})
	if len(kept) > 0 {
		head += "?" + strings.Join(kept, "&")
	}
	if hasAnchor {
		head += "#" + anchor
	}
	return head
}

// Secure gives the address as typed with https: in place of http:.
func (u *URL) Secure() string {
	s := strings.TrimSpace(u.Raw)
	if len(s) >= 5 && strings.EqualFold(s[:5], "http:") {
		return "https:" + s[5:]
	}
	return s
}
