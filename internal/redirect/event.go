package redirect

import (
	"crypto/rand"
	"encoding/json"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/medama-io/go-useragent"
	"golang.org/x/text/language"
)

// Event is a scan as the stream keeps it. It holds no address and no name of a browser. Fields that are not known are left out.
type Event struct {
	Version   int      `json:"v"`           // of this schema: 1
	ID        string   `json:"id"`          // UUIDv7 (RFC 9562), by which a double is told
	At        int64    `json:"at"`          // Unix milliseconds
	Kind      Kind     `json:"k"`           // who asked
	Link      string   `json:"l"`           // host and path
	Workspace string   `json:"w,omitempty"` // whose link it is; "" of a path that is none
	Code      string   `json:"c,omitempty"`
	Place     string   `json:"p,omitempty"`  // name of the placement
	Does      string   `json:"d,omitempty"`  // what was answered: go, ask, quiet
	Bare      bool     `json:"b,omitempty"`  // whoever asked wants to be counted only: nothing below is kept
	Device    string   `json:"dv,omitempty"` // phone, tablet, desktop, tv
	System    string   `json:"sy,omitempty"` // iOS, Android, …
	Languages []string `json:"la,omitempty"` // that the phone prefers, first first, as BCP 47
	Country   string   `json:"co,omitempty"` // ISO 3166-1; of the address, which is not kept
	Part      string   `json:"pa,omitempty"` // of the country
	Town      string   `json:"to,omitempty"`
	Accuracy  int      `json:"ac,omitempty"` // kilometres within which that is right
	Route     string   `json:"ro,omitempty"` // which route fired
	Draw      float64  `json:"dr,omitempty"` // of a route by share, from 0 to 1
}

// Kind is who asked.
type Kind string

// Kinds. Only Scan is counted as a person.
const (
	Scan    Kind = "scan"
	Robot   Kind = "robot"   // robots, monitors, and readers of previews
	Head    Kind = "head"    // who asked for the head alone
	Where   Kind = "where"   // who wanted to see where it leads
	Unknown Kind = "unknown" // a path that is no link
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
func eventOf(r *http.Request, now time.Time, kind Kind, link string) Event {
	e := Event{Version: 1, At: now.UnixMilli(), Kind: kind, Link: link}
	id, err := uuid.NewV7()
	if err != nil {
		id = uuid.UUID([]byte(rand.Text()[:16]))
	}
	e.ID = id.String()
	name := r.UserAgent()
	agent := agents.Parse(name)
	if kind == Scan && (agent.IsBot() || name == "" || robotic(name)) {
		e.Kind = Robot
	}
	if r.Header.Get("Sec-GPC") == "1" || r.Header.Get("DNT") == "1" {
		e.Bare = true
		return e
	}
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

func robotic(name string) bool {
	name = strings.ToLower(name)
	for _, p := range previews {
		if strings.Contains(name, p) {
			return true
		}
	}
	return false
}

func (e Event) encode() []byte {
	b, err := json.Marshal(e)
	if err != nil {
		panic("redirect: " + err.Error()) // plain values alone
	}
	return b
}
