package leads

import (
	"fmt"
	"strings"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/route"
)

// Chance is what may come of a scan.
type Chance struct {
	Share float64 `json:"share"           doc:"Of scans like this, from 0 to 1."`
	N     int     `json:"n,omitempty"     doc:"Of the route, from 1 on; absent for everybody else."`
	Route string  `json:"route,omitempty" doc:"Its id."`
	Does  Doing   `json:"does"            doc:"go: it leads on; ask: a page with one button; quiet: a page without."`
	To    string  `json:"to,omitempty"    doc:"Where it leads, or what the button opens."`
	Title string  `json:"title,omitempty" doc:"Of a page."`
	Stock int     `json:"stock,omitempty" doc:"While so many last."`

	says string
}

// Who is what somebody gets, and why.
type Who struct {
	Outcomes []Chance `json:"outcomes" doc:"One, or several where shares are drawn."`
	Steps    []string `json:"steps"    doc:"Each route that is asked, and what comes of it."`
}

// Who says what somebody gets of a lead.
func (l *Lead) Who(in route.Input) (w Who) {
	live := l.Compile(in.Place, "")
	outcome := func(share float64, a Act) Chance {
		return Chance{Share: share, Does: a.Does, To: a.To, Title: a.Title}
	}
	if usual := live.usual(in.At); usual.Does == Quiet {
		o := outcome(1, usual)
		o.says = "the quiet page: " + usual.Title
		return Who{Outcomes: []Chance{o}, Steps: []string{}}
	}
	rules := l.Rules()
	set := route.Compile(rules, l.Zone, l.Language)
	for _, o := range set.Outcomes(in) {
		if o.Rule == route.Everybody {
			one := outcome(o.Share, live.usual(in.At))
			one.says = "the usual destination, " + l.Says()
			w.Outcomes = append(w.Outcomes, one)
			continue
		}
		r := l.Routes[o.Rule]
		one := outcome(o.Share, l.act(r.To, in.Place, ""))
		one.N, one.Route, one.Stock = o.Rule+1, r.ID, r.Stock
		one.says = fmt.Sprintf("route %d, %s", one.N, Says(r.To))
		if r.Near != "" {
			one.says += " (if the phone says that it is " + r.NearSays() + ")"
		}
		if r.Stock > 0 {
			one.says += fmt.Sprintf(" (while %s last)", measure.Count(r.Stock))
		}
		w.Outcomes = append(w.Outcomes, one)
	}
	w.Steps = []string{}
	for _, s := range set.Explain(rules, l.Zone, &in) {
		w.Steps = append(w.Steps, fmt.Sprintf("Route %d: %s.", s.Rule+1, s.Words))
	}
	return w
}

// Sentence says what somebody gets: "Route 1, marrowby.example/cy/ffair."
func (w Who) Sentence() string {
	var parts []string
	for _, o := range w.Outcomes {
		words := o.says
		if len(w.Outcomes) > 1 {
			words = fmt.Sprintf("%.0f %%: %s", 100*o.Share, words)
		}
		parts = append(parts, words)
	}
	s := strings.TrimSuffix(strings.Join(parts, "; "), ".")
	return strings.ToUpper(s[:1]) + s[1:] + "."
}
