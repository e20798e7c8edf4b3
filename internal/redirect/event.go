package redirect

import (
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/medama-io/go-useragent"
	"golang.org/x/text/language"

	"sodrik/internal/client"
	"sodrik/internal/core/scan"
)

var agents = useragent.NewParser()

// previews are parts of the names of programs that fetch a page to show it in a message, which the parser does not count as
// robots. They are published by those who run them.
var previews = []string{"facebookexternalhit", "whatsapp", "telegrambot", "slackbot", "twitterbot", "linkedinbot", "discordbot",
	"skypeuripreview", "bot", "crawler", "spider", "preview", "curl/", "wget/", "python-", "go-http-client", "monitor", "uptime"}

// anyLanguage is what the parser makes of the "*" of a header (RFC 9110, 12.5.4).
var anyLanguage = language.Make("mul")

// maxLanguages is how many of the languages that a phone prefers are kept.
const maxLanguages = 5

// eventOf is a request as it is kept.
func (s *Service) eventOf(r *http.Request, now time.Time, kind scan.Kind, link string) scan.Event {
	e := scan.Event{Version: 1, At: now.UnixMilli(), Kind: kind, Link: link}
	e.ID = newID()
	name := r.UserAgent()
	agent := agents.Parse(name)
	if kind == scan.Scan && (agent.IsBot() || name == "" || robotic(name)) {
		e.Kind = scan.Robot
	}
	if r.Header.Get("Sec-GPC") == "1" || r.Header.Get("DNT") == "1" {
		e.Bare = true
		return e
	}
	from := client.Of(r, s.o.Proxies)
	if e.Kind == scan.Scan {
		e.Phone = s.phones.of(r.Context(), now, from, name)
	}
	at := s.o.Places.Of(from)
	e.Country, e.Part, e.Town, e.Accuracy = at.Country, at.Part, at.Town, at.Accuracy
	switch {
	case agent.IsTablet():
		e.Device = "tablet"
	case agent.IsMobile():
		e.Device = "phone"
	case agent.IsTV():
		e.Device = "tv"
	case agent.IsDesktop():
		e.Device = "desktop"
	}
	e.System = agent.OS().String()
	tags, _, err := language.ParseAcceptLanguage(r.Header.Get("Accept-Language"))
	if err == nil {
		for _, t := range tags[:min(len(tags), maxLanguages)] {
			if t != anyLanguage {
				e.Languages = append(e.Languages, t.String())
			}
		}
	}
	return e
}

// newID is a UUIDv7.
func newID() string { return uuid.Must(uuid.NewV7()).String() }

func robotic(name string) bool {
	name = strings.ToLower(name)
	for _, p := range previews {
		if strings.Contains(name, p) {
			return true
		}
	}
	return false
}
