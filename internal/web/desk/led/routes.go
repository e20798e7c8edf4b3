package led

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/job"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/route"
	"sodrik/internal/core/schema"
	"sodrik/internal/link"
	"sodrik/internal/web/forms"
)

// Routes is the view of who is sent where.
type Routes struct {
	ID       string
	ReadOnly bool
	List     []Row
	Rest     Row
	Form     *RouteForm // a new one that is written, nil for none
	Findings []Finding
	Starts   []Start
	Asked    route.Asked
	If       *WhatIf
	Week     string // what last week's scans say
	Systems  []forms.Choice
	Places   []forms.Choice
	Others   []Other // codes to which the routes can be copied
	Zone     string
	Tongues  []string // names of languages, for completing
}

// Row is a route.
type Row struct {
	ID, Says, To string
	N            int
	Count        string // of last week's scans
	Off, Planned bool
	Form         *RouteForm // where it is open
}

// RouteForm is the form of a route.
type RouteForm struct {
	Code, ID              string // of the route, "" for a new one
	Says                  string // of a new one: its starting sentence
	To                    forms.Field
	Apps                  []forms.Field // in place of To: one for each system
	Where, Speaks         *forms.Field
	Span                  []forms.Field
	Hours, Zone           forms.Field
	More                  []forms.Field // further spans
	Share, Stock, Yearly  forms.Field
	Near, Within          forms.Field
	Nearer                bool // it asks phones where they are
	Unsaved               bool // somebody has typed in it
	Places, Systems, Days []forms.Choice
	Asks                  map[string]bool // which questions stand there: where, whom, when, far
	Timely, Far           bool            // what is folded holds something
	N, Of                 int             // which it is, from 0 on, of how many
	Off                   bool
	Open                  string // as an address names it
}

// Has says that a form asks a question: one that begins with a sentence asks few.
func (f *RouteForm) Has(question string) bool { return f.Asks == nil || f.Asks[question] }

// Groups are the questions whose answers are ticked, since of none that is ticked nothing is sent.
func (f *RouteForm) Groups() string {
	switch {
	case f.Asks == nil:
		return "places systems weekdays yearly"
	case f.Asks["places"]:
		return "places"
	}
	return ""
}

// Group is a question whose answers are ticked.
type Group struct {
	Path, ID, Label, Hint string
	Choices               []forms.Choice
}

// Group is one by the key of its field.
func (f *RouteForm) Group(key string) Group {
	d := route.Fields.Field(key)
	return Group{key, forms.ID("/route/" + key), d.Label, d.Hint,
		map[string][]forms.Choice{"places": f.Places, "systems": f.Systems, "weekdays": f.Days}[key]}
}

// Act is what a button does to a route.
type Act struct {
	Code, ID, Do, Words string
	N                   int
	Off                 bool
}

// Acts are those of a route that is open.
func (f *RouteForm) Acts() []Act {
	off := Act{f.Code, f.ID, "off", "Switch off", 0, false}
	if f.Off {
		off.Do, off.Words = "on", "Switch on"
	}
	return []Act{{f.Code, f.ID, "move", "Up", f.N - 1, f.N == 0}, {f.Code, f.ID, "move", "Down", f.N + 1, f.N == f.Of-1}, off,
		{f.Code, f.ID, "drop", "Take out", 0, false}}
}

// Finding is what is likely not meant.
type Finding struct {
	N         int
	Code      string
	Words     string
	Fix       string
	Important bool
}

// Start is a sentence with which a route begins.
type Start struct{ Key, Words string }

// Other is another code that leads through a link.
type Other struct{ ID, Name string }

// WhatIf is what somebody would get.
type WhatIf struct {
	Sentence string
	Steps    []string
	Days     []string
	People   []Person
	Errors   map[string]string
}

// Person is a row of the strip.
type Person struct {
	Who  string
	Days []Cell
}

// Cell is a day of it.
type Cell struct {
	Words, Says string
	Class       int // of its colour: the number of the first route, 0 for the rest
}

// Starts are the sentences; each asks for what its route needs, and for nothing else.
var starts = []struct {
	Start
	asks []string
}{
	{Start{"until", "Until the fair, then …"}, []string{"when"}},
	{Start{"language", "In the phone's own language"}, []string{"speaks"}},
	{Start{"stock", "While stock lasts"}, []string{"stock"}},
	{Start{"app", "The app, from its shop"}, []string{"app"}},
	{Start{"place", "For those who stand at …"}, []string{"places"}},
}

// RoutesOf is the view of the draft. open is the id of a route whose form stands there, "new" or the key of a starting sentence
// for a new one; typed is what somebody has written in it, zone the browser's.
func RoutesOf(id string, j *job.Job, l *link.Led, open string, typed map[string][]string, zone string, readOnly bool,
	now time.Time) (v Routes) {
	d := l.Draft
	v = Routes{ID: id, ReadOnly: readOnly, Zone: d.Zone}
	for _, s := range starts {
		v.Starts = append(v.Starts, s.Start)
	}
	names := placeNames(j)
	defer func() {
		for _, f := range append([]*RouteForm{v.Form}, opened(v.List)...) {
			if f != nil {
				f.Open = open
			}
		}
	}()
	for i, r := range d.Routes {
		row := Row{ID: r.ID, N: i + 1, Says: r.Sentence(d.Zone), To: leads.Says(r.To), Off: r.Off, Planned: r.ID == leads.Planned}
		if open == r.ID {
			row.Form = form(id, d, r, names, typed, zone)
			row.Form.N, row.Form.Of = i, len(d.Routes)
		}
		v.List = append(v.List, row)
	}
	v.Rest = Row{Says: "Everybody else", To: d.Says()}
	for _, s := range starts {
		if s.Key == open {
			v.Form = form(id, d, &leads.Route{}, names, typed, zone)
			v.Form.Says, v.Form.Asks = s.Words, map[string]bool{}
			for _, a := range s.asks {
				v.Form.Asks[a] = true
			}
			if s.Key == "app" {
				v.Form.Apps = []forms.Field{
					app(typed, "ios", "iPhone or iPad", "apps.marrowby.example/ios"),
					app(typed, "android", "Android", "apps.marrowby.example/android")}
			}
		}
	}
	if open == "new" {
		v.Form = form(id, d, &leads.Route{}, names, typed, zone)
	}
	for n, f := range route.Find(d.Rules(), d.Zone, d.Language, now) {
		one := Finding{N: n, Code: f.Code, Words: f.Words, Important: f.Code == "route.unreached" || f.Code == "route.always"}
		if f.Fix != nil {
			one.Fix = f.Fix.Words
		}
		v.Findings = append(v.Findings, one)
	}
	v.Tongues = tongues
	v.Systems = choices(systems(), nil)
	v.Places = choices(named(names), nil)
	return v
}

func opened(list []Row) (out []*RouteForm) {
	for _, r := range list {
		out = append(out, r.Form)
	}
	return out
}

// placeNames are the printed places whose scans can be told: those with a link that no other shares.
func placeNames(j *job.Job) (out []string) {
	for _, p := range link.Links(j) {
		if name := p.Where(); name != "" {
			out = append(out, name)
		}
	}
	return out
}

func systems() []schema.Choice { return route.Fields.Field("systems").Item.Choices }

func named(list []string) (out []schema.Choice) {
	for _, x := range list {
		out = append(out, schema.Choice{Value: x, Words: x})
	}
	return out
}

func choices(list []schema.Choice, on []string) (out []forms.Choice) {
	for _, c := range list {
		out = append(out, forms.Choice{Value: c.Value, Words: c.Words, On: slices.Contains(on, c.Value)})
	}
	return out
}

// routeSource shows the fields of a route as a form's.
type routeSource struct {
	r     *leads.Route
	typed map[string][]string
	zone  string
}

func (s routeSource) Text(path string) string {
	key := path[strings.LastIndexByte(path, '/')+1:]
	if v, is := s.typed[key]; is {
		return strings.Join(v, "")
	}
	switch key {
	case "to":
		return Typed(s.r.To)
	case "timezone":
		return s.zone
	}
	return s.r.Shown(key)
}

func (routeSource) Faults() problem.List { return nil }

// form is that of a route; typed holds what somebody has written.
func form(code string, d *leads.Lead, r *leads.Route, names []string, typed map[string][]string, zone string) *RouteForm {
	if d.Zone != "" {
		zone = leads.Declared("timezone").Format(d.Zone)
	}
	src := routeSource{r, typed, zone}
	at := func(key string, f *schema.Field) forms.Field {
		out := forms.Of(src, "", "/route/"+key, f)
		out.Path, out.Choices = key, nil
		return out
	}
	field := func(key string) forms.Field { return at(key, route.Fields.Field(key)) }
	list := func(key string, was []string) []string {
		if v, is := typed[key]; is || typed["where"] != nil {
			return v
		}
		return was
	}
	f := &RouteForm{
		Code:   code,
		ID:     r.ID,
		Off:    r.Off,
		To:     forms.New(src, "", "/route/to", "text", "Leads to"),
		Hours:  field("hours"),
		Share:  field("share"),
		Stock:  field("stock"),
		Yearly: field("yearly"),
		Near:   field("near"),
		Within: field("within_km"),
		Zone:   at("timezone", leads.Declared("timezone")),
	}
	f.To.Path, f.To.Mode, f.To.Sample = "to", "url", "marrowby.example/cy/ffair"
	where, speaks := field("where"), field("languages")
	speaks.Complete = "tongues"
	f.Where, f.Speaks = &where, &speaks
	spans := route.Fields.Field("spans").Part
	for n := range route.MaxSpans {
		from, until := route.SpanKeys(n)
		a, b := at(from, spans.Field("from")), at(until, spans.Field("until"))
		a.ID, b.ID = forms.ID("/route/"+from), forms.ID("/route/"+until)
		if n == 0 {
			f.Span = []forms.Field{a, b}
		} else {
			a.Sample, b.Sample = "", ""
			f.More = append(f.More, a, b)
		}
	}
	f.Places = choices(named(names), list("places", r.Places))
	for _, gone := range r.Places { // a place that is no more is shown all the same
		if !slices.Contains(names, gone) {
			f.Places = append(f.Places, forms.Choice{Value: gone, Words: gone + ", which is no place here", On: true})
		}
	}
	f.Systems = choices(systems(), list("systems", r.Systems))
	f.Days = choices(route.Fields.Field("weekdays").Item.Choices, list("weekdays", r.Weekdays))
	f.Timely = len(r.Weekdays)+len(r.Hours) > 0 || r.Yearly || len(r.Spans) > 1
	f.Nearer, f.Unsaved = r.Near != "", len(typed) > 0
	f.Far = r.Share > 0 || r.Stock > 0
	return f
}

func app(typed map[string][]string, key, label, sample string) forms.Field {
	return forms.Field{
		Path:   "to-" + key,
		ID:     forms.ID("/route/to-" + key),
		Label:  label,
		Kind:   "text",
		Mode:   "url",
		Sample: sample,
		Value:  strings.Join(typed["to-"+key], ""),
	}
}

// Counted adds what last week's scans say.
func (v *Routes) Counted(l *link.Led, past []leads.Past) {
	if l.Live == nil {
		return
	}
	r := l.Draft.Replay(l.Live.Lead, past)
	for i := range v.List {
		v.List[i].Count = strconv.Itoa(r.Routes[i])
	}
	v.Rest.Count = strconv.Itoa(r.Rest)
	v.Week = WeekSays(l, r)
}

// WeekSays says what the draft would have made of last week's scans.
func WeekSays(l *link.Led, r leads.Replayed) string {
	of := fmt.Sprintf("Of last week's %s scans", measure.Count(r.All))
	switch {
	case r.All == 0:
		return "Nobody scanned it last week."
	case !l.Changed() && r.Untold == 0:
		return fmt.Sprintf("Last week's %s scans, by route.", measure.Count(r.All))
	case !l.Changed():
		return fmt.Sprintf("%s, %s cannot be told: of them less is kept.", of, measure.Count(r.Untold))
	}
	s := fmt.Sprintf("%s, %s would have gone elsewhere", of, measure.Count(r.Moved))
	if r.Vague > 0 {
		s += fmt.Sprintf("; %s cannot be told", measure.Count(r.Vague))
	}
	return s + "."
}

// daysShown is how many days a strip shows.
const daysShown = 6

// What says what somebody would get of the draft.
func What(d *leads.Lead, a route.Asked, now time.Time) *WhatIf {
	in, problems := a.Input(d.Zone, now)
	w := &WhatIf{Errors: map[string]string{}}
	for _, p := range problems {
		w.Errors[strings.TrimPrefix(p.Field, "/")] = forms.Sentence(p)
	}
	rules := d.Rules()
	set := route.Compile(rules, d.Zone, d.Language)
	if len(problems) == 0 {
		who := d.Who(in)
		w.Sentence, w.Steps = who.Sentence(), who.Steps
	} else {
		in = route.Input{At: now}
	}
	first := set.StripFrom(in.At, daysShown)
	for k := range daysShown {
		w.Days = append(w.Days, first.In(set.Zone()).AddDate(0, 0, k).Format("Mon 2"))
	}
	for _, p := range set.Strip(rules, in, first, daysShown) {
		row := Person{Who: p.Who}
		for k, cell := range p.Days {
			row.Days = append(row.Days, cellOf(w.Days[k], cell))
		}
		w.People = append(w.People, row)
	}
	return w
}

func cellOf(day string, cell route.Cell) Cell {
	c := Cell{}
	var words, says []string
	for _, i := range cell {
		if i == route.Everybody {
			words, says = append(words, "–"), append(says, "the usual destination")
		} else {
			words, says = append(words, strconv.Itoa(i+1)), append(says, fmt.Sprintf("route %d", i+1))
			if c.Class == 0 {
				c.Class = i%5 + 1
			}
		}
	}
	c.Words, c.Says = strings.Join(words, " "), day+": "+strings.Join(says, ", then ")
	return c
}

// tongues are the names of languages that are offered while somebody types; any other is taken too.
var tongues = []string{"Arabic", "Bengali", "Bulgarian", "Chinese", "Croatian", "Czech", "Danish", "Dutch", "English", "Estonian",
	"Finnish", "French", "German", "Greek", "Hebrew", "Hindi", "Hungarian", "Icelandic", "Indonesian", "Irish", "Italian",
	"Japanese",
	"Korean", "Latvian", "Lithuanian", "Norwegian Bokmål", "Persian", "Polish", "Portuguese", "Punjabi", "Romanian", "Russian",
	"Scottish Gaelic", "Serbian", "Slovak", "Slovenian", "Spanish", "Swedish", "Thai", "Turkish", "Ukrainian", "Urdu",
	"Vietnamese",
	"Welsh"}
