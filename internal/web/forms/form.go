package forms

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/gazetteer"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
)

// Outcome is a kind as what happens when somebody scans, for those who start with nothing to paste.
type Outcome struct{ Kind, Words, Name string }

// Rest is the sentence without its first word, for a list that begins with it.
func (o Outcome) Rest() string {
	if rest, ok := strings.CutPrefix(o.Words, "Someone "); ok {
		return rest
	}
	return strings.ToLower(o.Words[:1]) + o.Words[1:]
}

// Outcomes in the order in which they are offered.
var Outcomes = []Outcome{
	{"url", "Someone opens a page", "Web address"},
	{"wifi", "Someone joins our Wi-Fi", "Wi-Fi"},
	{"contact", "Someone saves a contact", "Contact"},
	{"event", "Someone notes a date", "Date"},
	{"place", "Someone finds the way", "Place"},
	{"phone", "Someone calls us", "Call"},
	{"sms", "Someone texts us", "Text message"},
	{"email", "Someone e-mails us", "E-mail"},
	{"text", "Someone reads a few lines", "Plain text"},
	{"pay", "Someone pays us", "Payment"},
	{"gs1link", "A product tells its story", "Product link, GS1 Digital Link"},
}

// Trade are outcomes for those who know them by name.
var Trade = []Outcome{{"gs1data", "A scanner of the trade reads a product's data", "Element string, GS1"}}

// Payments are the ways to be paid, behind the outcome of kind pay.
var Payments = []Outcome{
	{"sepa", "Someone pays us in euros, by a transfer", "SEPA transfer"},
	{"swiss", "Someone pays a Swiss QR-bill", "Swiss QR-bill"},
	{"emv", "Someone pays us in a payment app, at the counter", "Merchant payment code, EMV"},
	{"upi", "Someone pays us in rupees", "UPI"},
	{"bitcoin", "Someone pays us in bitcoin", "Bitcoin"},
	{"payto", "Someone pays us by a payto: address", "payto, RFC 8905"},
}

// OutcomeOf finds a kind's outcome; ok is false where there is none.
func OutcomeOf(kind string) (o Outcome, ok bool) {
	for _, o := range slices.Concat(Outcomes, Payments, Trade) {
		if o.Kind == kind {
			return o, true
		}
	}
	return o, false
}

// FixedWords says what it means that a code of a kind is static.
func FixedWords(kind string) string {
	if IsPayment(kind) {
		return "Fixed content, and never redirected: nobody comes between the payer and the account. Works for ever without us."
	}
	return "Works for ever without us."
}

// IsPayment says whether a kind moves money.
func IsPayment(kind string) bool {
	return slices.ContainsFunc(Payments, func(o Outcome) bool { return o.Kind == kind })
}

// Matching gives the outcomes whose words hold every word that is looked for.
func Matching(query string) (out []Outcome) {
	words := strings.Fields(strings.ToLower(query))
	all := Outcomes
	if len(words) > 0 {
		all = slices.Concat(Outcomes, Payments, Trade)
	}
	for _, o := range all {
		text, all := strings.ToLower(o.Words+" "+o.Name), true
		for _, w := range words {
			all = all && strings.Contains(text, w)
		}
		if all {
			out = append(out, o)
		}
	}
	return out
}

// Row is a field, or a group of them on demand.
type Row struct {
	Field  Field
	Fields []Field // of a group, instead of Field
	More   string  // words of a group on demand, with Cost and Open
	CostID string
	Cost   string
	Open   bool
	Map    *Map
}

// Map is the world map under a position.
type Map struct {
	ForID, Lat, Lon string
	Towns           []gazetteer.Town // that are called what was typed
}

// Form is the form of one content.
type Form struct {
	Kind   string
	Rows   []Row
	Shape  string // changes when other fields are there
	CodeID string
}

// Fields gives all fields, groups taken apart.
func (f Form) Fields() (out []Field) {
	for _, r := range f.Rows {
		switch {
		case r.More != "":
			out = append(out, r.Fields...)
		case r.Field.Path != "":
			out = append(out, r.Field)
		}
	}
	return out
}

// Costs gives the rows on demand with their prices.
func (f Form) Costs() (out []Row) {
	for _, r := range f.Rows {
		if r.CostID != "" {
			out = append(out, r)
		}
	}
	return out
}

// Map is the map of the form, nil where it has none.
func (f Form) Map() *Map {
	for _, r := range f.Rows {
		if r.Map != nil {
			return r.Map
		}
	}
	return nil
}

// builder collects the rows of a form.
type builder struct {
	src    Source
	codeID string
	cost   func(path string) string
	form   *Form
}

// Build makes the form of a kind. cost says what an empty field would cost, "" where it is not known.
func Build(kind string, src Source, codeID string, cost func(path string) string) Form {
	f := Form{Kind: kind, CodeID: codeID}
	b := builder{src, codeID, cost, &f}
	switch kind {
	case "url":
		b.url()
	case "text":
		b.add("/content/text", "area", "Text")
	case "wifi":
		b.wifi()
	case "contact":
		b.contact()
	case "phone":
		b.number("Number")
	case "sms":
		b.number("To")
		b.add("/content/body", "area", "Text").Hint = "Typed in already; people can change it before they send it."
		b.choice("/content/form", "Written as", "smsto", "SMSTO, read by most phones", "sms", "sms: address, RFC 5724")
	case "email":
		b.email()
	case "event":
		b.event()
	case "place":
		b.place()
	case "sepa":
		b.sepa()
	case "swiss":
		b.swiss()
	case "emv":
		b.emv()
	case "upi":
		b.upi()
	case "payto":
		b.payto()
	case "bitcoin":
		b.bitcoin()
	case "gs1link":
		b.product()
	case "gs1data":
		f := b.add("/content/elements", "area", "Elements")
		f.Sample, f.Hint = "(01)09521234500018(10)A1209(17)270331", "Identifiers in brackets, or as a scanner gives them."
	}
	var shape strings.Builder
	shape.WriteString(kind)
	for _, r := range f.Rows {
		shape.WriteString(" " + r.Field.ID + r.More)
		if r.More != "" {
			for _, x := range r.Fields {
				shape.WriteString(" " + x.ID)
			}
		}
	}
	f.Shape = shape.String()
	return f
}

func (b builder) field(path, kind, label string) Field {
	return New(b.src, b.codeID, path, kind, label)
}

// add appends a field and gives it for further setting.
func (b builder) add(path, kind, label string) *Field {
	b.form.Rows = append(b.form.Rows, Row{Field: b.field(path, kind, label)})
	return &b.form.Rows[len(b.form.Rows)-1].Field
}

// choice appends a choice whose first value is the one of an empty field.
func (b builder) choice(path, label string, pairs ...string) *Field {
	f := b.add(path, "choice", label)
	if f.Value == "" {
		f.Value = pairs[0]
	}
	f.Choices = Choices(f.Value, pairs...)
	return f
}

// more appends fields on demand: folded until one of them holds something.
func (b builder) more(words string, fields ...Field) {
	r := Row{More: words, Fields: fields, CostID: "c-" + fields[0].ID, Cost: b.cost(fields[0].Path)}
	used := false
	for _, f := range fields {
		used = used || b.src.Text(f.Path) != "" || f.Error != ""
	}
	if used && len(fields) == 1 { // a field like any other
		r = Row{Field: fields[0], Fields: fields}
	}
	r.Open = used
	b.form.Rows = append(b.form.Rows, r)
}

func (b builder) text(path string) string { return b.src.Text(path) }

func (b builder) url() {
	f := b.add("/content/url", "area", "Address")
	f.Mode, f.Sample = "url", "marrowby.example/fair"
	var pairs []string
	for _, p := range content.Purposes {
		pairs = append(pairs, p.Key, p.Words)
	}
	f = b.choice("/content/purpose", "It is", pairs...)
	f.Hint = ""
	for _, p := range content.Purposes {
		if p.Key == f.Value && p.Action != "" {
			f.Hint = "Beside the code it could say: “" + p.Action + "”."
		}
	}
}

func (b builder) wifi() {
	b.add("/content/ssid", "text", "Network").Hint = "As phones list it, capitals and blanks alike."
	security := b.choice("/content/security", "Secured by", "wpa", "WPA or WPA2", "wpa3", "WPA3 alone", "wep", "WEP", "open", "nothing, it is open", "eap", "a sign-in, enterprise").Value
	if security == "eap" {
		method := []string{}
		for _, m := range content.EAPMethods {
			method = append(method, m, m)
		}
		phase2 := []string{"", "not said"}
		for _, m := range content.Phase2Methods {
			phase2 = append(phase2, m, m)
		}
		b.choice("/content/eap/method", "Method", method...)
		b.choice("/content/eap/phase2", "Inside it", phase2...)
		b.add("/content/eap/identity", "text", "User")
		b.add("/content/eap/anonymous", "text", "Shown as").Hint = "An outer name that says nothing, such as anonymous."
	}
	if security != "open" {
		b.add("/content/password", "secret", "Password").Hint = "Everybody who scans can read it. Use the guests' network."
	}
	b.add("/content/hidden", "flag", "Its name is hidden")
}

// regions are the countries for numbers, by name.
func (b builder) region() {
	pairs := []string{"", "with country code"}
	for _, r := range content.Regions() {
		pairs = append(pairs, r.Code, r.Name+" "+r.Calling)
	}
	f := b.choice("/content/region", "Country", pairs...)
	f.Hint = "Whose numbers may be typed without country code. They are kept with it."
}

func (b builder) number(label string) {
	f := b.add("/content/number", "text", label)
	f.Mode, f.Sample = "tel", "+44 113 496 0123"
	if n, message := content.ParseNumber(f.Value, b.text("/content/region")); message == "" && n.E164 != f.Value {
		f.Hint = "Kept as " + n.E164 + "."
	}
	b.region()
}

// items is how many fields of a list are shown: those that are there, and one more.
func (b builder) items(path string, keys ...string) int {
	n := 0
	for i := range 10 {
		for _, k := range keys {
			if b.text(path+strconv.Itoa(i)+k) != "" {
				n = i + 1
			}
		}
	}
	return min(10, n+1)
}

func (b builder) contact() {
	b.add("/content/given", "text", "Given name")
	b.add("/content/family", "text", "Family name")
	phone := func(i int, label string) []Field {
		at := "/content/phones/" + strconv.Itoa(i)
		f, kind := b.field(at+"/number", "text", label), b.field(at+"/type", "choice", label+" is")
		f.Mode = "tel"
		kind.Choices = Choices(kind.Value, "", "not said", "mobile", "mobile", "work", "work", "home", "home", "fax", "fax")
		return []Field{f, kind}
	}
	mail := func(i int) Field {
		f := b.field(fmt.Sprintf("/content/emails/%d/address", i), "text", "E-mail")
		f.Mode = "email"
		return f
	}
	first := phone(0, "Phone")
	b.form.Rows = append(b.form.Rows, Row{Field: first[0]}, Row{Field: mail(0)})
	b.more("Organisation", b.field("/content/organisation", "text", "Organis\u00adation"))
	b.more("Job title", b.field("/content/title", "text", "Job title"))
	b.more("What sort of phone", first[1])
	for i := 1; i < b.items("/content/phones/", "/number"); i++ {
		b.more("Another phone", phone(i, "Phone")...)
	}
	for i := 1; i < b.items("/content/emails/", "/address"); i++ {
		b.more("Another e-mail", mail(i))
	}
	for i := range b.items("/content/urls/", "") {
		f := b.field(fmt.Sprintf("/content/urls/%d", i), "text", "Web")
		f.Mode = "url"
		b.more([]string{"Web address", "Another web address"}[min(1, i)], f)
	}
	b.more("Postal address", b.field("/content/address/street", "area", "Street"), b.field("/content/address/city", "text", "Town"), b.field("/content/address/postcode", "text", "Postcode"),
		b.field("/content/address/region", "text", "County"), b.field("/content/address/country", "text", "Country"))
	birthday := b.field("/content/birthday", "text", "Birthday")
	birthday.Sample = "1984-03-27"
	b.more("Birthday", birthday)
	b.more("Note", b.field("/content/note", "area", "Note"))
	for i := range b.items("/content/socials/", "/service", "/url") {
		at := fmt.Sprintf("/content/socials/%d", i)
		b.more([]string{"Profile", "Another profile"}[min(1, i)], b.field(at+"/service", "text", "Service"), b.field(at+"/url", "text", "Address"))
	}
	b.more("Title before, letters after", b.field("/content/prefix", "text", "Before"), b.field("/content/suffix", "text", "After"))
	b.choice("/content/format", "Written as", "vcard3", "vCard 3, read by every phone", "vcard4", "vCard 4", "mecard", "MECARD, shorter")
	b.region()
}

func (b builder) email() {
	list := func(key, label string) (out []Field) {
		for i := range b.items("/content/"+key+"/", "") {
			f := b.field(fmt.Sprintf("/content/%s/%d", key, i), "text", label)
			f.Mode = "email"
			out = append(out, f)
		}
		return out
	}
	to := list("to", "To")
	b.form.Rows = append(b.form.Rows, Row{Field: to[0]})
	b.form.Rows[0].Field.Sample = "orders@marrowby.example"
	if b.form.Rows[0].Field.Error == "" { // the list itself may have a problem
		for _, p := range b.src.Faults() {
			if p.Field == "/content/to" {
				b.form.Rows[0].Field.Error = Sentence(p)
			}
		}
	}
	b.add("/content/subject", "text", "Subject")
	b.add("/content/body", "area", "Text").Hint = "Typed in already; people can change it before they send it."
	for _, f := range to[1:] {
		b.more("To somebody else too", f)
	}
	for _, f := range list("cc", "Copy") {
		b.more("A copy", f)
	}
	for _, f := range list("bcc", "Hidden") {
		b.more("A hidden copy", f)
	}
}

func (b builder) event() {
	b.add("/content/title", "text", "Title")
	allDay := b.add("/content/all_day", "flag", "It lasts all day").Value != ""
	sample := "20 March 2027, 10:00"
	if allDay {
		sample = "20 March 2027"
	}
	start, end := b.add("/content/start", "text", "Starts"), b.text("/content/end")
	start.Sample, start.Hint = sample, whenWords(start.Value)
	f := b.add("/content/end", "text", "Ends")
	f.Sample, f.Hint = "open", whenWords(end)
	if !allDay {
		f = b.add("/content/timezone", "text", "On clocks in")
		f.Complete, f.Sample = "zones", "Europe/London"
	}
	b.add("/content/location", "text", "Where")
	b.more("Description", b.field("/content/description", "area", "Descrip\u00adtion"))
	b.more("Web address", b.field("/content/url", "text", "Web"))
	alarm := b.field("/content/alarm_minutes", "text", "Reminder")
	alarm.Hint = "Minutes before the start: 60 is an hour, 1440 a day."
	b.more("A reminder", alarm)
	every := b.field("/content/repeat/every", "choice", "Every")
	every.Choices = Choices(every.Value, "", "it does not repeat", "day", "day", "week", "week", "month", "month", "year", "year")
	again := []Field{every}
	if every.Value != "" {
		interval, count, until := b.field("/content/repeat/interval", "text", "Every how many"), b.field("/content/repeat/count", "text", "How often"), b.field("/content/repeat/until", "text", "Until")
		interval.Sample, count.Sample, until.Sample = "1", "no end", "1 June 2027"
		again = append(again, interval, count, until)
	}
	b.more("It repeats", again...)
}

// whenWords spells a stored time out, so that a wrong day is noticed.
func whenWords(s string) string {
	e, problems := content.New(map[string]any{"kind": "event", "title": "x", "start": s, "all_day": !strings.Contains(s, "T")})
	if len(problems) > 0 {
		return ""
	}
	return e.(*content.Event).When()
}

// mostTowns is how many towns of a name are offered.
const mostTowns = 6

func (b builder) place() {
	f := b.add(job.Position, "text", "Where")
	f.Sample = "a town, 52.0871, -1.9432, or a map link"
	m := &Map{ForID: f.ID, Lat: b.text("/content/lat"), Lon: b.text("/content/lon")}
	if p, problems := content.New(map[string]any{"kind": "place", "lat": numberOf(m.Lat), "lon": numberOf(m.Lon)}); len(problems) == 0 {
		f.Hint = content.Sexagesimal(p.(*content.Place).Lat, p.(*content.Place).Lon)
	}
	if f.Error != "" {
		if m.Towns = gazetteer.Find(f.Value, mostTowns); len(m.Towns) > 0 {
			f.Error, f.Hint = "", "Choose the one that is meant:"
		}
	}
	if f.Error == "" && f.Value == "" {
		for _, p := range b.src.Faults() {
			if p.Field == "/content/lat" {
				f.Error = "The point is missing; type a town or coordinates, or click the map."
			}
		}
	}
	b.form.Rows = append(b.form.Rows, Row{Map: m})
	b.add("/content/label", "text", "Name").Hint = "For you; a geo: code has no room for it."
	form := b.choice("/content/form", "Written as", "geo", "geo:, opens the phone's own map", "link", "a link to a map of yours").Value
	if form == "link" {
		f := b.add("/content/pattern", "text", "Link")
		f.Sample, f.Hint = "https://maps.example/?q={lat},{lon}", "{lat} and {lon} stand for the point."
	}
}

func numberOf(s string) any {
	if f, err := strconv.ParseFloat(s, 64); err == nil {
		return f
	}
	return nil
}

// Draft makes a draft of a plain form: the job, and what of the typed text it cannot hold, by pointer.
func Draft(kind string, typed func(path string) string, paths []string) (draft any, unparsed map[string]string) {
	draft, unparsed = map[string]any{"content": map[string]any{"kind": kind}}, map[string]string{}
	for _, path := range paths {
		text := typed(path)
		if text == "" || !job.Editable(path) {
			continue
		}
		ops, bad := job.Edit(draft, path, text)
		if bad != nil {
			unparsed[path] = text
			continue
		}
		if next, _, err := patch.Patch(ops).Apply(draft); err == nil {
			draft = next
		}
	}
	return draft, unparsed
}

// PatchText is a patch as a hidden field or the value of a button carries it.
func PatchText(p patch.Patch) string {
	b, err := json.Marshal(p)
	if err != nil {
		panic(err) // made of strings and numbers
	}
	return string(b)
}
