package route

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// TestYearly: what comes again each year begins and ends with its minute, over the new year too, and 29 February is 1 March in a
// short year.
func TestYearly(t *testing.T) {
	spring := Compile(read(t, `{"yearly":true,"spans":[{"from":"2026-03-01T10:30","until":"2026-05-31T18:15"}]}`),
		"Europe/London", "")
	winter := Compile(read(t, `{"yearly":true,"spans":[{"from":"2026-12-24T12:00","until":"2027-01-06T09:00"}]}`),
		"Europe/London", "")
	leapDayOnly := Compile(read(t, `{"yearly":true,"spans":[{"from":"2028-02-29T00:00","until":"2028-03-01T00:00"}]}`), "UTC", "")
	leapHours := Compile(read(t, `{"yearly":true,"spans":[{"from":"2028-02-29T09:00","until":"2028-02-29T12:00"}]}`), "UTC", "")
	leap := Compile(read(t, `{"yearly":true,"spans":[{"from":"2028-02-29T06:00","until":"2028-03-01T12:00"}]}`), "UTC", "")
	for _, c := range []struct {
		s    *Set
		at   string
		want int
	}{
		{spring, "2029-03-01T10:29Z", Everybody}, {spring, "2029-03-01T10:30Z", 0}, {spring, "2029-05-31T17:14Z", 0},
		{spring, "2029-05-31T17:15Z", Everybody}, {winter, "2030-12-24T11:59Z", Everybody}, {winter, "2030-12-24T12:00Z", 0},
		{winter, "2031-01-01T00:00Z", 0}, {winter, "2031-01-06T08:59Z", 0}, {winter, "2031-01-06T09:00Z", Everybody},
		{leapDayOnly, "2028-02-29T00:00Z", 0}, {leapDayOnly, "2028-02-29T23:59Z", 0}, {leapDayOnly, "2028-03-01T00:00Z",
			Everybody},
		{leapDayOnly, "2027-02-28T23:59Z", Everybody}, {leapDayOnly, "2027-03-01T00:00Z", 0}, {leapDayOnly, "2027-03-01T23:59Z",
			0},
		{leapDayOnly, "2027-03-02T00:00Z", Everybody}, {leapHours, "2027-03-01T08:59Z", Everybody}, {leapHours,
			"2027-03-01T09:00Z", 0},
		{leapHours, "2027-03-01T12:00Z", Everybody}, {leapHours, "2028-02-29T09:00Z", 0}, {leapHours, "2100-03-01T09:00Z", 0},
		{leap, "2028-02-29T06:00Z", 0}, {leap, "2028-02-29T05:59Z", Everybody}, {leap, "2027-03-01T00:00Z", 0},
		{leap, "2027-02-28T23:59Z", Everybody}, {leap, "2027-03-01T12:00Z", Everybody},
	} {
		t.Run(fmt.Sprint(c.s), func(t *testing.T) {
			if got := c.s.Choose(&Input{At: at(c.at)}, nil); got != c.want {
				t.Errorf("at %s rule %d fires, want %d", c.at, got, c.want)
			}
		})
	}
	for _, c := range []struct {
		s           *Set
		after, want string
	}{
		{spring, "2027-01-01T00:00Z", "2027-03-01T10:30Z"}, {spring, "2027-03-01T10:30Z", "2027-05-31T17:15Z"},
		{spring, "2027-06-01T00:00Z", "2028-03-01T10:30Z"}, {winter, "2027-01-02T00:00Z", "2027-01-06T09:00Z"},
		{winter, "2027-01-07T00:00Z", "2027-12-24T12:00Z"}, {leap, "2027-01-01T00:00Z", "2027-03-01T00:00Z"},
		{leap, "2028-01-01T00:00Z", "2028-02-29T06:00Z"},
	} {
		t.Run(fmt.Sprint(c.s), func(t *testing.T) {
			if got, ok := c.s.Next(at(c.after), 400*24*time.Hour); !ok || !got.Equal(at(c.want)) {
				t.Errorf("after %s comes %s, want %s", c.after, got, c.want)
			}
		})
	}
	night := Compile(read(t, `{"weekdays":["fr"],"hours":["22:15-02:45"]}`), "Europe/London", "")
	for after, want := range map[string]string{"2027-01-08T21:00Z": "2027-01-08T22:15Z", "2027-01-08T22:15Z": "2027-01-09T00:00Z",
		"2027-01-09T00:00Z": "2027-01-09T02:45Z"} {
		t.Run(after, func(t *testing.T) {
			if got, ok := night.Next(at(after), 24*time.Hour); !ok || !got.Equal(at(want)) {
				t.Errorf("after %s comes %s, want %s", after, got, want)
			}
		})
	}
}

// TestExplain: each rule says why it fires, or the first thing that keeps it from it.
func TestExplain(t *testing.T) {
	now := at("2027-03-01T09:30Z") // a Monday
	for text, c := range map[string]struct {
		in   Input
		want string
	}{
		`{}`: {Input{}, "0 true it asks nothing"},
		`{"spans":[{"from":"2027-02-20T10:00"}],"where":["Wales"],"places":["gate"],"languages":["cy"],"systems":["ios"],"share":0.5,"stock":3}`: {
			Input{Country: "GB", Part: "Wales", Place: "gate", Languages: []string{"cy"}, System: "iOS"},
			"0 true it is the time, it is in Wales, it is scanned at gate, the phone speaks Welsh, it is an iPhone or iPad, it is drawn and " +
				"something is left"},
		`{"id":"n","near":"52.368,-2.718","within_km":5}`: {Input{Near: []string{"n"}},
			"0 true the phone says that it is within 5 km of Ludlow, United Kingdom"},
		`{"id":"n","near":"52.368,-2.718","within_km":6}`: {Input{Far: []string{"n"}},
			"0 false the phone says that it is not within 6 km of Ludlow, United Kingdom"},
		`{"weekdays":["mo"]}`:                      {Input{}, "0 true it is the time"},
		`{"hours":["09:00-10:00"]}`:                {Input{}, "0 true it is the time"},
		`{"weekdays":["tu"]}`:                      {Input{}, "0 false not on a Monday at 09:30"},
		`{"spans":[{"from":"2027-03-20T10:00"}]}`:  {Input{}, "0 false not before Sat 20 March 2027, 10:00"},
		`{"spans":[{"until":"2027-02-20T10:00"}]}`: {Input{}, "0 false over since Sat 20 February 2027, 10:00"},
		`{"where":["Wales","Ireland"]}`:            {Input{Country: "GB"}, "0 false not in Wales or Ireland"},
		`{"places":["gate","till"]}`:               {Input{Place: "door"}, "0 false not scanned at gate or till"},
		`{"systems":["android"]}`:                  {Input{System: "iOS"}, "0 false not Android"},
		`{"share":0.25}`:                           {Input{Draw: 0.25}, "0 false drawn for others; 25 % get it"},
		`{"languages":["cy","ga"]}`: {Input{Languages: []string{"en"}},
			"0 false the phone does not speak Welsh or Irish"},
		`{"languages":["cy"]}`: {Input{Languages: []string{"en-GB", "cy"}},
			"0 false the phone prefers British English"},
		`{"yearly":true,"spans":[{"from":"2027-06-01T00:00","until":"2027-07-01T00:00"}]}`: {Input{},
			"0 false not at this time of the year"},
	} {
		t.Run(text, func(t *testing.T) {
			c.in.At = now
			rules := read(t, text)
			var got []string
			for _, s := range Compile(rules, "Europe/London", "en").Explain(rules, "Europe/London", &c.in) {
				got = append(got, fmt.Sprintf("%d %v %s", s.Rule, s.Fires, s.Words))
			}
			if s := strings.Join(got, "; "); s != c.want {
				t.Errorf("%s: %q, want %q", text, s, c.want)
			}
		})
	}
	rules := read(t, `{"off":true}`, `{"languages":["cy"]}`, `{"languages":["pl"]}`, `{"systems":["ios"]}`)
	steps := Compile(rules, "UTC", "").Explain(rules, "UTC", &Input{At: now, Languages: []string{"pl", "cy"}, System: "iOS"})
	if len(steps) != 2 || steps[0] != (Step{1, false, "the phone prefers Polish"}) || steps[1] != (Step{2, true,
		"the phone speaks Polish"}) {
		t.Errorf("%+v", steps)
	}
}

// TestMay: what is kept of a scan tells by which rule it was sent, or by which it may have been.
func TestMay(t *testing.T) {
	now := at("2027-03-01T09:30Z")
	all := Kept{true, true}
	for _, c := range []struct {
		rules []string
		in    Input
		kept  Kept
		want  string
	}{
		{[]string{`{"languages":["cy"]}`, `{"languages":["pl"]}`}, Input{Languages: []string{"pl", "cy"}}, all, "[1]"},
		{[]string{`{"stock":3}`, `{"languages":["cy"]}`, `{"languages":["pl"]}`}, Input{Languages: []string{"pl", "cy"}}, all,
			"[0 1 2]"},
		{[]string{`{"stock":3,"off":true}`, `{"languages":["cy"]}`, `{"languages":["pl"]}`}, Input{Languages: []string{"pl",
			"cy"}}, all, "[2]"},
		{[]string{`{"languages":["cy"]}`}, Input{Languages: []string{"en", "cy"}}, all, "[-1]"},
		{[]string{`{"share":0.5}`}, Input{Draw: 0.6}, Kept{true, true}, "[-1]"},
		{[]string{`{"share":0.5}`}, Input{Draw: 0.6}, Kept{true, false}, "[0 -1]"},
		{[]string{`{"where":["Wales"]}`, `{"weekdays":["mo"]}`, `{"weekdays":["tu"]}`}, Input{}, Kept{false, true}, "[0 1]"},
		{[]string{`{"systems":["ios"]}`}, Input{}, Kept{false, true}, "[0 -1]"},
		{[]string{`{"languages":["cy"]}`}, Input{}, Kept{false, true}, "[0 -1]"},
		{[]string{`{"places":["gate"]}`}, Input{Place: "till"}, Kept{false, true}, "[-1]"},
		{[]string{`{"spans":[{"from":"2027-03-20T10:00"}]}`}, Input{}, Kept{false, true}, "[-1]"},
	} {
		t.Run(fmt.Sprint(c.rules), func(t *testing.T) {
			c.in.At = now
			if got := fmt.Sprint(Compile(read(t, c.rules...), "Europe/London", "en").May(&c.in, c.kept)); got != c.want {
				t.Errorf("%v: %s, want %s", c.rules, got, c.want)
			}
		})
	}
}
