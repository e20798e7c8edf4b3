package content

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"sodrik/internal/core/fields"
)

// Contact is a person or an organisation to be saved in an address book. The payload is a vCard 3.0 (RFC 2426), a vCard 4.0
// (RFC 6350) or a MECARD.
type Contact struct {
	Format                        string // one of Formats
	Given, Family, Prefix, Suffix string
	Organisation, Title           string
	Phones                        []ContactPhone
	Emails                        []ContactEmail
	URLs                          []ContactURL
	Address                       PostalAddress
	Birthday                      string // 2006-01-02, or --01-02 without its year
	Note                          string
	Socials                       []Social
}

// ContactPhone is one number; Type is one of PhoneTypes or "".
type ContactPhone struct {
	Type   string
	Number Number
	at     int // its index in the job
}

// ContactEmail is one e-mail address; Type is one of EmailTypes or "".
type ContactEmail struct {
	Type, Address string
	at            int
}

// ContactURL is one web address.
type ContactURL struct {
	URL string
	at  int
}

// Social is a profile: a service by the name the person gives it, and its address.
type Social struct {
	Service, URL string
	at           int
}

// PostalAddress is where letters go.
type PostalAddress struct{ Street, City, Region, Postcode, Country string }

// Values of the keys "format" and "type".
var (
	Formats    = []string{"vcard3", "vcard4", "mecard"}
	PhoneTypes = []string{"mobile", "work", "home", "fax"}
	EmailTypes = []string{"work", "home"}
)

// mostItems bounds each list of a contact.
const mostItems = 10

func readContact(o *fields.Object) *Contact {
	c := &Contact{Format: o.OneOf("format", Formats...)}
	line := func(key string) string {
		s := strings.TrimSpace(o.String(key))
		if hasControl(s, "") {
			o.Problem(key, "contact.control", "holds a line break or another control character; it is one line")
		}
		return s
	}
	c.Given, c.Family, c.Prefix, c.Suffix = line("given"), line("family"), line("prefix"), line("suffix")
	c.Organisation, c.Title = line("organisation"), line("title")
	region := readRegion(o)
	for i, p := range o.Objects("phones") {
		kind := p.OneOf("type", append([]string{""}, PhoneTypes...)...)
		if strings.TrimSpace(p.String("number")) != "" {
			c.Phones = append(c.Phones, ContactPhone{kind, readNumber(p, "number", region, true), i})
		}
		p.Close()
	}
	for i, e := range o.Objects("emails") {
		kind := e.OneOf("type", append([]string{""}, EmailTypes...)...)
		if text := e.String("address"); strings.TrimSpace(text) != "" {
			a, message := Address(text)
			if message != "" {
				e.Problem("address", "email.address", "%s", message)
			}
			c.Emails = append(c.Emails, ContactEmail{kind, a, i})
		}
		e.Close()
	}
	for i, v := range o.List("urls") {
		text, isText := v.(string)
		if !isText && v != nil {
			o.ProblemBelow("urls", itoa(i), "type", "must be text")
		}
		if strings.TrimSpace(text) != "" {
			u := &URL{Raw: text}
			if code, message := u.parse(); code != "" {
				o.ProblemBelow("urls", itoa(i), code, message)
			}
			c.URLs = append(c.URLs, ContactURL{u.Payload(), i})
		}
	}
	c.Address = readPostal(o.Object("address"))
	c.Birthday = strings.TrimSpace(o.String("birthday"))
	c.birthday(o)
	if c.Note = o.String("note"); hasControl(c.Note, "\n\r\t") {
		o.Problem("note", "contact.control", "holds a control character")
	}
	for i, s := range o.Objects("socials") {
		service, text := strings.TrimSpace(s.String("service")), s.String("url")
		if service != "" || strings.TrimSpace(text) != "" {
			u := &URL{Raw: text}
			if code, message := u.parse(); code != "" {
				s.Problem("url", code, "%s", message)
			}
			if service == "" {
				s.Problem("service", "contact.service", "is missing; it names what the profile is on")
			} else if hasControl(service, "") || strings.Contains(service, `"`) {
				s.Problem("service", "contact.service", "holds a character that a name cannot have here")
			}
			c.Socials = append(c.Socials, Social{service, u.Payload(), i})
		}
		s.Close()
	}
	for _, list := range []string{"phones", "emails", "urls", "socials"} {
		if n := len(o.List(list)); n > mostItems {
			o.Problem(list, "contact.many", "has %d entries; at most %d are taken", n, mostItems)
		}
	}
	if c.Name() == "" {
		o.Problem("given", "contact.name", "is empty, and so are family name and organisation; a contact needs a name to be found under")
	}
	c.fits(o)
	if n := len(c.Payload()); n > MostBytes {
		o.Problem("note", "contact.long", "makes the whole %d bytes long; no code holds more than %d, and one that people can scan rarely more than 300", n, MostBytes)
	}
	return c
}

func readPostal(o *fields.Object) PostalAddress {
	a := PostalAddress{o.String("street"), o.String("city"), o.String("region"), o.String("postcode"), o.String("country")}
	for key, s := range map[string]*string{"street": &a.Street, "city": &a.City, "region": &a.Region, "postcode": &a.Postcode, "country": &a.Country} {
		*s = strings.TrimSpace(*s)
		if hasControl(*s, "\n\r") {
			o.Problem(key, "contact.control", "holds a control character")
		}
	}
	o.Close()
	return a
}

var noYear = regexp.MustCompile(`^--\d\d-\d\d$`)

// birthday holds the date against the calendar, and its form against the format: only a vCard 4.0 leaves the year out.
func (c *Contact) birthday(o *fields.Object) {
	s := c.Birthday
	if s == "" || !o.Sound("birthday") {
		return
	}
	if noYear.MatchString(s) {
		if _, err := time.Parse("2006-01-02", "2000"+s[1:]); err == nil {
			if c.Format != "vcard4" {
				o.Problem("birthday", "contact.birthday", "leaves out the year, which only vCard 4 can; give the year, or choose vCard 4")
			}
			return
		}
	}
	if _, err := time.Parse("2006-01-02", s); err != nil {
		o.Problem("birthday", "contact.birthday", "is %s, which is no date; write it like 1984-03-27", quoted(s))
	}
}

// fits names what a MECARD has no place for.
func (c *Contact) fits(o *fields.Object) {
	if c.Format != "mecard" {
		return
	}
	for key, s := range map[string]string{"prefix": c.Prefix, "suffix": c.Suffix, "title": c.Title} {
		if s != "" {
			o.Problem(key, "contact.mecard", "has no place in a MECARD; leave it out or choose a vCard")
		}
	}
	if len(c.Socials) > 0 {
		o.Problem("socials", "contact.mecard", "have no place in a MECARD; leave them out or choose a vCard")
	}
	if strings.Contains(c.Organisation, "\n") {
		o.Problem("organisation", "contact.control", "is one line")
	}
}

// Name is what the contact is found under: the person's name, else the organisation.
func (c *Contact) Name() string {
	var parts []string
	for _, p := range []string{c.Prefix, c.Given, c.Family, c.Suffix} {
		if p != "" {
			parts = append(parts, p)
		}
	}
	if len(parts) == 0 {
		return c.Organisation
	}
	return strings.Join(parts, " ")
}

func (c *Contact) Kind() string { return "contact" }

// Payload is the card in its format.
func (c *Contact) Payload() string {
	if c.Format == "mecard" {
		return c.mecard()
	}
	return c.vcard()
}

// Summary names the contact.
func (c *Contact) Summary() Summary { return Summary{"Saves", brief(c.Name(), 48)} }

// Search is what stands on the card.
func (c *Contact) Search() string {
	return strings.Join([]string{c.Name(), c.Organisation, c.Title, c.Address.City}, " ")
}

// Phone shows the card.
func (c *Contact) Phone() Offer {
	o := Offer{Action: "Saves this contact", Strong: c.Name()}
	add := func(s string) {
		if s != "" && s != o.Strong {
			o.Lines = append(o.Lines, s)
		}
	}
	add(c.Title)
	add(c.Organisation)
	for _, p := range c.Phones {
		add(strings.TrimSpace(p.Type + " " + p.Number.International()))
	}
	for _, e := range c.Emails {
		add(displayAddress(e.Address))
	}
	for _, u := range c.URLs {
		add(strings.TrimPrefix(u.URL, "https://"))
	}
	add(c.Address.line())
	if c.Birthday != "" {
		add("born " + strings.TrimLeft(c.Birthday, "-"))
	}
	for _, s := range c.Socials {
		add(s.Service + " " + strings.TrimPrefix(s.URL, "https://"))
	}
	add(c.Note)
	return o
}

func (a PostalAddress) line() string {
	var parts []string
	for _, p := range []string{strings.ReplaceAll(a.Street, "\n", ", "), a.City, a.Region, a.Postcode, a.Country} {
		if p != "" {
			parts = append(parts, p)
		}
	}
	return strings.Join(parts, ", ")
}

// Cautions tell of numbers that nobody has.
func (c *Contact) Cautions() (out []Caution) {
	for _, p := range c.Phones {
		out = append(out, numberCaution(p.Number, "the contact's number")...)
	}
	return out
}

// scalar is a field that holds one text.
type scalar struct {
	path, words string
	get         func(*Contact) *string
}

var scalars = []scalar{
	{"/prefix", "the prefix", func(c *Contact) *string { return &c.Prefix }},
	{"/suffix", "the suffix", func(c *Contact) *string { return &c.Suffix }},
	{"/organisation", "the organisation", func(c *Contact) *string { return &c.Organisation }},
	{"/title", "the job title", func(c *Contact) *string { return &c.Title }},
	{"/address/street", "the street", func(c *Contact) *string { return &c.Address.Street }},
	{"/address/city", "the town", func(c *Contact) *string { return &c.Address.City }},
	{"/address/region", "the county", func(c *Contact) *string { return &c.Address.Region }},
	{"/address/postcode", "the postcode", func(c *Contact) *string { return &c.Address.Postcode }},
	{"/address/country", "the country", func(c *Contact) *string { return &c.Address.Country }},
	{"/birthday", "the birthday", func(c *Contact) *string { return &c.Birthday }},
	{"/note", "the note", func(c *Contact) *string { return &c.Note }},
}

// clone copies the card so that a part of it can be changed.
func (c *Contact) clone() *Contact {
	out := *c
	out.Phones, out.Emails, out.URLs, out.Socials = slices.Clone(c.Phones), slices.Clone(c.Emails), slices.Clone(c.URLs), slices.Clone(c.Socials)
	return &out
}

// Savings: MECARD, the other formats, and each field that is not the name.
func (c *Contact) Savings() (out []Saving) {
	was := map[string]string{"vcard3": "vCard 3", "vcard4": "vCard 4", "mecard": "MECARD"}[c.Format]
	for _, format := range []struct{ key, words string }{{"mecard", "MECARD"}, {"vcard4", "vCard 4"}, {"vcard3", "vCard 3"}} {
		if format.key == c.Format || format.key != "vcard4" && strings.HasPrefix(c.Birthday, "--") {
			continue
		}
		then := c.clone()
		then.Format = format.key
		label, p := format.words+" instead of "+was, set("/format", format.key)
		if format.key == "mecard" { // which has no place for these
			var left []string
			for _, s := range []struct {
				path, words string
				field       *string
			}{{"/title", "job title", &then.Title}, {"/prefix", "prefix", &then.Prefix}, {"/suffix", "suffix", &then.Suffix}} {
				if *s.field != "" {
					*s.field, left, p = "", append(left, s.words), append(p, drop(s.path)...)
				}
			}
			if len(then.Socials) > 0 {
				then.Socials, left, p = nil, append(left, "profiles"), append(p, drop("/socials")...)
			}
			if len(left) > 0 {
				label += ", without " + list(left)
			}
		}
		if then.Name() != "" {
			out = append(out, Saving{label, "/content/format", p, then})
		}
	}
	without := func(words, field string, at string, then *Contact) {
		if then.Name() != "" {
			out = append(out, Saving{"Leave out " + words, "/content" + field, drop(at), then})
		}
	}
	for _, s := range scalars {
		if *s.get(c) != "" {
			then := c.clone()
			*s.get(then) = ""
			without(s.words, s.path, s.path, then)
		}
	}
	for i, p := range c.Phones {
		then := c.clone()
		then.Phones = slices.Delete(then.Phones, i, i+1)
		without(strings.TrimSpace("the "+p.Type)+" number", "/phones/"+itoa(p.at)+"/number", "/phones/"+itoa(p.at), then)
	}
	for i, e := range c.Emails {
		then := c.clone()
		then.Emails = slices.Delete(then.Emails, i, i+1)
		without("the e-mail address", "/emails/"+itoa(e.at)+"/address", "/emails/"+itoa(e.at), then)
	}
	for i, u := range c.URLs {
		then := c.clone()
		then.URLs = slices.Delete(then.URLs, i, i+1)
		without("the web address", "/urls/"+itoa(u.at), "/urls/"+itoa(u.at), then)
	}
	for i, s := range c.Socials {
		then := c.clone()
		then.Socials = slices.Delete(then.Socials, i, i+1)
		without("the profile", "/socials/"+itoa(s.at)+"/url", "/socials/"+itoa(s.at), then)
	}
	return out
}

// Adding fills each empty field that holds one text.
func (c *Contact) Adding() (out []Saving) {
	for _, s := range scalars {
		if *s.get(c) == "" && !(c.Format == "mecard" && slices.Contains([]string{"/prefix", "/suffix", "/title"}, s.path)) {
			then := c.clone()
			*s.get(then) = sample
			if s.path == "/birthday" {
				*s.get(then) = "1984-03-27"
			}
			out = append(out, Saving{Field: "/content" + s.path, Then: then})
		}
	}
	next := func(path string, n int, add func(*Contact)) {
		if n < mostItems {
			then := c.clone()
			add(then)
			out = append(out, Saving{Field: fmt.Sprintf("/content/"+path, n), Then: then})
		}
	}
	next("phones/%d/number", len(c.Phones), func(c *Contact) {
		c.Phones = append(c.Phones, ContactPhone{Number: Number{E164: "+441134960123"}})
	})
	next("emails/%d/address", len(c.Emails), func(c *Contact) { c.Emails = append(c.Emails, ContactEmail{Address: "nn@nnnnn.example"}) })
	next("urls/%d", len(c.URLs), func(c *Contact) { c.URLs = append(c.URLs, ContactURL{URL: "https://nnnnn.example"}) })
	if c.Format != "mecard" {
		next("socials/%d/service", len(c.Socials), func(c *Contact) {
			c.Socials = append(c.Socials, Social{Service: "nnnn", URL: "https://nnnnn.example/nn"})
		})
	}
	return out
}

// JSON gives the fields; numbers in E.164.
func (c *Contact) JSON() any {
	out := map[string]any{"kind": "contact"}
	if c.Format != Formats[0] {
		out["format"] = c.Format
	}
	put(out, "given", c.Given)
	put(out, "family", c.Family)
	put(out, "prefix", c.Prefix)
	put(out, "suffix", c.Suffix)
	put(out, "organisation", c.Organisation)
	put(out, "title", c.Title)
	put(out, "birthday", c.Birthday)
	put(out, "note", c.Note)
	list := func(key string, n int, item func(i int) any) {
		var items []any
		for i := range n {
			items = append(items, item(i))
		}
		if n > 0 {
			out[key] = items
		}
	}
	typed := func(kind, key, value string) any {
		m := map[string]any{key: value}
		put(m, "type", kind)
		return m
	}
	list("phones", len(c.Phones), func(i int) any { return typed(c.Phones[i].Type, "number", c.Phones[i].Number.E164) })
	list("emails", len(c.Emails), func(i int) any { return typed(c.Emails[i].Type, "address", c.Emails[i].Address) })
	list("urls", len(c.URLs), func(i int) any { return c.URLs[i].URL })
	list("socials", len(c.Socials), func(i int) any {
		return map[string]any{"service": c.Socials[i].Service, "url": c.Socials[i].URL}
	})
	a := map[string]any{}
	put(a, "street", c.Address.Street)
	put(a, "city", c.Address.City)
	put(a, "region", c.Address.Region)
	put(a, "postcode", c.Address.Postcode)
	put(a, "country", c.Address.Country)
	if len(a) > 0 {
		out["address"] = a
	}
	return out
}
