package content

import (
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
	"sodrik/internal/core/shortlink"
)

// Dynamic is a short link of ours, in capitals, so that it is within the alphanumeric set. Where it leads is not in the code.
type Dynamic struct {
	Link    string // as typed
	address shortlink.Address
}

var dynamicFields = schema.Part{
	Fields: []schema.Field{{Key: "link", Type: schema.Line, At: schema.In(func(d *Dynamic) any { return &d.Link }),
		Required: true, Fixed: true, Off: true, Called: "short link", Example: "go.marrowby.example/FA1R",
		About: "Host and path of a short link, such as go.marrowby.example/FA1R. Where it leads is kept apart from the code."}},
	New: func() any { return &Dynamic{} },
}

var dynamicKind = Kind{Key: "dynamic", Long: "link", Name: "Short link", Outcome: "Someone follows our link", Group: Turned,
	Calls: []string{"Have a look", "See what is on"}, Fields: &dynamicFields, Takes: nil,
	Stays:   "it leads through a short link already",
	Example: `{"kind": "dynamic", "link": "go.marrowby.example/FA1R"}`}

func (d *Dynamic) check(o *fields.Object) {
	if !o.Sound("link") {
		return
	}
	var err error
	if d.address, err = shortlink.Parse(d.Link); err != nil {
		o.Problem("link", "link.form", "%v", err)
	}
}

// Through is the content with another short link. An error is a sentence that goes on after what the field is called.
func (d *Dynamic) Through(link string) (*Dynamic, error) {
	a, err := shortlink.Parse(link)
	return &Dynamic{link, a}, err
}

// Address is the short link.
func (d *Dynamic) Address() shortlink.Address { return d.address }

func (d *Dynamic) Kind() string { return "dynamic" }

// Payload is the address in capitals.
func (d *Dynamic) Payload() string { return d.address.Payload() }

// Leads is the verb of a code that leads through a short link.
const Leads = "Leads through"

// Summary is the short link; where it leads may be another place tomorrow.
func (d *Dynamic) Summary() Summary { return Summary{Leads, d.address.String()} }

// Search is the short link.
func (d *Dynamic) Search() string { return strings.ToLower(d.address.String()) }

// Phone is the browser, which follows the link.
func (d *Dynamic) Phone() Offer {
	o := Offer{Action: "Opens in the browser", Strong: d.address.Host, Rest: "/" + d.address.Path}
	if d.address.Scheme == "http" {
		o.Warn = "Not secure"
	}
	return o
}
