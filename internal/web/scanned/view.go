package scanned

import (
	"fmt"
	"html/template"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/tally"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

func urlEscape(s string) string { return url.QueryEscape(s) }

// View is the page.
type View struct {
	ui.Frame
	Sentence string
	Problem  string
	Spans    []Choice
	Against  []Choice
	From, To string // of days by date, as the fields hold them
	ByDate   bool
	Code     string
	Rule     template.HTML
	Rows     []Row
	Beside   []Card
	Silent   []Silence
	Now      Now
	Apart    int
	Zone     string
	Table    string // address of the CSV
	Earlier  string // what the outline behind is
}

// Choice is one of a list.
type Choice struct {
	Value, Words string
	On           bool
}

// Row is a printed place.
type Row struct {
	ID, Link, Name, Code string
	Crop                 template.HTML
	Bars                 template.HTML
	Total                string
	Before               string // in the span before, "" where that is not asked for
	Rate                 string
	Course               tally.Course
	Open                 bool
	Toggle               string // address on which it is unfolded, or folded
	Parts                []Parts
	Days                 []Day // the table behind the bars
	Chosen               bool
}

// Day is one count.
type Day struct {
	When string
	N    int
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

// Card is two places side by side.
type Card struct {
	Title, Says, More string
	Drawing           template.HTML
}

// Silence is a place that fell silent.
type Silence struct{ Name, Says, ID string }

func newView(a asked, list []place, now time.Time) View {
	v := View{
		Problem: a.problem,
		Code:    a.code,
		ByDate:  a.days == "",
		Zone:    zoneName(a.span.Zone),
		Table:   "/scans/table" + a.query("", ""),
		From:    a.span.From.Format("2006-01-02"),
		To:      a.span.To.AddDate(0, 0, -1).Format("2006-01-02"),
	}
	for _, s := range spans {
		words := map[string]string{"7": "7 days", "28": "28 days", "90": "90 days", "365": "a year"}[s]
		v.Spans = append(v.Spans, Choice{s, words, s == a.days})
	}
	for _, k := range [][2]string{{"before", "the days before"}, {"year", "a year earlier"}, {"none", "nothing"}} {
		v.Against = append(v.Against, Choice{k[0], k[1], k[0] == a.against})
	}
	v.Earlier = map[string]string{"before": fmt.Sprintf("%d days before", a.span.Days()), "year": "a year earlier"}[a.against]
	v.Rule = rule(a.span)
	most := 1
	for _, p := range list {
		most = max(most, usualMost(p.days), usualMost(p.before))
	}
	for _, p := range list {
		v.Rows = append(v.Rows, rowOf(a, p, most))
		if days, chance, silent := p.hung.Silence(); silent {
			v.Silent = append(v.Silent, Silence{p.name(), silence(a.span, p, days, chance), p.Live.Code})
		}
	}
	v.Beside = beside(a, list, now)
	v.Sentence = sentence(a, list)
	return v
}

// zoneName is a zone as people say it.
func zoneName(z *time.Location) string {
	name := z.String()
	if name == "UTC" {
		return "Days in UTC"
	}
	return "Days in " + strings.ReplaceAll(name[strings.LastIndexByte(name, '/')+1:], "_", " ") + " time"
}

func rowOf(a asked, p place, most int) Row {
	r := Row{ID: p.Live.Code, Link: p.address, Name: p.name(), Code: p.Code, Crop: template.HTML(p.summary.Corner),
		Total: measure.Count(sum(p.days)), Course: p.hung.Course(), Open: a.open == p.address,
		Chosen: slices.Contains(a.with, p.address)}
	if p.before != nil {
		r.Before = measure.Count(sum(p.before))
	}
	perDay, in, ok := p.hung.Rate()
	days, _, silent := p.hung.Silence()
	switch {
	case silent:
		r.Rate = fmt.Sprintf("%s a day until %s", measure.Number(float64(p.hung.Sum())/float64(len(p.hung)-days), 1),
			a.span.To.AddDate(0, 0, -days-1).Format("2 January"))
	case len(p.hung) == 0:
		r.Rate = "not up yet"
	case ok:
		r.Rate = fmt.Sprintf(
			"%s a day (%s to %s)",
			measure.Number(perDay, 1),
			measure.Number(in.Low, 1),
			measure.Number(in.High, 1),
		)
	default:
		r.Rate = measure.Number(perDay, 1) + " a day"
	}
	r.Bars = bars(p, most)
	if r.Open {
		r.Toggle = a.query("open", "")
		for i, n := range p.days {
			r.Days = append(r.Days, Day{a.span.From.AddDate(0, 0, i).Format("2 Jan"), n})
		}
	} else {
		r.Toggle = a.query("open", p.address)
	}
	return r
}

// Sizes of the drawings, in pixels.
const (
	ruleWidth, ruleHeight = 392, 26
	barsHeight            = 34
)

// rule is the common time rule: a tick a day where there is room, and four dates.
func rule(s scans.Span) template.HTML {
	n := s.Days()
	var b strings.Builder
	fmt.Fprintf(
		&b,
		`<svg class="rule" viewBox="0 0 %d %d" width="%d" height="%d" aria-hidden="true">`,
		ruleWidth,
		ruleHeight,
		ruleWidth,
		ruleHeight,
	)
	step := max(1, (n+3)/4)
	for i := 0; i < n; i += step {
		x := float64(i) * ruleWidth / float64(n)
		fmt.Fprintf(
			&b,
			`<path d="M%.1f 16v10"/><text x="%.1f" y="11">%s</text>`,
			x+0.5,
			x,
			s.From.AddDate(0, 0, i).Format("2 Jan"),
		)
	}
	if n <= 90 {
		for i := range n {
			fmt.Fprintf(&b, `<path d="M%.1f 22v4"/>`, float64(i)*ruleWidth/float64(n)+0.5)
		}
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
}

// bars are the counts of a place, and behind them those of the span before, in outline.
func bars(p place, most int) template.HTML {
	n := len(p.days)
	width := float64(ruleWidth) / float64(n)
	gap := 1.0
	if width < 3 {
		gap = 0
	}
	var b strings.Builder
	low, high := slices.Min(p.days), slices.Max(p.days)
	fmt.Fprintf(
		&b,
		`<svg class="bars" viewBox="0 0 %d %d" width="%d" height="%d" role="img" aria-label="%s: %s scans, %d to %d a day">`,
		ruleWidth,
		barsHeight,
		ruleWidth,
		barsHeight,
		template.HTMLEscapeString(p.name()),
		measure.Count(sum(p.days)),
		low,
		high,
	)
	scale := float64(barsHeight-2) / float64(most)
	for i, c := range p.days {
		h := float64(c) * scale
		if c > most { // cut off, with a slit near its top
			h = barsHeight - 1
			fmt.Fprintf(&b, `<path d="M%.1f 0h%.1fv4h-%.1fz"/>`, float64(i)*width, width-gap, width-gap)
			h -= 6
		}
		if c > 0 {
			fmt.Fprintf(&b, `<path d="M%.1f %.1fh%.1fv%.1fh-%.1fz"/>`, float64(i)*width, barsHeight-1-h, width-gap, h, width-gap)
		}
	}
	for i, c := range p.before {
		if i < n && c > 0 && c <= most {
			fmt.Fprintf(
				&b,
				`<path class="then" d="M%.1f %.1fh%.1f"/>`,
				float64(i)*width,
				barsHeight-1-float64(c)*scale,
				width-gap,
			)
		}
	}
	fmt.Fprintf(&b, `<path class="base" d="M0 %.1fh%d"/></svg>`, barsHeight-0.5, ruleWidth)
	return template.HTML(b.String())
}

// usualMost is how high the bars of a place usually are at most: an opening day must not flatten all others.
func usualMost(days []int) int {
	some := slices.DeleteFunc(slices.Clone(days), func(n int) bool { return n == 0 })
	if len(some) == 0 {
		return 0
	}
	slices.Sort(some)
	return min(some[len(some)-1], 1+some[len(some)*9/10]*5/4)
}

// silence says that a place fell silent, and how likely that is by chance.
func silence(s scans.Span, p place, days int, chance float64) string {
	words := fmt.Sprintf("fell silent after %s.", s.To.AddDate(0, 0, -days-1).Format("2 January"))
	switch once := 1 / chance; {
	case once < 1e6:
		digits := math.Pow(10, math.Floor(math.Log10(once)))
		words += fmt.Sprintf(" By chance that happens once in %s.", measure.Count(int(math.Floor(once/digits)*digits)))
	default:
		words += " By chance that hardly happens."
	}
	return words
}

// maxBeside is how many places stand side by side.
const maxBeside = 6

// beside compares the chosen places, each with the first of them; without a choice, the two that are scanned most.
func beside(a asked, list []place, now time.Time) (out []Card) {
	var chosen []place
	for _, p := range list {
		if slices.Contains(a.with, p.address) && len(chosen) < maxBeside {
			chosen = append(chosen, p)
		}
	}
	if len(a.with) == 0 {
		for _, p := range list {
			if p.hung.Sum() > 0 && len(chosen) < 2 {
				chosen = append(chosen, p)
			}
		}
	}
	for i := 1; i < len(chosen); i++ {
		out = append(out, cardOf(chosen[0], chosen[i], len(chosen)-1, now))
	}
	return out
}

func cardOf(x, y place, of int, now time.Time) Card {
	c := tally.Compare(x.hung, y.hung, float64(len(x.hung)), float64(len(y.hung)), of)
	card := Card{Title: fmt.Sprintf("%s against %s", upper(x.name()), y.name()), Drawing: ratioDrawing(c)}
	switch c.Verdict {
	case tally.First:
		card.Says = fmt.Sprintf("%s beats %s by %s.", upper(x.name()), y.name(), times(c.In))
	case tally.Second:
		card.Says = fmt.Sprintf(
			"%s beats %s by %s.",
			upper(y.name()),
			x.name(),
			times(tally.Interval{Low: 1 / c.In.High, High: 1 / c.In.Low}),
		)
	default:
		card.Says = "Too few to tell."
		if c.Until > 0 {
			card.Says += fmt.Sprintf(" At this rate, until about %s.", now.AddDate(0, 0, c.Until).Format("2 January"))
		}
	}
	card.More = perPrints(x, y, of) + perCost(x, y, of)
	return card
}

// perPrints says how two places compare for each print, where both runs are known.
func perPrints(x, y place, of int) string {
	if x.noted.Prints == 0 || y.noted.Prints == 0 {
		return ""
	}
	return per("For each 1,000 printed ", x, y, float64(x.noted.Prints), float64(y.noted.Prints), of)
}

// perCost says how two places compare for what they cost, where both are known.
func perCost(x, y place, of int) string {
	a, bad := strconv.ParseFloat(x.noted.Cost, 64)
	b, worse := strconv.ParseFloat(y.noted.Cost, 64)
	if bad != nil || worse != nil {
		return ""
	}
	return per("For what it cost ", x, y, a, b, of)
}

func per(what string, x, y place, a, b float64, of int) string {
	c := tally.Compare(x.hung, y.hung, a, b, of)
	switch c.Verdict {
	case tally.First:
		return fmt.Sprintf("%s%s does better, by %s. ", what, x.name(), times(c.In))
	case tally.Second:
		return fmt.Sprintf(
			"%s%s does better, by %s. ",
			what,
			y.name(),
			times(tally.Interval{Low: 1 / c.In.High, High: 1 / c.In.Low}),
		)
	}
	return ""
}

// times says by how many times, as far as the counts tell.
func times(in tally.Interval) string {
	if math.IsInf(in.High, 1) {
		return fmt.Sprintf("at least %s times", factor(in.Low))
	}
	return fmt.Sprintf("%s to %s times", factor(in.Low), factor(in.High))
}

// factor is a figure as exactly as anybody needs it.
func factor(x float64) string {
	if x < 10 {
		return measure.Number(x, 1)
	}
	digits := math.Pow(10, math.Floor(math.Log10(x))-1)
	return measure.Count(int(math.Round(x/digits) * digits))
}

// ratioDrawing draws an interval of a ratio on a rule from a quarter to four times.
func ratioDrawing(c tally.Compared) template.HTML {
	if !c.Given {
		return ""
	}
	at := func(r float64) float64 { return 108 + 108*min(1, max(-1, math.Log(r)/math.Log(4))) }
	var b strings.Builder
	fmt.Fprintf(
		&b,
		`<svg class="ratio" viewBox="0 0 216 34" width="216" height="34" aria-hidden="true"><path class="rule" d="M0 9.5h216"/>`+
			`<path class="even" d="M108.5 0v19"/><path class="in" d="M%.1f 9.500H%.1f"/><path class="best" d="M%.1f 5h9v9h-9z"/>`,
		at(c.In.Low),
		at(c.In.High),
		at(c.Ratio)-4.5,
	)
	for _, r := range []struct {
		x     int
		words string
	}{{0, "¼ ×"}, {108, "as often"}, {216, "4 ×"}} {
		anchor := map[int]string{0: "start", 108: "middle", 216: "end"}[r.x]
		fmt.Fprintf(&b, `<text x="%d" y="31" text-anchor="%s">%s</text>`, r.x, anchor, r.words)
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
}

// weekdays, Sunday first.
var weekdays = []string{"Sundays", "Mondays", "Tuesdays", "Wednesdays", "Thursdays", "Fridays", "Saturdays"}

// sentence says the whole in one breath.
func sentence(a asked, list []place) string {
	all := make(tally.Days, a.span.Days())
	for _, p := range list {
		for i, n := range p.days {
			all[i] += n
		}
	}
	total, days := all.Sum(), a.span.Days()
	span := fmt.Sprintf("%d days", days)
	if days == 1 {
		span = "1 day"
	}
	switch {
	case len(list) == 0:
		return "Nothing to count yet. A dynamic code is counted once it hangs."
	case total == 0:
		return fmt.Sprintf("No scan in %s.", span)
	}
	words := fmt.Sprintf("%s scans in %s.", measure.Count(total), span)
	if total == 1 {
		words = fmt.Sprintf("1 scan in %s.", span)
	}
	var said []string
	if len(list) > 1 {
		x, y := list[0], list[1]
		if c := tally.Compare(x.hung, y.hung, float64(len(x.hung)), float64(len(y.hung)), 1); c.Verdict == tally.First {
			said = append(said, fmt.Sprintf("%s beats %s", upper(x.name()), y.name()))
		}
	}
	if day, share, ok := all.Weekday(int(a.span.From.Weekday())); ok {
		said = append(said, fmt.Sprintf("%s carry %s of it", weekdays[day], part(share)))
	}
	if len(said) > 0 {
		words += " " + strings.Join(said, "; ") + "."
	}
	return words
}

// part is a share in words.
func part(share float64) string {
	switch {
	case share >= 0.9:
		return "nearly all"
	case share >= 0.62:
		return "two thirds"
	case share >= 0.45:
		return "half"
	default:
		return "a third"
	}
}

func upper(s string) string {
	if s == "" {
		return s
	}
	r := []rune(s)
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}

// languages are names of those that are met most; others stand as their code.
var languages = map[string]string{"en": "English", "cy": "Welsh", "pl": "Polish", "fr": "French", "de": "German", "nl": "Dutch",
	"es": "Spanish", "it": "Italian", "pt": "Portuguese", "uk": "Ukrainian", "ro": "Romanian", "zh": "Chinese", "ja": "Japanese",
	"ar": "Arabic", "ga": "Irish", "gd": "Gaelic", "": "unknown"}

// partsOf are what the scans of a place were.
func partsOf(p scans.Parts) []Parts {
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
		listed("Languages", p.Languages, func(s string) string {
			if name, ok := languages[s]; ok {
				return name
			}
			return s
		}), {Title: "Hours", Drawing: hours(p.Hours)}}
}

// Of the drawing of hours, in pixels.
const hourWidth, hourHeight = 9, 48

// hours are the scans of each hour of the day, midnight first.
func hours(list []scans.Part) template.HTML {
	var by [24]int
	most, busiest := 1, 0
	for _, x := range list {
		if i, err := strconv.Atoi(x.Name); err == nil && i >= 0 && i < len(by) {
			by[i] = x.N
		}
	}
	for i, n := range by {
		if n > by[busiest] {
			busiest = i
		}
		most = max(most, n)
	}
	var b strings.Builder
	fmt.Fprintf(
		&b,
		`<svg class="hours" viewBox="0 0 %d %d" width="%d" height="%d" role="img" aria-label="By the hour; most from %d to %d o'clock">`,
		24*hourWidth,
		hourHeight+14,
		24*hourWidth,
		hourHeight+14,
		busiest,
		busiest+1,
	)
	for i, n := range by {
		if h := float64(n) * hourHeight / float64(most); n > 0 {
			fmt.Fprintf(
				&b,
				`<path d="M%d %.1fh%dV%dh-%dz"><title>%d:00, %d</title></path>`,
				i*hourWidth,
				hourHeight-h,
				hourWidth-1,
				hourHeight,
				hourWidth-1,
				i,
				n,
			)
		}
	}
	fmt.Fprintf(&b, `<path class="base" d="M0 %.1fh%d"/>`, hourHeight+0.5, 24*hourWidth)
	for _, i := range []int{0, 6, 12, 18} {
		fmt.Fprintf(&b, `<text x="%d" y="%d">%d</text>`, i*hourWidth, hourHeight+13, i)
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
}
