// Package leads holds where a dynamic code leads: a destination, what changes at a time, an end, a pause; and what comes of
// it for a phone that asks at a moment. The short link itself is shortlink's matter; keeping and telling belong to others.
package leads

import (
	"strings"
	"unicode/utf8"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/route"
	"sodrik/internal/core/schema"
)

// Lead is where a code leads.
type Lead struct {
	To content.Content // what it leads to

	// Another destination, from a time on and until another; "" is none, and for ever. It is the route Planned.
	Then        content.Content
	From, Until string   // 2006-01-02T15:04 on the clocks of Zone
	Routes      []*Route // in their order; whom none fits gets To
	Language    string   // BCP 47, of To and of routes that ask for none; "" is not said
	Ends        string   // from then on there is a quiet page
	Zone        string   // of the time zone database

	Paused  bool   // a quiet page stands in place of the destination
	Words   string // of that page, "" for ours
	Instead string // an address offered there

	KeepQuery bool   // what follows a question mark in the address that was scanned goes on to the destination
	Status    string // "302", "307", or of those that phones keep, "301" and "308"
	MaxAge    string // for how many seconds they keep it
	PlaceTag  bool   // each placement's name goes on as the campaign tag "content"
	ScanTag   bool   // the link goes on, so that the site can report what was reached
}

// Bounds of a lead.
const MaxWords = 300

// Fields are those of a lead, without its destinations, which contents read.
var Fields = schema.Part{
	Fields: []schema.Field{
		{Key: "from", Type: schema.Moment, At: schema.In(func(l *Lead) any { return &l.From }), Called: "start of the change",
			Label: "From", Example: "22 March 2027, 18:00", About: "When the other destination begins, on the clocks of the zone."},
		{Key: "until", Type: schema.Moment, At: schema.In(func(l *Lead) any { return &l.Until }), Called: "end of the change",
			Label: "Until", Hint: "Left empty, it stays.", About: "When the first destination comes back."},
		{Key: "ends", Type: schema.Moment, At: schema.In(func(l *Lead) any { return &l.Ends }), Called: "end", Label: "Ends",
			Hint: "From then on people see a quiet page.", About: "From when a quiet page stands in place of the destination."},
		{Key: "timezone", Type: schema.Line, At: schema.In(func(l *Lead) any { return &l.Zone }), Called: "time zone",
			Label: "Time zone", Example: "London", Lookup: "zones", About: "A zone of the time zone database, or a large town of it."},
		{
			Key:     "language",
			Type:    schema.Line,
			At:      schema.In(func(l *Lead) any { return &l.Language }),
			Called:  "language of the rest",
			Label:   "Everybody else reads",
			Example: "English",
			Lookup:  "languages",
			Hint:    "Of phones that speak several, each gets the one that it prefers.",
			About:   "The language tag (BCP 47) of what is led to where no route asks for a language.",
		},
		{Key: "paused", Type: schema.Flag, At: schema.In(func(l *Lead) any { return &l.Paused }), Called: "pause",
			Label: "Paused",
			Hint:  "People see a quiet page until it goes on.", About: "A quiet page stands in place of the destination."},
		{Key: "message", Type: schema.Lines, At: schema.In(func(l *Lead) any { return &l.Words }), Most: MaxWords,
			Called: "words of the quiet page", Label: "Quiet page", Example: "The fair is over. See you next spring.",
			About: "What people read while it is paused, or after it has ended."},
		{Key: "instead", Type: schema.Line, At: schema.In(func(l *Lead) any { return &l.Instead }),
			Called: "address instead", Label: "Instead", Mode: "url", Example: "marrowby.example",
			Hint: "Offered on the quiet page.", About: "A web address that the quiet page offers."},
		{Key: "keep_query", Type: schema.Flag, At: schema.In(func(l *Lead) any { return &l.KeepQuery }),
			Called: "keeping of the scan's query", Label: "Pass on what follows “?”",
			About: "What follows a question mark in the scanned address goes on to the destination."},
		{Key: "status", Type: schema.Line, At: schema.In(func(l *Lead) any { return &l.Status }), Choices: schema.Words(
			"302", "302, usual", "307", "307, keeps the method", "301", "301, kept by phones",
			"308", "308, kept, and keeps the method"), Called: "redirect status", Label: "Redirect",
			Hint:  "A phone that keeps it does not ask again: no change, no pause and no count reaches it meanwhile.",
			About: "The HTTP status of the answer (RFC 9110, 15.4)."},
		{Key: "max_age", Type: schema.Line, At: schema.In(func(l *Lead) any { return &l.MaxAge }), Choices: schema.Words(
			"3600", "an hour", "86400", "a day", "604800", "a week", "31536000", "a year"), Called: "time that phones keep it",
			Label: "Kept for", About: "Seconds for which a 301 or 308 is kept (RFC 9111, 5.2.2.1)."},
		{Key: "place_tag", Type: schema.Flag, At: schema.In(func(l *Lead) any { return &l.PlaceTag }),
			Called: "tag of the place", Label: "Tag the place",
			Hint: "Adds the place's name to a web address, as utm_content.", About: "Each placement's name goes on as utm_content."},
		{Key: "scan_tag", Type: schema.Flag, At: schema.In(func(l *Lead) any { return &l.ScanTag }),
			Called: "tag of the scan", Label: "Tag the scan",
			Hint:  "Adds the short link to a web address, as scan, so that the site can report what was reached.",
			About: "The path of the short link goes on as scan."},
	},
	New: func() any { return &Lead{Status: "302", MaxAge: "86400"} },
}

// Of is a lead to a content, and nothing more.
func Of(to content.Content) *Lead {
	l := Fields.New().(*Lead)
	l.To = to
	return l
}

// Read reads a lead from decoded JSON. Problems have pointers below the lead.
func Read(v any) (*Lead, problem.List) {
	var problems problem.List
	o := fields.Open(v, "", &problems)
	l := Fields.New().(*Lead)
	l.To = destination(o, "to", true)
	l.Then = destination(o, "then", false)
	Fields.Read(o, l)
	zone, ok := content.ZoneNamed(l.Zone)
	if !ok {
		zone = "UTC" // of a zone that there is not, that alone is said
	}
	if l.Zone == "" {
		zone = ""
	}
	l.readRoutes(o, zone)
	o.Close()
	l.check(o)
	l.plan()
	return l, problems.Unique()
}

// destination reads one that is a content a link can lead to.
func destination(o *fields.Object, key string, required bool) content.Content {
	v, ok := o.Any(key)
	if !ok {
		if required {
			o.Problem(key, "lead.none", "is missing; write an address, such as marrowby.example/fair")
		}
		return nil
	}
	values, _ := v.(map[string]any)
	c, problems := content.New(values)
	for _, p := range problems {
		o.Problems().Add(o.At(key)+strings.TrimPrefix(p.Field, "/content"), p.Code, "%s", p.Message)
	}
	if c == nil || len(problems) > 0 {
		return nil
	}
	if why := content.KindOf(c.Kind()).Stays; why != "" {
		o.Problem(key, "lead.kind", "is something that no link can lead to: %s", why)
		return nil
	}
	return c
}

// check are the rules between fields.
func (l *Lead) check(o *fields.Object) {
	if l.Zone != "" {
		name, ok := content.ZoneNamed(l.Zone)
		if !ok {
			o.Problem("timezone", "lead.zone", "is %q, which is no time zone; write a large town of it, such as London", l.Zone)
			return
		}
		l.Zone = name
	}
	if n := utf8.RuneCountInString(l.Words); n > MaxWords {
		o.Problem("message", "lead.long", "is %d characters long; a quiet page has room for %d", n, MaxWords)
	}
	if l.Instead != "" {
		if _, bad := content.New(map[string]any{"kind": "url", "url": l.Instead}); len(bad) > 0 {
			o.Problem("instead", bad[0].Code, "%s", bad[0].Message)
		}
	}
	if l.Language != "" {
		tag, bad := route.Language(l.Language)
		if bad != "" {
			o.Problem("language", "route.languages", "%s", bad)
		}
		l.Language = tag
	}
	if l.Permanent() && (l.Then != nil || l.Ends != "" || l.Paused || len(l.Routes) > 0) {
		o.Problem(
			"status",
			"lead.permanent",
			"is %s, which phones keep, so that no change, end, pause or route reaches them; choose 302, "+
				"or leave those out",
			l.Status,
		)
	}
	from, until, ends := l.moment(o, "from", l.From), l.moment(o, "until", l.Until), l.moment(o, "ends", l.Ends)
	switch {
	case l.From != "" && !o.Has("then"):
		o.Problem("then", "lead.then", "is missing; write where it leads from then on")
	case l.From == "" && o.Has("then"):
		o.Problem("from", "lead.from", "is missing; write when it leads there, such as 20 March 2027, 10:00")
	case l.From == "" && l.Until != "":
		o.Problem("until", "lead.until", "is set, and nothing begins before it; write a start, or leave it out")
	case from != 0 && until != 0 && until <= from:
		o.Problem("until", "lead.order", "is not after the start of the change")
	case from != 0 && ends != 0 && ends <= from:
		o.Problem("ends", "lead.order", "is not after the start of the change, which then would never be seen")
	case until != 0 && ends != 0 && ends <= until:
		o.Problem("ends", "lead.order", "is not after the end of the change; leave one of the two out")
	}
}

// Permanent says that phones keep where it leads, so that nothing changes for them meanwhile.
func (l *Lead) Permanent() bool { return l.Status == "301" || l.Status == "308" }

// moment is a time of the lead in Unix seconds, 0 for none or none that there is.
func (l *Lead) moment(o *fields.Object, key, text string) int64 {
	if text == "" || o != nil && !o.Sound(key) {
		return 0
	}
	t, message := content.MomentIn(text, l.Zone)
	if message != "" && o != nil {
		o.Problem(key, "lead.moment", "%s", message)
	}
	if message != "" {
		return 0
	}
	return t.Unix()
}

// JSON is the lead in canonical form.
func (l *Lead) JSON() map[string]any {
	routes, planned := l.routesJSON()
	c := *l
	if planned {
		c.Then, c.From, c.Until = nil, "", ""
	}
	out := Fields.Write(&c, nil).Map()
	if len(routes) > 0 {
		out["routes"] = routes
	}
	for key, c := range map[string]content.Content{"to": c.To, "then": c.Then} {
		if c != nil {
			out[key] = content.JSON(c)
		}
	}
	return out
}
