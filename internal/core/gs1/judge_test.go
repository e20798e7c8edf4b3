package gs1

import (
	"strings"
	"testing"
)

func TestJudge(t *testing.T) {
	for _, c := range []struct {
		line, what string
		sound      bool
		has        string // in the faults or forms
	}{
		{"9521234500018", "A GTIN-13, or a GLN", true, "(01)09521234500018"},
		{"952-1234-50001-8", "A GTIN-13, or a GLN", true, "https://id.gs1.org/01/09521234500018"},
		{"9521234500019", "A GTIN-13, or a GLN", false, "it is 8: 9521234500018"},
		{"952123450001", "A GTIN-12", false, "check digit does not fit"},
		{"9521234", "A GTIN-8 without its check digit", false, "it would be 95212340"},
		{"95212340", "A GTIN-8", true, "(01)00000095212340"},
		{"376104250021234569", "An SSCC", true, "https://id.gs1.org/00/376104250021234569"},
		{"(01)09521234500018(10)A1209", "Elements in brackets", true, "Element string"},
		{"(21)7", "Elements in brackets", false, "(21) SERIAL stands alone"},
		{"(01)0952", "Elements in brackets", false, "(01) GTIN is"},
		{"(05)1", "Elements in brackets", false, "(05) is no application identifier"},
		{"https://id.marrowby.example/01/9521234500018/10/A", "A GS1 Digital Link", true,
			"https://id.marrowby.example/01/09521234500018/10/A"},
		{"https://marrowby.example/fair", "A web address", false, "no Digital Link"},
		{"https://m.example/01/09521234500018?utm_source=x", "A GS1 Digital Link", true, "utm_source=x, which is no identifier"},
		{"]Q3010952123450001810A1209", "An element string", true, "(01)09521234500018(10)A1209"},
		{"010952123450001810A1209", "An element string", true, "(10)A1209"}, {"12345", "A number", false, "has 5 digits"},
		{"hello", "Nothing known", false, "neither"}, {"", "Nothing known", false, "neither"},
	} {
		t.Run(c.line, func(t *testing.T) {
			j := Judge(c.line)
			all := strings.Join(j.Faults, "\n")
			for _, f := range j.Forms {
				all += "\n" + f.Name + " " + f.Text
			}
			if j.What != c.what || j.Sound != c.sound || !strings.Contains(all, c.has) {
				t.Errorf("%q: %s, sound %v, %q; want %s, %v, %q", c.line, j.What, j.Sound, all, c.what, c.sound, c.has)
			}
		})
	}
}

// TestJudgedForms: what is judged is given in the forms that it is not in already.
func TestJudgedForms(t *testing.T) {
	for line, want := range map[string]string{
		"(01)09521234500018":                               "Digital Link|Element string",
		"]Q30109521234500018":                              "In brackets|Digital Link",
		"0109521234500018":                                 "In brackets|Digital Link",
		"https://m.example/01/09521234500018":              "In brackets|Element string",
		"https://m.example/01/9521234500018":               "As the standard writes it|In brackets|Element string",
		"https://m.example/01/9521234500018?utm_source=x":  "In brackets|Element string",
		"https://m.example/01/09521234500018?utm_source=x": "In brackets|Element string",
		"9521234500018":                                    "In brackets|Digital Link",
		"010952123450001810A":                              "In brackets|Digital Link",
		"(10)A":                                            "",
	} {
		t.Run(line, func(t *testing.T) {
			var got []string
			for _, f := range Judge(line).Forms {
				got = append(got, f.Name)
			}
			if strings.Join(got, "|") != want {
				t.Errorf("%s: %s, want %s", line, strings.Join(got, "|"), want)
			}
		})
	}
}
