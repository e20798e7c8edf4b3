package scanned

import (
	"fmt"
	"html/template"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"sodrik/internal/core/leads"
	"sodrik/internal/core/leave"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/tally"
	"sodrik/internal/link"
	"sodrik/internal/notices"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

// View is the page, or the view of a desk.
type View struct {
	ui.Frame
	Sentence  string
	Empty     bool // nothing hangs that is counted
	Problem   string
	Spans     []Choice
	Against   []Choice
	By        []Choice
	Campaigns []Choice // none where there are none
	From, To  string   // of days by date, as the fields hold them
	ByDate    bool
	Code      string // id of the one code that is shown
	Link      string // the one place that is shown
	Group     string // the one campaign that is shown
	Query     string // of the address, for what shows the same in another form
	Step      int    // days that a bar stands for
	Rule      template.HTML
	All       *Row // all rows together, where there are more than one
	Rows      []Row
	Earlier   string // what the outline behind is
	Less      string // address of the rows before those shown
	More      string // of those after
	MoreWords string
	Beside    []Card
	Silent    []Silence
	Notices   []notices.Notice
	MayChange bool
	Towns     []string // of made-up phones; none but in the demonstration
	Systems   []string
	Languages []Choice
	Now       Now
	Apart     []Part // who was no person
	ApartSum  string
	Zone      string

	asked asked
}

// Choice is one of a list.
type Choice struct {
	Value, Words string
	On           bool
}

// Row is a printed place, or a code.
type Row struct {
	ID, Link, Name, Code string
	Crop                 template.HTML
	Bars                 template.HTML
	Numbers              string // the counts of its days, with commas, for stepping from bar to bar
	Behind               string // those of the days before
	Last                 int    // index of the last day
	Total                string
	Before               string // in the span before, "" where that is not asked for
	Rate                 string
	Course               tally.Course
	Open                 bool
	Toggle               string // address on which it is unfolded, or folded
	Parts                []Parts
	Week                 template.HTML
	Led                  []Led
	Reached              []Reached // none where nothing reports
	Whole                bool      // days at the ends are days of UTC
	Days                 []Day     // the table behind the bars
	Phones               bool      // it says different phones
	Chosen               bool
	days                 []int
}

// Day is one count, and how many different phones there were on that day of UTC, "" where that is not known.
type Day struct {
	When   string
	N      int
	Phones string
}

// Parts are what the scans of a place have in common.
type Parts struct {
	Title   string
	Of      []Part
	Drawing template.HTML // in place of a list
}

// Part is one of them, as wide as the largest is 100.
type Part struct {
	Name  string
	N     string
	Width int
}

// Led is where a code led for a while, and how many were sent there.
type Led struct{ Since, To, N string }

// Reached is a step behind the scans: how many reached what a code is for.
type Reached struct {
	Goal, Signed, Unsigned string // "" for none
	Share                  string // of the scans, by what is signed; "" where that cannot be said
}

// Card is two places side by side.
type Card struct {
	Title, Says, More string
	Drawing           template.HTML
}

// Silence is a place that fell silent.
type Silence struct{ Name, Says, ID, Link string }

// leastShown is of how many days a page tells by itself that a place fell silent; of fewer the notice says it.
const leastShown = 28

func newView(a asked, p placed, now time.Time) View {
	v := View{
		asked:   a,
		Problem: a.problem,
		Code:    a.code, Link: a.link, Group: a.group,
		ByDate: a.days == "",
		Zone:   zoneName(a.span.Zone),
		Query:  a.query("open", ""),
		From:   a.span.From.Format(time.DateOnly),
		To:     a.span.To.AddDate(0, 0, -1).Format(time.DateOnly),
	}
	v.choices(a, p)
	v.Earlier = map[string]string{"before": fmt.Sprintf("%d days before", a.span.Days()), "year": "a year earlier"}[a.against]
	v.Rule, v.Step = rule(a.span), step(a.span.Days())
	most := 1
	by := step(a.span.Days())
	for _, one := range p.list {
		most = max(most, usualMost(grouped(one.days, by)), usualMost(grouped(one.before, by)))
	}
	for _, one := range p.list {
		v.Rows = append(v.Rows, rowOf(a, one, most))
		if days, chance, silent := one.silence(); silent && len(one.days) >= leastShown {
			v.Silent = append(v.Silent, Silence{one.full(), silence(one, days, chance), one.Live.Code, one.Address})
		}
	}
	if p.n > 1 {
		all := place{days: p.all, hung: p.all, over: p.all, Placed: link.Placed{Address: "all",
			Link: leave.Link{Live: &leads.Live{}}}}
		row := rowOf(a, all, max(1, usualMost(grouped(p.all, by))))
		row.Name, row.Code = "all together", "bars of their own height"
		v.All = &row
	}
	v.turn(a, p)
	v.Beside = beside(a, p.list, now)
	v.Sentence, v.Empty = sentence(a, p), p.n == 0 && a.all()
	return v
}

func (v *View) choices(a asked, p placed) {
	choices := func(to *[]Choice, is string, of ...[2]string) {
		for _, c := range of {
			*to = append(*to, Choice{c[0], c[1], c[0] == is})
		}
	}
	choices(&v.Spans, a.days, [2]string{"7", "7 days"}, [2]string{"28", "28 days"}, [2]string{"90", "90 days"},
		[2]string{"365", "a year"})
	choices(&v.Against, a.against, [2]string{"before", "the days before"}, [2]string{"year", "a year earlier"},
		[2]string{"none", "nothing"})
	choices(&v.By, a.by, [2]string{"place", "printed place"}, [2]string{"code", "code"})
	if len(p.campaigns) > 0 && a.code == "" && a.link == "" {
		choices(&v.Campaigns, a.group, [2]string{"", "all codes"})
		for _, name := range p.campaigns {
			choices(&v.Campaigns, a.group, [2]string{name, name})
		}
	}
}

// turn leads to rows that are not shown.
func (v *View) turn(a asked, p placed) {
	if p.before > 0 {
		v.Less = "/scans" + a.query("after", strconv.Itoa(max(0, p.before-rowsAtOnce)))
	}
	if after := p.before + rowsAtOnce; after < p.n {
		v.More = "/scans" + a.query("after", strconv.Itoa(after))
	}
	if v.Less != "" || v.More != "" {
		v.MoreWords = fmt.Sprintf("%s to %s of %s", measure.Count(p.before+1), measure.Count(min(p.n, p.before+rowsAtOnce)),
			measure.Count(p.n))
	}
}

// apartWords are who is no person.
var apartWords = map[string]string{"robot": "robots and previews", "where": "looks at where it leads",
	"head": "the head alone, as monitors ask", "others": "others"}

func (v *View) apart(list []scans.Part) {
	n := 0
	for _, p := range list {
		n += p.N
		v.Apart = append(v.Apart, Part{Name: apartWords[p.Name], N: measure.Count(p.N)})
	}
	if n > 0 {
		v.ApartSum = measure.Count(n)
	}
}

// zoneName is a zone as people say it.
func zoneName(z *time.Location) string {
	name := z.String()
	if name == "UTC" {
		return "Days in UTC"
	}
	return "Days in " + strings.ReplaceAll(name[strings.LastIndexByte(name, '/')+1:], "_", " ") + " time"
}

// numbers are counts with commas between.
func numbers(list []int) string {
	var b strings.Builder
	for i, n := range list {
		if i > 0 {
			b.WriteByte(',')
		}
		b.WriteString(strconv.Itoa(n))
	}
	return b.String()
}

func rowOf(a asked, p place, most int) Row {
	r := Row{ID: p.Live.Code, Link: p.Address, Name: p.name(), Code: p.Code, Crop: template.HTML(p.summary.Corner),
		Total: measure.Count(
			sum(p.days),
		), Course: p.course(), Open: a.open == p.Address, Chosen: slices.Contains(a.with, p.Address), days: p.days}
	if p.before != nil {
		r.Before = measure.Count(sum(p.before))
	}
	r.Rate = rateWords(a, p)
	now, then := grouped(p.days, step(len(p.days))), grouped(p.before, step(len(p.days)))
	r.Bars, r.Numbers, r.Behind, r.Last = bars(now, then, most), numbers(now), numbers(then), len(now)-1
	if r.Open {
		r.Toggle = a.query("open", "")
	} else {
		r.Toggle = a.query("open", p.Address)
	}
	return r
}

// rateWords say how often a place is scanned.
func rateWords(a asked, p place) string {
	perDay, in, ok := p.hung.Rate()
	days, _, silent := p.silence()
	switch {
	case silent:
		return fmt.Sprintf("%s a day until %s", measure.Number(float64(p.over.Sum())/float64(len(p.over)-days), 1),
			p.last(days).Format("2 January"))
	case len(p.hung) == 0:
		return "not up yet"
	case ok:
		return fmt.Sprintf("%s a day (%s to %s)", measure.Number(perDay, 1), measure.Number(in.Low, 1),
			measure.Number(in.High, 1))
	}
	return measure.Number(perDay, 1) + " a day"
}

// unfolded fills in what is known of the scans of a row.
func (r *Row) unfolded(p scans.Parts, w scans.Week, span scans.Span) {
	r.Parts, r.Week, r.Whole, r.Phones = partsOf(p, w), week(w), p.Whole, len(p.Phones) > 0
	for i, n := range r.days {
		d := Day{When: span.From.AddDate(0, 0, i).Format("2 Jan"), N: n}
		if phones, known := p.Phones[i]; known {
			d.Phones = measure.Count(phones)
		}
		r.Days = append(r.Days, d)
	}
}

// ledTo says where a code led, and how many were sent there within the span.
func (r *Row) ledTo(versions []link.Version, n []int, zone *time.Location) {
	for i, v := range versions {
		if n[i] > 0 {
			r.Led = append(r.Led, Led{v.At.In(zone).Format("2 January 2006"), v.Lead.Says(), measure.Count(n[i])})
		}
	}
}

// reached says what was reached. A share is said of signed reports alone, and where there are not more of them than scans.
func (r *Row) reached(list []scans.Reached) {
	for _, x := range list {
		one := Reached{Goal: x.Goal}
		if x.Signed > 0 {
			one.Signed = measure.Count(x.Signed)
			if all := sum(r.days); x.Signed <= all {
				one.Share = measure.Number(100*float64(x.Signed)/float64(all), 1) + " % of the scans"
			}
		}
		if x.Unsigned > 0 {
			one.Unsigned = measure.Count(x.Unsigned)
		}
		r.Reached = append(r.Reached, one)
	}
}

// languageName is a language as English names it; "" is unknown.
func languageName(code string) string {
	switch code {
	case "":
		return "unknown"
	case "others":
		return code
	}
	tag, err := language.Parse(code)
	if err != nil {
		return code
	}
	if name := display.English.Languages().Name(tag); name != "" {
		return name
	}
	return code
}

// partsOf are what the scans of a place were.
func partsOf(p scans.Parts, w scans.Week) []Parts {
	listed := func(title string, list []scans.Part, say func(string) string) Parts {
		out := Parts{Title: title}
		most := 1
		for _, x := range list {
			most = max(most, x.N)
		}
		for _, x := range list {
			out.Of = append(out.Of, Part{say(x.Name), measure.Count(x.N), x.N * 100 / most})
		}
		return out
	}
	known := func(s string) string {
		if s == "" {
			return "unknown"
		}
		return s
	}
	return []Parts{listed("Towns, as far as addresses tell", p.Towns, known), listed("Phones", p.Systems, known),
		listed("Languages", p.Languages, languageName), {Title: "Hours", Drawing: hours(w)}}
}
