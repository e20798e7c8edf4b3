package route

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
)

// read reads rules from JSON, on the clocks of London.
func read(t testing.TB, texts ...string) (rules []*Rule) {
	t.Helper()
	for _, text := range texts {
		r, problems := one(text, "Europe/London")
		if len(problems) > 0 {
			t.Fatalf("%s: %v", text, problems)
		}
		rules = append(rules, r)
	}
	return rules
}

func one(text, zone string) (*Rule, problem.List) {
	v, err := fields.Decode([]byte(text))
	if err != nil {
		panic(err)
	}
	var problems problem.List
	o := fields.Open(v, "", &problems)
	r := Read(o, zone)
	o.Close()
	return r, problems
}

func at(text string) time.Time {
	t, err := time.Parse("2006-01-02T15:04Z", text)
	if err != nil {
		panic(err)
	}
	return t
}

// TestChoose: who is sent where, by one rule of each kind and by several.
func TestChoose(t *testing.T) {
	fair := `{"spans":[{"from":"2027-03-20T10:00","until":"2027-03-22T18:00"}]}`
	welsh := `{"languages":["cy"]}`
	for name, c := range map[string]struct {
		rules []string
		rest  string
		in    Input
		want  int
	}{
		"none":                       {nil, "", Input{}, Everybody},
		"no question":                {[]string{`{}`}, "", Input{}, 0},
		"off":                        {[]string{`{"off":true}`}, "", Input{}, Everybody},
		"before":                     {[]string{fair}, "", Input{At: at("2027-03-20T09:59Z")}, Everybody},
		"from the first second":      {[]string{fair}, "", Input{At: at("2027-03-20T10:00Z")}, 0},
		"until the last":             {[]string{fair}, "", Input{At: at("2027-03-22T17:59Z")}, 0},
		"not at its end":             {[]string{fair}, "", Input{At: at("2027-03-22T18:00Z")}, Everybody},
		"from ever":                  {[]string{`{"spans":[{"until":"2027-03-22T18:00"}]}`}, "", Input{At: at("1990-03-22T17:59Z")}, 0},
		"for ever":                   {[]string{`{"spans":[{"from":"2027-03-22T18:00"}]}`}, "", Input{At: at("2090-03-22T18:00Z")}, 0},
		"second span":                {[]string{`{"spans":[{"until":"2026-01-01T00:00"},{"from":"2027-01-01T00:00"}]}`}, "", Input{At: at("2027-01-01T00:00Z")}, 0},
		"summer time":                {[]string{`{"hours":["09:00-10:00"]}`}, "", Input{At: at("2027-06-01T08:30Z")}, 0},
		"winter time":                {[]string{`{"hours":["09:00-10:00"]}`}, "", Input{At: at("2027-01-05T08:30Z")}, Everybody},
		"hour's end":                 {[]string{`{"hours":["09:00-10:00"]}`}, "", Input{At: at("2027-01-05T10:00Z")}, Everybody},
		"second hours":               {[]string{`{"hours":["09:00-10:00","14:00-24:00"]}`}, "", Input{At: at("2027-01-05T23:59Z")}, 0},
		"past midnight, before":      {[]string{`{"hours":["22:00-02:00"],"weekdays":["fr"]}`}, "", Input{At: at("2027-01-08T23:00Z")}, 0},
		"past midnight, after":       {[]string{`{"hours":["22:00-02:00"],"weekdays":["fr"]}`}, "", Input{At: at("2027-01-09T01:59Z")}, 0},
		"past midnight, day before":  {[]string{`{"hours":["22:00-02:00"],"weekdays":["fr"]}`}, "", Input{At: at("2027-01-08T01:00Z")}, Everybody},
		"past midnight, at its end":  {[]string{`{"hours":["22:00-02:00"],"weekdays":["fr"]}`}, "", Input{At: at("2027-01-09T02:00Z")}, Everybody},
		"monday after sunday":        {[]string{`{"hours":["22:00-02:00"],"weekdays":["su"]}`}, "", Input{At: at("2027-01-11T01:00Z")}, 0},
		"weekday":                    {[]string{`{"weekdays":["sa","su"]}`}, "", Input{At: at("2027-01-10T12:00Z")}, 0},
		"another weekday":            {[]string{`{"weekdays":["sa","su"]}`}, "", Input{At: at("2027-01-11T12:00Z")}, Everybody},
		"every year":                 {[]string{`{"yearly":true,"spans":[{"from":"2026-03-01T00:00","until":"2026-06-01T00:00"}]}`}, "", Input{At: at("2031-05-31T12:00Z")}, 0},
		"every year, after":          {[]string{`{"yearly":true,"spans":[{"from":"2026-03-01T00:00","until":"2026-06-01T00:00"}]}`}, "", Input{At: at("2031-06-01T00:00Z")}, Everybody},
		"over the new year":          {[]string{`{"yearly":true,"spans":[{"from":"2026-12-01T00:00","until":"2027-01-07T00:00"}]}`}, "", Input{At: at("2030-01-06T23:00Z")}, 0},
		"over the new year, between": {[]string{`{"yearly":true,"spans":[{"from":"2026-12-01T00:00","until":"2027-01-07T00:00"}]}`}, "", Input{At: at("2030-07-06T23:00Z")}, Everybody},
		"29 February in a short year": {[]string{`{"yearly":true,"spans":[{"from":"2028-02-29T00:00","until":"2028-03-02T00:00"}]}`}, "",
			Input{At: at("2027-03-01T12:00Z")}, 0},
		"country":         {[]string{`{"where":["Ireland"]}`}, "", Input{Country: "IE"}, 0},
		"another country": {[]string{`{"where":["Ireland"]}`}, "", Input{Country: "GB"}, Everybody},
		"no country":      {[]string{`{"where":["Ireland"]}`}, "", Input{}, Everybody},
		"part": {[]string{`{"where":["Ireland","Wales"]}`}, "", Input{Country: "GB", Part: "Wales",
			Town: "Newtown"}, 0},
		"another part": {[]string{`{"where":["Wales"]}`}, "", Input{Country: "GB", Part: "England",
			Town: "Ludlow"}, Everybody},
		"town": {[]string{`{"where":["Perth (GB)"]}`}, "", Input{Country: "GB", Part: "Scotland",
			Town: "Perth"}, 0},
		"town of a name": {[]string{`{"where":["Perth (GB)"]}`}, "", Input{Country: "AU", Town: "Perth"},
			Everybody},
		"accents":         {[]string{`{"where":["Zurich"]}`}, "", Input{Country: "CH", Town: "Zürich"}, 0},
		"printed place":   {[]string{`{"places":["gate","till"]}`}, "", Input{Place: "till"}, 0},
		"elsewhere":       {[]string{`{"places":["gate"]}`}, "", Input{Place: "till"}, Everybody},
		"system":          {[]string{`{"systems":["ios"]}`}, "", Input{System: "iOS"}, 0},
		"another system":  {[]string{`{"systems":["ios"]}`}, "", Input{System: "Android"}, Everybody},
		"no phone":        {[]string{`{"systems":["other"]}`}, "", Input{System: "Windows"}, 0},
		"either system":   {[]string{`{"systems":["ios","android"]}`}, "", Input{System: "Android"}, 0},
		"language":        {[]string{welsh}, "", Input{Languages: []string{"cy"}}, 0},
		"of a region":     {[]string{`{"languages":["pt"]}`}, "", Input{Languages: []string{"pt-BR"}}, 0},
		"too narrow":      {[]string{`{"languages":["pt-BR"]}`}, "", Input{Languages: []string{"pt-PT"}}, Everybody},
		"no prefix of it": {[]string{`{"languages":["cy"]}`}, "", Input{Languages: []string{"cyb"}}, Everybody},
		"script":          {[]string{`{"languages":["zh-Hant"]}`}, "", Input{Languages: []string{"zh-TW"}}, 0},
		"another script": {[]string{`{"languages":["zh-Hant"]}`}, "", Input{Languages: []string{"zh-CN"}},
			Everybody},
		"usual script":                 {[]string{`{"languages":["zh-Hans"]}`}, "", Input{Languages: []string{"zh"}}, 0},
		"second language":              {[]string{welsh}, "", Input{Languages: []string{"en", "cy"}}, 0},
		"the rest is preferred":        {[]string{welsh}, "en", Input{Languages: []string{"en-GB", "cy"}}, Everybody},
		"the rest comes second":        {[]string{welsh}, "en", Input{Languages: []string{"cy", "en-GB"}}, 0},
		"the rest is not spoken":       {[]string{welsh}, "en", Input{Languages: []string{"pl", "cy"}}, 0},
		"nothing is spoken":            {[]string{welsh}, "en", Input{Languages: []string{"pl"}}, Everybody},
		"the preferred, not the first": {[]string{welsh, `{"languages":["pl"]}`}, "", Input{Languages: []string{"pl", "cy"}}, 1},
		"the preferred is not on": {[]string{`{"languages":["cy"],"weekdays":["mo"]}`, `{"languages":["pl"]}`}, "",
			Input{At: at("2027-01-10T12:00Z"), Languages: []string{"cy", "pl"}}, 1},
		"one without a language stops": {[]string{welsh, `{"systems":["ios"]}`, `{"languages":["pl"]}`}, "",
			Input{Languages: []string{"pl", "cy"}, System: "iOS"}, 0},
		"one without a language speaks the rest": {[]string{welsh, `{"systems":["ios"]}`}, "en", Input{Languages: []string{"en", "cy"}, System: "iOS"}, 1},
		"all questions": {[]string{`{"where":["Wales"],"languages":["cy"],"systems":["ios"],"weekdays":["mo"],"places":["gate"]}`}, "",
			Input{At: at("2027-01-11T12:00Z"), Country: "GB", Part: "Wales", Languages: []string{"cy"}, System: "iOS",
				Place: "gate"}, 0},
		"share, below":   {[]string{`{"share":0.3}`}, "", Input{Draw: 0.29}, 0},
		"share, above":   {[]string{`{"share":0.3}`}, "", Input{Draw: 0.3}, Everybody},
		"second share":   {[]string{`{"share":0.3}`, `{"share":0.3}`}, "", Input{Draw: 0.3}, 1},
		"left of shares": {[]string{`{"share":0.3}`, `{"share":0.3}`}, "", Input{Draw: 0.61}, Everybody},
		"share that goes round": {[]string{`{"share":0.6,"systems":["ios"]}`, `{"share":0.6,"systems":["android"]}`}, "",
			Input{Draw: 0.1, System: "Android"}, 1},
		"share that goes round, left": {[]string{`{"share":0.6,"systems":["ios"]}`, `{"share":0.6,"systems":["android"]}`}, "",
			Input{Draw: 0.3, System: "Android"}, Everybody},
	} {
		t.Run(name, func(t *testing.T) {
			if c.in.At.IsZero() {
				c.in.At = at("2027-01-10T12:00Z")
			}
			if got := Compile(read(t, c.rules...), "Europe/London", c.rest).Choose(&c.in, nil); got != c.want {
				t.Errorf("%s: rule %d fires, want %d", name, got, c.want)
			}
		})
	}
}

// TestStock: a rule with a stock fires while something is left, and the next that fits afterwards, by language too.
func TestStock(t *testing.T) {
	rules := read(t, `{"stock":1,"languages":["cy"]}`, `{"stock":2}`, `{"languages":["cy"]}`)
	s := Compile(rules, "UTC", "")
	left := map[int]int{0: 1, 1: 2}
	var asked []int
	reserve := func(i int) bool {
		asked = append(asked, i)
		left[i]--
		return left[i] >= 0
	}
	var got []int
	for range 5 {
		got = append(got, s.Choose(&Input{Languages: []string{"cy"}}, reserve))
	}
	if want := []int{0, 1, 1, 2, 2}; !slices.Equal(got, want) {
		t.Errorf("%v fire, want %v", got, want)
	}
	if want := []int{0, 0, 1, 0, 1, 0, 1, 0, 1}; !slices.Equal(asked, want) {
		t.Errorf("%v are asked for a stock, want %v", asked, want)
	}
}

// TestNear: a rule that asks the phone where it is fits until the phone says no, and says whether it was asked.
func TestNear(t *testing.T) {
	s := Compile(read(t, `{"id":"a","near":"Ludlow, GB","within_km":5,"stock":1}`, `{"id":"b","systems":["ios"]}`), "UTC", "")
	asked := 0
	reserve := func(int) bool { asked++; return true }
	for _, c := range []struct {
		in   Input
		want int
		open bool
	}{
		{Input{System: "iOS"}, 0, true}, {Input{Near: []string{"a"}}, 0, false}, {Input{Far: []string{"a"}, System: "iOS"}, 1,
			false},
		{Input{Far: []string{"a"}}, Everybody, false}, {Input{Near: []string{"b"}}, 0, true},
	} {
		t.Run(fmt.Sprint(c.in), func(t *testing.T) {
			if got := s.Choose(&c.in, reserve); got != c.want || s.Unanswered(got, &c.in) != c.open {
				t.Errorf("%+v: rule %d fires, unanswered %v", c.in, got, s.Unanswered(got, &c.in))
			}
		})
	}
	if asked != 1 {
		t.Errorf("the stock is asked for %d times", asked)
	}
	if may := s.May(&Input{System: "iOS"}, Kept{true, true}); !slices.Equal(may, []int{0, 1}) {
		t.Errorf("what may be is %v", may)
	}
	if rules, rest, _ := s.Reached(at("2027-01-01T00:00Z")); !rules[0] || !rules[1] || !rest {
		t.Errorf("reached are %v, %v", rules, rest)
	}
}

// TestRead: names are kept in their own form, and what is wrong is said at its field.
func TestRead(t *testing.T) {
	r := read(t, `{"where":["wales","UK","Ireland","Perth (Australia)","New York"],"languages":["Welsh","Cymraeg","pt_br","Polish"],
		"systems":["Android"],"weekdays":["Sunday","mo"],"hours":["9 to 17.30"]}`)[0]
	want := &Rule{
		Where:     []string{"Wales (GB)", "GB", "IE", "Perth (AU)", "New York (US)"},
		Languages: []string{"cy", "pt-BR", "pl"},
		Systems:   []string{"android"},
		Weekdays:  []string{"mo", "su"},
		Hours:     []string{"09:00-17:30"},
	}
	if fmt.Sprint(*r) != fmt.Sprint(*want) {
		t.Errorf("read as\n%v, want\n%v", *r, *want)
	}
	for text, want := range map[string]string{
		`{"where":["Walles"]}`:          `/where names Walles, which is no country`,
		`{"where":["Perth"]}`:           ``, // far the largest is meant
		`{"where":["Newtown"]}`:         `/where names Newtown, of which there are several`,
		`{"where":["Wales (Nowhere)"]}`: `/where names Wales (Nowhere), and "Nowhere" is no country`,
		`{"languages":["Klingonish"]}`:  `/languages names "Klingonish", which is no language`,
		`{"languages":["xx"]}`:          `/languages names "xx"`,
		`{"systems":["symbian"]}`:       `/systems is "symbian"; it is one of ios, android, other`,
		`{"weekdays":["someday"]}`:      `/weekdays is "someday"`,
		`{"hours":["9"]}`:               `/hours is "9"; write hours such as 09:00-18:00`,
		`{"hours":["09:00-25:00"]}`:     `/hours is "09:00-25:00"; a day has hours from 00:00 to 24:00`,
		`{"hours":["09:00-09:59"]}`:     ``,
		`{"hours":["09:60-10:00"]}`:     `/hours is "09:60-10:00"; a day has`,
		`{"hours":["09:00-09:00"]}`:     `/hours is "09:00-09:00", which is no time at all`,
		`{"spans":[{"from":"2027-03-20T10:00","until":"2027-03-20T10:00"}]}`: `/spans/0/until is not after the start`,
		`{"spans":[{"from":"2027-03-28T01:30"}]}`:                            `/spans/0/from is 01:30, a time that the clocks in London skip`,
		`{"spans":[{"from":"soon"}]}`:                                        `/spans/0/from is `,

		`{"yearly":true}`: `/yearly is set, and there is no span`,

		`{"yearly":true,"spans":[{"from":"2027-03-20T10:00"}]}`:                            `/spans/0/until is open`,
		`{"yearly":true,"spans":[{"from":"2027-03-20T10:00","until":"2028-03-21T10:00"}]}`: `/spans/0/until is more than a year`,
		`{"yearly":true,"spans":[{"from":"2027-03-20T10:00","until":"2028-03-20T10:00"}]}`: `/spans/0/until is more than a year`, // 366 days
		`{"yearly":true,"spans":[{"from":"2026-03-20T10:00","until":"2027-03-20T10:00"}]}`: ``,
		`{"share":0.009}`:                           `/share is 0.9 %; it lies between 1 and 100 %`,
		`{"share":0.01}`:                            ``,
		`{"share":1.5}`:                             `/share is 1.5; it lies between 0 and 1`,
		`{"stock":10000001}`:                        `/stock `,
		`{"id":"A B"}`:                              `/id is "A B"`,
		`{"near":"Ludlow, GB","within_km":0.9}`:     `/within_km is 0.9 km; phones within buildings know`,
		`{"near":"Ludlow, GB","within_km":1}`:       ``,
		`{"near":"52.368, -2.718","within_km":500}`: ``,
		`{"near":"Ludlow, GB","within_km":501}`:     `/within_km is 501; it lies between 0 and 500`,
		`{"near":"Ludlow, GB"}`:                     `/within_km is missing`,
		`{"near":"Ludlow","within_km":5}`:           `/near is Ludlow, of which there are several; write Ludlow, US or Ludlow, GB`,
		`{"within_km":5}`:                           `/near is missing`,
		`{"near":"Walles","within_km":5}`:           `/near is "Walles"; write a larger town`,
		`{"near":"91, 0","within_km":5}`:            `/near is "91, 0"`,
		`{"near":"0, 181","within_km":5}`:           `/near is "0, 181"`,
		`{"radius":5}`:                              `/radius `,
		`{"hours":["1-2","2-3","3-4","4-5","5-6"]}`: `/hours names 5; there is room for 4`,
	} {
		t.Run(text, func(t *testing.T) {
			_, problems := one(text, "Europe/London")
			got := ""
			if len(problems) > 0 {
				got = problems[0].Field + " " + problems[0].Message
			}
			if !strings.HasPrefix(got, want) || want == "" && got != "" {
				t.Errorf("%s: %q, want %q", text, got, want)
			}
		})
	}
	if _, problems := one(`{"spans":[{"from":"2027-03-20T10:00"}]}`, ""); len(problems) == 0 ||
		!strings.Contains(problems[0].Message, "no time zone") {
		t.Errorf("without a zone: %v", problems)
	}
}

// TestCheck: ids are given once, shares of the same fit into one, and there are so many rules at most.
func TestCheck(t *testing.T) {
	list := func(texts ...string) string {
		var problems problem.List
		Check(read(t, texts...), &problems, func(i int, key string) string { return fmt.Sprintf("/%d/%s", i, key) })
		return strings.TrimSpace(fmt.Sprint(problems))
	}
	for want, texts := range map[string][]string{
		"":               {`{"share":0.7}`, `{"share":0.3}`, `{"share":0.7,"where":["Wales"]}`, `{"share":0.5,"off":true}`},
		"1.share: comes": {`{"share":0.7}`, `{"share":0.31}`},
		"1.id: is":       {`{"id":"a"}`, `{"id":"a"}`},
	} {
		t.Run(want, func(t *testing.T) {
			if got := list(texts...); !strings.Contains(got, want) || want == "" && got != "" && got != "[]" {
				t.Errorf("%v: %s", texts, got)
			}
		})
	}
	var problems problem.List
	Check(make([]*Rule, MaxRules+1), &problems, func(int, string) string { return "/routes" })
	if len(problems) != 1 || problems[0].Message != "are 201; a code has room for 200" {
		t.Errorf("%v", problems)
	}
}

// TestSentence: rules are read aloud.
func TestSentence(t *testing.T) {
	for text, want := range map[string]string{
		`{}`: "Everybody",
		`{"spans":[{"from":"2027-03-20T10:00","until":"2027-03-22T18:00"}],"languages":["cy"]}`: "Between Sat 20 March 2027, 10:00 and Mon 22 March 2027, 18:00 in London, whose phone speaks Welsh",
		`{"where":["Wales","Ireland","Perth (GB)"]}`:                                            "In Wales, Ireland or Perth, United Kingdom",
		`{"places":["gate","till"],"systems":["ios"]}`:                                          "Scanned at gate or till, on an iPhone or iPad",
		`{"yearly":true,"spans":[{"from":"2027-03-20T10:00","until":"2027-04-01T00:00"}]}`:      "Every year between 20 March, 10:00 and 1 April, 00:00 in London",
		`{"weekdays":["mo","tu","we","th","fr"],"hours":["09:00-18:00"]}`:                       "On Mondays to Fridays, from 09:00 to 18:00 in London",

		`{"weekdays":["sa","su"]}`: "On Saturdays and Sundays in London",

		`{"near":"Ludlow, GB","within_km":2.5}`:    "Within 2.5 km of Ludlow, United Kingdom",
		`{"near":"10.5,20.25","within_km":5}`:      "Within 5 km of 10.5,20.25",
		`{"share":0.5,"stock":500}`:                "50 % of scans, while 500 last",
		`{"spans":[{"from":"2027-03-20T10:00"}]}`:  "From Sat 20 March 2027, 10:00 in London",
		`{"spans":[{"until":"2027-03-20T10:00"}]}`: "Until Sat 20 March 2027, 10:00 in London",
	} {
		t.Run(text, func(t *testing.T) {
			if got := read(t, text)[0].Sentence("Europe/London"); got != want {
				t.Errorf("%s: %q, want %q", text, got, want)
			}
		})
	}
}

// random is a rule of a few answers, so that rules cross one another.
func random(r *rand.Rand) *Rule {
	pick := func(list ...string) []string {
		var out []string
		for _, x := range list {
			if r.IntN(4) == 0 {
				out = append(out, x)
			}
		}
		return out
	}
	x := &Rule{Off: r.IntN(12) == 0, Where: pick("GB", "Wales (GB)", "IE"), Places: pick("gate", "till"),
		Languages: pick("cy", "pl", "pt", "pt-BR"), Systems: pick("ios", "android", "other"), Weekdays: pick("mo", "sa"),
		Hours: pick("09:00-18:00", "22:00-02:00")}
	switch r.IntN(6) {
	case 0:
		x.Spans = []Span{{From: "2027-03-20T10:00", Until: "2027-03-22T18:00"}}
	case 1:
		x.Spans = []Span{{From: "2027-03-21T00:00"}}
	case 2:
		x.Yearly, x.Spans = true, []Span{{From: "2027-03-01T00:00", Until: "2027-06-01T00:00"}}
	}
	if r.IntN(5) == 0 {
		x.Share = 0.25 * float64(1+r.IntN(4))
	}
	if r.IntN(12) == 0 {
		x.Stock = 3
	}
	return x
}

// grid are inputs of every kind that the rules of random tell apart.
func grid(each func(in *Input)) {
	var times []time.Time
	for _, begin := range []string{"2027-02-01T00:00Z", "2027-03-02T00:00Z", "2027-03-21T00:00Z", "2027-03-22T18:00Z",
		"2027-07-01T00:00Z"} {
		for hour := 0; hour < 24*8; hour += 1 {
			times = append(times, at(begin).Add(time.Duration(hour)*time.Hour+30*time.Minute))
		}
	}
	times = append(times, at("2027-03-20T15:00Z"), at("2027-03-20T23:30Z"), at("2027-03-20T20:00Z"))
	for _, when := range times {
		for _, where := range [][2]string{{"", ""}, {"GB", ""}, {"GB", "Wales"}, {"IE", ""}} {
			for _, place := range []string{"", "gate", "till"} {
				for _, tongue := range []string{"xx", "cy", "pl", "pt-PT", "pt-BR"} {
					for _, system := range []string{"iOS", "Android", ""} {
						for _, draw := range []float64{0.1, 0.3, 0.6, 0.9} {
							each(
								&Input{
									At:        when,
									Country:   where[0],
									Part:      where[1],
									Place:     place,
									Languages: []string{tongue},
									System:    system,
									Draw:      draw,
								},
							)
						}
					}
				}
			}
		}
	}
}

// TestReached: what can be reached is what some input of a grid reaches, and nothing else.
func TestReached(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 11))
	now := at("2027-01-30T00:00Z")
	for range 7 {
		var rules []*Rule
		for range 1 + r.IntN(7) {
			rules = append(rules, random(r))
		}
		s := Compile(rules, "UTC", "")
		want, wantRest := make([]bool, len(rules)), false
		grid(func(in *Input) {
			for _, left := range []bool{true, false} {
				if i := s.Choose(in, func(int) bool { return left }); i == Everybody {
					wantRest = true
				} else {
					want[i] = true
				}
			}
		})
		got, rest, sure := s.Reached(now)
		if !sure || !slices.Equal(got, want) || rest != wantRest {
			for i, x := range rules {
				t.Logf("%d %+v", i, *x)
			}
			t.Fatalf("reached are %v and the rest %v, want %v and %v (sure %v)", got, rest, want, wantRest, sure)
		}
	}
}

// TestTotal: every input has one answer, the same each time, and by its steps the first that fits; what may be is what is.
func TestTotal(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for range 300 {
		var rules []*Rule
		for range 1 + r.IntN(9) {
			rules = append(rules, random(r))
		}
		s := Compile(rules, "UTC", []string{"", "en", "cy"}[r.IntN(3)])
		for range 40 {
			in := Input{At: at("2027-03-01T00:00Z").Add(time.Duration(r.IntN(40*24*60)) * time.Minute),
				Country: []string{"", "GB", "IE", "DE"}[r.IntN(4)], Part: []string{"", "Wales", "England"}[r.IntN(3)],
				Place: []string{"", "gate", "till"}[r.IntN(3)], System: []string{"iOS", "Android", "Windows"}[r.IntN(3)],
				Draw: r.Float64()}
			for _, tongue := range []string{"cy", "en-GB", "pl", "pt-BR"} {
				if r.IntN(2) == 0 {
					in.Languages = append(in.Languages, tongue)
				}
			}
			r.Shuffle(len(in.Languages), func(i, j int) { in.Languages[i], in.Languages[j] = in.Languages[j], in.Languages[i] })
			got := s.Choose(&in, nil)
			if again := s.Choose(&in, nil); again != got {
				t.Fatalf("%v: %d, then %d", in, got, again)
			}
			for _, kept := range []Kept{{true, true}, {false, true}, {true, false}, {false, false}} {
				if may := s.May(&in, kept); !slices.Contains(may, got) {
					t.Fatalf("%+v: %d fires, and only %v may (%+v)", in, got, may, kept)
				}
			}
			steps := s.Explain(rules, "UTC", &in)
			for k, step := range steps {
				if step.Fires != (step.Rule == got) || step.Words == "" || step.Fires && k != len(steps)-1 {
					t.Fatalf("%+v: %d fires, and is explained by %+v", in, got, steps)
				}
			}
			sum := 0.0
			for _, o := range s.Outcomes(in) {
				sum += o.Share
			}
			if sum < 1-1e-9 || sum > 1+1e-9 {
				t.Fatalf("outcomes come to %g", sum)
			}
			// What goes before decides: a rule that nothing fits does not change who is answered by what.
			shifted := Compile(append([]*Rule{{Where: []string{"AQ"}}}, rules...), "UTC", "")
			plain := Compile(rules, "UTC", "")
			if a, b := plain.Choose(&in, nil), shifted.Choose(&in, nil); a != b-1 && !(a == Everybody && b == Everybody) {
				t.Fatalf("behind one that fits nobody, %d becomes %d", a, b)
			}
		}
	}
}

// TestShares: of many draws each rule gets its share.
func TestShares(t *testing.T) {
	s := Compile(read(t, `{"share":0.3}`, `{"share":0.5,"systems":["ios"]}`, `{"share":0.5,"systems":["android"]}`), "UTC", "")
	n := map[int]int{}
	const all = 10000
	for i := range all {
		n[s.Choose(&Input{System: "iOS", Draw: (float64(i) + 0.5) / all}, nil)]++
	}
	if n[0] != 3000 || n[1] != 5000 || n[Everybody] != 2000 {
		t.Errorf("%v of %d", n, all)
	}
	out := s.Outcomes(Input{System: "iOS"})
	if len(out) != 3 || out[0] != (Outcome{0, 0.3}) || fmt.Sprintf("%.3f", out[1].Share) != "0.500" {
		t.Errorf("%v", out)
	}
}
