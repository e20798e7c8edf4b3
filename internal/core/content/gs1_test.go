package content

import (
	"strings"
	"testing"
)

func TestGS1(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{`{"kind":"gs1link","gtin":"9521234500018"}`, "https://id.gs1.org/01/09521234500018"},
		{
			`{"kind":"gs1link","domain":"id.marrowby.example","gtin":"9521234500018","cpv":"2a","lot":"A1209","serial":"7","attributes":{"17":"270331","3103":"000500"}}`, "https://id.marrowby.example/01/09521234500018/22/2a/10/A1209/21/7?17=270331&3103=000500"},
		{`{"kind":"gs1link","gtin":"95212340"}`, "https://id.gs1.org/01/00000095212340"},
		{`{"kind":"gs1link","elements":{"414":"9521234500018","254":"A/7"}}`, "https://id.gs1.org/414/9521234500018/254/A%2F7"},
		{`{"kind":"gs1link","elements":{"01":"09521234500018","235":"TPX"}}`, "https://id.gs1.org/01/09521234500018/235/TPX"},
		{`{"kind":"gs1data","elements":"(01)9521234500018(10)A1209(17)270331"}`, "010952123450001817270331" + "10A1209"},
		{`{"kind":"gs1data","elements":"(10)A(21)B(01)09521234500018"}`, "0109521234500018" + "10A\x1d21B"},
		{`{"kind":"gs1data","elements":"0109521234500018␝10A1209"}`, "0109521234500018" + "10A1209"},
	} {
		t.Run(c.text, func(t *testing.T) {
			got, problems := readAt(t, c.text)
			if len(problems) > 0 || got.Payload() != c.want {
				t.Errorf("%s: %q %v, want %q", c.text, got.Payload(), problems, c.want)
				return
			}
			jsonSame(t, got)
			if got.Kind() == "gs1link" {
				roundTrip(t, got)
				if back := Of(c.want); back.Kind() != "gs1link" {
					t.Errorf("%s is opened as %s", c.want, back.Kind())
				}
			}
			if lines := got.(HumanReadable).Interpretation(); len(lines) == 0 || !strings.HasPrefix(lines[0], "(") {
				t.Errorf("%s: beneath it stands %q", c.text, lines)
			}
		})
	}
	for text, want := range map[string]string{
		`{"kind":"gs1link"}`: "gtin", `{"kind":"gs1link","gtin":"9521234500019"}`: "gtin",
		`{"kind":"gs1link","gtin":"952123450001"}`: "gtin", `{"kind":"gs1link","gtin":"x"}`: "gtin",
		`{"kind":"gs1link","serial":"7"}`: "gtin",
		`{"kind":"gs1link","gtin":"9521234500018","lot":"` + strings.Repeat("L", 21) + `"}`: "lot",
		`{"kind":"gs1link","gtin":"9521234500018","attributes":{"17":"271331"}}`:            "attributes/17",
		`{"kind":"gs1link","gtin":"9521234500018","attributes":{"05":"1"}}`:                 "attributes/05",
		`{"kind":"gs1link","gtin":"9521234500018","attributes":{"414":"9521234500018"}}`:    "attributes/414",
		`{"kind":"gs1link","gtin":"9521234500018","elements":{"414":"9521234500018"}}`:      "gtin",
		`{"kind":"gs1link","elements":{"10":"A"}}`:                                          "elements/10",
		`{"kind":"gs1link","elements":{"253":"9521234500018","414":"9521234500018"}}`:       "elements",
		`{"kind":"gs1link","gtin":"9521234500018","domain":"not a domain"}`:                 "domain",
		`{"kind":"gs1data"}`:                    "elements",
		`{"kind":"gs1data","elements":"(21)7"}`: "elements", `{"kind":"gs1data","elements":"hello"}`: "elements",
		`{"kind":"gs1data","elements":"(01)09521234500019"}`: "elements",
	} {
		t.Run(text, func(t *testing.T) {
			if _, problems := readAt(t, text); len(problems) == 0 || problems[0] != want {
				t.Errorf("%s: problems at %v, want %s", text, problems, want)
			}
		})
	}
	// An ordinary address stays one, also one that a Digital Link would write otherwise.
	for _, uri := range []string{"https://marrowby.example/01/", "https://id.marrowby.example/01/9521234500018",
		"https://id.marrowby.example/01/09521234500018?utm_source=a",
		"https://id.marrowby.example/01/09521234500018?3103=000500&17=270331", "http://id.marrowby.example/01/09521234500018"} {
		t.Run(uri, func(t *testing.T) {
			if c := Of(uri); c.Kind() != "url" || c.Payload() != uri {
				t.Errorf("%s is opened as %s %s", uri, c.Kind(), c.Payload())
			}
		})
	}
	for text, says := range map[string]string{"952123450001": "check digit does not fit; with these digits it is",
		"95212345000": "with its check digit it would be", "12": "a GTIN has 8, 12, 13 or 14"} {
		t.Run(text, func(t *testing.T) {
			if _, message := GTIN(text); !strings.Contains(message, says) {
				t.Errorf("%s: %q, want %q", text, message, says)
			}
		})
	}
}
