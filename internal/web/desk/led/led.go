// Package led is the stub of where a dynamic code leads: the draft of its destination beside what is live, its short links,
// and what changes at a time.
package led

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/route"
	"sodrik/internal/core/shortlink"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/forms"
)

// Leads is the stub; the zero value is that of a code that leads through no link.
type Leads struct {
	Here    bool
	Rev     int64
	Line    string // of the ticket
	Status  string
	Waiting bool // it was not handed over yet
	Resting bool
	Changed bool // the draft is another than what is live
	Now     Leg  // what a phone gets
	Then    Leg  // what it would get of the draft
	Differs []string
	Keepers []forms.Choice // who can look after it, whoever does chosen
	Keeper  string         // that
	Left    bool           // who is no member any more
	// Depends is the host of this server that the links stand on, before anything is in print; "" for one of the house's own
	Depends string
	NewHost string // that the draft leads to, and what is live did not

	To    forms.Field // of what is typed or pasted
	Form  forms.Form  // of a destination that is no address
	Timed []forms.Field
	Quiet []forms.Field
	More  []forms.Field

	Planned string // of the draft, for the folds' own lines
	Routed  bool   // routes hold, in the draft or live
	Links   []Link
	Past    []Past
	Remarks []string // what is allowed and likely to be regretted
}

// Leg is a destination as a phone shows it.
type Leg struct {
	Offer content.Offer
	Quiet string // the words of the quiet page, "" where there is none
}

// Apart says that a phone would get something else of the draft just now.
func (v Leads) Apart() bool { return !reflect.DeepEqual(v.Now, v.Then) }

// Link is a short link of the code.
type Link struct {
	ID, Address, Path string
	Where             string        // "gate, till"
	Place             int           // −1 for the code's own
	Own               bool          // of a placement
	Scans             string        // "12 scans, 3 of them today's"
	Hanging           []forms.Field // what is noted of it
	Spot              string
	Try               string // where it can be tried on this machine, "" for its own address
}

// Past is a destination that was live.
type Past struct {
	N    int
	Says string
	When string
}

// source shows a lead's fields as a form's.
type source struct {
	l    *leads.Lead
	doc  map[string]any
	kept map[string]link.Refusal // what is typed and refused, by key
}

func (s source) Text(path string) string {
	key := path[len("/lead/"):]
	if r, ok := s.kept[key]; ok {
		return r.Text
	}
	switch {
	case key == "to" && !pasted(s.l.To):
		return ""
	case key == "to":
		return Typed(s.l.To)
	case key == "then":
		return Typed(s.l.Then)
	case strings.HasPrefix(key, "to/"):
		return job.Text(map[string]any{"content": s.doc["to"]}, "/content"+key[len("to"):])
	}
	v, ok := s.doc[key]
	if !ok {
		return ""
	}
	return leads.Declared(key).Format(v)
}

func (s source) Faults() (out problem.List) {
	for key, r := range s.kept {
		out = append(out, problem.Problem{Field: "/lead/" + key, Code: r.Code, Message: r.Message})
	}
	return out
}

// pasted says that a destination is typed as a whole; others have a form.
func pasted(c content.Content) bool { return c == nil || c.Kind() == "url" }

// Typed is a destination as somebody would type it: an address as it stands, else its payload.
func Typed(c content.Content) string {
	switch k := c.(type) {
	case nil:
		return ""
	case *content.URL:
		return k.Payload()
	case *content.Phone:
		return k.Number.International()
	case *content.SMS: // as people write it, where that says the same
		words := "Text " + k.Body + " to " + k.Number.International()
		if values, bad := link.Destination(words, ""); bad == nil && values["kind"] == "sms" && values["body"] == k.Body {
			return words
		}
	}
	return c.Payload()
}

// Of is the stub of a code that leads somewhere.
func Of(b bound.Code, l *link.Led, counted map[string]scans.Count, now time.Time,
	try func(shortlink.Address) string) (v Leads) {
	if l == nil {
		return v
	}
	v.Here, v.Rev = true, l.Rev
	src := source{l: l.Draft, doc: l.Draft.JSON(), kept: l.Refused}
	field := func(key string) forms.Field {
		f := forms.Of(src, "", "/lead/"+key, leads.Declared(key))
		f.Path = key
		return f
	}
	v.To = forms.New(src, b.C.ID, "/lead/to", "area", "Leads to")
	v.To.Below, v.To.Mode, v.To.Sample = "/lead", "url", "marrowby.example/fair"
	v.To.Hint = "Or a number, contact, date, place or text."
	if to := l.Draft.To; !pasted(to) {
		v.Form = forms.BuildAt(to.Kind(), src, b.C.ID, "/lead", "/lead/to")
		v.Form.Rows = slices.DeleteFunc(v.Form.Rows, func(r forms.Row) bool {
			return len(r.Fields) == 1 && r.Fields[0].Path == "/lead/to/"+leads.Decides(to.Kind())
		})
		v.To.Label, v.To.Hint = "Elsewhere", "Paste an address, number, contact, date, place or text to lead there instead."
	}
	then := forms.New(src, "", "/lead/then", "text", "Then to")
	then.Path, then.Sample, then.Mode = "then", "marrowby.example/after", "url"
	v.Timed = []forms.Field{then, field("from"), field("until"), field("ends"), field("timezone")}
	v.Quiet = []forms.Field{field("message"), field("instead")}
	v.More = []forms.Field{field("place_tag"), field("scan_tag"), field("keep_query"), field("status"), field("max_age")}
	v.Planned = l.Draft.Plan(now)
	v.links(b, counted, try)
	if c, ok := l.Draft.To.(content.Careful); ok {
		for _, one := range c.Cautions() {
			if one.Code == "address.private" || one.Code == "address.alike" {
				v.Remarks = append(v.Remarks, one.Message)
			}
		}
	}
	if l.Live == nil {
		v.Waiting = true
		v.Line = l.Draft.Says() + " · not live yet"
		v.Status = "Goes live when the code is first handed over, so that no print leads nowhere."
		return v
	}
	live := l.Live.Lead
	v.Resting, v.Routed = live.Paused, len(l.Draft.Routes)+len(live.Routes) > 0
	v.Now, v.Then = leg(live, now), leg(l.Draft, now)
	v.Line = live.Says() + routesSay(live)
	switch v.Changed = l.Changed(); {
	case v.Changed:
		v.Line += " · draft"
		v.Differs, v.NewHost = l.Draft.Differences(live), l.Draft.NewHost(live)
		for _, p := range link.Links(b.C.Rendition.Job) {
			if leads.Own(v.NewHost, p.Address.Host) {
				v.NewHost = ""
			}
		}
		if v.Now.Offer.Strong+v.Now.Offer.Rest != v.Then.Offer.Strong+v.Then.Offer.Rest && len(v.Differs) == 1 {
			v.Differs = nil // what stands side by side says it
		}
	case v.Resting:
		v.Line += " · paused"
	}
	v.Status = fmt.Sprintf("Live since %s", l.Live.At.Format("2 January 2006, 15:04"))
	if l.Live.Who != "" {
		v.Status += ", by " + l.Live.Who
	}
	v.Status += "."
	for _, p := range l.Past {
		when := p.At.Format("2 Jan 2006, 15:04")
		if p.Who != "" {
			when += ", " + p.Who
		}
		v.Past = append(v.Past, Past{N: p.N, Says: p.Lead.Says(), When: when})
	}
	return v
}

// routesSay counts the routes of a lead that are on, behind where it leads.
func routesSay(l *leads.Lead) string {
	n := 0
	for _, r := range l.Routes {
		if !r.Off {
			n++
		}
	}
	switch n {
	case 0:
		return ""
	case 1:
		return " · 1 route"
	}
	return fmt.Sprintf(" · %d routes", n)
}

// leg is what a phone gets of a lead now.
func leg(l *leads.Lead, now time.Time) Leg {
	c := l.Compile("", "")
	a := c.At(now)
	if a.Does == leads.Quiet {
		return Leg{Quiet: a.Title}
	}
	to := l.To
	if _, i := c.Answer(c.Anybody(now), nil); i != route.Everybody {
		to = l.Routes[l.Route(c.Routes[i].Rule.ID)].To
	}
	return Leg{Offer: to.Phone()}
}

// links lists the short links of the code.
func (v *Leads) links(b bound.Code, counted map[string]scans.Count, try func(shortlink.Address) string) {
	for i, p := range link.Links(b.C.Rendition.Job) {
		where := ""
		for k, name := range p.Names {
			if k > 0 {
				where += ", "
			}
			where += name
		}
		one := Link{ID: fmt.Sprintf("word-%d", i), Address: p.Address.String(), Path: p.Address.Path, Where: where,
			Place: p.Place,
			Own:   i > 0, Try: p.Address.URL()}
		if i == 0 {
			one.Place = -1
		}
		one.Scans = scanned(counted[p.Address.Host+"/"+p.Address.Path])
		if try != nil {
			one.Try = try(p.Address)
		}
		v.Links = append(v.Links, one)
	}
}

// Kept adds who looks after it, of the members of the workspace.
func (v *Leads) Kept(l *link.Led, members []people.Member) {
	v.Keeper, v.Left = l.Keeper, l.KeeperID != ""
	for _, m := range members {
		if !m.Role.May(people.Change) {
			continue
		}
		here := m.ID == l.KeeperID
		if here {
			v.Keeper, v.Left = m.Name, false
		}
		v.Keepers = append(v.Keepers, forms.Choice{Value: m.ID, Words: m.Name, On: here})
	}
}

// Hang adds what is noted of each printed place.
func (v *Leads) Hang(noted map[string]*leads.Hanging) {
	for i := range v.Links {
		l := &v.Links[i]
		h := noted[l.Address]
		if h == nil {
			h = &leads.Hanging{}
		}
		doc := leads.Hangings.Write(h, nil).Map()
		src := typedSource(func(key string) string {
			if value, ok := doc[key]; ok {
				return leads.Hangings.Field(key).Format(value)
			}
			return ""
		})
		for k := range leads.Hangings.Fields {
			f := forms.Of(src, "", "/hanging/"+leads.Hangings.Fields[k].Key, &leads.Hangings.Fields[k])
			f.Path = leads.Hangings.Fields[k].Key
			f.ID = l.ID + "-" + f.Path
			l.Hanging = append(l.Hanging, f)
		}
		l.Spot = h.Spot
	}
}

// typedSource shows fields of a form by their keys.
type typedSource func(key string) string

func (s typedSource) Text(path string) string { return s(path[strings.LastIndexByte(path, '/')+1:]) }

func (typedSource) Faults() problem.List { return nil }

// scanned says a count.
func scanned(c scans.Count) string {
	words := measure.Count(int(c.All)) + " scans"
	switch {
	case c.All == 0:
		return "no scan yet"
	case c.All == 1:
		words = "1 scan"
	}
	if c.Day > 0 && c.Day < c.All {
		words += ", " + measure.Count(int(c.Day)) + " since yesterday"
	}
	return words
}

// Fields are those of the forms, for what is wrong with each.
func (v Leads) Fields() []forms.Field { return slices.Concat(v.Timed, v.Quiet, v.More) }
