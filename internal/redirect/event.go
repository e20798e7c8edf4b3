package redirect

import (
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/medama-io/go-useragent"
	"golang.org/x/text/language"

	"sodrik/internal/core/scan"
)

// agents knows browsers by their names. What it is made of takes longer to read than many a command to run.
var agents = sync.OnceValue(useragent.NewParser)

// previews are parts of the names of programs that fetch a page to show it in a message, which the parser does not count as
// robots. They are published by those who run them.
var previews = []string{"facebookexternalhit", "whatsapp", "telegrambot", "slackbot", "twitterbot", "linkedinbot", "discordbot",
	"skypeuripreview", "bot", "crawler", "spider", "preview", "curl/", "wget/", "python-", "go-http-client", "monitor", "uptime"}

// anyLanguage is what the parser makes of the "*" of a header (RFC 9110, 12.5.4).
var anyLanguage = language.Make("mul")

// maxLanguages is how many of the languages that a phone prefers are kept.
const maxLanguages = 5

// eventOf is a request as it is kept.
func (s *Service) eventOf(who *asker, now time.Time, kind scan.Kind, link string) scan.Event {
	e := scan.Event{Version: 1, At: now.UnixMilli(), Kind: kind, Link: link}
	e.ID = newID(now)
	if kind == scan.Scan && who.agent.robot {
		e.Kind = scan.Robot
	}
	if e.Bare = who.bare; e.Bare {
		return e
	}
	who.see(s)
	if e.Kind == scan.Scan {
		e.Phone = s.phones.of(who.r.Context(), now, who.from, who.name)
	}
	e.Country, e.Part, e.Town, e.Accuracy = who.at.Country, who.at.Part, who.at.Town, who.at.Accuracy
	e.Device, e.System = who.agent.device, who.agent.system
	e.Languages = who.tongues
	return e
}

// browser is what is known of a browser by its name.
type browser struct {
	robot          bool
	device, system string
}

// Names of browsers and lists of languages are few, and reading them takes longest of all that an answer does. Long ones, which
// somebody may make up by the thousand, are read each time.
const (
	remembered  = 4096
	rememberMax = 400 // bytes
)

var (
	browsers      = newMemory[browser](remembered)
	languagesRead = newMemory[[]string](remembered)
)

// newMemory holds what was asked for lately, so many of it.
func newMemory[V any](size int) *lru.Cache[string, V] {
	c, err := lru.New[string, V](size)
	if err != nil {
		panic(err) // of its size alone
	}
	return c
}

func agentOf(name string) browser {
	if b, ok := browsers.Get(name); ok {
		return b
	}
	a := agents().Parse(name)
	b := browser{robot: a.IsBot() || name == "" || robotic(name), system: a.OS().String()}
	switch {
	case a.IsTablet():
		b.device = "tablet"
	case a.IsMobile():
		b.device = "phone"
	case a.IsTV():
		b.device = "tv"
	case a.IsDesktop():
		b.device = "desktop"
	}
	if len(name) <= rememberMax {
		browsers.Add(strings.Clone(name), b)
	}
	return b
}

// languagesOf are the languages that a phone prefers, first first; nobody changes the list.
func languagesOf(header string) []string {
	if l, ok := languagesRead.Get(header); ok {
		return l
	}
	var out []string
	tags := accepted(header)
	for _, t := range tags[:min(len(tags), maxLanguages)] {
		if t != anyLanguage {
			out = append(out, t.String())
		}
	}
	if len(header) <= rememberMax {
		languagesRead.Add(strings.Clone(header), out)
	}
	return out
}

// accepted are the languages of a header, by weight. Parts that are none are passed over, and q counts in capitals too (RFC 9110,
// 5.6.6 and 12.4.2): what somebody wants does not go with what they have mistyped.
func accepted(header string) []language.Tag {
	header = strings.ReplaceAll(header, "Q=", "q=")
	if tags, _, err := language.ParseAcceptLanguage(header); err == nil {
		return tags
	}
	var whole []string
	for part := range strings.SplitSeq(header[:min(len(header), rememberMax)], ",") {
		if tags, _, err := language.ParseAcceptLanguage(part); err == nil && len(tags) > 0 {
			whole = append(whole, part)
		}
	}
	tags, _, err := language.ParseAcceptLanguage(strings.Join(whole, ","))
	if err != nil {
		return nil
	}
	return tags
}

// newID is a UUIDv7 (RFC 9562, 5.7) of the very moment that its event names: partitions and spans go by ids.
func newID(now time.Time) string {
	id := uuid.Must(uuid.NewV7())
	ms := now.UnixMilli()
	for i := range 6 {
		id[i] = byte(ms >> (40 - 8*i))
	}
	return id.String()
}

func robotic(name string) bool {
	name = strings.ToLower(name)
	for _, p := range previews {
		if strings.Contains(name, p) {
			return true
		}
	}
	return false
}
