package content

import (
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// Webcal is a calendar to follow: its address, with webcal: in place of https:. The scheme is registered with IANA as
// provisional; the calendars of phones subscribe to what it names, an iCalendar object (RFC 5545) that they ask for again and
// again.
type Webcal struct {
	Address string // as typed
	url     URL
}

var webcalFields = schema.Part{
	Fields: []schema.Field{{Key: "address", Type: schema.Line, At: schema.In(func(w *Webcal) any { return &w.Address }),
		Required: true,
		Called:   "address of the calendar", Label: "Calendar", Mode: "url", Example: "marrowby.example/garden.ics",
		Hint:  "The address that the calendar gives out for following it. Later changes reach everybody who follows.",
		About: "The address of an iCalendar file that is kept up to date."}},
	New: func() any { return &Webcal{} },
}

var webcalKind = Kind{Key: "webcal", Long: "address", Name: "Calendar to follow", Outcome: "Someone follows our calendar",
	Calls:  []string{"Follow our calendar", "Never miss a sowing day"},
	Fields: &webcalFields, Takes: []Taker{{"webcal:", takeWebcal}},
	Example: `{"kind": "webcal", "address": "marrowby.example/garden.ics"}`}

func (w *Webcal) check(o *fields.Object) {
	if !o.Sound("address") {
		return
	}
	w.url = URL{Raw: w.Address}
	if scheme, rest, ok := strings.Cut(w.Address, "://"); ok && strings.EqualFold(scheme, "webcal") {
		w.url.Raw = "https://" + rest
	}
	if code, message := w.url.parse(); code != "" {
		o.Problem("address", code, "%s", message)
	}
}

func (w *Webcal) Kind() string { return "webcal" }

// Payload is the address with the scheme that calendars listen to.
func (w *Webcal) Payload() string {
	_, rest, _ := strings.Cut(w.url.Payload(), "://")
	return "webcal://" + rest
}

// Summary names the calendar.
func (w *Webcal) Summary() Summary {
	return Summary{"Follows", w.url.Host() + strings.TrimSuffix(w.url.path, "/")}
}

// Search is where the calendar lies.
func (w *Webcal) Search() string { return "calendar " + w.url.Search() }

// Phone asks whether to follow; nothing is added before a person agrees.
func (w *Webcal) Phone() Offer {
	o := w.url.Phone()
	o.Action, o.Warn = "Follows the calendar at", ""
	return o
}

// Cautions are those of its address, without what is about browsers.
func (w *Webcal) Cautions() (out []Caution) {
	for _, c := range w.url.Cautions() {
		if c.Code == "address.private" || c.Code == "address.alike" {
			out = append(out, c)
		}
	}
	return out
}

func takeWebcal(payload string) (map[string]any, bool) {
	_, rest, ok := strings.Cut(payload, "://")
	return map[string]any{"kind": "webcal", "address": rest}, ok && rest != ""
}
