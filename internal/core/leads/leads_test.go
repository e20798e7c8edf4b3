package leads

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
)

func read(t *testing.T, text string) (*Lead, problem.List) {
	t.Helper()
	v, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return Read(v)
}

func must(t *testing.T, text string) *Lead {
	t.Helper()
	l, problems := read(t, text)
	if len(problems) > 0 {
		t.Fatalf("%s: %v", text, problems)
	}
	return l
}

const fair = `{"to": {"kind": "url", "url": "marrowby.example/fair"}}`

// TestRead: what is read is written again as it was.
func TestRead(t *testing.T) {
	for _, text := range []string{fair,
		`{"to":{"kind":"phone","number":"+44 113 496 0123"},"paused":true,"message":"Back at nine."}`,
		`{"to":{"kind":"url","url":"marrowby.example/fair"},"then":{"kind":"url","url":"marrowby.example/after"},` +
			`"from":"2027-03-22T18:00","until":"2027-04-01T09:00","ends":"2027-12-31T23:59","timezone":"Europe/London",` +
			`"keep_query":true,"status":"307","place_tag":true,"instead":"marrowby.example"}`} {
		t.Run(text, func(t *testing.T) {
			l := must(t, text)
			b, err := json.Marshal(l.JSON())
			if err != nil {
				t.Fatal(err)
			}
			again, problems := read(t, string(b))
			if len(problems) > 0 || len(l.Differences(again)) > 0 || again.To.Payload() != l.To.Payload() {
				t.Errorf("%s comes back as %s, %v", text, b, problems)
			}
		})
	}
	if l := must(t, `{"to":{"kind":"url","url":"a.example"},"ends":"2027-01-01T10:00","timezone":"london"}`); l.Zone !=
		"Europe/London" {
		t.Errorf("a town's zone is %q", l.Zone)
	}
}

func TestReadRefuses(t *testing.T) {
	const to = `"to":{"kind":"url","url":"a.example"}`
	const then = `"then":{"kind":"url","url":"b.example"},"timezone":"Europe/London"`
	for text, want := range map[string]string{
		`{}`:             "/to is missing",
		`{"to":"a"}`:     "/to/kind is missing",
		`{"colour":"b"}`: "/to is missing",
		`{"to":{"kind":"wifi","ssid":"Shed","security":"open"}}`:                         "/to is something that no link can lead to",
		`{"to":{"kind":"dynamic","link":"go.marrowby.example/FA1R"}}`:                    "/to is something that no link can lead to",
		`{"to":{"kind":"url","url":"javascript:alert(1)"}}`:                              "/to/url ",
		`{"to":{"kind":"url","url":"data:text/html,x"}}`:                                 "/to/url ",
		`{"to":{"kind":"url","url":"file:///etc/passwd"}}`:                               "/to/url ",
		`{"to":{"kind":"url","url":"https://a.example/\r\nSet-Cookie: a=b"}}`:            "/to/url ",
		`{` + to + `,"status":"303"}`:                                                    "/status ",
		`{` + to + `,"colour":"b"}`:                                                      "/colour ",
		`{` + to + `,"message":"` + strings.Repeat("a", MaxWords+1) + `"}`:               "/message ",
		`{` + to + `,"instead":"javascript:x"}`:                                          "/instead ",
		`{` + to + `,"timezone":"Marrowby"}`:                                             "/timezone is \"Marrowby\"",
		`{` + to + `,"ends":"soon","timezone":"Europe/London"}`:                          "/ends ",
		`{` + to + `,"ends":"2027-03-22T18:00"}`:                                         "/ends has no time zone",
		`{` + to + `,"ends":"2027-03-28T01:30","timezone":"Europe/London"}`:              "/ends is 01:30, a time that the clocks",
		`{` + to + `,"from":"2027-03-22T18:00","timezone":"Europe/London"}`:              "/then is missing",
		`{` + to + `,` + then + `}`:                                                      "/from is missing",
		`{` + to + `,"until":"2027-03-22T18:00","timezone":"Europe/London"}`:             "/until is set",
		`{` + to + `,` + then + `,"from":"2027-03-22T18:00","until":"2027-03-22T18:00"}`: "/until is not after",
		`{` + to + `,` + then + `,"from":"2027-03-22T18:00","ends":"2027-03-22T18:00"}`:  "/ends is not after",

		`{` + to + `,` + then + `,"from":"2027-03-22T18:00","until":"2027-03-23T18:00","ends":"2027-03-23T18:00"}`: "/ends is not",
	} {
		t.Run(text, func(t *testing.T) {
			_, problems := read(t, text)
			ok := false
			for _, p := range problems {
				ok = ok || strings.HasPrefix(p.Field+" "+p.Message, want)
			}
			if !ok {
				t.Errorf("%s: %v, want %q", text, problems, want)
			}
		})
	}
}

// at is a moment that stands in UTC, counted by hand: London is an hour ahead of it in summer, from 28 March 2027, 01:00 UTC.
func at(text string) time.Time {
	t, err := time.Parse(time.RFC3339, text)
	if err != nil {
		panic(err)
	}
	return t
}

// TestAt: what happens at the second before each change, and at the second itself.
func TestAt(t *testing.T) {
	l := must(t, `{"to":{"kind":"url","url":"marrowby.example/fair"},"then":{"kind":"url","url":"marrowby.example/after"},
		"from":"2027-03-22T18:00","until":"2027-04-01T09:00","ends":"2027-12-31T23:59","timezone":"Europe/London"}`)
	live, err := Decode(l.Compile("", "").Encode())
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ now, to string }{
		{"2020-01-01T00:00:00Z", "https://marrowby.example/fair"},
		{"2027-03-22T17:59:59Z", "https://marrowby.example/fair"},
		{"2027-03-22T18:00:00Z", "https://marrowby.example/after"},
		{"2027-04-01T07:59:59Z", "https://marrowby.example/after"},
		{"2027-04-01T08:00:00Z", "https://marrowby.example/fair"},
		{"2027-12-31T23:58:59Z", "https://marrowby.example/fair"},
		{"2027-12-31T23:59:00Z", ""},
	} {
		t.Run(c.now, func(t *testing.T) {
			a := live.At(at(c.now))
			if a.To != c.to || (a.Does == Goes) != (c.to != "") || (a.Does == Quiet) != (c.to == "") {
				t.Errorf("at %s: %+v, want %q", c.now, a, c.to)
			}
		})
	}
}

// TestActs: what each kind of destination comes to. Only http and https are led to without a page.
func TestActs(t *testing.T) {
	for text, want := range map[string]Act{
		`{"kind":"url","url":"marrowby.example/fair#map"}`: {Does: Goes, To: "https://marrowby.example/fair#map"},
		`{"kind":"url","url":"http://marrowby.example"}`:   {Does: Goes, To: "http://marrowby.example"},
		`{"kind":"place","lat":52.5,"lon":-1.25,"form":"link","pattern":"https://maps.example/?q={lat},{lon}"}`: {Does: Goes,
			To: "https://maps.example/?q=52.5,-1.25"},
		`{"kind":"place","lat":52.5,"lon":-1.25}`:                              {Does: Asks, To: "geo:52.5,-1.25"},
		`{"kind":"phone","number":"+44 113 496 0123"}`:                         {Does: Asks, To: "tel:+441134960123"},
		`{"kind":"sms","number":"+44 113 496 0123","body":"Seeds please"}`:     {Does: Asks, To: "sms:+441134960123?body=Seeds%20please"},
		`{"kind":"email","to":["orders@marrowby.example"],"subject":"Bulbs"}`:  {Does: Asks, To: "mailto:orders@marrowby.example?subject=Bulbs"},
		`{"kind":"webcal","address":"marrowby.example/garden.ics"}`:            {Does: Asks, To: "webcal://marrowby.example/garden.ics"},
		`{"kind":"contact","format":"mecard","given":"Ada","family":"Thorne"}`: {Does: Asks, File: &File{Name: "contact.vcf"}},
		`{"kind":"event","title":"Fair","start":"2027-03-20T10:00"}`:           {Does: Asks, File: &File{Name: "date.ics"}},
	} {
		t.Run(text, func(t *testing.T) {
			a := must(t, `{"to":`+text+`}`).Compile("", "").At(time.Unix(0, 0))
			if a.Does != want.Does || a.To != want.To || (a.File != nil) != (want.File != nil) ||
				a.File != nil && a.File.Name != want.File.Name {
				t.Errorf("%s: %+v", text, a)
			}
			if a.Does == Asks && (a.Title == "" || a.Label == "" || len(a.Lines) == 0) {
				t.Errorf("%s asks %q with a button %q: %q", text, a.Title, a.Label, a.Lines)
			}
		})
	}
	card := must(t, `{"to":{"kind":"contact","format":"vcard4","given":"Åsa"}}`).Compile("", "").Steps[0].Act.File
	if !strings.Contains(card.Text, "VERSION:3.0") || card.Type != "text/vcard; charset=utf-8" {
		t.Errorf("a contact leaves as %q", card)
	}
	for text, want := range map[string]Act{
		"Sow under glass": {Title: "Sow under glass"},
		"Kale\n\nSow from March.\nKeep moist.\n\n\nEat.": {Title: "Kale", Lines: []string{"Sow from March.\nKeep moist.", "Eat."}},
		strings.Repeat("a", 81) + "\nb":                  {Title: "To read", Lines: []string{strings.Repeat("a", 81) + "\nb"}},
		strings.Repeat("é", 80) + "\r\nb":                {Title: strings.Repeat("é", 80), Lines: []string{"b"}},
	} {
		t.Run(text, func(t *testing.T) {
			a := (&Lead{To: &content.Text{Text: text}}).Compile("", "").Steps[0].Act
			if a.Does != Shows || a.Title != want.Title || !slices.Equal(a.Lines, want.Lines) || a.Label != "" {
				t.Errorf("%q is shown as %+v", text, a)
			}
		})
	}
	// every kind that a link can lead to comes to something, and no other
	for _, k := range content.Register() {
		l, problems := read(t, `{"to":`+k.Example+`}`)
		if (k.Stays == "") != (len(problems) == 0) {
			t.Errorf("%s: %v, though it says %q", k.Key, problems, k.Stays)
		} else if len(problems) == 0 {
			if a := l.Compile("", "").Steps[0].Act; a.Does == Asks && (a.Title == "" || a.Label == "") {
				t.Errorf("%s asks nothing", k.Key)
			}
		}
	}
}

func TestPlaceTag(t *testing.T) {
	for url, want := range map[string]string{
		"marrowby.example/fair":               "https://marrowby.example/fair?utm_content=gate-2-north",
		"marrowby.example/?a=b#c":             "https://marrowby.example/?a=b&utm_content=gate-2-north#c",
		"marrowby.example/?utm_content=other": "https://marrowby.example/?utm_content=other",
	} {
		t.Run(url, func(t *testing.T) {
			l := must(t, `{"to":{"kind":"url","url":"`+url+`"},"place_tag":true}`)
			if a := l.Compile("Gate 2, north", "").Steps[0].Act; a.To != want {
				t.Errorf("%s: %s", url, a.To)
			}
			if a := l.Compile("", "").Steps[0].Act; strings.Contains(a.To, "gate") {
				t.Errorf("%s without a place: %s", url, a.To)
			}
		})
	}
}

// TestScanTag: the site is told which link was scanned, where its address leaves room for that, at every time of a change.
func TestScanTag(t *testing.T) {
	for url, want := range map[string]string{
		"marrowby.example/fair":            "https://marrowby.example/fair?scan=FA1R",
		"marrowby.example/?a=b#c":          "https://marrowby.example/?a=b&scan=FA1R#c",
		"marrowby.example/?scan=other":     "https://marrowby.example/?scan=other",
		"marrowby.example/?q=a%20b&scan2=": "https://marrowby.example/?q=a%20b&scan2=&scan=FA1R",
	} {
		t.Run(url, func(t *testing.T) {
			l := must(t, `{"to":{"kind":"url","url":"`+url+`"},"then":{"kind":"url","url":"`+url+`"},"from":"2027-03-20T16:00",
			"timezone":"London","scan_tag":true}`)
			for i, step := range l.Compile("gate", "FA1R").Steps {
				if step.Act.To != want {
					t.Errorf("%s, step %d: %s", url, i, step.Act.To)
				}
			}
			if a := l.Compile("gate", "").Steps[0].Act; strings.Contains(a.To, "FA1R") {
				t.Errorf("%s without a link: %s", url, a.To)
			}
			if a := l.Try("gate", "TR1AL", time.Unix(1, 0)).Steps[0].Act; a.To != strings.Replace(want, "FA1R", "TR1AL", 1) {
				t.Errorf("%s as a trial: %s", url, a.To)
			}
		})
	}
	phone := must(t, `{"to":{"kind":"phone","number":"+441584555010"},"scan_tag":true}`)
	if a := phone.Compile("gate", "FA1R").Steps[0].Act; strings.Contains(a.To, "scan=") {
		t.Errorf("a number is tagged: %s", a.To)
	}
}

func TestQuiet(t *testing.T) {
	l := must(t, `{"to":{"kind":"url","url":"a.example"},"paused":true,"message":"Back in spring.","instead":"marrowby.example/shop"}`)
	v := l.Compile("", "")
	if a := v.At(time.Unix(1, 0)); len(v.Steps) != 1 || a.Does != Quiet || a.Title != "Back in spring." ||
		a.To != "https://marrowby.example/shop" || a.Label != "Go to marrowby.example" {
		t.Errorf("%+v", a)
	}
}

func TestDifferences(t *testing.T) {
	was := must(t, fair)
	for text, want := range map[string]string{
		fair: "",
		`{"to":{"kind":"url","url":"shop.example"}}`:                                                               "It leads to shop.example, no longer to marrowby.example/fair.",
		`{"to":{"kind":"url","url":"marrowby.example/fair"},"paused":true}`:                                        "It rests: people see a quiet page.",
		`{"to":{"kind":"url","url":"marrowby.example/fair"},"status":"307"}`:                                       "The redirect status is another.",
		`{"to":{"kind":"url","url":"marrowby.example/fair"},"ends":"2027-12-31T23:59","timezone":"Europe/London"}`: "It ends on Fri 31 December 2027, 23:59.",
		`{"to":{"kind":"url","url":"marrowby.example/fair"},"then":{"kind":"url","url":"b.example"},"from":"2027-12-31T10:00",
			"timezone":"Europe/London"}`: "From Fri 31 December 2027, 10:00 it leads to b.example.",
	} {
		t.Run(text, func(t *testing.T) {
			l := must(t, text)
			if got := strings.Join(l.Differences(was), " "); got != want {
				t.Errorf("%s: %q", text, got)
			}
			if back := was.Differences(l); (len(back) == 0) != (want == "") {
				t.Errorf("%s, the other way: %q", text, back)
			}
		})
	}
	if host := must(t, `{"to":{"kind":"url","url":"trap.example"}}`).NewHost(was); host != "trap.example" {
		t.Errorf("the new host is %q", host)
	}
	if host := must(t, `{"to":{"kind":"url","url":"marrowby.example/other"}}`).NewHost(was); host != "" {
		t.Errorf("a host that was there is new: %q", host)
	}
}

// TestOwn: a house's own hosts are those under the domain of its links, but not what merely ends alike; where people rent a name
// below a shared one, those of others are not.
func TestOwn(t *testing.T) {
	for host, own := range map[string]bool{"go.marrowby.example": true, "marrowby.example": true, "a.go.marrowby.example": true,
		"shop.marrowby.example": true, "example": false, "trap.example": false, "arrowby.example": false, "": false} {
		t.Run(host, func(t *testing.T) {
			if got := Own(host, "go.marrowby.example"); got != own {
				t.Error(got)
			}
		})
	}
	if Own("other.co.uk", "house.co.uk") {
		t.Error("a neighbour is taken for the house")
	}
}

func TestPlan(t *testing.T) {
	l := must(t, `{"to":{"kind":"url","url":"a.example"},"then":{"kind":"url","url":"b.example"},"from":"2027-03-22T18:00",
		"until":"2027-04-01T09:00","ends":"2027-12-31T23:59","timezone":"Europe/London"}`)
	for now, want := range map[string]string{"2027-03-22T17:59:59Z": "From ", "2027-03-22T18:00:00Z": "Until ",
		"2027-04-01T07:59:59Z": "Until ", "2027-04-01T08:00:00Z": "It ends", "2027-12-31T23:59:00Z": ""} {
		t.Run(now, func(t *testing.T) {
			if got := l.Plan(at(now)); !strings.HasPrefix(got, want) || want == "" && got != "" {
				t.Errorf("at %s: %q", now, got)
			}
		})
	}
}

// TestSoon: a change is told in time, and of what rests nothing is.
func TestSoon(t *testing.T) {
	l := must(t, `{"to":{"kind":"url","url":"a.example"},"then":{"kind":"url","url":"b.example"},"from":"2027-03-22T18:00",
		"ends":"2027-12-31T23:59","timezone":"Europe/London"}`)
	for now, want := range map[string]string{"2027-03-08T17:59:59Z": "", "2027-03-08T18:00:00Z": "From ",
		"2027-03-22T17:59:59Z": "From ",
		"2027-03-22T18:00:00Z": "", "2027-12-17T23:59:00Z": "It ends", "2027-12-31T23:59:00Z": ""} {
		t.Run(now, func(t *testing.T) {
			if got := l.Soon(at(now), 14*24*time.Hour); !strings.HasPrefix(got, want) || want == "" && got != "" {
				t.Errorf("at %s: %q", now, got)
			}
		})
	}
	l.Paused = true
	if got := l.Soon(at("2027-03-22T17:00:00Z"), 14*24*time.Hour); got != "" {
		t.Errorf("of what rests: %q", got)
	}
}

// TestWords: a quiet page has room for 300 characters, and none more.
func TestWords(t *testing.T) {
	for n, bad := range map[int]bool{300: false, 301: true} {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			v, err := fields.Decode([]byte(`{"to":{"kind":"url","url":"a.example"},"message":"` + strings.Repeat("é", n) + `"}`))
			if err != nil {
				t.Fatal(err)
			}
			if _, problems := Read(v); (len(problems) > 0) != bad {
				t.Errorf("%d characters: %v", n, problems)
			}
		})
	}
}

// TestPermanent: what phones keep has no change, no end and no pause, and says for how long.
func TestPermanent(t *testing.T) {
	for status, age := range map[string]int{"301": 604800, "308": 604800, "302": 0, "307": 0} {
		t.Run(status, func(t *testing.T) {
			l := must(t, `{"to":{"kind":"url","url":"a.example"},"max_age":"604800","status":"`+status+`"}`)
			if v := l.Compile("", ""); strconv.Itoa(v.Status) != status || v.MaxAge != age {
				t.Errorf("%s: %d, for %d seconds", status, v.Status, v.MaxAge)
			}
			for more, bad := range map[string]bool{`"ends":"2027-12-31T23:59","timezone":"London"`: age > 0, `"paused":true`: age > 0,
				`"then":{"kind":"url","url":"b.example"},"from":"2027-03-22T18:00","timezone":"London"`: age > 0, `"place_tag":true`: false} {
				v, err := fields.Decode([]byte(`{"to":{"kind":"url","url":"a.example"},"status":"` + status + `",` + more + `}`))
				if err != nil {
					t.Fatal(err)
				}
				_, problems := Read(v)
				if (len(problems) > 0) != bad || bad && (problems[0].Field != "/status" || problems[0].Code != "lead.permanent") {
					t.Errorf("%s with %s: %v", status, more, problems)
				}
			}
		})
	}
	if l := must(t, `{"to":{"kind":"url","url":"a.example"},"status":"301"}`); l.Compile("", "").MaxAge != 86400 {
		t.Error("without a word it is kept for a day")
	}
}

func FuzzRead(f *testing.F) {
	f.Add(fair)
	f.Add(`{"to":{"kind":"phone","number":"+441134960123"},"paused":true}`)
	f.Add(`{"to":{"kind":"url","url":"a.example"},"ends":"2027-03-28T01:30","timezone":"Europe/London"}`)
	f.Fuzz(func(t *testing.T, text string) {
		v, err := fields.Decode([]byte(text))
		if err != nil {
			return
		}
		l, problems := Read(v)
		if len(problems) > 0 {
			return
		}
		live, err := Decode(l.Compile("gate", "").Encode())
		if err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		for _, s := range live.Steps {
			if a := s.Act; a.Does == Goes && !strings.HasPrefix(a.To, "http://") && !strings.HasPrefix(a.To, "https://") ||
				strings.ContainsFunc(a.To, func(r rune) bool { return r <= ' ' || r > '~' }) {
				t.Fatalf("%s leads to %q", text, a.To)
			}
		}
	})
}

// TestSaid: an address is led to; anything else says what is done there, in lists and as a difference.
func TestSaid(t *testing.T) {
	page := must(t, `{"to":{"kind":"url","url":"marrowby.example/fair"}}`)
	shop := must(t, `{"to":{"kind":"url","url":"marrowby.example/shop"}}`)
	text := must(t, `{"to":{"kind":"text","text":"Sold out"}}`)
	if s := page.Summary(); s.Verb != "Leads to" || s.Object != "marrowby.example/fair" {
		t.Errorf("%+v", s)
	}
	if s := text.Summary(); s.Verb != "Shows" || s.Object != "Sold out" {
		t.Errorf("%+v", s)
	}
	for want, got := range map[string][]string{
		"It leads to marrowby.example/shop, no longer to marrowby.example/fair.":  shop.Differences(page),
		"It leads elsewhere. Now: Shows Sold out. Before: marrowby.example/fair.": text.Differences(page),
		"It leads elsewhere. Now: marrowby.example/fair. Before: Shows Sold out.": page.Differences(text),
	} {
		if len(got) != 1 || got[0] != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
