package leads

import (
	"fmt"
	"slices"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/route"
)

// Route is a rule with where it leads.
type Route struct {
	route.Rule
	To content.Content
}

// Planned is the id of the route that is the change at a time: the two are one thing.
const Planned = "planned"

// Destination is one of those of a lead.
type Destination struct {
	Key string // below the lead: "to", "then", "routes/0/to"
	To  content.Content
}

// Destinations are all that a lead may lead to, the usual one first.
func (l *Lead) Destinations() []Destination {
	out := []Destination{{"to", l.To}}
	planned := l.plannedLast()
	if planned {
		out = append(out, Destination{"then", l.Then})
	}
	for i, r := range l.Routes {
		if !(planned && r.ID == Planned) {
			out = append(out, Destination{fmt.Sprintf("routes/%d/to", i), r.To})
		}
	}
	return out
}

// Rules are those of the routes.
func (l *Lead) Rules() []*route.Rule {
	out := make([]*route.Rule, len(l.Routes))
	for i, r := range l.Routes {
		out[i] = &r.Rule
	}
	return out
}

// RouteSays is a route as it is read aloud.
func (l *Lead) RouteSays(i int) string {
	return l.Routes[i].Sentence(l.Zone) + ": " + Says(l.Routes[i].To) + "."
}

// readRoutes reads the routes, on the clocks of a zone that there is.
func (l *Lead) readRoutes(o *fields.Object, zone string) {
	for i, entry := range o.Objects("routes") {
		if i >= route.MaxRules {
			break // said by the rules between them
		}
		r := &Route{Rule: *route.Read(entry, zone), To: destination(entry, "to", true)}
		entry.Close()
		l.Routes = append(l.Routes, r)
	}
	at := func(i int, key string) string {
		if i < 0 {
			return o.At("routes")
		}
		return fmt.Sprintf("%s/%d/%s", o.At("routes"), i, key)
	}
	if list := o.List("routes"); len(list) > route.MaxRules {
		route.Check(make([]*route.Rule, len(list)), o.Problems(), at)
	}
	route.Check(l.Rules(), o.Problems(), at)
	for i, r := range l.Routes {
		if zone == "" && len(r.Weekdays)+len(r.Hours) > 0 {
			o.Problem("timezone", "lead.zone", "is missing, and route %d asks for days or hours; write a large town, such as London", i+1)
			break
		}
	}
	l.name()
}

// name gives routes an id that have none.
func (l *Lead) name() {
	taken := map[string]bool{}
	for _, r := range l.Routes {
		taken[r.ID] = true
	}
	n := 0
	for _, r := range l.Routes {
		for r.ID == "" || r.ID == "0" {
			n++
			if id := fmt.Sprintf("r%d", n); !taken[id] {
				r.ID, taken[id] = id, true
			}
		}
	}
}

// plan makes the change at a time a route, and the route of that name the change at a time.
func (l *Lead) plan() {
	i := slices.IndexFunc(l.Routes, func(r *Route) bool { return r.ID == Planned })
	switch {
	case i >= 0:
		r := l.Routes[i]
		if l.Then = r.To; len(r.Spans) > 0 {
			l.From, l.Until = r.Spans[0].From, r.Spans[0].Until
		}
	case l.Then != nil && l.From != "":
		l.Routes = append(l.Routes, &Route{To: l.Then,
			Rule: route.Rule{ID: Planned, Spans: []route.Span{{From: l.From, Until: l.Until}}}})
	}
}

// plannedLast says that the change at a time is the last route, and nothing more: it is written as such.
func (l *Lead) plannedLast() bool {
	if len(l.Routes) == 0 {
		return false
	}
	r := l.Routes[len(l.Routes)-1]
	return r.ID == Planned && !r.Off && r.Timed() && len(r.Spans) == 1 && r.Spans[0].From != ""
}

// routesJSON writes the routes, and says that the change at a time is among them.
func (l *Lead) routesJSON() (out []any, planned bool) {
	list := l.Routes
	if l.plannedLast() {
		list = list[:len(list)-1]
	}
	for _, r := range list {
		planned = planned || r.ID == Planned
		doc := route.Fields.Write(&r.Rule, nil).Map()
		doc["id"] = r.ID
		if r.To != nil {
			doc["to"] = content.JSON(r.To)
		}
		out = append(out, doc)
	}
	return out, planned
}

// Document is the lead as JSON with every route among its routes, the change at a time too.
func (l *Lead) Document() map[string]any {
	doc := l.JSON()
	var list []any
	for _, r := range l.Routes {
		one := route.Fields.Write(&r.Rule, nil).Map()
		one["id"] = r.ID
		if r.To != nil {
			one["to"] = content.JSON(r.To)
		}
		list = append(list, one)
	}
	for _, key := range []string{"then", "from", "until"} {
		delete(doc, key)
	}
	if delete(doc, "routes"); len(list) > 0 {
		doc["routes"] = list
	}
	return doc
}

// Apart says that the change at a time asks for more than that, or stands before other routes, so that it is one of them.
func (l *Lead) Apart() bool {
	return !l.plannedLast() && slices.ContainsFunc(l.Routes, func(r *Route) bool { return r.ID == Planned })
}

// Route is the index of a route by its id, −1 for none.
func (l *Lead) Route(id string) int {
	return slices.IndexFunc(l.Routes, func(r *Route) bool { return r.ID == id })
}
