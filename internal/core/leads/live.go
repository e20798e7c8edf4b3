package leads

import (
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"sodrik/internal/core/content"
	"sodrik/internal/core/route"
)

// Doing is what happens when somebody scans.
type Doing string

// Doings: a redirect, a page with one button, one to read, and a quiet page.
const (
	Goes  Doing = "go"
	Asks  Doing = "ask"
	Shows Doing = "show" // a page to read
	Quiet Doing = "quiet"
	Nears Doing = "near" // a page that asks the phone whether it is near
)

// Act is an answer to a phone.
type Act struct {
	Does  Doing    `json:"d"`
	To    string   `json:"t,omitempty"` // of a redirect, or of the button; absolute, in ASCII
	Title string   `json:"h,omitempty"` // of a page
	Lines []string `json:"l,omitempty"`
	Label string   `json:"b,omitempty"` // of the button
	File  *File    `json:"f,omitempty"` // that the button gives, in place of To
	Near  *Near    `json:"n,omitempty"` // of a page that asks the phone where it is
}

// Near is what a phone compares its place with.
type Near struct {
	Route string      `json:"i"` // id
	At    route.Point `json:"p"`
	Km    float64     `json:"k"`
}

// File is handed over by a page.
type File struct {
	Name string `json:"n"`
	Type string `json:"m"` // media type, with its charset
	Text string `json:"x"`
}

// PhoneSystem is that of our own phone, which follows links: what it says of itself, and it speaks no language in particular.
const PhoneSystem = "Android"

// Hop is one step of a phone that follows a link, as the service answered it.
type Hop struct {
	Asked  string // the address
	Status int    // of HTTP
	To     string // where it was sent on; "" for a page
	Page   string // the title of the page
}

// Live is a lead compiled for one of its short links: all that an answer needs.
type Live struct {
	Steps     []Step   `json:"s"` // of whom no route fits, in the order of their times; the first is from ever
	Routes    []Routed `json:"r,omitempty"`
	Ends      int64    `json:"e,omitempty"` // from when on no route holds any more, in Unix seconds; 0 is never
	Zone      string   `json:"z,omitempty"`
	Rest      string   `json:"g,omitempty"` // language of what is led to without one
	Status    int      `json:"c"`
	MaxAge    int      `json:"m,omitempty"` // seconds for which phones keep a 301 or 308
	KeepQuery bool     `json:"q,omitempty"`
	Place     string   `json:"p,omitempty"` // name of the placement
	Code      string   `json:"i,omitempty"` // whose link it is
	Workspace string   `json:"w,omitempty"`
	Trial     bool     `json:"t,omitempty"` // somebody tries it: not counted
	Until     int64    `json:"u,omitempty"` // of a trial, when it is over, in Unix seconds
	As        *As      `json:"j,omitempty"` // as whom somebody tries it

	rules *route.Set
}

// Routed is a route that is live.
type Routed struct {
	Rule route.Rule `json:"q"`
	Act  Act        `json:"x"`
}

// As is somebody as whom a link is tried, in place of who tries it.
type As struct {
	At      int64    `json:"a,omitempty"` // Unix seconds; 0 is now
	Country string   `json:"c,omitempty"`
	Part    string   `json:"p,omitempty"`
	Town    string   `json:"t,omitempty"`
	Tongues []string `json:"l,omitempty"`
	System  string   `json:"s,omitempty"`
}

// Step is what happens from a time on, in Unix seconds.
type Step struct {
	From int64 `json:"a,omitempty"`
	Act  Act   `json:"x"`
}

// At is what happens at a time to somebody of whom nothing is known but the place that was scanned.
func (v *Live) At(now time.Time) Act {
	if act, is := v.Over(now); is {
		return act
	}
	act, _ := v.Answer(v.Anybody(now), nil)
	return act
}

// Anybody is somebody of whom nothing is known but the place that was scanned, and who does not say where the phone is.
func (v *Live) Anybody(now time.Time) *route.Input {
	in := &route.Input{At: now, Place: v.Place}
	for _, r := range v.Routes {
		if r.Rule.Near != "" {
			in.Far = append(in.Far, r.Rule.ID)
		}
	}
	return in
}

// Near says that a route asks phones where they are.
func (v *Live) Near() bool {
	return slices.ContainsFunc(v.Routes, func(r Routed) bool { return r.Rule.Near != "" })
}

// Answer is what happens to somebody who scans, and the index of the route by which, or route.Everybody. reserve is as
// route.Set.Choose has it; nil takes nothing from a stock.
func (v *Live) Answer(in *route.Input, reserve func(i int) bool) (Act, int) {
	if len(v.Routes) > 0 && (v.Ends == 0 || in.At.Unix() < v.Ends) {
		if v.rules == nil {
			v.compile()
		}
		switch i := v.rules.Choose(in, reserve); {
		case v.rules.Unanswered(i, in):
			return v.Routes[i].asks(), route.Everybody
		case i != route.Everybody:
			return v.Routes[i].Act, i
		}
	}
	return v.usual(in.At), route.Everybody
}

// Acts are all that may happen to somebody from a time on, until the lead is changed or ends; what happens to whom no route fits
// is the first.
func (v *Live) Acts(now time.Time) []Act {
	out := []Act{v.usual(now)}
	if v.Ends != 0 && now.Unix() >= v.Ends {
		return out
	}
	for _, r := range v.Routes {
		out = append(out, r.Act)
	}
	return out
}

// Lasting is what happens at a time to whom no route fits but changes at a time: what a list of addresses can say.
func (v *Live) Lasting(now time.Time) Act {
	only := *v
	only.Routes = nil
	for _, r := range v.Routes {
		if r.Rule.Timed() {
			only.Routes = append(only.Routes, r)
		}
	}
	only.compile()
	return only.At(now)
}

// asks is the page that asks the phone whether it is near.
func (r *Routed) asks() Act {
	at, km, _ := r.Rule.NearWhat()
	return Act{Does: Nears, Title: "Where are you?", Lines: []string{"This code shows something of its own to those who are " +
		r.Rule.NearSays() + ".", "Your phone can look where it is. It compares, and tells no more than yes or no."},
		Near: &Near{r.Rule.ID, at, km}}
}

// Draws says that a scan needs a draw.
func (v *Live) Draws() bool { return len(v.Routes) > 0 && v.rules.Draws() }

// compile makes the rules ready.
func (v *Live) compile() {
	if v.rules = nil; len(v.Routes) == 0 {
		return
	}
	rules := make([]*route.Rule, len(v.Routes))
	for i := range v.Routes {
		rules[i] = &v.Routes[i].Rule
	}
	v.rules = route.Compile(rules, v.Zone, v.Rest)
}

// usual is what happens at a time to whom no route fits.
func (v *Live) usual(now time.Time) Act {
	at := v.Steps[0].Act
	for _, s := range v.Steps[1:] {
		if now.Unix() < s.From {
			break
		}
		at = s.Act
	}
	return at
}

// Compile is a lead without problems as it is answered at a placement, "" for none, by the path of its link.
func (l *Lead) Compile(place, path string) *Live {
	v := &Live{Status: 302, KeepQuery: l.KeepQuery, Place: place}
	if n, err := strconv.Atoi(l.Status); err == nil {
		v.Status = n
	}
	if l.Permanent() {
		v.MaxAge, _ = strconv.Atoi(l.MaxAge)
	}
	if l.Paused {
		v.Steps = []Step{{Act: l.quiet("This code is resting just now.")}}
		return v
	}
	v.Steps = []Step{{Act: l.act(l.To, place, path)}}
	for _, r := range l.Routes {
		if !r.Off {
			v.Routes = append(v.Routes, Routed{r.Rule, l.act(r.To, place, path)})
		}
	}
	if len(v.Routes) > 0 {
		v.Zone, v.Rest = l.Zone, l.Language
	}
	if v.Ends = l.moment(nil, "", l.Ends); v.Ends != 0 {
		v.Steps = append(v.Steps, Step{v.Ends, l.quiet("This has come to its end.")})
	}
	v.compile()
	return v
}

// Try is a lead as it is answered to somebody who tries the code at a placement, until a time. Nobody keeps the answer.
func (l *Lead) Try(place, path string, ends time.Time) *Live {
	v := l.Compile(place, path)
	v.Trial, v.MaxAge = true, 0
	if l.Permanent() {
		v.Status = 302
	}
	v.Until = ends.Unix()
	return v
}

// over is what happens once a trial is.
var over = Act{Does: Quiet, Title: "This trial is over.", Lines: []string{"Open the code again to try it."}}

// Over says that a trial is over, and what happens then.
func (v *Live) Over(now time.Time) (Act, bool) { return over, v.Until != 0 && now.Unix() >= v.Until }

func (l *Lead) quiet(usual string) Act {
	a := Act{Does: Quiet, Title: usual}
	if l.Words != "" {
		a.Title = l.Words
	}
	if l.Instead != "" {
		c, bad := content.New(map[string]any{"kind": "url", "url": l.Instead})
		if u, ok := c.(*content.URL); ok && len(bad) == 0 {
			a.To, a.Label = u.Payload(), "Go to "+u.Host()
		}
	}
	return a
}

// asks are the titles and buttons of what browsers do not open by themselves. decides is the field that the page decides itself,
// since it hands over the form that phones take.
var asks = map[string]struct{ title, label, file, media, decides string }{
	"contact": {"Save this contact?", "Save the contact", "contact.vcf", "text/vcard; charset=utf-8", "format"},
	"event":   {"Save this date?", "Save the date", "date.ics", "text/calendar; charset=utf-8", ""},
	"phone":   {"Call this number?", "Call", "", "", ""},
	"sms":     {"Write this message?", "Write the message", "", "", "form"},
	"email":   {"Write this e-mail?", "Write the e-mail", "", "", ""},
	"place":   {"Open this place on a map?", "Open the map", "", "", ""},
	"webcal":  {"Follow this calendar?", "Follow the calendar", "", "", ""},
}

// Decides is the key of the field of a kind that a page decides itself, "" for none: a form of where a link leads leaves it out.
func Decides(kind string) string { return asks[kind].decides }

// act is what a destination comes to. Only http and https are led to without a page, since browsers differ in the rest.
func (l *Lead) act(c content.Content, place, path string) Act {
	switch k := c.(type) {
	case *content.URL:
		u := *k
		if tag := slug(place); l.PlaceTag && tag != "" && u.Tags[4] == "" && !strings.Contains(u.Payload(), "utm_content=") {
			u.Tags[4] = tag
		}
		return Act{Does: Goes, To: l.tagged(u.Payload(), path)}
	case *content.Text:
		return toRead(k.Text)
	case *content.SMS:
		sms := *k
		sms.Form = "sms" // the form that is a URI (RFC 5724)
		c = &sms
	case *content.Contact:
		card := *k
		card.Format = "vcard3" // which every phone's address book takes
		c = &card
	}
	to := c.Payload()
	if strings.HasPrefix(to, "https://") || strings.HasPrefix(to, "http://") {
		return Act{Does: Goes, To: to}
	}
	o, ask := c.Phone(), asks[c.Kind()]
	a := Act{Does: Asks, Title: ask.title, Label: ask.label, Lines: slices.Concat([]string{o.Strong + o.Rest}, o.Lines)}
	if ask.file != "" {
		a.File = &File{Name: ask.file, Type: ask.media, Text: to}
	} else {
		a.To = to
	}
	return a
}

// maxHead is the longest line that heads a page to read, in characters.
const maxHead = 80

// toRead is the page of a text: its first line heads it where that is short, and a blank line begins a paragraph.
func toRead(text string) Act {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	head, rest, _ := strings.Cut(text, "\n")
	if utf8.RuneCountInString(head) > maxHead {
		head, rest = "To read", text
	}
	a := Act{Does: Shows, Title: head}
	for paragraph := range strings.SplitSeq(rest, "\n\n") {
		if paragraph = strings.Trim(paragraph, "\n"); paragraph != "" {
			a.Lines = append(a.Lines, paragraph)
		}
	}
	return a
}

// ScanTag is the name by which a site is told which link was scanned, so that it can report what was reached.
const ScanTag = "scan"

// tagged is an address with the path of the link that led there, where that is wanted and the name is free.
func (l *Lead) tagged(to, path string) string {
	at, err := url.Parse(to)
	if !l.ScanTag || path == "" || err != nil || at.Query().Has(ScanTag) {
		return to
	}
	if at.RawQuery != "" {
		at.RawQuery += "&"
	}
	at.RawQuery += ScanTag + "=" + url.QueryEscape(path)
	return at.String()
}

// slug is a name as a campaign tag writes it: small letters and digits, with hyphens between words.
func slug(name string) string {
	words := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	return strings.Join(words, "-")
}

// Encode writes what is live for a bucket.
func (v *Live) Encode() []byte {
	b, err := json.Marshal(v)
	if err != nil {
		panic("leads: " + err.Error()) // plain values alone
	}
	return b
}

// Decode reads what Encode wrote.
func Decode(text []byte) (*Live, error) {
	v := &Live{}
	if err := json.Unmarshal(text, v); err != nil {
		return nil, fmt.Errorf("leads: what is live cannot be read: %w", err)
	}
	if len(v.Steps) == 0 || !slices.Contains([]int{301, 302, 307, 308}, v.Status) {
		return nil, fmt.Errorf("leads: what is live holds no answer")
	}
	v.compile()
	return v, nil
}
