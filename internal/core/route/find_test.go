package route

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// TestFind: what is likely not meant is said, with a way to mend it, and nothing else.
func TestFind(t *testing.T) {
	now := at("2027-03-01T12:00Z")
	span := func(from, until, more string) string {
		return `{"spans":[{"from":"2027-03-` + from + `","until":"2027-03-` + until + `"}]` + more + `}`
	}
	for name, c := range map[string]struct {
		rules []string
		rest  string
		want  string // code, rule and fix of each, in order
	}{
		"nothing": {[]string{`{"systems":["ios"]}`, `{"where":["Wales"]}`}, "", ""},
		"nobody reaches the same": {[]string{`{"systems":["ios"]}`, `{"systems":["ios"],"where":["Wales"]}`}, "",
			"unreached 1 first"},
		"the wider before":     {[]string{`{"where":["GB"]}`, `{"where":["Wales"]}`}, "", "unreached 1 first"},
		"the narrower before":  {[]string{`{"where":["Wales"]}`, `{"where":["GB"]}`}, "", ""},
		"one that is off":      {[]string{`{"systems":["ios"],"off":true}`, `{"systems":["ios"]}`}, "", ""},
		"one that has a stock": {[]string{`{"systems":["ios"],"stock":5}`, `{"systems":["ios"]}`}, "", ""},
		"always":               {[]string{`{}`, `{"systems":["ios"]}`}, "", "always 0 last"},
		"always, the last":     {[]string{`{"systems":["ios"]}`, `{}`}, "", ""},
		"all together":         {[]string{`{"systems":["ios"]}`, `{"systems":["android","other"]}`}, "", "rest -1 "},
		"all the week": {[]string{`{"weekdays":["mo","tu","we"]}`, `{"weekdays":["th","fr","sa","su"]}`}, "",
			"rest -1 "},
		"all but a quarter": {[]string{`{"hours":["00:00-12:00"]}`, `{"hours":["12:15-24:00"]}`}, "", ""},
		"over":              {[]string{`{"spans":[{"until":"2027-03-01T12:00"}]}`}, "", "over 0 drop"},
		"not over yet":      {[]string{`{"spans":[{"until":"2027-03-01T12:01"}]}`}, "", ""},
		"gap": {[]string{span("10T10:00", "12T10:00", ""), span("13T10:00", "14T10:00", "")}, "",
			"gap 1 begin 2027-03-12T10:00"},
		"gap of a week": {[]string{span("10T10:00", "12T10:00", ""), span("19T10:00", "20T10:00", "")}, "",
			"gap 1 begin 2027-03-12T10:00"},
		"no gap of more": {[]string{span("10T10:00", "12T10:00", ""), span("19T10:01", "20T10:00", "")}, "", ""},
		"no gap":         {[]string{span("10T10:00", "12T10:00", ""), span("12T10:00", "14T10:00", "")}, "", ""},
		"gap, other questions": {[]string{span("10T10:00", "12T10:00", ""), span("13T10:00", "14T10:00",
			`,"systems":["ios"]`)}, "", ""},
		"gap, in another order": {[]string{span("13T10:00", "14T10:00", ""), span("10T10:00", "12T10:00", "")}, "",
			"gap 0 begin 2027-03-12T10:00"},
		"overlap": {[]string{span("10T10:00", "12T10:00", ""), span("12T09:59", "14T10:00", "")}, "",
			"overlap 1 begin 2027-03-12T10:00"},
		"one within another":     {[]string{span("11T10:00", "11T12:00", ""), span("10T10:00", "12T10:00", "")}, "", ""},
		"language of the rest":   {[]string{`{"languages":["cy"]}`}, "", "rest_language -1 language en"},
		"languages":              {[]string{`{"languages":["cy"]}`, `{"languages":["pl"]}`}, "en", ""},
		"narrow":                 {[]string{`{"languages":["pt-BR"]}`}, "en", "language 0 widen pt"},
		"narrow beside wide":     {[]string{`{"languages":["pt-BR"]}`, `{"languages":["pt"]}`}, "en", ""},
		"wide before narrow":     {[]string{`{"languages":["pt"]}`, `{"languages":["pt-BR"]}`}, "en", "unreached 1 first"},
		"shares that leave some": {[]string{`{"share":0.3}`, `{"share":0.5}`}, "", "share 1 "},
		"shares that leave none": {[]string{`{"share":0.5}`, `{"share":0.5}`}, "", "rest -1 "},
		"one share":              {[]string{`{"share":0.5}`}, "", ""},
		"a share that nobody is left": {[]string{`{"share":0.5}`, `{"share":0.5}`, `{"systems":["ios"]}`}, "",
			"unreached 2 first, rest -1 "},
	} {
		t.Run(name, func(t *testing.T) {
			var got []string
			for _, f := range Find(read(t, c.rules...), "Europe/London", c.rest, now) {
				one := strings.TrimPrefix(f.Code, "route.") + " " + string(rune('0'+f.Rule))
				if f.Rule < 0 {
					one = strings.TrimPrefix(f.Code, "route.") + " -1"
				}
				one += " "
				if f.Fix != nil {
					one = strings.TrimSpace(one + f.Fix.Do + " " + f.Fix.Text)
				}
				if f.Words == "" || !strings.HasSuffix(f.Words, ".") {
					t.Errorf("%s: %q", name, f.Words)
				}
				got = append(got, one)
			}
			if s := strings.Join(got, ", "); s != c.want {
				t.Errorf("%s: %q, want %q", name, s, c.want)
			}
		})
	}
}

// TestAsked: somebody is read as people write it.
func TestAsked(t *testing.T) {
	now := at("2027-03-01T12:00Z")
	for _, c := range []struct {
		asked Asked
		want  Input
		bad   string
	}{
		{Asked{}, Input{At: now}, ""},
		{Asked{Where: "Cardiff, Wales"}, Input{At: now, Country: "GB", Part: "Wales", Town: "Cardiff"}, ""},
		{Asked{Where: "Wales"}, Input{At: now, Country: "GB", Part: "Wales"}, ""},
		{Asked{Where: "Cork, Ireland"}, Input{At: now, Country: "IE", Part: "Cork"}, ""},
		{Asked{Where: "Perth (GB)"}, Input{At: now, Country: "GB", Town: "Perth"}, ""},
		{Asked{Where: "Ireland"}, Input{At: now, Country: "IE"}, ""},
		{Asked{Languages: "Welsh, then English", System: "ios", Place: "gate"}, Input{At: now, Languages: []string{"cy", "en"},
			System: "iOS",
			Place:  "gate"}, ""},
		{Asked{At: "20 March 2027, 11:30"}, Input{At: at("2027-03-20T11:30Z")}, ""},
		{Asked{At: "1 July 2027, 11:30"}, Input{At: at("2027-07-01T10:30Z")}, ""},
		{Asked{At: "20 March 2027"}, Input{At: at("2027-03-20T12:00Z")}, ""},
		{Asked{Where: "Walles"}, Input{}, "/where"},
		{Asked{Where: "Wales (Nowhere)"}, Input{}, "/where"},
		{Asked{Languages: "Klingonish"}, Input{}, "/languages"},
		{Asked{System: "symbian"}, Input{}, "/system"},
		{Asked{At: "soon"}, Input{}, "/at"},
	} {
		t.Run(fmt.Sprint(c.asked), func(t *testing.T) {
			in, problems := c.asked.Input("Europe/London", now)
			if c.bad != "" {
				if len(problems) != 1 || problems[0].Field != c.bad {
					t.Errorf("%+v: %v", c.asked, problems)
				}
				return
			}
			if len(problems) > 0 || in.Country != c.want.Country || in.Part != c.want.Part || in.Town != c.want.Town ||
				in.System != c.want.System ||
				in.Place != c.want.Place ||
				strings.Join(in.Languages, " ") != strings.Join(c.want.Languages, " ") ||
				!in.At.Equal(c.want.At) {
				t.Errorf("%+v is read as %+v, %v", c.asked, in, problems)
			}
		})
	}
}

// TestStrip: who gets what on each day, everybody that the rules tell apart once.
func TestStrip(t *testing.T) {
	rules := read(t, `{"spans":[{"from":"2027-03-20T10:00","until":"2027-03-22T18:00"}],"languages":["cy"]}`,
		`{"spans":[{"from":"2027-03-20T10:00","until":"2027-03-22T18:00"}]}`, `{"where":["Ireland"]}`)
	s := Compile(rules, "Europe/London", "en")
	now := at("2027-03-01T12:00Z")
	first := s.StripFrom(now, 6)
	if got := first.Format("2006-01-02"); got != "2027-03-18" {
		t.Errorf("it begins on %s", got)
	}
	if got := s.StripFrom(at("2027-03-16T12:00Z"), 6); !got.Equal(at("2027-03-16T12:00Z")) {
		t.Errorf("with a change at hand it begins %s", got)
	}
	if got := Compile(nil, "UTC", "").StripFrom(now, 6); !got.Equal(now) {
		t.Errorf("where nothing changes it begins %s", got)
	}
	var lines []string
	for _, p := range s.Strip(rules, Input{At: now}, first, 6) {
		line := p.Who + ":"
		for _, cell := range p.Days {
			line += " "
			for _, i := range cell {
				line += map[int]string{Everybody: "-", 0: "1", 1: "2", 2: "3"}[i]
			}
		}
		lines = append(lines, line)
	}
	want := "Welsh, Ireland: 3 3 31 1 13 3\nWelsh, elsewhere: - - -1 1 1- -\nother languages, Ireland: 3 3 32 2 23 3\n" +
		"other languages, elsewhere: - - -2 2 2- -"
	if got := strings.Join(lines, "\n"); got != want {
		t.Errorf("it shows\n%s\nwant\n%s", got, want)
	}
}

// TestNext: the next change, within a span, and no other.
func TestNext(t *testing.T) {
	s := Compile(
		read(t, `{"hours":["09:00-18:00"]}`, `{"yearly":true,"spans":[{"from":"2026-06-01T00:00","until":"2026-07-01T00:00"}]}`),
		"Europe/London",
		"",
	)
	for after, want := range map[string]string{"2027-06-10T10:00Z": "2027-06-10T17:00Z", "2027-06-10T17:00Z": "2027-06-10T23:00Z",
		"2027-05-31T20:00Z": "2027-05-31T23:00Z"} {
		t.Run(after, func(t *testing.T) {
			if got, ok := s.Next(at(after), 48*time.Hour); !ok || !got.Equal(at(want)) {
				t.Errorf("after %s comes %s, want %s", after, got, want)
			}
		})
	}
	if got, ok := s.Next(at("2027-06-10T10:00Z"), 6*time.Hour); ok {
		t.Errorf("within six hours comes %s", got)
	}
}

// TestTyped: fields as a form has them become JSON, and are shown as they were typed.
func TestTyped(t *testing.T) {
	doc := map[string]any{"off": true, "weekdays": []any{"mo"}, "spans": []any{map[string]any{"from": "2027-01-01T00:00"}}}
	problems := Typed(
		doc,
		map[string][]string{"where": {"Wales, Ireland; GB"}, "places": {"gate, left", "till"}, "languages": {""},
			"from": {
				"20 March 2027",
			}, "until": {"22 March 2027"}, "from-2": {"1 April 2027, 9:00"}, "until-2": {""}, "weekdays": {},
			"share": {"50 %"}, "stock": {"12"}, "yearly": {""}, "id": {"mine"}},
		"",
	)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	for key, want := range map[string]string{"where": "[Wales Ireland GB]", "places": "[gate, left till]", "languages": "<nil>",
		"weekdays": "<nil>", "share": "0.5", "stock": "12", "yearly": "<nil>", "off": "true", "id": "<nil>",
		"spans": "[map[from:2027-03-20T00:00 until:2027-03-23T00:00] map[from:2027-04-01T09:00]]"} {
		t.Run(key, func(t *testing.T) {
			if got := fmt.Sprint(doc[key]); got != want {
				t.Errorf("%s is %s, want %s", key, got, want)
			}
		})
	}
	if problems := Typed(map[string]any{}, map[string][]string{"share": {"half"}, "stock": {"many"}}, "/x"); len(problems) != 2 ||
		problems[0].Field != "/x/share" || problems[1].Field != "/x/stock" {
		t.Errorf("%v", problems)
	}
	r := read(t, `{"where":["Wales","IE"],"languages":["cy","pt-BR"],"share":0.25,"stock":3,"hours":["09:00-10:00"],
		"spans":[{"from":"2027-03-20T10:00"},{"until":"2028-01-01T00:00"}]}`)[0]
	for key, want := range map[string]string{"where": "Wales (GB), Ireland", "languages": "Welsh, Brazilian Portuguese",
		"share": "25 %",
		"stock": "3", "hours": "09:00-10:00", "from": "20 March 2027, 10:00", "until": "", "until-2": "1 January 2028, 00:00",
		"from-3":  "",
		"nothing": ""} {
		t.Run(key, func(t *testing.T) {
			if got := r.Shown(key); got != want {
				t.Errorf("%s is shown as %q, want %q", key, got, want)
			}
		})
	}
}

func FuzzTyped(f *testing.F) {
	f.Add("Wales, Ireland", "Welsh", "09:00-18:00", "20 March 2027, 10:00", "50 %")
	f.Add("Perth (Australia)", "pt_BR", "22.00 to 2", "soon", "-1")
	f.Fuzz(func(t *testing.T, where, languages, hours, from, share string) {
		r := &Rule{}
		for _, q := range []struct {
			text string
			own  func(string) (string, string)
		}{{where, Name}, {languages, Language}, {hours, hoursNamed}} {
			own, bad := q.own(q.text)
			if bad != "" || own == "" {
				continue
			}
			if again, bad := q.own(own); bad != "" || again != own {
				t.Errorf("%q is kept as %q, which is read as %q (%s)", q.text, own, again, bad)
			}
		}
		Typed(map[string]any{}, map[string][]string{"where": {where}, "from": {from}, "share": {share}}, "")
		_ = r.Sentence("UTC")
	})
}
