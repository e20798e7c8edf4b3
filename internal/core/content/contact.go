package content

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// Contact is a person or an organisation to be saved in an address book. The payload is a vCard 3.0 (RFC 2426), a vCard 4.0
// (RFC 6350) or a MECARD.
type Contact struct {
	Format                        string // "vcard3", "vcard4" or "mecard"
	Given, Family, Prefix, Suffix string
	Organisation, Title           string
	Phones                        []ContactPhone
	Emails                        []ContactEmail
	URLs                          []ContactURL
	Address                       PostalAddress
	Birthday                      string // 2006-01-02, or --01-02 without its year
	Note                          string
	Socials                       []Social
	region                        string // whose way of dialling numbers are typed in
}

// ContactPhone is one number; Type is "", "mobile", "work", "home" or "fax".
type ContactPhone struct {
	Type   string
	Number Number
	at     int // its index in the job
}

// ContactEmail is one e-mail address; Type is "", "work" or "home".
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

// maxItems bounds each list of a contact.
const maxItems = 10

func cardLine(key, called, label, folded string, at func(*Contact) any) schema.Field {
	return schema.Field{Folded: folded, Key: key, Type: schema.Line, At: schema.In(at), Pattern: oneLine, Def: "line",
		Called: called, Label: label}
}

func postalLine(key, label, control string, at func(*PostalAddress) any) schema.Field {
	return schema.Field{Key: key, Type: schema.Lines, At: schema.In(at), Called: "address", Label: label, Control: control}
}

var (
	postalFields = schema.Part{
		Fields: []schema.Field{
			{Key: "line", Typed: true, Control: "area", Called: "address", Label: "In one line",
				Heads:   "address, postal address, full address",
				Example: "1 Orchard Lane, Ludlow SY8 1AA", Put: putPostal, Show: showPostal, Note: notePostal},
			postalLine("street", "Street", "area", func(a *PostalAddress) any { return &a.Street }).Headed("street address"),
			postalLine("city", "Town", "text", func(a *PostalAddress) any { return &a.City }).Headed("city, town"),
			postalLine(
				"postcode",
				"Postcode",
				"text",
				func(a *PostalAddress) any { return &a.Postcode },
			).Headed("post code, postal code, zip, zip code"),
			postalLine(
				"region",
				"County",
				"text",
				func(a *PostalAddress) any { return &a.Region },
			).Headed("region, state, province"),
			postalLine("country", "Country", "text", func(a *PostalAddress) any { return &a.Country }),
		},
		New: func() any { return &PostalAddress{} },
	}
	contactPhone = schema.Part{
		Fields: []schema.Field{
			{
				Key:    "number",
				Heads:  "phone, telephone, tel, mobile, cell, direct",
				At:     schema.In(func(p *ContactPhone) any { return &p.Number.E164 }),
				Called: "number",
				Label:  "Phone",
				Mode:   "tel",
			},
			{Key: "type", At: schema.In(func(p *ContactPhone) any { return &p.Type }),
				Choices: schema.Words("", "not said", "mobile", "mobile", "work", "work", "home", "home", "fax", "fax"),
				Called:  "number", Label: "Type", Beside: 35},
		},
		New: func() any { return &ContactPhone{} },
	}
	contactEmail = schema.Part{
		Fields: []schema.Field{
			{
				Key:    "address",
				Heads:  "email, mail",
				At:     schema.In(func(e *ContactEmail) any { return &e.Address }),
				Called: "e-mail address",
				Label:  "E-mail",
				Mode:   "email",
			},
			{Key: "type", At: schema.In(func(e *ContactEmail) any { return &e.Type }),
				Choices: schema.Words("", "not said", "work", "work", "home", "home"),
				Called:  "e-mail address", Label: "Type", Off: true},
		},
		New: func() any { return &ContactEmail{} },
	}
	contactProfile = schema.Part{
		Fields: []schema.Field{
			{Key: "service", Type: schema.Line, At: schema.In(func(s *Social) any { return &s.Service }), Required: true,
				Called: "profile", Label: "Service"},
			{Key: "url", At: schema.In(func(s *Social) any { return &s.URL }), Required: true, Called: "profile",
				Label: "Address"},
		},
		New: func() any { return &Social{} },
	}
)

var contactFields = schema.Part{
	Fields: []schema.Field{
		cardLine("given", "name", "Given name", "", func(c *Contact) any { return &c.Given }).Headed("first name, forename"),
		cardLine("family", "name", "Family name", "", func(c *Contact) any { return &c.Family }).Headed("last name, surname"),
		{Key: "phones", Type: schema.List, At: schema.In(func(c *Contact) any { return &c.Phones }), Part: &contactPhone,
			Most: maxItems, Again: "Another phone"},
		{Key: "emails", Type: schema.List, At: schema.In(func(c *Contact) any { return &c.Emails }), Part: &contactEmail,
			Most: maxItems, Again: "Another e-mail"},
		cardLine(
			"organisation",
			"",
			"Organis\u00adation",
			"Organisation",
			func(c *Contact) any { return &c.Organisation },
		).Headed("organization, company, firm"),
		cardLine("title", "title", "Job title", "Job title", func(c *Contact) any { return &c.Title }).Headed("role, position"),
		{
			Key:  "urls",
			Type: schema.List,
			Item: &schema.Field{
				Keep:   true,
				Called: "web address",
				Label:  "Web",
				Mode:   "url",
				Heads:  "website, web, url, web address",
			},
			Most:   maxItems,
			Read:   readCardURLs,
			Write:  cardURLs,
			Folded: "Web address",
			Again:  "Another web address",
		},
		{Key: "address", Type: schema.Object, At: schema.In(func(c *Contact) any { return &c.Address }), Part: &postalFields,
			Folded: "Postal address"},
		{Key: "birthday", Type: schema.Moment, At: schema.In(func(c *Contact) any { return &c.Birthday }),
			Pattern: `^(\d{4}|-)-\d{2}-\d{2}$`,
			Label:   "Birthday", Folded: "Birthday", Example: "14 March 1990",
			About: "2027-03-20; vcard4 alone takes --03-20, without its year."},
		{Key: "note", Type: schema.Lines, At: schema.In(func(c *Contact) any { return &c.Note }), Called: "note", Label: "Note",
			Folded: "Note"},
		{Key: "socials", Type: schema.List, At: schema.In(func(c *Contact) any { return &c.Socials }), Part: &contactProfile,
			Most: maxItems, Folded: "Profile", Again: "Another profile"},
		cardLine("prefix", "", "Before", "Titles", func(c *Contact) any { return &c.Prefix }),
		cardLine("suffix", "", "After", "Titles", func(c *Contact) any { return &c.Suffix }),
		{Key: "format", At: schema.In(func(c *Contact) any { return &c.Format }), Called: "format", Label: "Written as",
			Folded:  "Format",
			Choices: schema.Words("vcard3", "vCard 3, read by every phone", "vcard4", "vCard 4", "mecard", "MECARD, shorter")},
		regionField(func(c *Contact) any { return &c.region }),
	},
	New:   func() any { return &Contact{Format: "vcard3"} },
	Rules: `"anyOf": [{"required": ["given"]}, {"required": ["family"]}, {"required": ["organisation"]}, {"required": ["prefix"]}, {"required": ["suffix"]}]`,
}

var contactKind = Kind{Key: "contact", Long: "note", Name: "Contact", Outcome: "Someone saves a contact",
	Calls: []string{"Save my number", "Keep in touch"}, Fields: &contactFields,
	Takes:   []Taker{{"begin:vcard", takeVCard}, {"mecard:", takeMecard}},
	Example: `{"kind": "contact", "given": "Tamsin", "family": "Quill", "phones": [{"number": "+441134960124"}], "emails": [{"address": "tamsin@marrowby.example"}]}`}

// readCardURLs reads the web addresses, each of them whole.
func readCardURLs(o schema.Reader, part any) {
	c := part.(*Contact)
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
}

func cardURLs(part any) any {
	var out []any
	for _, u := range part.(*Contact).URLs {
		out = append(out, u.URL)
	}
	if out == nil {
		return nil
	}
	return out
}

func (c *Contact) check(o *fields.Object) {
	for key, s := range map[string]string{"given": c.Given, "family": c.Family, "prefix": c.Prefix, "suffix": c.Suffix,
		"organisation": c.Organisation, "title": c.Title} {
		if hasControl(s, "") {
			o.Problem(key, "contact.control", "holds a line break or another control character; it is one line")
		}
	}
	for _, list := range []string{"phones", "emails", "urls", "socials"} {
		if n := len(o.List(list)); n > maxItems {
			o.Problem(list, "contact.many", "has %d entries; at most %d are taken", n, maxItems)
		}
	}
	c.numbers(o)
	c.addresses(o)
	c.profiles(o)
	c.postal(o.Object("address"))
	c.birthday(o)
	if hasControl(c.Note, "\n\r\t") {
		o.Problem("note", "contact.control", "holds a control character")
	}
	if c.Name() == "" {
		o.Problem("given", "contact.name",
			"is empty, and so are family name and organisation; a contact needs a name to be found under")
	}
	c.fits(o)
	if n := len(c.Payload()); n > MaxBytes {
		o.Problem("note", "contact.long",
			"makes the whole %d bytes long; no code holds more than %d, and one that people can scan rarely more than 300",
			n, MaxBytes)
	}
}

// numbers reads the telephone numbers; entries without one are left out.
func (c *Contact) numbers(o *fields.Object) {
	region, entries, kept := checkRegion(o, &c.region), o.Objects("phones"), c.Phones[:0]
	for i, p := range c.Phones {
		if strings.TrimSpace(p.Number.E164) != "" {
			kept = append(kept, ContactPhone{p.Type, checkNumber(entries[i], "number", p.Number.E164, region, true), i})
		}
	}
	c.Phones = kept
}

// addresses reads the e-mail addresses; entries without one are left out.
func (c *Contact) addresses(o *fields.Object) {
	entries, kept := o.Objects("emails"), c.Emails[:0]
	for i, e := range c.Emails {
		if strings.TrimSpace(e.Address) == "" {
			continue
		}
		a, message := Address(e.Address)
		if message != "" {
			entries[i].Problem("address", "email.address", "%s", message)
		}
		kept = append(kept, ContactEmail{e.Type, a, i})
	}
	c.Emails = kept
}

// profiles reads the profiles; empty entries are left out.
func (c *Contact) profiles(o *fields.Object) {
	entries, kept := o.Objects("socials"), c.Socials[:0]
	for i, s := range c.Socials {
		if s.Service == "" && strings.TrimSpace(s.URL) == "" {
			continue
		}
		u := &URL{Raw: s.URL}
		if code, message := u.parse(); code != "" {
			entries[i].Problem("url", code, "%s", message)
		}
		if s.Service == "" {
			entries[i].Problem("service", "contact.service", "is missing; it names what the profile is on")
		} else if hasControl(s.Service, "") || strings.Contains(s.Service, `"`) {
			entries[i].Problem("service", "contact.service", "holds a character that a name cannot have here")
		}
		kept = append(kept, Social{s.Service, u.Payload(), i})
	}
	c.Socials = kept
}

func (c *Contact) postal(o *fields.Object) {
	a := &c.Address
	for key, s := range map[string]*string{"street": &a.Street, "city": &a.City, "region": &a.Region, "postcode": &a.Postcode,
		"country": &a.Country} {
		*s = strings.TrimSpace(*s)
		if hasControl(*s, "\n\r") {
			o.Problem(key, "contact.control", "holds a control character")
		}
	}
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
				o.Problem("birthday", "contact.birthday",
					"leaves out the year, which only vCard 4 can; give the year, or choose vCard 4")
			}
			return
		}
	}
	if _, err := time.Parse("2006-01-02", s); err != nil {
		o.Problem("birthday", "contact.birthday", "is %s; write a date, such as 14 March 1990", quoted(s))
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
	out.Phones, out.Emails, out.URLs, out.Socials = slices.Clone(c.Phones), slices.Clone(c.Emails), slices.Clone(c.URLs),
		slices.Clone(c.Socials)
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
		if n < maxItems {
			then := c.clone()
			add(then)
			out = append(out, Saving{Field: fmt.Sprintf("/content/"+path, n), Then: then})
		}
	}
	next("phones/%d/number", len(c.Phones), func(c *Contact) {
		c.Phones = append(c.Phones, ContactPhone{Number: Number{E164: "+441134960123"}})
	})
	next("emails/%d/address", len(c.Emails), func(c *Contact) {
		c.Emails = append(c.Emails, ContactEmail{Address: "nn@nnnnn.example"})
	})
	next("urls/%d", len(c.URLs), func(c *Contact) { c.URLs = append(c.URLs, ContactURL{URL: "https://nnnnn.example"}) })
	if c.Format != "mecard" {
		next("socials/%d/service", len(c.Socials), func(c *Contact) {
			c.Socials = append(c.Socials, Social{Service: "nnnn", URL: "https://nnnnn.example/nn"})
		})
	}
	return out
}
