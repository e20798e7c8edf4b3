package content

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/fields"
)

func made(t *testing.T, text string) Content {
	t.Helper()
	c, problems := readAt(t, text)
	if len(problems) > 0 {
		t.Fatalf("%.200s: problems at %v", text, problems)
	}
	return c
}

// TestBounds: the last value that is taken, and the first that is not, with the field that is then wrong.
func TestBounds(t *testing.T) {
	email := func(n int) string { return `{"kind":"email","to":["` + strings.Repeat("a", n) + `@m.example"]}` }
	wifi := func(security, password string) string {
		return `{"kind":"wifi","ssid":"a","security":"` + security + `","password":"` + password + `"}`
	}
	emv := func(account string) string {
		return `{"kind":"emv","mcc":"5261","currency":"978","country":"DE","merchant":"m","city":"c","accounts":[` +
			account + `]}`
	}
	label := strings.Repeat("a", 63)
	host := func(last int) string {
		return `{"kind":"url","url":"https://` + strings.Join([]string{label, label, label, strings.Repeat("a", last)}, ".") +
			`"}`
	}
	bill := func(message string) string {
		return `{"kind":"swiss","iban":"CH9300762011623852957",` + payee + `,"message":"` + message + `"}`
	}
	place := func(lat, lon string) string { return `{"kind":"place","lat":` + lat + `,"lon":` + lon + `}` }
	for _, c := range []struct{ name, text, wrong string }{
		{"64 bytes before the @ (RFC 5321, 4.5.3.1.1)", email(64), ""}, {"65 bytes before the @", email(65), "to/0"},
		{"a WPA3 password of 8", wifi("wpa3", "12345678"), ""}, {"of 63", wifi("wpa3", strings.Repeat("a", 63)), ""},
		{"of 7", wifi("wpa3", "1234567"), "password"},
		{"a WPA3 password with an umlaut", wifi("wpa3", "snöwdrops"), "password"},
		{"a host name of 253 (RFC 1035, 2.3.4)", host(61), ""}, {"of 254", host(62), "url"},
		{"a label of 64", `{"kind":"url","url":"https://` + label + `a.example"}`, "url"},
		{"of 63", `{"kind":"url","url":"https://` + label + `.example"}`, ""},
		{"account 25 is plain", emv(`{"id":"25","value":"x"}`), ""},
		{"account 25 is no template", emv(`{"id":"25","guid":"g"}`), "accounts/0/value"},
		{"account 26 is a template", emv(`{"id":"26","guid":"g"}`), ""}, {"account 51", emv(`{"id":"51","guid":"g"}`), ""},
		{"account 52", emv(`{"id":"52","guid":"g"}`), "accounts/0/id"},
		{"letters at the ends of what a bill carries", bill("a ~\u00a0ſ€Ț b"), ""}, {"beyond ~", bill("a\u0085b"), "message"},
		{"beyond ſ", bill("aƀb"), "message"},
		{"the pole", place("90", "180"), ""}, {"the other pole", place("-90", "-180"), ""},
		{"beyond the date line", place("0", "180.1"), "lon"}, {"north of the pole", place("90.1", "0"), "lat"},
		{"a profile without anything", `{"kind":"contact","given":"a","socials":[{"service":"","url":" "}]}`, ""},
		{"a GTIN of 13 digits within elements", `{"kind":"gs1data","elements":"(02)9521234500018(37)48"}`, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, problems := readAt(t, c.text)
			if got := strings.Join(problems, " "); got != c.wrong {
				t.Errorf("problems at %q, want %q", got, c.wrong)
			}
		})
	}
	if got := made(t, `{"kind":"gs1data","elements":"(02)9521234500018(37)48"}`).Payload(); got != "02095212345000183748" {
		t.Errorf("elements are written %q", got)
	}
}

// TestFullContact: a symbol of version 40-L holds 2,953 bytes (ISO/IEC 18004, table 7), and so does a contact.
func TestFullContact(t *testing.T) {
	exact := false
	for n := 2700; n < 2960; n++ {
		v, err := fields.Decode([]byte(`{"kind":"contact","given":"a","note":"` + strings.Repeat("n", n) + `"}`))
		if err != nil {
			t.Fatal(err)
		}
		c, problems := New(v.(map[string]any))
		if c == nil {
			continue
		}
		size := len(c.Payload())
		exact = exact || size == 2953
		if (len(problems) > 0) != (size > 2953) {
			t.Errorf("%d bytes: %v", size, problems)
		}
	}
	if !exact {
		t.Error("no note made it 2,953 bytes")
	}
}

// TestSummaries: what lists say of several.
func TestSummaries(t *testing.T) {
	for text, want := range map[string]string{
		`{"kind":"email","to":["a@m.example"]}`:                               "Writes to a@m.example",
		`{"kind":"email","to":["a@m.example","b@m.example"]}`:                 "Writes to a@m.example and 1 more",
		`{"kind":"email","to":["a@m.example","b@m.example","c@m.example"]}`:   "Writes to a@m.example and 2 more",
		`{"kind":"gs1link","gtin":"09521234500018"}`:                          "Tells about GTIN 9521234500018",
		`{"kind":"gs1link","gtin":"09521234500018","lot":"A1","serial":"42"}`: "Tells about GTIN 9521234500018, lot A1",
	} {
		t.Run(text, func(t *testing.T) {
			if got := made(t, text).Summary().String(); got != want {
				t.Errorf("%s: %q, want %q", text, got, want)
			}
		})
	}
	for n, want := range map[string][]string{"": {}, "a": {"a"}, "a and b": {"a", "b"}, "a, b and c": {"a", "b", "c"}} {
		t.Run(n, func(t *testing.T) {
			if got := list(want); got != n {
				t.Errorf("%v is listed as %q", want, got)
			}
		})
	}
}

// TestMessages: how many messages a text takes, counted by hand after 3GPP TS 23.040: 160 places, or 153 each; 70 units of
// UCS-2, or 67 each.
func TestMessages(t *testing.T) {
	for _, c := range []struct {
		name, sign string
		times      int
		want       int
	}{
		{"160 letters", "a", 160, 1}, {"161 letters", "a", 161, 2}, {"306 letters", "a", 306, 2}, {"307 letters", "a", 307, 3},
		{"80 euro signs take two places each", "€", 80, 1}, {"81 euro signs", "€", 81, 2},
		{"70 characters", "種", 70, 1}, {"71 characters", "種", 71, 2}, {"134 characters", "種", 134, 2},
		{"135 characters", "種", 135, 3},
		{"35 seedlings of two units each", "🌱", 35, 1}, {"36 seedlings", "🌱", 36, 2},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := messages(strings.Repeat(c.sign, c.times)); got != c.want {
				t.Errorf("%d messages, want %d", got, c.want)
			}
		})
	}
}

// TestClocks: the nights on which clocks change, in London in 2027: on 28 March from 01:00 to 02:00, on 31 October from 02:00
// back to 01:00.
func TestClocks(t *testing.T) {
	zone, _ := zoneOf("Europe/London")
	for _, c := range []struct {
		wall, utc string
		twice     bool
		message   string
	}{
		{"2027-03-28T00:59", "00:59", false, ""}, {"2027-03-28T02:00", "01:00", false, ""},
		{"2027-03-28T01:30", "", false,
			"is 01:30, a time that the clocks in London skip that night: they go from 01:00 to 02:00"},
		{"2027-10-31T00:59", "23:59", false, ""}, {"2027-10-31T01:00", "00:00", true, ""},
		{"2027-10-31T01:30", "00:30", true, ""}, {"2027-10-31T01:59", "00:59", true, ""},
		{"2027-10-31T02:00", "02:00", false, ""}, {"2027-10-31T03:00", "03:00", false, ""},
	} {
		t.Run(c.wall, func(t *testing.T) {
			wall, err := time.Parse("2006-01-02T15:04", c.wall)
			if err != nil {
				t.Fatal(err)
			}
			got, twice, message := local(wall, zone)
			if message != c.message || twice != c.twice || c.utc != "" && got.UTC().Format("15:04") != c.utc {
				t.Errorf("%s UTC, twice %v, %q", got.UTC().Format("15:04"), twice, message)
			}
		})
	}
	for seconds, want := range map[int]string{0: "+0000", 3600: "+0100", 19800: "+0530", -12600: "-0330", 20700: "+0545"} {
		t.Run(fmt.Sprint(seconds), func(t *testing.T) {
			if got := offset(seconds); got != want {
				t.Errorf("%d s: %s", seconds, got)
			}
		})
	}
	for _, c := range []struct{ zone, change, want string }{
		{"Europe/London", "2027-03-28T01:00:00Z", "FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU"},
		{"America/New_York", "2027-03-14T07:00:00Z", "FREQ=YEARLY;BYMONTH=3;BYDAY=2SU"},
		{"America/New_York", "2027-11-07T06:00:00Z", "FREQ=YEARLY;BYMONTH=11;BYDAY=1SU"},
		{"Africa/Casablanca", "2027-02-07T02:00:00Z", ""}, // about Ramadan, by another calendar
	} {
		t.Run(c.zone, func(t *testing.T) {
			zone, _ := zoneOf(c.zone)
			at, err := time.Parse(time.RFC3339, c.change)
			if err != nil {
				t.Fatal(err)
			}
			if start, _ := at.In(zone).ZoneBounds(); !start.Equal(at) {
				t.Fatalf("in %s no clock changes at %s", c.zone, c.change)
			}
			if got := yearly(zone, at.In(zone)); got != c.want {
				t.Errorf("%s: %q, want %q", c.zone, got, c.want)
			}
		})
	}
}

// TestReminders: how long before, in the largest whole unit.
func TestReminders(t *testing.T) {
	for minutes, want := range map[int]string{0: "when it starts", 1: "1 minute before", 59: "59 minutes before",
		60: "1 hour before", 90: "90 minutes before", 120: "2 hours before", 1440: "1 day before", 1500: "25 hours before",
		10080: "1 week before", 20160: "2 weeks before", 11520: "8 days before"} {
		t.Run(fmt.Sprint(minutes), func(t *testing.T) {
			if got := before(minutes); got != want {
				t.Errorf("%d minutes: %q", minutes, got)
			}
		})
	}
}

// TestWholeDays: an event that comes to last all day loses its hours and its zone; one that no longer does keeps the zone.
func TestWholeDays(t *testing.T) {
	draft := map[string]any{"content": map[string]any{"start": "2027-03-20T10:00", "end": "2027-03-21T16:00",
		"timezone": "Europe/London"}}
	after := func(typed string) string {
		doc, _, err := wholeDays(draft, "", typed).Apply(draft)
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(doc.(map[string]any)["content"])
	}
	if got, want := after("true"), "map[end:2027-03-21 start:2027-03-20]"; got != want {
		t.Errorf("all day: %s, want %s", got, want)
	}
	if got, want := after(""), "map[end:2027-03-21T16:00 start:2027-03-20T10:00 timezone:Europe/London]"; got != want {
		t.Errorf("with hours: %s, want %s", got, want)
	}
}

// TestProblemsSayWhich: of several reasons, the one that holds.
func TestProblemsSayWhich(t *testing.T) {
	for text, want := range map[string]string{
		`{"kind":"event","title":"a","start":"2027-03-20T10:00:00Z"}`: "carries a zone of its own",
		`{"kind":"event","title":"a","start":"20.3.2027"}`: "write a date and time, such as 20 March " +
			"2027, 10:00",
		`{"kind":"event","title":"a","start":"2027-03-20"}`:                      "has no time; write one such as 12:00",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00","all_day":true}`: "has an hour, and the event lasts all day",
		`{"kind":"phone","number":"+44 1"}`:                                      "a number of United Kingdom",
		`{"kind":"phone","number":"+999 12345678"}`:                              "any country",
		`{"kind":"phone","number":"1","region":"GB"}`:                            "a number of United Kingdom",
	} {
		t.Run(text, func(t *testing.T) {
			v, err := fields.Decode([]byte(text))
			if err != nil {
				t.Fatal(err)
			}
			_, problems := New(v.(map[string]any))
			if len(problems) == 0 || !strings.Contains(problems[0].Message, want) {
				t.Errorf("%s: %v, want %q", text, problems, want)
			}
		})
	}
}

// labels are what a content could do without, in the words of the ladder, with the field of each.
func labels(c Content) (out []string) {
	for _, s := range c.(Thrifty).Savings() {
		out = append(out, s.Label+" "+s.Field)
	}
	return out
}

// TestLadder: each step that is offered, and none that saves nothing.
func TestLadder(t *testing.T) {
	const (
		host     = "Capitals for https and host /content/capitals"
		whole    = "Capitals throughout, if your server takes them for the same /content/url"
		mecard   = "MECARD instead of vCard 3 /content/format"
		vcard4   = "vCard 4 instead of vCard 3 /content/format"
		birthday = "Leave out the birthday /content/birthday"
	)
	for _, c := range []struct {
		text string
		want []string
	}{
		{`{"kind":"url","url":"https://marrowby.example"}`, []string{host}},
		{`{"kind":"url","url":"https://marrowby.example/"}`, []string{host}},
		{`{"kind":"url","url":"https://marrowby.example/Fair"}`, []string{host, whole}},
		{`{"kind":"url","url":"https://marrowby.example/FAIR"}`, []string{host}},
		{`{"kind":"url","url":"https://marrowby.example/Fair","capitals":true}`, []string{whole}},
		{`{"kind":"url","url":"https://marrowby.example/Fair?gclid=1"}`, []string{"Leave out gclid /content/url", host, whole}},
		{`{"kind":"url","url":"https://marrowby.example/Fair","tags":{"source":"tote"}}`,
			[]string{"Leave out the campaign tags /content/tags", host}},
		{`{"kind":"url","url":"https://marrowby.example/fair#:~:text=tulips"}`,
			[]string{"Leave out the marked passage /content/url", host, whole}},
		{`{"kind":"place","lat":52.087111,"lon":-1.943194}`,
			[]string{"Round the point to 11 m /content/lat", "Round the point to 110 m /content/lat"}},
		{`{"kind":"place","lat":52.087,"lon":-1.9432}`, []string{"Round the point to 110 m /content/lat"}},
		{`{"kind":"place","lat":52.087,"lon":-1.943}`, nil},
		{`{"kind":"event","title":"Fair","start":"2027-03-20T10:00"}`, nil},
		{`{"kind":"swiss","iban":"CH9300762011623852957",` + payee + `,"message":"m"}`,
			[]string{"Leave out the message /content/message"}},
		{`{"kind":"swiss","iban":"CH9300762011623852957",` + payee + `,"billing":"//S1/b"}`,
			[]string{"Leave out the billing information /content/billing"}},
		{`{"kind":"gs1link","gtin":"09521234500018","lot":"A1","attributes":{"17":"270331"}}`,
			[]string{"Leave out (10) BATCH/LOT /content/lot", "Leave out (17) USE-BY /content/attributes/17"}},
		{`{"kind":"gs1link","gtin":"09521234500018"}`, nil},
	} {
		t.Run(c.text, func(t *testing.T) {
			if got := labels(made(t, c.text)); !slices.Equal(got, c.want) {
				t.Errorf("%s:\n%q, want\n%q", c.text, got, c.want)
			}
		})
	}
	got := labels(made(t, `{"kind":"contact","given":"a","birthday":"1984-03-27"}`))
	for _, want := range []string{mecard, vcard4, birthday} {
		t.Run(want, func(t *testing.T) {
			if !slices.Contains(got, want) {
				t.Errorf("a contact has the steps %q, not %q", got, want)
			}
		})
	}
	if slices.ContainsFunc(got, func(s string) bool { return strings.HasPrefix(s, "vCard 3 instead") }) {
		t.Errorf("a contact in vCard 3 is offered vCard 3: %q", got)
	}
	point := made(t, `{"kind":"place","lat":52.087111,"lon":-1.943194}`).(Thrifty).Savings()
	for i, want := range []string{"geo:52.0871,-1.9432", "geo:52.087,-1.943"} {
		t.Run(want, func(t *testing.T) {
			if got := point[i].Then.Payload(); got != want {
				t.Errorf("rounded: %q, want %q", got, want)
			}
		})
	}
}

// TestAdditions: what a form could still be given a field for, and nothing it has or cannot hold.
func TestAdditions(t *testing.T) {
	added := func(text string) (out []string) {
		for _, s := range made(t, text).(interface{ Adding() []Saving }).Adding() {
			out = append(out, s.Field)
		}
		return out
	}
	event := added(`{"kind":"event","title":"Fair","start":"2027-03-20T10:00","location":"Garden","alarm_minutes":0}`)
	if slices.Contains(event, "/content/location") || slices.Contains(event, "/content/alarm_minutes") ||
		!slices.Contains(event, "/content/description") {
		t.Errorf("an event: %v", event)
	}
	if got := added(`{"kind":"event","title":"Fair","start":"2027-03-20T10:00"}`); !slices.Contains(got,
		"/content/alarm_minutes") {
		t.Errorf("an event without a reminder: %v", got)
	}
	many := strings.TrimSuffix(strings.Repeat(`{"number":"+441134960124"},`, maxItems), ",")
	contact := added(`{"kind":"contact","given":"a","organisation":"Marrowby","phones":[` + many + `]}`)
	if slices.Contains(contact, "/content/organisation") || !slices.Contains(contact, "/content/title") {
		t.Errorf("a contact: %v", contact)
	}
	for _, at := range contact {
		if strings.HasPrefix(at, "/content/phones/") {
			t.Errorf("%d numbers, and one more: %v", maxItems, contact)
		}
	}
	if got := added(`{"kind":"contact","given":"a","format":"mecard"}`); slices.Contains(got, "/content/title") ||
		!slices.Contains(got, "/content/organisation") {
		t.Errorf("MECARD has no title: %v", got)
	}
}

// TestTakenApart: parts of payloads that stand at an edge of what is read. The end of whole days is the last of them here,
// and the first after them in a calendar (RFC 5545, 3.6.1).
func TestTakenApart(t *testing.T) {
	event := func(start, more string) string {
		return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nSUMMARY:Fair\r\n" + start + "\r\n" + more +
			"END:VEVENT\r\nEND:VCALENDAR"
	}
	for _, c := range []struct{ name, payload, key, want string }{
		{"seven lines of SEPA", "BCD\n002\n1\nSCT\nMARBDEFFXXX\nMarrowby\n" + marrowbyIBAN, "iban", marrowbyIBAN},
		{"a BIC before the IBAN (RFC 8905, 5)", "payto://iban/MARBDEFFXXX/" + marrowbyIBAN, "account", marrowbyIBAN},
		{"no BIC", "payto://iban/" + marrowbyIBAN, "account", marrowbyIBAN},
		{"an address of seven parts in MECARD", "MECARD:N:A,B;ADR:,,Gate 2,Marrowby,Vale,MB1 2AB,GB;;", "address",
			"map[city:Marrowby country:GB postcode:MB1 2AB region:Vale street:Gate 2]"},
		{"an address of three", "MECARD:N:A,B;ADR:Gate 2,Marrowby,GB;;", "address", "map[street:Gate 2, Marrowby, GB]"},
		{"days and a duration", event("DTSTART;VALUE=DATE:20270320", "DURATION:P2D\r\n"), "end", "2027-03-21"},
		{"hours and a duration", event("DTSTART:20270320T100000", "DURATION:PT90M\r\n"), "end", "2027-03-20T11:30"},
		{"a path before the zone", event("DTSTART;TZID=/marrowby.example/Europe/London:20270320T100000", ""), "timezone",
			"Europe/London"},
		{"a stroke before the zone", event("DTSTART;TZID=/Europe/London:20270320T100000", ""), "timezone", "Europe/London"},
	} {
		t.Run(c.name, func(t *testing.T) {
			v, ok := Fields(c.payload)
			if got := fmt.Sprint(v[c.key]); !ok || got != c.want {
				t.Errorf("%v, %s is %s, want %s", ok, c.key, got, c.want)
			}
		})
	}
	for raw, want := range map[string]string{`""`: "", `"`: `"`, `"a"`: "a", `"a\"`: `"a"`, `a\;b`: "a;b"} {
		t.Run(raw, func(t *testing.T) {
			if got := unquoted(raw); got != want {
				t.Errorf("%s is read as %s", raw, got)
			}
		})
	}
}

// TestWritten: figures as people write them.
func TestWritten(t *testing.T) {
	for got, want := range map[string]string{
		Sexagesimal(0, 0):                            "0° 00′ 00.0″ N, 0° 00′ 00.0″ E",
		Sexagesimal(-33.85, 151.2):                   "33° 51′ 00.0″ S, 151° 12′ 00.0″ E",
		ReferenceText("210000000003139471430009017"): "21 00000 00003 13947 14300 09017",
		gs1Day("270331"):                             "Wed 31 March 2027.",
		gs1Day("270300"):                             "The end of the month, 2027-03.",
		gs1Day("27033"):                              "",
		(&URL{Raw: "http:"}).Secure():                "https:",
		(&URL{Raw: "http://a.b"}).Secure():           "https://a.b",
	} {
		t.Run(got, func(t *testing.T) {
			if got != want {
				t.Errorf("%q, want %q", got, want)
			}
		})
	}
	if lat, lon, ok := Coordinates(`-33° 51' 0", 151° 12' 0"`); !ok || lat != -33.85 || lon != 151.2 {
		t.Error(lat, lon, ok)
	}
	if mod97("A-") != -1 {
		t.Error("a hyphen has a remainder")
	}
	for _, c := range []struct {
		text string
		want []string
	}{
		{`{"kind":"gs1link","gtin":"09521234500018"}`, []string{"(01)09521234500018"}},
		{`{"kind":"gs1link","gtin":"09521234500018","lot":"A1"}`, []string{"(01)09521234500018", "(10)A1"}},
	} {
		t.Run(c.text, func(t *testing.T) {
			if got := made(t, c.text).(*GS1Link).Interpretation(); !slices.Equal(got, c.want) {
				t.Errorf("%s: %q", c.text, got)
			}
		})
	}
}
