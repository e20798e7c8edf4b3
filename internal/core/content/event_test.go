package content

import (
	"slices"
	"strings"
	"testing"
)

func lines(payload string) []string { return strings.Split(payload, "\r\n") }

// TestEvents: RFC 5545, with the clocks of named zones, across their changes.
func TestEvents(t *testing.T) {
	for _, c := range []struct {
		text string
		want []string // lines that must be there
		when string
	}{
		{`{"kind":"event","title":"Bulb fair","start":"2027-03-20T10:00","end":"2027-03-20T16:00","timezone":"Europe/London"}`,
			[]string{"DTSTART:20270320T100000Z", "DTEND:20270320T160000Z", "SUMMARY:Bulb fair", "DTSTAMP:20270320T100000Z"},
			"Sat 20 March 2027, 10:00 to 16:00, London"},
		// British Summer Time begins on 28 March 2027
		{`{"kind":"event","title":"a","start":"2027-03-27T22:00","end":"2027-03-28T10:00","timezone":"Europe/London"}`,
			[]string{"DTSTART:20270327T220000Z", "DTEND:20270328T090000Z"},
			"Sat 27 March 2027, 22:00 to Sun 28 March 2027, 10:00, London"},
		// and ends on 31 October: 01:30 comes twice, the first is meant
		{`{"kind":"event","title":"a","start":"2027-10-31T01:30","timezone":"Europe/London"}`,
			[]string{"DTSTART:20271031T003000Z"}, "Sun 31 October 2027, 01:30, London"},
		{`{"kind":"event","title":"a","start":"2027-03-20T10:00","timezone":"Asia/Kathmandu"}`,
			[]string{"DTSTART:20270320T041500Z"}, "Sat 20 March 2027, 10:00, Kathmandu"},
		{`{"kind":"event","title":"a","start":"2027-03-20T10:00"}`, []string{"DTSTART:20270320T100000"},
			"Sat 20 March 2027, 10:00"},
		// a day's end is exclusive
		{`{"kind":"event","title":"a","start":"2027-02-27","end":"2027-02-28","all_day":true}`,
			[]string{"DTSTART;VALUE=DATE:20270227", "DTEND;VALUE=DATE:20270301"}, "Sat 27 February 2027 to Sun 28 February 2027"},
		{`{"kind":"event","title":"a","start":"2028-02-29","all_day":true}`, []string{"DTSTART;VALUE=DATE:20280229"},
			"Tue 29 February 2028, all day"},
		// what repeats keeps its hour: zone and rule instead of UTC
		{
			`{"kind":"event","title":"a","start":"2027-03-06T10:00","timezone":"Europe/London","repeat":{"every":"week","until":"2027-04-30"}}`,
			[]string{"DTSTART;TZID=Europe/London:20270306T100000", "RRULE:FREQ=WEEKLY;UNTIL=20270430T225959Z",
				"TZID:Europe/London", "RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU", "RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU",
				"TZOFFSETFROM:+0100", "TZOFFSETTO:+0000"}, "Sat 6 March 2027, 10:00, London"},
		{`{"kind":"event","title":"a","start":"2027-03-06","all_day":true,"repeat":{"every":"month","interval":2,"count":5}}`,
			[]string{"RRULE:FREQ=MONTHLY;INTERVAL=2;COUNT=5"}, "Sat 6 March 2027, all day"},
		{
			`{"kind":"event","title":"Fair; tea, cake","start":"2027-03-20T10:00","timezone":"UTC","alarm_minutes":1440,"location":"Barn\\Yard","description":"a\nb"}`,
			[]string{`SUMMARY:Fair\; tea\, cake`, `LOCATION:Barn\\Yard`, `DESCRIPTION:a\nb`, "BEGIN:VALARM", "TRIGGER:-PT1440M"},
			"Sat 20 March 2027, 10:00, UTC"},
	} {
		t.Run(c.text, func(t *testing.T) {
			got, problems := readAt(t, c.text)
			if len(problems) > 0 {
				t.Errorf("%s: %v", c.text, problems)
				return
			}
			all := lines(got.Payload())
			for _, want := range c.want {
				if !slices.Contains(all, want) {
					t.Errorf("%s: no line %q in\n%s", c.text, want, got.Payload())
				}
			}
			for _, must := range []string{"UID:", "DTSTAMP:", "PRODID:"} {
				if !strings.Contains(got.Payload(), must) {
					t.Errorf("%s: %s is mandatory", c.text, must)
				}
			}
			if when := got.(*Event).When(); when != c.when {
				t.Errorf("%s: %q, want %q", c.text, when, c.when)
			}
			roundTrip(t, got)
			jsonSame(t, got)
		})
	}
}

func TestEventsRefused(t *testing.T) {
	for text, want := range map[string]string{
		`{"kind":"event"}`: "title", `{"kind":"event","title":"a"}`: "start",
		`{"kind":"event","title":"a","start":"20.3.2027"}`:                                 "start",
		`{"kind":"event","title":"a","start":"2027-02-29T10:00"}`:                          "start",
		`{"kind":"event","title":"a","start":"2027-03-20"}`:                                "start",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","all_day":true}`:           "start",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00Z"}`:                         "start",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","end":"2027-03-20T09:00"}`: "end",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","end":"2027-03-20T10:00"}`: "end",
		// the clocks skip it
		`{"kind":"event","title":"a","start":"2027-03-28T01:30","timezone":"Europe/London"}`:                              "start",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","timezone":"Marrowby"}`:                                   "timezone",
		`{"kind":"event","title":"a","start":"2027-03-20","all_day":true,"timezone":"Europe/London"}`:                     "timezone",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","alarm_minutes":-1}`:                                      "alarm_minutes",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","repeat":{"every":"fortnight"}}`:                          "repeat/every",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","repeat":{"count":3}}`:                                    "repeat/every",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","repeat":{"every":"day","count":3,"until":"2027-04-01"}}`: "repeat/until", `{"kind":"event","title":"a","start":"2027-03-20T10:00","repeat":{"every":"day","until":"2027-03-01"}}`: "repeat/until",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","url":"javascript:1"}`:                  "url",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","repeat":{"every":"day","byday":"MO"}}`: "repeat/byday",
	} {
		t.Run(text, func(t *testing.T) {
			if _, problems := readAt(t, text); len(problems) == 0 || problems[0] != want {
				t.Errorf("%s: problems at %v, want %s", text, problems, want)
			}
		})
	}
}

// TestCalendarsOfOthers: dates as other programs write them.
func TestCalendarsOfOthers(t *testing.T) {
	for text, want := range map[string]string{
		"BEGIN:VCALENDAR\nBEGIN:VTIMEZONE\nTZID:Europe/Paris\nBEGIN:STANDARD\nDTSTART:19701025T030000\nEND:STANDARD\nEND:VTIMEZONE\nBEGIN:VEVENT\nDTSTART;TZID=Europe/Paris:20270320T100000\nDURATION:PT90M\nSUMMARY:a\nEND:VEVENT\nEND:VCALENDAR": "Sat 20 March 2027, 10:00 to 11:30, Paris",
		"BEGIN:VEVENT\nDTSTART;TZID=/software/Europe/Paris:20270320T100000\nDTEND:20270320T100000Z\nSUMMARY:a\nEND:VEVENT":                                                                                                                         "Sat 20 March 2027, 10:00 to 11:00, Paris",
		"BEGIN:VEVENT\nDTSTART;VALUE=DATE:20270320\nDTEND;VALUE=DATE:20270323\nSUMMARY:a\nEND:VEVENT":                                                                                                                                              "Sat 20 March 2027 to Mon 22 March 2027",
		"BEGIN:VEVENT\nDTSTART:20270320T100000\nSUMMARY:Long\n  line\nEND:VEVENT":                                                                                                                                                                  "Sat 20 March 2027, 10:00",
	} {
		t.Run(text, func(t *testing.T) {
			c := Of(text)
			e, ok := c.(*Event)
			if !ok || e.When() != want {
				t.Errorf("%q: %v, want %q", text, c, want)
			}
		})
	}
	on := Of("BEGIN:VEVENT\nDTSTART:20270720T090000Z\nSUMMARY:a\nEND:VEVENT").(*Event).On("Europe/London")
	if on.When() != "Tue 20 July 2027, 10:00, London" {
		t.Errorf("on the clocks of London: %s", on.When())
	}
	if n := len(Zones()); n < 300 || Zones()[0] != "UTC" {
		t.Errorf("%d zones", n)
	}
	for _, z := range Zones()[1:] {
		if _, ok := zoneOf(z); !ok {
			t.Errorf("%s is listed and unknown", z)
		}
	}
}

// TestTypedTimes: an end of an hour alone is of the day on which it starts; a zone is named by its town.
func TestTypedTimes(t *testing.T) {
	draft := map[string]any{"content": map[string]any{"kind": "event", "start": "2027-03-20T10:00"}}
	for typed, want := range map[string]string{
		"12:00": "2027-03-20T12:00", " 4 pm": "2027-03-20T16:00", "16.30": "2027-03-20T16:30", "9:15am": "2027-03-20T09:15",
		"21 March 2027, 12:00": "2027-03-21T12:00", "2027-03-21T12:00": "2027-03-21T12:00", "21 March 2027": "2027-03-21",
		"noon": "noon", "12": "12",
	} {
		t.Run(typed, func(t *testing.T) {
			p, bad := endsOn(draft, "/content/end", typed)
			if bad != nil || len(p) != 1 || p[0].Value != want {
				t.Errorf("%q: %+v %v, want %s", typed, p, bad, want)
			}
		})
	}
	if p, _ := endsOn(map[string]any{"content": map[string]any{}}, "/content/end", "12:00"); p[0].Value != "12:00" {
		t.Errorf("without a start: %+v", p)
	}
	for typed, want := range map[string]string{
		"London": "Europe/London", "new york": "America/New_York", "Zürich": "Europe/Zurich", "Europe/London": "Europe/London",
		"UTC": "UTC", "": "", "Marrowby": "Marrowby",
	} {
		t.Run(typed, func(t *testing.T) {
			if got := zoneNamed(typed); got != want {
				t.Errorf("%q: %q, want %q", typed, got, want)
			}
		})
	}
	c, problems := readAt(t, `{"kind":"event","title":"a","start":"2027-03-20T10:00","timezone":"zurich"}`)
	if len(problems) > 0 || c.(*Event).Timezone != "Europe/Zurich" {
		t.Errorf("%v %v", c, problems)
	}
}
