package gs1

import (
	"cmp"
	"slices"
	"strings"
	"testing"
)

// checkByTable is the check digit another way: digits at odd places from the right go through a table of three times modulo 10.
func checkByTable(digits string) byte {
	triple := "0369258147"
	sum := 0
	for i, odd := len(digits)-1, true; i >= 0; i, odd = i-1, !odd {
		d := digits[i]
		if odd {
			d = triple[d-'0']
		}
		sum += int(d - '0')
	}
	return "0987654321"[sum%10]
}

func TestCheckDigit(t *testing.T) {
	// the worked example of the General Specifications, and an SSCC
	for digits, want := range map[string]byte{"629104150021": '3', "37610425002123456": '9'} {
		t.Run(digits, func(t *testing.T) {
			if got := CheckDigit(digits); got != want || checkByTable(digits) != want {
				t.Errorf("%s: %c and %c, want %c", digits, got, checkByTable(digits), want)
			}
		})
	}
	for n := range 3000 {
		digits := strings.Repeat("9", n%7) + strings.Repeat("12", n%5) + string(rune('0'+n%10)) + string(rune('0'+n/10%10)) +
			string(rune('0'+n/100%10))
		if CheckDigit(digits) != checkByTable(digits) {
			t.Fatalf("%s: %c and %c", digits, CheckDigit(digits), checkByTable(digits))
		}
	}
}

func TestTable(t *testing.T) {
	if len(identifiers) < 300 {
		t.Errorf("only %d identifiers", len(identifiers))
	}
	for ai, id := range identifiers {
		for other := range identifiers {
			if other != ai && strings.HasPrefix(other, ai) {
				t.Errorf("%s begins with %s, so that element strings cannot be taken apart", other, ai)
			}
		}
		if id.Fixed && (len(id.parts) != 1 || id.parts[0].least != id.parts[0].most) {
			t.Errorf("%s is of known length and has %v", ai, id.parts)
		}
		for _, list := range append(append([][]string{id.never}, id.with...), id.Path...) {
			for _, x := range list {
				if identifiers[x] == nil {
					t.Errorf("%s names %s, which is not there", ai, x)
				}
			}
		}
	}
	// The identifiers of known length begin with these figures and no others (General Specifications, figure 7.8.5-2).
	for ai, id := range identifiers {
		if want := strings.Contains(" 00 01 02 03 04 11 12 13 14 15 16 17 18 19 20 31 32 33 34 35 36 41 ",
			" "+ai[:2]+" "); id.Fixed != want {
			t.Errorf("%s: known length %v, want %v", ai, id.Fixed, want)
		}
	}
}

func TestCheck(t *testing.T) {
	for _, c := range []struct{ text, says string }{
		{"(01)09521234500018(10)A1209(17)270331", ""}, {"(01)09521234500018(17)270300", ""}, {"(01)09521234500018(21)7(10)B", ""},
		{"(414)9521234500018(254)A7", ""}, {"(00)095212345000000006", "check digit"}, {"(253)9521234500018ABC", ""},
		{"(8003)09521234500018X1", ""}, {"(8010)95212AB#1(8011)7", ""},
		{"(01)09521234500018(3103)000500", ""}, {"(02)09521234500018(37)12", ""}, {"(01)09521234500018(7007)270101270131", ""},
		{"(8006)095212345000180102", ""}, {"(417)9521234500018(7040)1ABC", ""}, {"(01)09521234500018(422)826", ""},
		{"(01)09521234500019", "with these digits it is 8: 09521234500018"},
		{"(01)9521234500018", "is \"9521234500018\", with 13 characters; it has 14 digits"},
		{"(17)270331", "stands alone; USE-BY goes only with (01) GTIN or"}, {"(01)09521234500018(17)271331", "13 as its month"},
		{"(01)09521234500018(17)270230", "a day that the month has not"},
		{"(01)09521234500018(7006)270300", "00 as its day, which this date may not have"},
		{"(01)09521234500018(10)" + strings.Repeat("L", 21), "21 characters; it has 1 to 20 characters"},
		{"(21)7", "stands alone; SERIAL goes only with"},
		{"(01)09521234500018(10)Ä", "holds \"Ä\""}, {"(01)09521234500018(10)a^b", "holds \"^\""},
		{"(05)1", "no application identifier that is known"},
		{"(01)09521234500018(02)09521234500018(37)1", "never stand together"}, {"(01)09521234500018(01)09521234500025", "twice"},
		{"(01)09521234500018(10)", "is empty"},
		{"(01)09521234500018(235)A(21)7", "never stand together"}, {"(8010)lower", "holds \"l\""},
		{"(01)09521234500018(422)000", "000 as its country"}, {"(01)09521234500018(7003)2703312561", "25:61"},
		// Times, by section 3 of the General Specifications: hours to 23, minutes and seconds to 59.
		{"(01)09521234500018(7003)2703312359", ""}, {"(01)09521234500018(7003)2703310000", ""},
		{"(01)09521234500018(7003)2703312400", "24:00"}, {"(01)09521234500018(7003)2703312360", "23:60"},
		{"(00)095212345000000001(4324)2703319999", ""}, {"(00)095212345000000001(4324)2703311299", "12:99"},
		{"(00)095212345000000001(4324)2713311200", "13 as its month"},
		{"(01)09521234500018(8008)27033123", ""}, {"(01)09521234500018(8008)2703312359", ""},
		{"(01)09521234500018(8008)270331235959", ""}, {"(01)09521234500018(8008)27033124", "24:00"},
		{"(01)09521234500018(8008)2703312360", "60 behind its hour"},
		{"(01)09521234500018(8008)270331235960", "5960 behind its hour"},
		{"(01)09521234500018(8008)270331235", "5 behind its hour"}, {"(01)09521234500018(8008)27133123", "13 as its month"},
		{"(01)09521234500018(7011)270331", ""}, {"(01)09521234500018(7011)2703312359", ""},
		{"(01)09521234500018(7011)2703312400", "24:00"},
		{"(01)09521234500018(17)271231", ""}, {"(01)09521234500018(17)270131", ""},
		{"(01)09521234500018(17)270031", "00 as its month"}, {"(01)09521234500018(17)280229", ""},
		{"(01)09521234500018(17)270229", "a day that the month has not"},
		{"(01)09521234500018(10)" + strings.Repeat("L", 20), ""},
		{"(8003)09521234500018" + strings.Repeat("X", 17), "characters; it has"},
	} {
		t.Run(c.text, func(t *testing.T) {
			elements, err := Brackets(c.text)
			if err != nil {
				t.Errorf("%s: %v", c.text, err)
				return
			}
			faults := Check(elements)
			all := ""
			for _, f := range faults {
				all += f.String() + "\n"
			}
			if (c.says == "") != (len(faults) == 0) || !strings.Contains(all, c.says) {
				t.Errorf("%s: %q, want %q", c.text, all, c.says)
			}
		})
	}
	for text, says := range map[string]string{"(12345)2": "2 to 4 digits", "": "is empty", "01)0952": "in brackets",
		"(1)2": "2 to 4 digits", "(ab)2": "2 to 4 digits", "(01": "in brackets"} {
		t.Run(text, func(t *testing.T) {
			if _, err := Brackets(text); err == nil || !strings.Contains(err.Error(), says) {
				t.Errorf("%q: %v, want %q", text, err, says)
			}
		})
	}
}

func TestElements(t *testing.T) {
	for text, raw := range map[string]string{
		"(01)09521234500018(10)A1209(17)270331": "010952123450001817270331" + "10A1209",
		"(10)A(21)B(01)09521234500018":          "0109521234500018" + "10A\x1d" + "21B",
		`(01)09521234500018(10)a\(b\)c`:         "0109521234500018" + "10a(b)c",
		"(253)9521234500018XYZ(8012)1":          "2539521234500018XYZ\x1d80121",
		"(01)09521234500018":                    "0109521234500018",
		"(01)09521234500018(3103)000500":        "01095212345000183103000500",
		"(01)09521234500018(8200)https://m":     "01095212345000188200https://m",
		`(01)09521234500018(10)a\\b`:            "0109521234500018" + `10a\b`,
	} {
		t.Run(text, func(t *testing.T) {
			elements, err := Brackets(text)
			if err != nil || Bracketed(elements) != text {
				t.Errorf("%s comes back as %s, %v", text, Bracketed(elements), err)
			}
			if got := Raw(Ordered(elements)); got != raw {
				t.Errorf("%s: %q, want %q", text, got, raw)
			}
			for _, s := range []string{raw, "]Q3" + raw, "\x1d" + raw} {
				back, err := ParseRaw(s)
				if err != nil || Raw(back) != raw {
					t.Errorf("%q comes back as %v, %v", s, back, err)
				}
			}
		})
	}
	for _, s := range []string{"", "]Q3", "05123", "0195212345", "9"} {
		t.Run(s, func(t *testing.T) {
			if got, err := ParseRaw(s); err == nil {
				t.Errorf("%q is taken for %v", s, got)
			}
		})
	}
}

// TestTogether: two identifiers that never stand together are named once, by whichever comes first in number; one that is
// there twice with the same value is no fault.
func TestTogether(t *testing.T) {
	for text, want := range map[string]string{
		"(01)09521234500018(02)09521234500018(37)1": "(01) and (02) never stand together; leave one of the two out|(01) and " +
			"(37) never stand together; leave one of the two out",
		"(01)09521234500018(01)09521234500018": "",
		"(01)09521234500018(235)A(21)7":        "(21) and (235) never stand together; leave one of the two out",
		"(05)1(05)2": "(05) is no application identifier that is known|(05) is no application " +
			"identifier that is known",
	} {
		t.Run(text, func(t *testing.T) {
			elements, err := Brackets(text)
			if err != nil {
				t.Fatal(err)
			}
			var got []string
			for _, f := range Check(elements) {
				got = append(got, f.String())
			}
			slices.Sort(got)
			if strings.Join(got, "|") != want {
				t.Errorf("%s: %q, want %q", text, strings.Join(got, "|"), want)
			}
		})
	}
	if got := (Fault{Message: "is empty"}).String(); got != "is empty" {
		t.Error(got)
	}
}

// TestTaken: what a symbol holds is taken apart to the letter.
func TestTaken(t *testing.T) {
	for raw, want := range map[string]string{
		"10\x1d21A": "(10)(21)A", "]Q301": "", "0109521234500018\x1d10A": "(01)09521234500018(10)A", "010952123450001": "",
		"9": "", "]C10109521234500018": "(01)09521234500018",
	} {
		t.Run(raw, func(t *testing.T) {
			elements, err := ParseRaw(raw)
			if got := Bracketed(elements); (err != nil) != (want == "") || err == nil && got != want {
				t.Errorf("%q: %s, %v, want %s", raw, got, err, want)
			}
		})
	}
	for text, want := range map[string]string{`(10)A\`: `(10)A\\`, `(10)A\B`: `(10)A\\B`, `(10)A\\(21)B`: `(10)A\\(21)B`} {
		t.Run(text, func(t *testing.T) {
			elements, err := Brackets(text)
			if err != nil || Bracketed(elements) != want {
				t.Errorf("%s: %s, %v, want %s", text, Bracketed(elements), err, want)
			}
		})
	}
}

// TestLinkParts: where a key may begin in a path, what fills up a GTIN, and which parameters are somebody else's.
func TestLinkParts(t *testing.T) {
	for _, c := range []struct{ uri, domain, elements, others string }{
		{"https://m.example/01/09521234500018", "m.example", "(01)09521234500018", ""},
		{"https://m.example/a/01/952123450001/21/7", "m.example/a", "(01)00952123450001(21)7", ""},
		// nine digits are no GTIN; that is said when it is checked
		{"https://m.example/01/123456789", "m.example", "(01)123456789", ""},
		{"https://m.example/414/9521234500018/254/12345678", "m.example", "(414)9521234500018(254)12345678", ""},
		{"https://m.example/01/09521234500018/10/95212340", "m.example", "(01)09521234500018(10)95212340", ""},
		{"https://m.example/01/09521234500018?17=270331;15=270101&linkType=all&99#part", "m.example",
			"(01)09521234500018(17)270331(15)270101(99)", "linkType=all,#part"},
		{"https://m.example/01/09521234500018?10=%zz", "m.example", "(01)09521234500018", "10=%zz"},
		{"https://m.example/01/09521234500018/10/A+B?21=a+b", "m.example", "(01)09521234500018(10)A+B(21)a+b", ""},
		{"https://m.example/01/09521234500018/10", "", "", ""},
		{"https://m.example/01/09521234500018/10/", "", "", ""},
		{"https://m.example/10/A/01/09521234500018", "m.example/10/A", "(01)09521234500018", ""},
	} {
		t.Run(c.uri, func(t *testing.T) {
			domain, elements, others, ok := ParseLink(c.uri)
			if got := Bracketed(elements); ok != (c.domain != "") || ok &&
				(domain != c.domain || got != c.elements || strings.Join(others, ",") != c.others) {
				t.Errorf("%s: %s %s %q %v", c.uri, domain, got, others, ok)
			}
		})
	}
}

func TestLinks(t *testing.T) {
	for _, c := range []struct{ text, domain, uri string }{
		{"(01)09521234500018", Canonical, "https://id.gs1.org/01/09521234500018"},
		{"(01)09521234500018(21)7(10)A1/B(22)2a(17)270331(3103)000500", "id.marrowby.example",
			"https://id.marrowby.example/01/09521234500018/22/2a/10/A1%2FB/21/7?17=270331&3103=000500"},
		{"(01)09521234500018(235)TPX7", "id.marrowby.example/seed",
			"https://id.marrowby.example/seed/01/09521234500018/235/TPX7"},
		{"(414)9521234500018(254)A7", Canonical, "https://id.gs1.org/414/9521234500018/254/A7"},
		{"(417)9521234500018(7040)1ABC", Canonical, "https://id.gs1.org/417/9521234500018/7040/1ABC"},
		{"(8010)95212AB#1(8011)7", Canonical, "https://id.gs1.org/8010/95212AB%231/8011/7"},
		{"(8018)952123450000000002(8019)3", Canonical, "https://id.gs1.org/8018/952123450000000002/8019/3"},
		{"(00)095212345000000001", Canonical, "https://id.gs1.org/00/095212345000000001"},
	} {
		t.Run(c.text, func(t *testing.T) {
			elements, _ := Brackets(c.text)
			uri, err := Link(c.domain, elements)
			if err != nil || uri != c.uri {
				t.Errorf("%s: %s %v, want %s", c.text, uri, err, c.uri)
				return
			}
			domain, back, others, ok := ParseLink(uri)
			if again, err := Link(domain, back); !ok || err != nil || again != uri || domain != c.domain || len(others) > 0 ||
				len(back) != len(elements) {
				t.Errorf("%s comes back as %s %v %v", uri, domain, back, others)
			}
		})
	}
	for _, text := range []string{"(10)A", "(01)09521234500018(414)9521234500018"} {
		t.Run(text, func(t *testing.T) {
			elements, _ := Brackets(text)
			if uri, err := Link(Canonical, elements); err == nil {
				t.Errorf("%s makes %s", text, uri)
			}
		})
	}
	for uri, want := range map[string]string{"https://m.example/01/9521234500018": "(01)09521234500018",
		"https://m.example/a/b/01/09521234500018/10/X?17=270331&utm_source=a": "(01)09521234500018(10)X(17)270331",
		"http://m.example/01/95212340":                                        "(01)00000095212340"} {
		t.Run(uri, func(t *testing.T) {
			if _, elements, _, ok := ParseLink(uri); !ok || Bracketed(elements) != want {
				t.Errorf("%s: %v, want %s", uri, elements, want)
			}
		})
	}
	for _, uri := range []string{"https://m.example/", "https://m.example/fair", "https://m.example/01", "https://m.example/10/A",
		"https://m.example/01/09521234500018/99/x", "ftp://m.example/01/09521234500018",
		"https://a@m.example/01/09521234500018", "://"} {
		t.Run(uri, func(t *testing.T) {
			if _, elements, _, ok := ParseLink(uri); ok {
				t.Errorf("%s is taken for %v", uri, elements)
			}
		})
	}
}

func FuzzElements(f *testing.F) {
	for _, s := range []string{"(01)09521234500018(10)A1209(17)270331", `(10)a\(b\)c`, "010952123450001810A\x1d21B",
		"https://m.example/01/09521234500018/10/X?17=270331"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if elements, err := Brackets(s); err == nil {
			again, err := Brackets(Bracketed(elements))
			if err != nil || Bracketed(again) != Bracketed(elements) {
				t.Errorf("%q: %v, then %v %v", s, elements, again, err)
			}
			Check(elements)
		}
		if elements, err := ParseRaw(s); err == nil && len(Check(elements)) == 0 {
			if again, err := ParseRaw(Raw(elements)); err != nil || Raw(again) != Raw(elements) {
				t.Errorf("%q: %v, then %v %v", s, elements, again, err)
			}
		}
		if domain, elements, _, ok := ParseLink(s); ok && len(Check(elements)) == 0 {
			uri, err := Link(domain, elements)
			if err != nil {
				return
			}
			if _, again, others, ok := ParseLink(uri); !ok || len(others) > 0 || !same(again, elements) {
				t.Errorf("%q: %v, then %v", s, elements, again)
			}
		}
	})
}

// same says that two lists hold the same elements, in whatever order.
func same(a, b []Element) bool {
	sorted := func(list []Element) []Element {
		return slices.SortedFunc(slices.Values(list), func(a, b Element) int {
			return cmp.Or(cmp.Compare(a.AI, b.AI), cmp.Compare(a.Value, b.Value))
		})
	}
	return slices.Equal(sorted(a), sorted(b))
}
