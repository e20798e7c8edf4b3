package scanned

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/leads"
	"sodrik/internal/core/leave"
	"sodrik/internal/core/tally"
	"sodrik/internal/link"
	"sodrik/internal/scans"
)

var now = time.Date(2027, 3, 27, 9, 0, 0, 0, time.UTC)

func ask(t *testing.T, query, zone string) asked {
	t.Helper()
	r := httptest.NewRequest(http.MethodGet, "/scans"+query, nil)
	if zone != "" {
		r.AddCookie(&http.Cookie{Name: "zone", Value: zone})
	}
	return askedOf(r, now)
}

func TestAsked(t *testing.T) {
	for _, c := range []struct {
		query, zone, from, to, days, problem string
	}{
		{"", "", "2027-02-28 UTC", "2027-03-28 UTC", "28", ""},
		{"?days=7", "Europe/London", "2027-03-21 GMT", "2027-03-28 GMT", "7", ""},
		{"?days=7", "Pacific/Auckland", "2027-03-21 NZDT", "2027-03-28 NZDT", "7", ""}, // 22:00 on the same day there
		{"?days=9", "", "2027-02-28 UTC", "2027-03-28 UTC", "28", ""},
		{"?from=2027-01-01&to=2027-01-31", "", "2027-01-01 UTC", "2027-02-01 UTC", "", ""},
		{"?from=2027-01-31&to=2027-01-01", "", "2027-02-28 UTC", "2027-03-28 UTC", "28", "comes before"},
		{"?from=2027-01-01", "", "2027-02-28 UTC", "2027-03-28 UTC", "28", "first and a last day"},
		{"?from=2024-01-01&to=2027-01-03", "", "2024-01-01 UTC", "2027-01-04 UTC", "", ""},
		{"?from=1977-01-01&to=2027-01-31", "", "2027-02-28 UTC", "2027-03-28 UTC", "28", "three years"},
		{"?zone=UTC", "Europe/London", "2027-02-28 UTC", "2027-03-28 UTC", "28", ""},
		{"?zone=Atlantis", "Europe/London", "2027-02-28 UTC", "2027-03-28 UTC", "28", "no time zone"},
		{"", "Atlantis", "2027-02-28 UTC", "2027-03-28 UTC", "28", ""}, // a cookie that somebody made up
	} {
		t.Run(c.query, func(t *testing.T) {
			a := ask(t, c.query, c.zone)
			const form = "2006-01-02 MST"
			if a.span.From.Format(form) != c.from || a.span.To.Format(form) != c.to || a.days != c.days ||
				!strings.Contains(a.problem, c.problem) ||
				(a.problem == "") != (c.problem == "") {
				t.Errorf(
					"%s in %q: %s to %s, %q, %q",
					c.query,
					c.zone,
					a.span.From.Format(form),
					a.span.To.Format(form),
					a.days,
					a.problem,
				)
			}
		})
	}
	if n := ask(t, "?from=2027-03-01&to=2027-03-31", "Europe/London").span.Days(); n != 31 { // the clocks change within
		t.Errorf("March has %d days", n)
	}
}

func of(name string, since time.Time, span scans.Span, days ...int) place {
	p := place{Placed: link.Placed{Link: leave.Link{Host: "go.marrowby.example", Path: strings.ToUpper(name), Code: "Fair",
		Live: &leads.Live{
			Place: name,
			Code:  "fair",
		}}, Address: "go.marrowby.example/" + strings.ToUpper(name), Since: since}, days: days}
	p.total = sum(days)
	p.hangs(span)
	return p
}

// hangs sets the days on which a place hung.
func (p *place) hangs(s scans.Span) {
	p.first, p.after = p.Hung(s.From, s.Days())
	p.hung = p.days[p.first:p.after]
	p.over, p.until = p.hung, s.From.AddDate(0, 0, p.after)
}

// pageOf is a page of places.
func pageOf(a asked, list ...place) placed {
	p := placed{list: list, n: len(list), all: make(tally.Days, a.span.Days())}
	for _, one := range list {
		for i, n := range one.days {
			p.all[i] += n
		}
	}
	return p
}

func repeat(n, days int) []int {
	out := make([]int, days)
	for i := range out {
		out[i] = n
	}
	return out
}

func TestSentence(t *testing.T) {
	a := ask(t, "", "")
	old := now.AddDate(-1, 0, 0)
	saturdays := repeat(2, 28) // the first day is a Sunday
	for i := 6; i < 28; i += 7 {
		saturdays[i] = 14
	}
	gate, till := of("gate", old, a.span, saturdays...), of("till card", old, a.span, repeat(1, 28)...)
	for want, list := range map[string][]place{
		"Nothing to count yet. A dynamic code is counted once it hangs.": nil,
		"No scan in 28 days.": {of("gate", old, a.span, repeat(0, 28)...)},
		"1 scan in 28 days.":  {of("gate", old, a.span, append(repeat(0, 27), 1)...)},
		"132 scans in 28 days. Gate beats till card; Saturdays carry half of it.": {gate, till},
		"56 scans in 28 days.": {till, of("door", old, a.span, repeat(1, 28)...)},
	} {
		t.Run(want, func(t *testing.T) {
			if got := sentence(a, pageOf(a, list...)); got != want {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
}

// TestRow: only days on which a place hung count, and the row says how it goes.
func TestRow(t *testing.T) {
	a := ask(t, "", "")
	late := of("door", time.Date(2027, 3, 14, 15, 0, 0, 0, time.UTC), a.span, append(repeat(0, 14), repeat(3, 14)...)...)
	if r := rowOf(a, late, 10); len(late.hung) != 14 || !strings.HasPrefix(r.Rate, "3 a day (") || r.Total != "42" ||
		r.Course != tally.Steady {
		t.Errorf("%d days, %+v", len(late.hung), r)
	}
	silent := of("leaflet", now.AddDate(-1, 0, 0), a.span, append(repeat(6, 17), repeat(0, 11)...)...)
	if r := rowOf(a, silent, 10); r.Course != tally.FellSilent || r.Rate != "6 a day until 16 March" {
		t.Errorf("%+v", r)
	}
	v := newView(a, pageOf(a, silent, late), now)
	if len(v.Silent) != 1 || v.Silent[0].Says != "fell silent after 16 March. By chance that hardly happens." {
		t.Errorf("%+v", v.Silent)
	}
	if got := silence(silent, 11, 1/9300.0); !strings.HasSuffix(got, "once in 9,000.") {
		t.Error(got)
	}
	if r := rowOf(a, of("soon", now.AddDate(0, 0, 3), a.span, repeat(0, 28)...), 10); r.Rate != "not up yet" ||
		r.Course != tally.TooFew {
		t.Errorf("%+v", r)
	}
	a.open = late.Address
	r := rowOf(a, late, 10)
	r.unfolded(scans.Parts{Phones: map[int]int{27: 2}}, scans.Week{}, a.span)
	if !r.Open || len(r.Days) != 28 || r.Days[27].Phones != "2" || r.Days[26].Phones != "" ||
		strings.Contains(r.Toggle, "open=") {
		t.Errorf("%+v", r)
	}
}

func TestBeside(t *testing.T) {
	a := ask(t, "", "")
	old := now.AddDate(-1, 0, 0)
	gate, till, rose := of(
		"gate",
		old,
		a.span,
		repeat(20, 28)...), of(
		"till",
		old,
		a.span,
		repeat(10, 28)...), of(
		"rose",
		old,
		a.span,
		repeat(9, 28)...)
	list := []place{gate, till, rose}
	cards := beside(a, list, now)
	if len(cards) != 1 || cards[0].Title != "Gate against till" || !strings.HasPrefix(cards[0].Says, "Gate beats till by 1.") ||
		!strings.Contains(string(cards[0].Drawing), "<svg") {
		t.Errorf("%+v", cards)
	}
	a.with = []string{till.Address, rose.Address}
	if cards = beside(a, list, now); len(cards) != 1 || cards[0].Title != "Till against rose" ||
		!strings.HasPrefix(cards[0].Says, "Too few to tell.") {
		t.Errorf("%+v", cards)
	}
	a.with = append(a.with, gate.Address)
	if cards = beside(a, list, now); len(cards) != 2 || cards[1].Title != "Gate against rose" {
		t.Errorf("%+v", cards)
	}
	a.with = []string{gate.Address}
	if cards = beside(a, list, now); len(cards) != 0 {
		t.Errorf("one place beside nothing: %+v", cards)
	}
	list[0].hungBefore = repeat(10, 28)
	if cards = beside(a, list, now); len(cards) != 1 || cards[0].Title != "Gate, these days against the days before" ||
		!strings.HasPrefix(cards[0].Says, "Gate in these days beats the days before by 1.") {
		t.Errorf("a place beside itself: %+v", cards)
	}
}

// TestNoted: dates that are noted count in place of when the code first led somewhere; print runs and costs are compared.
func TestNoted(t *testing.T) {
	a := ask(t, "", "")
	gate, till := of(
		"gate",
		now.AddDate(-1, 0, 0),
		a.span,
		repeat(20, 28)...), of(
		"till",
		now.AddDate(-1, 0, 0),
		a.span,
		repeat(10, 28)...)
	gate.Noted, till.Noted = leads.Hanging{
		From:   "2027-03-10",
		Until:  "2027-03-19",
		Prints: 4000,
		Cost:   "300",
	}, leads.Hanging{
		Prints: 500,
		Cost:   "10",
	}
	if gate.hangs(a.span); len(gate.hung) != 10 {
		t.Errorf("it hung on %d days", len(gate.hung))
	}
	gate.Noted.From, gate.Noted.Until = "", ""
	gate.hangs(a.span)
	c := beside(a, []place{gate, till}, now)[0]
	if !strings.HasPrefix(c.Says, "Gate beats till by") ||
		!strings.Contains(c.More, "For each 1,000 printed till does better, by ") ||
		!strings.Contains(c.More, "For what it cost till does better, by ") {
		t.Errorf("%+v", c)
	}
	till.Noted.Cost = ""
	if c := beside(a, []place{gate, till}, now)[0]; strings.Contains(c.More, "cost") {
		t.Errorf("a cost that is not known is compared: %s", c.More)
	}
	// The gate has twice the scans; for each print sixty and two hundred times as many, the second of which says nothing.
	for prints, said := range map[int]bool{360: true, 1200: false} {
		gate.Noted.Prints, till.Noted.Prints = 12, prints
		if c := beside(a, []place{gate, till}, now)[0]; strings.Contains(c.More, "printed") != said {
			t.Errorf("of 12 and %d prints: %s", prints, c.More)
		}
	}
}

// TestBars: one day that stands out is cut off, and does not flatten the others.
func TestBars(t *testing.T) {
	days := append([]int{90}, repeat(10, 27)...)
	if got := usualMost(days); got != 13 {
		t.Errorf("bars are %d high at most", got)
	}
	if got := usualMost([]int{0, 3, 0}); got != 3 {
		t.Errorf("three at most is %d", got)
	}
	drawn := string(bars(days, repeat(5, 28), 13))
	if strings.Count(drawn, "z") != 28+1 || strings.Count(drawn, "M") != 28+1+28+1 {
		t.Errorf("%s", drawn)
	}
	if got := grouped(repeat(1, 16), 7); len(got) != 3 || got[0] != 2 || got[1] != 7 || got[2] != 7 {
		t.Errorf("weeks are %v", got)
	}
	if step(130) != 1 || step(131) != 7 {
		t.Error("weeks are drawn at another span")
	}
	for x, want := range map[float64]string{1.54: "1.5", 9.96: "10", 12.4: "12", 848.3: "850", 5747.4: "5,700"} {
		t.Run(fmt.Sprint(x), func(t *testing.T) {
			if got := factor(x); got != want {
				t.Errorf("%v times is said as %s", x, got)
			}
		})
	}
}

// TestQuery: an address that unfolds a row shows the same span, against the same, with the same chosen.
func TestQuery(t *testing.T) {
	a := ask(t, "?from=2027-01-01&to=2027-01-31&against=year&with=go.x/A&with=go.x/B", "")
	want := "?against=year&open=go.x%2FA&from=2027-01-01&to=2027-01-31&with=go.x%2FA&with=go.x%2FB"
	if got := a.query("open", "go.x/A"); got != want {
		t.Errorf("%s, want %s", got, want)
	}
}

// TestCourseOfDaysOver: what becomes of a place is said by days that are over, however early today it is and whatever days are
// still to come.
func TestCourseOfDaysOver(t *testing.T) {
	morning := time.Date(2027, 3, 28, 6, 0, 0, 0, time.UTC)
	span := scans.Span{From: time.Date(2027, 3, 1, 0, 0, 0, 0, time.UTC), To: time.Date(2027, 4, 11, 0, 0, 0, 0, time.UTC),
		Zone: time.UTC}
	wide := wider(span, morning)
	if wide.From.Format(time.DateOnly) != "2027-01-31" || wide.To != span.To {
		t.Errorf("%v", wide)
	}
	gate := func(each, quiet, today int) place { // days without a scan before today, and scans today
		days := repeat(each, wide.Days())
		for i := wide.Day(morning) - quiet; i < len(days); i++ {
			days[i] = 0
		}
		days[wide.Day(morning)] = today
		p := of("gate", morning.AddDate(-1, 0, 0), span, days[wide.Day(span.From):]...)
		p.ends(days, wide, morning)
		return p
	}
	for _, c := range []struct {
		name  string
		p     place
		want  tally.Course
		after string
	}{
		{"a busy place in the morning", gate(30, 0, 0), tally.Steady, ""},
		{"silent for two days", gate(30, 2, 0), tally.FellSilent, "25 March"},
		{"and scanned again today", gate(30, 2, 1), tally.Steady, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			days, _, silent := c.p.silence()
			if got := c.p.course(); got != c.want || silent != (c.after != "") || silent &&
				c.p.last(days).Format("2 January") != c.after {
				t.Errorf("%s, %v, after %v", got, silent, c.p.last(days))
			}
		})
	}
}
