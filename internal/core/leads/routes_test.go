package leads

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/route"
)

func readLead(t *testing.T, text string) *Lead {
	t.Helper()
	v, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	l, problems := Read(v)
	if len(problems) > 0 {
		t.Fatalf("%s: %v", text, problems)
	}
	return l
}

const web = `{"kind":"url","url":"m.example/%s"}`

func to(path string) string { return fmt.Sprintf(`"to":`+web, path) }

// TestPlanned: a change at a time and the route of that name are one thing, however they are written, and written as one.
func TestPlanned(t *testing.T) {
	plain := readLead(
		t,
		`{`+to("a")+`,"then":`+fmt.Sprintf(web, "b")+`,"from":"2027-03-20T10:00","until":"2027-03-22T18:00","timezone":"London"}`,
	)
	asRoute := readLead(t, `{`+to("a")+`,"timezone":"London","routes":[{"id":"planned","spans":[{"from":"2027-03-20T10:00",
		"until":"2027-03-22T18:00"}],`+to("b")+`}]}`)
	if !reflect.DeepEqual(plain, asRoute) {
		t.Errorf("%+v\nis not\n%+v", plain, asRoute)
	}
	doc, _ := json.Marshal(asRoute.JSON())
	if s := string(doc); !strings.Contains(s, `"then":`) || strings.Contains(s, "routes") {
		t.Errorf("it is written %s", s)
	}
	for _, more := range []string{`"languages":["cy"]`, `"off":true`, `"spans":[{"until":"2027-03-22T18:00"}]`, `"spans":[{"from":"2027-03-22T18:00"},{"from":"2027-04-22T18:00"}]`} {
		t.Run(more, func(t *testing.T) {
			text := `{` + to(
				"a",
			) + `,"timezone":"London","routes":[{"id":"planned","spans":[{"from":"2027-03-20T10:00"}],` + to(
				"b",
			) + `}]}`
			if strings.HasPrefix(more, `"spans"`) {
				text = strings.Replace(text, `"spans":[{"from":"2027-03-20T10:00"}]`, more, 1)
			} else {
				text = strings.Replace(text, `"id":"planned",`, `"id":"planned",`+more+`,`, 1)
			}
			l := readLead(t, text)
			doc, _ := json.Marshal(l.JSON())
			v, _ := fields.Decode(doc)
			again, problems := Read(v)
			if len(problems) > 0 || !reflect.DeepEqual(again, l) || !strings.Contains(string(doc), `"routes"`) || !l.Apart() {
				t.Errorf("%s is written %s, and read %+v, %v", more, doc, again, problems)
			}
		})
	}
}

// TestRoutesRead: routes have ids, and what is wrong with them stands at their fields.
func TestRoutesRead(t *testing.T) {
	l := readLead(t, `{`+to("a")+`,"routes":[{"id":"r1",`+to("b")+`},{`+to("c")+`},{`+to("d")+`}]}`)
	if a, b, c := l.Routes[0].ID, l.Routes[1].ID, l.Routes[2].ID; a != "r1" || b != "r2" || c != "r3" {
		t.Errorf("ids are %s, %s, %s", a, b, c)
	}
	for text, want := range map[string]string{
		`"routes":[{"where":["Ireland"]}]`:                                       "/routes/0/to",
		`"routes":[{` + to("b") + `},{"languages":["xx"],` + to("c") + `}]`:      "/routes/1/languages",
		`"routes":[{"spans":[{"from":"2027-03-20T10:00"}],` + to("b") + `}]`:     "/routes/0/spans/0/from",
		`"routes":[{"weekdays":["mo"],` + to("b") + `}]`:                         "/timezone",
		`"timezone":"Nowhere","routes":[{"weekdays":["mo"],` + to("b") + `}]`:    "/timezone",
		`"routes":[{"share":0.7,` + to("b") + `},{"share":0.7,` + to("c") + `}]`: "/routes/1/share",
		`"routes":[{"radius_km":0.5,` + to("b") + `}]`:                           "/routes/0/radius_km",
		`"status":"301","routes":[{"where":["Ireland"],` + to("b") + `}]`:        "/status",
		`"language":"Klingonish"`:                                                "/language",
		`"routes":[{"to":{"kind":"wifi","ssid":"x","security":"open"}}]`:         "/routes/0/to",
	} {
		t.Run(text, func(t *testing.T) {
			v, err := fields.Decode([]byte(`{` + to("a") + `,` + text + `}`))
			if err != nil {
				t.Fatal(err)
			}
			if _, problems := Read(v); len(problems) != 1 || problems[0].Field != want {
				t.Errorf("%s: %v, want one at %s", text, problems, want)
			}
		})
	}
}

// TestRouteDifferences: what differs of routes is said, each once.
func TestRouteDifferences(t *testing.T) {
	lead := func(routes string) *Lead {
		return readLead(t, `{`+to("a")+`,"timezone":"London","routes":[`+routes+`]}`)
	}
	one, two := `{"id":"a","where":["Ireland"],`+to("ie")+`}`, `{"id":"b","languages":["cy"],`+to("cy")+`}`
	both := lead(one + "," + two)
	for want, now := range map[string]*Lead{
		"":                                   both,
		"The routes stand in another order.": lead(two + "," + one),
		"A route is gone. Whose phone speaks Welsh: m.example/cy.":             lead(one),
		"Route 3 is new. On an iPhone or iPad: m.example/ios.":                 lead(one + "," + two + `,{"id":"c","systems":["ios"],` + to("ios") + `}`),
		"Route 2 is another. Whose phone speaks Welsh: m.example/cymru.":       lead(one + `,{"id":"b","languages":["cy"],` + to("cymru") + `}`),
		"Route 2 is another. Whose phone speaks Welsh or Irish: m.example/cy.": lead(one + `,{"id":"b","languages":["cy","ga"],` + to("cy") + `}`),
		"Route 1 is off.": lead(`{"id":"a","off":true,"where":["Ireland"],` + to("ie") + `},` + two),
		"From Sat 20 March 2027, 10:00 it leads to m.example/p.": readLead(t, `{`+to("a")+`,"timezone":"London","then":`+fmt.Sprintf(web, "p")+
			`,"from":"2027-03-20T10:00","routes":[`+one+","+two+`]}`),
	} {
		t.Run(want, func(t *testing.T) {
			if got := strings.Join(now.Differences(both), " "); got != want {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
	planned := readLead(t, `{`+to("a")+`,"timezone":"London","then":`+fmt.Sprintf(web, "p")+`,"from":"2027-03-20T10:00"}`)
	if got := strings.Join(readLead(t, `{`+to("a")+`,"timezone":"London"}`).Differences(planned),
		" "); got != "The change that was planned is off." {
		t.Errorf("%q", got)
	}
	// on the clocks of another town, a time is another
	moved := readLead(t, `{`+to("a")+`,"timezone":"Paris","routes":[{"id":"a","hours":["09:00-10:00"],`+to("ie")+`}]}`)
	was := readLead(t, `{`+to("a")+`,"timezone":"London","routes":[{"id":"a","hours":["09:00-10:00"],`+to("ie")+`}]}`)
	if got := strings.Join(moved.Differences(was), " "); got != "Route 1 is another. From 09:00 to 10:00 in Paris: m.example/ie." {
		t.Errorf("%q", got)
	}
	if host := readLead(t, `{`+to("a")+`,"routes":[{"to":{"kind":"url","url":"other.example"}}]}`).NewHost(was); host != "other.example" {
		t.Errorf("the new host is %q", host)
	}
}

// TestReplay: scans that were are led again, each at its own time, as far as what was kept tells.
func TestReplay(t *testing.T) {
	was := readLead(t, `{`+to("a")+`,"timezone":"London"}`)
	now := readLead(t, `{`+to("a")+`,"timezone":"London","ends":"2027-03-10T00:00","routes":[{"languages":["cy"],`+to("cy")+`},
		{"share":0.5,"systems":["ios"],`+to("ios")+`},{"off":true,`+to("off")+`},{"stock":3,"systems":["android"],`+to("s")+`},
		{"where":["Ireland"],`+to("a")+`}]}`)
	at := time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	all := route.Kept{Who: true, Draw: true}
	past := []Past{
		{route.Input{At: at, Languages: []string{"cy"}}, all},                  // route 1, moved
		{route.Input{At: at, System: "iOS", Draw: 0.1}, all},                   // route 2, moved
		{route.Input{At: at, System: "iOS", Draw: 0.9}, all},                   // the rest, not moved
		{route.Input{At: at, System: "iOS"}, route.Kept{Who: true}},            // not told
		{route.Input{At: at}, route.Kept{}},                                    // not told
		{route.Input{At: at, System: "Android", Draw: 0.9}, all},               // not told: was something left?
		{route.Input{At: at, Country: "IE", Draw: 0.9}, all},                   // route 5, which leads where it did
		{route.Input{At: at.AddDate(0, 1, 0), Languages: []string{"cy"}}, all}, // it had ended, moved
	}
	got := now.Replay(was, past)
	if want := (Replayed{All: 8, Routes: []int{1, 1, 0, 0, 1}, Rest: 2, Untold: 3, Moved: 3, Vague: 3}); !reflect.DeepEqual(
		got,
		want,
	) {
		t.Errorf("%+v, want %+v", got, want)
	}
	if got := now.Replay(nil, past[:1]); got.Moved != 0 || got.Routes[0] != 1 {
		t.Errorf("without another: %+v", got)
	}
}

// TestWho: what somebody gets is said, with its chances, and why.
func TestWho(t *testing.T) {
	l := readLead(
		t,
		`{`+to(
			"a",
		)+`,"timezone":"London","ends":"2027-03-10T00:00","message":"Over.","routes":[{"id":"x","share":0.25,"where":["Wales"],"stock":1200,`+to(
			"w",
		)+`}]}`,
	)
	in := route.Input{At: time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC), Country: "GB", Part: "Wales"}
	w := l.Who(in)
	if s := w.Sentence(); s != "25 %: route 1, m.example/w (while 1,200 last); 75 %: the usual destination, m.example/a." {
		t.Errorf("%s", s)
	}
	if o := w.Outcomes[0]; o.N != 1 || o.Route != "x" || o.To != "https://m.example/w" || o.Stock != 1200 || o.Share != 0.25 {
		t.Errorf("%+v", o)
	}
	in.Country = "IE"
	if w := l.Who(in); w.Sentence() != "The usual destination, m.example/a." || len(w.Steps) != 1 ||
		w.Steps[0] != "Route 1: not in Wales." {
		t.Errorf("%s %v", w.Sentence(), w.Steps)
	}
	in.At = in.At.AddDate(0, 1, 0)
	if w := l.Who(in); w.Sentence() != "The quiet page: Over." || w.Outcomes[0].Does != Quiet {
		t.Errorf("%s", w.Sentence())
	}
}

// TestLasting: what a list of addresses can say is the usual destination and changes at a time, whatever day it is.
func TestLasting(t *testing.T) {
	l := readLead(t, `{`+to("a")+`,"timezone":"London","then":`+fmt.Sprintf(web, "b")+`,"from":"2027-03-20T10:00","routes":[
		{"weekdays":["mo"],`+to("mo")+`},{"off":true,`+to("off")+`}]}`).Compile("", "")
	monday := time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	for at, want := range map[time.Time][2]string{monday: {"https://m.example/mo", "https://m.example/a"},
		monday.AddDate(0, 0, 22): {"https://m.example/b", "https://m.example/b"}} {
		t.Run(fmt.Sprint(at), func(t *testing.T) {
			if got := [2]string{l.At(at).To, l.Lasting(at).To}; at == monday && got != want || at != monday && got[1] != want[1] {
				t.Errorf("on %s it leads to %v, want %v", at, got, want)
			}
		})
	}
	if len(l.Routes) != 2 {
		t.Errorf("it has %d routes", len(l.Routes))
	}
}

// TestRouteSoon: a list says which route begins or ends next.
func TestRouteSoon(t *testing.T) {
	l := readLead(t, `{`+to("a")+`,"timezone":"London","routes":[
		{"spans":[{"from":"2027-03-20T10:00","until":"2027-03-22T18:00"}],`+to("b")+`},
		{"spans":[{"until":"2027-03-21T10:00"}],`+to("c")+`},{"off":true,"spans":[{"from":"2027-03-10T10:00"}],`+to("d")+`}]}`)
	day := 24 * time.Hour
	for at, want := range map[string]string{"2027-03-06T10:00": "Route 1 begins on Sat 20 March 2027, 10:00.", "2027-03-06T09:59": "",
		"2027-03-20T10:00": "Route 2 ends on Sun 21 March 2027, 10:00.", "2027-03-21T10:00": "Route 1 ends on Mon 22 March 2027, 18:00.",
		"2027-03-22T18:00": ""} {
		t.Run(at, func(t *testing.T) {
			now, err := time.Parse("2006-01-02T15:04", at)
			if err != nil {
				t.Fatal(err)
			}
			if got := l.Soon(now, 14*day); got != want {
				t.Errorf("on %s: %q, want %q", at, got, want)
			}
		})
	}
}
