// Package route decides who is sent where: an ordered list of rules, each of up to four questions, and of a scan the first that
// fits. It is pure: the moment, the place and the phone come in as values, and every input has exactly one answer.
package route

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Bounds of the rules of a code.
const (
	MaxRules  = 200
	MaxNames  = 50 // within a question
	MaxSpans  = 4
	MaxHours  = 4
	MaxStock  = 10_000_000
	LeastDraw = 0.01 // of a share
)

// Rule is what a route asks. A question that is not asked is answered by everybody; within one any answer will do.
type Rule struct {
	ID  string `json:"i,omitempty"` // stays with it wherever it is moved
	Off bool   `json:"o,omitempty"` // kept, and never fires

	Where  []string `json:"w,omitempty"` // names of countries, parts and towns, as Name writes them
	Places []string `json:"p,omitempty"` // names of printed places
	// Near is latitude and longitude of where the phone itself says to be, within so many kilometres; "" for anywhere
	Near   string  `json:"e,omitempty"`
	Within float64 `json:"k,omitempty"`

	Languages []string `json:"l,omitempty"` // BCP 47
	Systems   []string `json:"s,omitempty"` // ios, android, other

	Spans    []Span   `json:"t,omitempty"`
	Weekdays []string `json:"d,omitempty"` // mo … su
	Hours    []string `json:"h,omitempty"` // 09:00-18:00; those that pass midnight belong to the day on which they begin
	Yearly   bool     `json:"y,omitempty"` // the spans come again each year

	Share float64 `json:"r,omitempty"` // of scans, 0 for all
	Stock int     `json:"n,omitempty"` // how many times it may fire, 0 for any
}

// Span is from a moment until another, on the clocks of the code's zone; either may be "".
type Span struct {
	From  string `json:"a,omitempty"`
	Until string `json:"b,omitempty"`
}

// Weekdays by what a file calls them, from Monday on.
var weekdays = []schema.Choice{{Value: "mo", Words: "Monday"}, {Value: "tu", Words: "Tuesday"}, {Value: "we", Words: "Wednesday"},
	{
		Value: "th",
		Words: "Thursday",
	}, {Value: "fr", Words: "Friday"}, {Value: "sa", Words: "Saturday"}, {Value: "su", Words: "Sunday"}}

// systems by what a file calls them.
var systems = []schema.Choice{{Value: "ios", Words: "iPhone or iPad"}, {Value: "android", Words: "Android"},
	{Value: "other", Words: "another system"}}

// spans are the fields of a span.
var spans = schema.Part{
	Fields: []schema.Field{
		{Key: "from", Type: schema.Moment, At: schema.In(func(s *Span) any { return &s.From }), Called: "start", Label: "From",
			Example: "20 March 2027, 10:00", About: "When it begins, on the clocks of the zone; from ever where it is left out."},
		{Key: "until", Type: schema.Moment, At: schema.In(func(s *Span) any { return &s.Until }), Called: "end", Label: "Until",
			Example: "22 March 2027, 18:00", About: "When it ends, on the clocks of the zone; never where it is left out."},
	},
	New: func() any { return &Span{} },
}

// Fields are those of a rule.
var Fields = schema.Part{
	Fields: []schema.Field{
		{
			Key:     "id",
			Type:    schema.Line,
			At:      schema.In(func(r *Rule) any { return &r.ID }),
			Most:    20,
			Pattern: idPattern,
			Called:  "id",
			Fixed:   true,
			About:   "Stays with the route wherever it is moved; given where it is left out.",
		},
		list("where", func(r *Rule) *[]string { return &r.Where }, schema.Field{Called: "place", Label: "Where",
			Example: "Wales, Ireland",
			Hint:    "Countries, parts of them, towns: known from the address of the phone, to about 50 km.",
			About:   "Names of countries, parts of countries and towns; a wider name holds all within it."}),
		list("places", func(r *Rule) *[]string { return &r.Places }, schema.Field{Called: "printed place", Label: "Printed place",
			Hint:  "Which print was scanned. Exact.",
			About: "Names of printed places."}),
		{Key: "near", Type: schema.Line, At: schema.In(func(r *Rule) any { return &r.Near }), Called: "place to be near",
			Label: "Near", Example: "Ludlow, GB", Hint: "Asks the phone on a page of its own; it compares, and tells yes or no.",
			About: "A town, or latitude and longitude. The phone is asked on a page, compares there, and tells yes or no."},
		{Key: "within_km", Type: schema.Number, At: schema.In(func(r *Rule) any { return &r.Within }), Least: 0, Most: MostNear,
			Code: "route.within_km", Called: "distance", Label: "Within", Mode: "decimal", Example: "5", Unit: "km",
			Hint:  "Kilometres, at least 1.",
			About: "Kilometres around it, from 1 to 500."},
		list("languages", func(r *Rule) *[]string { return &r.Languages }, schema.Field{Called: "language", Label: "Speaks",
			Example: "Welsh", Hint: "The first of the phone's languages that is on offer.",
			About: "Language tags (BCP 47)."}),
		list("systems", func(r *Rule) *[]string { return &r.Systems }, schema.Field{Called: "system", Label: "System",
			Choices: systems, About: "Systems of phones."}),
		{Key: "spans", Type: schema.List, At: schema.In(func(r *Rule) any { return &r.Spans }), Part: &spans, Most: MaxSpans,
			Called: "span", Label: "Time", About: "Spans of time."},
		list("weekdays", func(r *Rule) *[]string { return &r.Weekdays }, schema.Field{Called: "weekday", Label: "Weekdays",
			Choices: weekdays, About: "Days of the week."}),
		list("hours", func(r *Rule) *[]string { return &r.Hours }, schema.Field{Called: "hours", Label: "Hours",
			Example: "09:00-18:00", Hint: "Past midnight they belong to the day on which they begin.",
			About: "Hours of the day, such as 09:00-18:00."}),
		{Key: "yearly", Type: schema.Flag, At: schema.In(func(r *Rule) any { return &r.Yearly }), Called: "yearly return",
			Label: "Every year", About: "The spans come again each year; their own years do not count."},
		{
			Key:     "share",
			Type:    schema.Share,
			At:      schema.In(func(r *Rule) any { return &r.Share }),
			Least:   0,
			Most:    1,
			Code:    "route.share",
			Called:  "share",
			Label:   "Share",
			Example: "50 %",
			Hint:    "Of all scans: a second scan of the same phone is drawn anew.",
			About:   "The share of scans, from 0.01 to 1; drawn for each scan.",
		},
		{Key: "stock", Type: schema.Whole, At: schema.In(func(r *Rule) any { return &r.Stock }), Least: 0, Most: MaxStock,
			Called: "stock", Label: "Stock", Mode: "numeric", Example: "500",
			Hint:  "How many people get it; never more. If the count cannot be asked, the next route holds.",
			About: "How many times it fires at most. Where the count cannot be asked, the next route holds."},
		{Key: "off", Type: schema.Flag, At: schema.In(func(r *Rule) any { return &r.Off }), Called: "switch",
			Label: "Off", Off: true, About: "Kept, and never fires."},
	},
	New: func() any { return &Rule{} },
}

const idPattern = `^[a-z0-9]{1,20}$`

var ids = regexp.MustCompile(idPattern)

// list is a field of several strings.
func list(key string, at func(*Rule) *[]string, f schema.Field) schema.Field {
	f.Key, f.Type, f.Most = key, schema.List, MaxNames
	f.Item = &schema.Field{Type: schema.Line, Called: f.Called, Choices: f.Choices}
	f.Choices = nil
	f.Read = func(o schema.Reader, part any) {
		for i, v := range o.List(key) {
			text, is := v.(string)
			if !is {
				o.ProblemBelow(key, fmt.Sprint(i), "type", "is not text")
				continue
			}
			*at(part.(*Rule)) = append(*at(part.(*Rule)), strings.TrimSpace(text))
		}
	}
	f.Write = func(part any) any {
		if v := *at(part.(*Rule)); len(v) > 0 {
			return v
		}
		return nil
	}
	return f
}

// Read reads a rule from an object whose other members are left to the caller, on the clocks of a zone.
func Read(o *fields.Object, zone string) *Rule {
	r := &Rule{}
	Fields.Read(o, r)
	r.check(o, zone)
	return r
}

// check has names in their own form, and says what is wrong.
func (r *Rule) check(o *fields.Object, zone string) {
	for _, q := range []struct {
		key  string
		at   *[]string
		most int
		own  func(string) (string, string)
	}{
		{"where", &r.Where, MaxNames, Name},
		{"places", &r.Places, MaxNames, func(text string) (string, string) { return text, "" }},
		{"languages", &r.Languages, MaxNames, Language},
		{"systems", &r.Systems, MaxNames, oneOf(systems)},
		{"weekdays", &r.Weekdays, MaxNames, oneOf(weekdays)},
		{"hours", &r.Hours, MaxHours, hoursNamed},
	} {
		if len(*q.at) > q.most {
			o.Problem(q.key, "route.many", "names %d; there is room for %d", len(*q.at), q.most)
			*q.at = (*q.at)[:q.most]
			continue
		}
		var own []string
		for _, text := range *q.at {
			name, bad := q.own(text)
			if bad != "" {
				o.Problem(q.key, "route."+q.key, "%s", bad)
				continue
			}
			if name != "" && !slices.Contains(own, name) {
				own = append(own, name)
			}
		}
		*q.at = own
	}
	slices.SortFunc(r.Weekdays, func(a, b string) int { return weekday(a) - weekday(b) })
	if r.ID != "" && !ids.MatchString(r.ID) {
		o.Problem("id", "route.id", "is %q; it is of small letters and digits, 20 at most", r.ID)
	}
	if r.Share != 0 && (r.Share < LeastDraw || r.Share > 1) && o.Sound("share") {
		o.Problem("share", "route.share", "is %g %%; it lies between 1 and 100 %%", math.Round(r.Share*1e4)/100)
	}
	r.checkNear(o)
	r.checkSpans(o, zone)
}

func (r *Rule) checkNear(o *fields.Object) {
	if r.Near != "" {
		own, bad := pointNamed(r.Near)
		if bad != "" {
			o.Problem("near", "route.near", "%s", bad)
		}
		r.Near = own
	}
	switch {
	case !o.Sound("within_km"):
	case r.Within != 0 && r.Within < LeastNear:
		o.Problem("within_km", "route.within_km",
			"is %g km; phones within buildings know where they are to a kilometre at best, "+
				"so at least 1", r.Within)
	case o.Has("near") && r.Within == 0:
		o.Problem("within_km", "route.within_km", "is missing; write how many kilometres around, such as 5")
	case !o.Has("near") && r.Within != 0:
		o.Problem("near", "route.near", "is missing; write a larger town, or latitude and longitude")
	}
}

func (r *Rule) checkSpans(o *fields.Object, zone string) {
	r.Spans = slices.DeleteFunc(r.Spans, func(s Span) bool { return s == Span{} })
	if len(r.Spans) > MaxSpans {
		o.Problem("spans", "route.many", "names %d; there is room for %d", len(r.Spans), MaxSpans)
		r.Spans = r.Spans[:MaxSpans]
	}
	for i, s := range r.Spans {
		at := func(key, format string, args ...any) {
			o.Problems().Add(fmt.Sprintf("%s/%d/%s", o.At("spans"), i, key), "route.spans", format, args...)
		}
		from, bad := moment(s.From, zone)
		if bad != "" {
			at("from", "%s", bad)
		}
		until, worse := moment(s.Until, zone)
		if worse != "" {
			at("until", "%s", worse)
		}
		switch {
		case bad+worse != "":
		case r.Yearly && (s.From == "" || s.Until == ""):
			at("until", "is open; what comes again each year has a start and an end")
		case r.Yearly && s.From[:4] != s.Until[:4] && until-from >= 366*24*3600:
			at("until", "is more than a year after the start, and comes again each year")
		case s.From != "" && s.Until != "" && until <= from:
			at("until", "is not after the start")
		}
	}
	if r.Yearly && len(r.Spans) == 0 {
		o.Problem("yearly", "route.yearly", "is set, and there is no span that could come again; write one, or leave it out")
	}
}

// moment is one on the clocks of a zone, in Unix seconds; 0 for none.
func moment(text, zone string) (int64, string) {
	if text == "" {
		return 0, ""
	}
	t, bad := content.MomentIn(text, zone)
	if bad != "" {
		return 0, bad
	}
	return t.Unix(), ""
}

// oneOf takes a value of a list, or its words.
func oneOf(list []schema.Choice) func(string) (string, string) {
	return func(text string) (string, string) {
		for _, c := range list {
			if strings.EqualFold(text, c.Value) || strings.EqualFold(text, c.Words) {
				return c.Value, ""
			}
		}
		return "", fmt.Sprintf("is %q; it is one of %s", text, strings.Join(schema.Values(list), ", "))
	}
}

// Asks says that a rule asks anything.
func (r *Rule) Asks() bool {
	return len(r.Where)+len(r.Places)+len(r.Languages)+len(r.Systems)+len(r.Spans)+len(r.Weekdays)+len(r.Hours) > 0 ||
		r.Share > 0 ||
		r.Stock > 0 || r.Near != ""
}

// Timed says that a rule asks for spans of time, and for nothing else: it is a change that is planned.
func (r *Rule) Timed() bool {
	return len(r.Spans) > 0 && !r.Yearly &&
		len(r.Where)+len(r.Places)+len(r.Languages)+len(r.Systems)+len(r.Weekdays)+len(r.Hours) == 0 &&
		r.Share == 0 && r.Stock == 0 && r.Near == ""
}

// Changes are the moments at which the spans of a rule begin and end, on the clocks of a zone.
func (r *Rule) Changes(zone string) (out []time.Time) {
	for _, s := range r.Spans {
		for _, text := range []string{s.From, s.Until} {
			if at, bad := moment(text, zone); at != 0 && bad == "" {
				out = append(out, time.Unix(at, 0))
			}
		}
	}
	return out
}

// Check are the rules between rules: ids that are given once, and shares that fit into one.
func Check(list []*Rule, problems *problem.List, at func(i int, key string) string) {
	if len(list) > MaxRules {
		problems.Add(at(-1, ""), "route.many", "are %d; a code has room for %d", len(list), MaxRules)
		return
	}
	seen, shares := map[string]bool{}, map[string]float64{}
	for i, r := range list {
		if r.ID != "" && seen[r.ID] {
			problems.Add(at(i, "id"), "route.id", "is %q, which another route has", r.ID)
		}
		seen[r.ID] = true
		if r.Share == 0 || r.Off {
			continue
		}
		key := r.alike()
		if shares[key] += r.Share; shares[key] > 1+1e-9 {
			problems.Add(at(i, "share"), "route.share", "comes, with those of the routes before it that ask the same, to %g %%; "+
				"100 is the most", math.Round(shares[key]*1e4)/100)
		}
	}
}

// alike is what a rule asks but for its share, as a key.
func (r *Rule) alike() string {
	c := *r
	c.ID, c.Share, c.Stock, c.Off = "", 0, 0, false
	return fmt.Sprint(c)
}
