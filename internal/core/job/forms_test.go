package job

import (
	"encoding/json"
	"strings"
	"testing"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/patch"
)

// typed types text into fields, one after another, and gives the content of the draft.
func typed(t *testing.T, draft string, pairs ...string) string {
	t.Helper()
	doc, err := fields.Decode([]byte(`{"content":` + draft + `}`))
	if err != nil {
		t.Fatal(err)
	}
	for i := 0; i < len(pairs); i += 2 {
		ops, bad := Edit(doc, "/content/"+pairs[i], pairs[i+1])
		if bad != nil {
			t.Errorf("%s: %v", pairs[i], bad)
			continue
		}
		var inverse patch.Patch
		before, _ := json.Marshal(doc)
		next, inverse, err := ops.Apply(doc)
		if err != nil {
			t.Errorf("%s: %v", pairs[i], err)
			continue
		}
		back, _, err := inverse.Apply(next)
		if again, _ := json.Marshal(back); err != nil || string(again) != string(before) {
			t.Errorf("%s undone gives %s, was %s, %v", pairs[i], again, before, err)
		}
		doc = next
	}
	typed, _ := patch.Get(doc, "/content")
	b, err := json.Marshal(typed)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// TestTyping: what typing into a form makes of a draft, with what changes along.
func TestTyping(t *testing.T) {
	for _, c := range []struct {
		draft string
		pairs []string
		want  string
	}{
		{`{"kind":"contact"}`, []string{"given", "Tamsin", "phones/0/number", "+441134960124", "phones/0/type", "mobile",
			"phones/1/number", "+441134960125", "address/city", "Marrowby", "urls/0", "m.example", "urls/0", "marrowby.example"},
			`{"address":{"city":"Marrowby"},"given":"Tamsin","kind":"contact","phones":[{"number":"+441134960124","type":"mobile"},{"number":"+441134960125"}],"urls":["marrowby.example"]}`},
		{`{"kind":"contact","phones":[{"number":"1","type":"fax"}]}`, []string{"phones/0/number", ""},
			`{"kind":"contact","phones":[{"type":"fax"}]}`},
		{`{"kind":"wifi","ssid":"a","security":"wpa","password":"12345678"}`, []string{"security", "open"},
			`{"kind":"wifi","security":"open","ssid":"a"}`},
		{`{"kind":"wifi","ssid":"a","security":"wpa","password":"12345678"}`, []string{"security", "eap", "security", "wpa3"},
			`{"kind":"wifi","password":"12345678","security":"wpa3","ssid":"a"}`},
		{`{"kind":"wifi","ssid":"a","security":"open"}`, []string{"hidden", "yes"},
			`{"hidden":true,"kind":"wifi","security":"open","ssid":"a"}`},
		{`{"kind":"wifi","ssid":"a","security":"open","hidden":true}`, []string{"hidden", ""},
			`{"kind":"wifi","security":"open","ssid":"a"}`},
		{`{"kind":"event","title":"a"}`, []string{"start", "20 March 2027, 10:00", "end", "Saturday 20th March 2027 at 4pm"},
			`{"end":"2027-03-20T16:00","kind":"event","start":"2027-03-20T10:00","title":"a"}`},
		{`{"kind":"event","title":"a","start":"2027-03-20T10:00","end":"2027-03-21T16:00","timezone":"Europe/London"}`,
			[]string{"all_day", "yes"}, `{"all_day":true,"end":"2027-03-21","kind":"event","start":"2027-03-20","title":"a"}`},
		{`{"kind":"event","title":"a","start":"2027-03-20","all_day":true}`, []string{"all_day", ""},
			`{"kind":"event","start":"2027-03-20T10:00","title":"a"}`},
		{`{"kind":"event","title":"a","start":"2027-03-20T10:00"}`,
			[]string{"repeat/every", "week", "repeat/count", "5", "repeat/until", "1 June 2027"},
			`{"kind":"event","repeat":{"every":"week","until":"2027-06-01"},"start":"2027-03-20T10:00","title":"a"}`},
		{`{"kind":"event","title":"a","repeat":{"every":"week"}}`, []string{"repeat/every", ""}, `{"kind":"event","title":"a"}`},
		{`{"kind":"place"}`, []string{"position", "52° 5′ 13.6″ N, 1° 56′ 35.5″ W"},
			`{"kind":"place","lat":52.087111,"lon":-1.943194}`},
		{`{"kind":"place","lat":1,"lon":2}`, []string{"form", "link", "form", ""}, `{"kind":"place","lat":1,"lon":2}`},
		{`{"kind":"sms","number":"1"}`, []string{"body", "a\r\nb"}, `{"body":"a\nb","kind":"sms","number":"1"}`},
		{`{"kind":"gs1link","gtin":"1"}`, []string{"attributes/17", "30 September 2027", "attributes/3103", "000500"},
			`{"attributes":{"17":"270930","3103":"000500"},"gtin":"1","kind":"gs1link"}`},
		{`{"kind":"emv"}`, []string{"accounts/0/id", "26", "accounts/0/values/01", "x", "additional/bill", "7"},
			`{"accounts":[{"id":"26","values":{"01":"x"}}],"additional":{"bill":"7"},"kind":"emv"}`},
		{`{"kind":"sepa"}`, []string{"amount", "1 249,50", "iban", " DE37 "}, `{"amount":"1249.50","iban":"DE37","kind":"sepa"}`},
		{`{"kind":"url","url":"m.example"}`, []string{"tags/source", "gate", "tags/source", ""},
			`{"kind":"url","tags":{},"url":"m.example"}`},
	} {
		t.Run(c.draft, func(t *testing.T) {
			if got := typed(t, c.draft, c.pairs...); got != c.want {
				t.Errorf("%s %q: %s, want %s", c.draft, c.pairs, got, c.want)
			}
		})
	}
	if p := Unparsed(map[string]any{"content": map[string]any{"kind": "place"}}, content.Position, "Atlantis"); p == nil ||
		p.Field != content.Position {
		t.Errorf("a name is no position: %v", p)
	}
}

// TestSecretWords: neither the history nor the list of differences tells a password.
func TestSecretWords(t *testing.T) {
	if w := Words(nil, "/content/password", "sow;thin"); strings.Contains(w, "sow") || !strings.Contains(w, "password") {
		t.Errorf("the history says %q", w)
	}
	job := func(password string) *Job {
		j, problems := Parse([]byte(`{"content":{"kind":"wifi","ssid":"a","security":"wpa","password":"` + password + `"}}`))
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		return j
	}
	d := Differences(job("sow;thin1"), job("water;all2"))
	if len(d) != 1 || strings.Contains(d[0].String(), "sow") || strings.Contains(d[0].String(), "water") ||
		d[0].What != "password" {
		t.Errorf("%v", d)
	}
}

// TestInkKind: a plain ink becomes a gradient that begins with it, and back.
func TestInkKind(t *testing.T) {
	var doc any = map[string]any{"look": map[string]any{"ink": "#12352b"}}
	for _, c := range []struct{ path, text, want string }{
		{"/look/ink/kind", "linear",
			`{"angle":45,"kind":"linear","stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#1f3a5a"}]}`},
		{"/look/ink/stops/1/colour", "#5b1f33",
			`{"angle":45,"kind":"linear","stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#5b1f33"}]}`},
		{"/look/ink/kind", "radial",
			`{"angle":45,"kind":"radial","stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#5b1f33"}]}`},
		{"/look/ink/kind", "plain", `"#12352b"`},
	} {
		t.Run(c.path, func(t *testing.T) {
			ops, bad := Edit(doc, c.path, c.text)
			if bad != nil {
				t.Fatal(bad)
			}
			next, _, err := ops.Apply(doc)
			if err != nil {
				t.Fatalf("%s to %s: %v", c.path, c.text, err)
			}
			ink, _ := patch.Get(next, "/look/ink")
			if b, _ := json.Marshal(ink); string(b) != c.want {
				t.Errorf("%s to %s: %s, want %s", c.path, c.text, b, c.want)
			}
			doc = next
		})
	}
}
