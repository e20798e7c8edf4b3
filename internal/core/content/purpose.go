package content

import (
	"net/netip"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/patch"
	"sodrik/internal/core/schema"
)

// Purpose is what a link is for, as the person says it. It changes no byte of the payload: it gives the summary its verb, a
// line to print beside the code, and rules of its own.
type Purpose struct {
	Key, Words string
	Verb       string // of the summary
	Action     string // a call to action to print beside the code
}

// Purposes are the values of "purpose", "" first.
var Purposes = []Purpose{
	{"", "a page", "Opens", ""},
	{"review", "a review form", "Asks for a review at", "How did we do? Two minutes of your time"},
	{"sign-up", "a sign-up form", "Signs people up at", "Put your name down"},
	{"video", "a video", "Plays", "Watch how it is done"},
	{"file", "a file to keep", "Hands over", "Take it home on your phone"},
	{"map", "a pin on a map", "Shows on a map", "Find the way"},
	{"profile", "a profile", "Shows the profile", "See what we are growing now"},
	{"chat", "a chat", "Opens a chat at", "Ask us while you stand here"},
}

// tellers are words of an address that tell what opens there, as people name their pages and files.
var tellers = map[string][]string{
	"review":  {"review", "reviews", "write-review", "writereview", "leave-a-review", "feedback"},
	"sign-up": {"signup", "sign-up", "register", "registration", "join", "newsletter", "subscribe"},
	"video":   {"video", "videos", "watch", "film"},
	"chat":    {"chat"},
}

// endings are those of files that people keep.
var endings = []string{".pdf", ".epub", ".zip", ".docx", ".xlsx", ".pptx"}

// PurposeOf reads from the words of an address what opens there, "" where they do not tell. It is a suggestion, which a
// person can change.
func PurposeOf(address string) string {
	bare := strings.ToLower(address)
	if _, rest, ok := strings.Cut(bare, "://"); ok {
		bare = rest
	}
	bare, _, _ = strings.Cut(bare, "?")
	bare, _, _ = strings.Cut(bare, "#")
	host, path, _ := strings.Cut(bare, "/")
	for _, ending := range endings {
		if strings.HasSuffix(path, ending) {
			return "file"
		}
	}
	steps := strings.Split(path, "/")
	if first, _, ok := strings.Cut(host, "."); ok {
		steps = append(steps, first)
	}
	for _, p := range Purposes {
		for _, step := range steps {
			if slices.Contains(tellers[p.Key], step) {
				return p.Key
			}
		}
	}
	return ""
}

func purposeOf(key string) Purpose {
	for _, p := range Purposes {
		if p.Key == key {
			return p
		}
	}
	return Purposes[0]
}

func purposeChoices() (out []schema.Choice) {
	for _, p := range Purposes {
		out = append(out, schema.Choice{Value: p.Key, Words: p.Words})
	}
	return out
}

// Action is a call to action for what the address is for, "" where that is not said.
func (u *URL) Action() string { return purposeOf(u.Purpose).Action }

// sharers are parameters by which shared links tell who shared them.
var sharers = []string{"si", "igsh", "igshid", "share_id", "shareid", "share_token", "shared_by", "sharedby", "sharer",
	"sharer_id", "invite_id", "rdid"}

// editing and member are steps of a path that lead to a form's or file's inside, and behind a sign-in.
var (
	editing = []string{"edit", "editor", "compose", "manage"}
	member  = []string{"login", "signin", "sign-in", "log-in", "sso", "account", "my-account", "admin", "wp-admin", "dashboard"}
)

// passing are words in addresses of what is over soon.
var passing = []string{"sale", "offer", "offers", "promo", "promotion", "deal", "deals", "tmp", "temp", "draft", "preview",
	"staging", "beta", "test"}

// perishable gives the step of a path that tells of a time or of something passing; "" where none does.
func perishable(steps []string) string {
	for _, s := range steps {
		for _, word := range strings.FieldsFunc(s, func(r rune) bool { return r == '-' || r == '_' || r == '.' }) {
			if n, err := strconv.Atoi(word); slices.Contains(passing, word) || err == nil && len(word) == 4 &&
				n >= 2000 && n < 2100 {
				return "/" + s
			}
		}
	}
	return ""
}

// Cautions are about addresses that work for the person who copied them and not for those who scan them, or not for long.
func (u *URL) Cautions() (out []Caution) {
	add := func(code, message, label string, p patch.Patch) {
		out = append(out, Caution{Code: code, Message: message, Label: label, Patch: p})
	}
	if u.host == "" {
		return nil
	}
	if alike := Lookalike(u.Host()); alike != "" {
		add("address.alike", alike+" People who look twice will not scan it, and those who do not may be led astray.", "", nil)
	}
	if ip, err := netip.ParseAddr(strings.Trim(u.host, "[]")); err == nil &&
		(ip.IsPrivate() || ip.IsLoopback() || ip.IsLinkLocalUnicast()) ||
		slices.ContainsFunc([]string{".local", ".internal", ".lan", ".localhost"}, func(s string) bool {
			return strings.HasSuffix(u.host, s)
		}) {
		add("address.private", "The address "+u.Host()+" is one of a private network. Phones elsewhere cannot reach it.", "", nil)
	}
	steps := strings.FieldsFunc(strings.ToLower(u.path), func(r rune) bool { return r == '/' })
	has := func(list []string) string {
		for _, s := range steps {
			if slices.Contains(list, s) {
				return s
			}
		}
		return ""
	}
	if step := has(editing); step != "" && (step == "edit" || step == "editor" || u.Purpose != "") {
		add("address.edit",
			"The address has /"+step+" in it, the page for changing it rather than the one to give out. Copy the link from "+
				"Share or Send.", "", nil)
	} else if step := has(member); step != "" {
		add("address.login",
			"The address has /"+step+" in it: people would probably be asked to sign in. Open it in a private window to see "+
				"what they get.", "", nil)
	}
	if u.Purpose == "file" && len(steps) > 0 && slices.Contains([]string{"view", "preview"}, steps[len(steps)-1]) {
		add("address.preview",
			"The address opens a page about the file rather than the file. If people should keep it, copy its download link.", "",
			nil)
	}
	if u.scheme == "http" {
		add("address.http", "The address starts with http:, so phones may show Not secure or ask before opening it.",
			"Use https:", set("/url", u.Secure()))
	}
	names := u.Leftovers()
	shared := u.params(func(key string) bool { return slices.Contains(sharers, strings.ToLower(key)) })
	names = slices.DeleteFunc(names, func(s string) bool { return slices.Contains(shared, s) })
	if len(shared) > 0 {
		add("address.sharer", "The address carries "+list(
			shared)+", which names whoever shared the link: every scan would be put down to that person.",
			"Leave out "+list(shared), set("/url", u.Without(shared...)))
	}
	if step := perishable(steps); step != "" {
		out = append(out, Caution{Code: "address.perishable", Note: true,
			Message: "The address has " + step +
				" in it, which sounds as if it will not last. A fixed code cannot be led elsewhere: make sure that the " +
				"address stays."})
	}
	if len(names) > 0 {
		add("address.leftovers",
			"The address carries "+list(names)+", left over from a copied link: every scan would count as that one click.",
			"Leave out "+list(names), set("/url", u.Without(names...)))
	}
	return out
}

// Savings: parameters and tags, the mark of a passage, and capitals, which a symbol holds in fewer bits. Scheme and host
// mean the same in capitals (RFC 3986, clause 6.2.2.1); whether a path does is the server's to say.
func (u *URL) Savings() (out []Saving) {
	add := func(label, field string, p patch.Patch, change func(*URL)) {
		then := *u
		change(&then)
		if code, _ := then.parse(); code == "" {
			out = append(out, Saving{label, field, p, &then})
		}
	}
	without := func(names []string) {
		if len(names) > 0 {
			text := u.Without(names...)
			add("Leave out "+list(names), "/content/url", set("/url", text), func(u *URL) { u.Raw = text })
		}
	}
	tracking := slices.Concat(u.CampaignTags(), u.Leftovers(), u.params(func(key string) bool {
		return slices.Contains(sharers, strings.ToLower(key)) && !slices.Contains(leftovers, strings.ToLower(key))
	}))
	without(tracking)
	if u.Tags != [5]string{} {
		add("Leave out the campaign tags", "/content/tags", drop("/tags"), func(u *URL) { u.Tags = [5]string{} })
	}
	if i := strings.Index(u.Raw, "#:~:text="); i > 0 {
		text := u.Raw[:i]
		add("Leave out the marked passage", "/content/url", set("/url", text), func(u *URL) { u.Raw = text })
	}
	if !u.Capitals {
		add("Capitals for "+u.scheme+" and host", "/content/capitals", set("/capitals", true), func(u *URL) { u.Capitals = true })
	}
	if upper := strings.ToUpper(u.Raw); upper != u.Raw && u.path+u.query != strings.ToUpper(u.path+u.query) &&
		u.Tags == [5]string{} && len(u.path) > 1 {
		add("Capitals throughout, if your server takes them for the same", "/content/url",
			patch.Patch{set("/url", upper)[0], set("/capitals", true)[0]}, func(u *URL) { u.Raw, u.Capitals = upper, true })
	}
	return out
}

// list joins names for a sentence.
func list(names []string) string {
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}
