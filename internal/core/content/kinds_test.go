package content

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"sodrik/internal/core/fields"
)

// readAt reads the fields of a content as JSON text.
func readAt(t testing.TB, text string) (Content, []string) {
	t.Helper()
	v, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatalf("%s: %v", text, err)
	}
	c, problems := New(v.(map[string]any))
	var at []string
	for _, p := range problems {
		at = append(at, strings.TrimPrefix(p.Field, "/content/"))
	}
	return c, at
}

// roundTrip: the payload taken apart says the same fields and makes the same payload.
func roundTrip(t testing.TB, c Content) {
	t.Helper()
	values, ok := Fields(c.Payload())
	if !ok {
		t.Errorf("%q cannot be taken apart", c.Payload())
		return
	}
	again, problems := New(values)
	if len(problems) > 0 || again.Payload() != c.Payload() {
		t.Errorf("%q comes back as %q, %v", c.Payload(), again.Payload(), problems)
	}
	if c.Kind() != again.Kind() || c.Phone().Strong != again.Phone().Strong {
		t.Errorf("%q comes back as %s %q, was %s %q", c.Payload(), again.Kind(), again.Phone().Strong, c.Kind(), c.Phone().Strong)
	}
	if c.Summary().Verb == "" || Search(c) == "" && c.Kind() != "text" && c.Kind() != "bitcoin" {
		t.Errorf("%q has no summary or nothing to be found by", c.Payload())
	}
}

// jsonSame: what JSON writes reads as the same content.
func jsonSame(t testing.TB, c Content) {
	t.Helper()
	b, err := json.Marshal(JSON(c))
	if err != nil {
		t.Fatal(err)
	}
	again, problems := readAt(t, string(b))
	if len(problems) > 0 || again.Payload() != c.Payload() || !reflect.DeepEqual(JSON(again), JSON(c)) {
		t.Errorf("%s reads as %v %v", b, again, problems)
	}
}

// TestPayloads: the payload of each kind, as the standards write it. Every one is taken apart again.
func TestPayloads(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{`{"kind":"text","text":"Thin to 20 cm.\n播種 🌱"}`, "Thin to 20 cm.\n播種 🌱"},
		// Wi-Fi: \ ; , : " escaped
		{`{"kind":"wifi","ssid":"Potting Shed","security":"wpa","password":"sow;thin;water"}`,
			`WIFI:T:WPA;S:Potting Shed;P:sow\;thin\;water;;`},
		{`{"kind":"wifi","ssid":"a;b,c:d\"e\\f","security":"wpa","password":"12345678"}`,
			`WIFI:T:WPA;S:a\;b\,c\:d\"e\\f;P:12345678;;`},
		{`{"kind":"wifi","ssid":"Barn","security":"wpa3","password":"12345678","hidden":true}`,
			`WIFI:T:WPA;R:1;S:Barn;P:12345678;H:true;;`},
		{`{"kind":"wifi","ssid":"Barn","security":"open"}`, `WIFI:T:nopass;S:Barn;;`},
		{`{"kind":"wifi","ssid":"Barn","security":"wep","password":"abcde"}`, `WIFI:T:WEP;S:Barn;P:abcde;;`},
		{
			`{"kind":"wifi","ssid":"Office","security":"eap","password":"p","eap":{"method":"PEAP","identity":"tamsin","anonymous":"nobody","phase2":"MSCHAPV2"}}`, `WIFI:T:WPA2-EAP;S:Office;E:PEAP;PH2:MSCHAPV2;A:nobody;I:tamsin;P:p;;`},
		{`{"kind":"wifi","ssid":" Barn ","security":"open"}`, `WIFI:T:nopass;S: Barn ;;`},
		{
			`{"kind":"wifi","ssid":"ABCD","security":"wpa","password":"0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef"}`, `WIFI:T:WPA;S:ABCD;P:0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef;;`},
		// contacts
		{
			`{"kind":"contact","given":"Tamsin","family":"Ashdown","phones":[{"type":"mobile","number":"+44 113 496 0124"}],"emails":[{"address":"tamsin@marrowby.example"}]}`,
			"BEGIN:VCARD\r\nVERSION:3.0\r\nN:Ashdown;Tamsin;;;\r\nFN:Tamsin " +
				"Ashdown\r\nTEL;TYPE=CELL:+441134960124\r\nEMAIL:tamsin@marrowby.example\r\nEND:VCARD"},
		{
			`{"kind":"contact","format":"vcard4","organisation":"Marrowby Seed House; Bulbs, Ltd","birthday":"--03-27","socials":[{"service":"Garden net","url":"https://garden.example/marrowby"}]}`,
			"BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Marrowby Seed House; Bulbs\\, Ltd\r\nORG:Marrowby Seed House\\; Bulbs\\, " +
				"Ltd\r\nBDAY:--0327\r\nSOCIALPROFILE;SERVICE-TYPE=\"Garden net\":https://garden.example/marrowby\r\nEND:VCARD"},
		{
			`{"kind":"contact","given":"Wren","note":"a\nb, c; d\\","address":{"street":"1 Orchard Lane","city":"Marrowby","country":"United Kingdom"},"birthday":"1984-03-27","urls":["marrowby.example"],"prefix":"Dr","suffix":"MSc"}`,
			"BEGIN:VCARD\r\nVERSION:3.0\r\nN:;Wren;;Dr;MSc\r\nFN:Dr Wren MSc\r\nURL:https://marrowby.example\r\nADR:;;1 " +
				"Orchard Lane;Marrowby;;;United Kingdom\r\nBDAY:1984-03-27\r\nNOTE:a\\nb\\, c\\; d\\\\\r\nEND:VCARD"},
		{
			`{"kind":"contact","format":"mecard","given":"Tamsin","family":"Ashdown","phones":[{"number":"+441134960124"}],"note":"seeds; bulbs"}`, `MECARD:N:Ashdown,Tamsin;TEL:+441134960124;NOTE:seeds\; bulbs;;`},
		{`{"kind":"phone","number":"0113 496 0123","region":"GB"}`, "tel:+441134960123"},
		{`{"kind":"phone","number":"+49 30 901820"}`, "tel:+4930901820"},
		{`{"kind":"sms","number":"+44 113 496 0123","body":"SOW: when?"}`, "SMSTO:+441134960123:SOW: when?"},
		{`{"kind":"sms","number":"+44 113 496 0123"}`, "SMSTO:+441134960123"},
		{`{"kind":"sms","number":"60555","body":"SOW"}`, "SMSTO:60555:SOW"},
		{`{"kind":"sms","form":"sms","number":"+44 113 496 0123","body":"How & when?"}`,
			"sms:+441134960123?body=How%20%26%20when%3F"},
		// mailto, RFC 6068: line ends CRLF, everything reserved encoded
		{`{"kind":"email","to":["orders@marrowby.example"],"subject":"50% more & better?","body":"a\nb"}`,
			"mailto:orders@marrowby.example?subject=50%25%20more%20%26%20better%3F&body=a%0D%0Ab"},
		{
			`{"kind":"email","to":["a@marrowby.example","b@gärten.example"],"cc":["c@marrowby.example"],"bcc":["d+e@marrowby.example"]}`, "mailto:a@marrowby.example,b@xn--grten-gra.example?cc=c@marrowby.example&bcc=d+e@marrowby.example"},
		// places
		{`{"kind":"place","lat":52.0871,"lon":-1.9432}`, "geo:52.0871,-1.9432"},
		{`{"kind":"place","lat":-0.0000001,"lon":180}`, "geo:0,180"},
		{`{"kind":"place","lat":52.08710049,"lon":-1.94319951,"label":"Gate"}`, "geo:52.0871,-1.9432"},
	} {
		t.Run(c.text, func(t *testing.T) {
			got, problems := readAt(t, c.text)
			if len(problems) > 0 || got.Payload() != c.want {
				t.Errorf("%s: %q %v\nwant %q", c.text, got.Payload(), problems, c.want)
				return
			}
			jsonSame(t, got)
			if got.Kind() != "text" {
				roundTrip(t, got)
			}
		})
	}
	link, problems := readAt(t,
		`{"kind":"place","lat":52.0871,"lon":-1.9432,"form":"link","pattern":"https://maps.example/?q={lat},{lon}"}`)
	if len(problems) > 0 || link.Payload() != "https://maps.example/?q=52.0871,-1.9432" {
		t.Errorf("%q %v", link.Payload(), problems)
	}
	jsonSame(t, link)
}

// TestRefused: what a phone, a router or a calendar would refuse is refused here, at its field.
func TestRefused(t *testing.T) {
	for text, want := range map[string]string{
		`{"kind":"text"}`: "text", `{"kind":"text","text":"a\u0007"}`: "text", `{"kind":"text","text":"` +
			strings.Repeat("x", 2954) + `"}`: "text",
		`{"kind":"wifi","security":"open"}`: "ssid", `{"kind":"wifi","ssid":"a"}`: "security",
		`{"kind":"wifi","ssid":"a","security":"wpa2"}`:                                              "security",
		`{"kind":"wifi","ssid":"` + strings.Repeat("ä", 17) + `","security":"open"}`:                "ssid",
		`{"kind":"wifi","ssid":"a\nb","security":"open"}`:                                           "ssid",
		`{"kind":"wifi","ssid":"a","security":"wpa"}`:                                               "password",
		`{"kind":"wifi","ssid":"a","security":"wpa","password":"1234567"}`:                          "password",
		`{"kind":"wifi","ssid":"a","security":"wpa3","password":"` + strings.Repeat("a", 64) + `"}`: "password",
		`{"kind":"wifi","ssid":"a","security":"wpa","password":"` + strings.Repeat("g", 64) + `"}`:  "password",
		`{"kind":"wifi","ssid":"a","security":"wpa","password":"pässword"}`:                         "password",
		`{"kind":"wifi","ssid":"a","security":"wep","password":"1234"}`:                             "password",
		`{"kind":"wifi","ssid":"a","security":"open","password":"12345678"}`:                        "password",
		`{"kind":"wifi","ssid":"a","security":"eap"}`:                                               "eap",
		`{"kind":"wifi","ssid":"a","security":"eap","eap":{"method":"LEAP"}}`:                       "eap/method",
		`{"kind":"wifi","ssid":"a","security":"open","eap":{"method":"PEAP"}}`:                      "eap",
		`{"kind":"contact"}`: "given", `{"kind":"contact","given":"a","format":"vcard2"}`: "format",
		`{"kind":"contact","given":"a","phones":[{"number":"12"}]}`:     "phones/0/number",
		`{"kind":"contact","given":"a","emails":[{"address":"a@b"}]}`:   "emails/0/address",
		`{"kind":"contact","given":"a","urls":["javascript:alert(1)"]}`: "urls/0",
		`{"kind":"contact","given":"a","birthday":"27.3.1984"}`:         "birthday",
		`{"kind":"contact","given":"a","birthday":"--03-27"}`:           "birthday",
		`{"kind":"contact","given":"a","birthday":"2027-02-29"}`:        "birthday",
		`{"kind":"contact","given":"a","format":"mecard","title":"b"}`:  "title", `{"kind":"contact","given":"a\nb"}`: "given",
		`{"kind":"contact","given":"a","phones":[{"number":"+441134960123","kind":"x"}]}`: "phones/0/kind",
		`{"kind":"contact","given":"a","socials":[{"url":"m.example"}]}`:                  "socials/0/service",
		`{"kind":"phone"}`: "number", `{"kind":"phone","number":"0113 496 0123"}`: "number",
		`{"kind":"phone","number":"+44 113"}`: "number", `{"kind":"phone","number":"call me"}`: "number",
		`{"kind":"phone","number":"60555"}`: "number", `{"kind":"phone","number":"+441134960123","region":"XX"}`: "region",
		`{"kind":"sms","body":"a"}`: "number", `{"kind":"sms","number":"+441134960123","form":"mms"}`: "form",
		`{"kind":"sms","number":"+441134960123","body":"` + strings.Repeat("x", 1531) + `"}`: "body",
		`{"kind":"email"}`: "to", `{"kind":"email","to":["orders"]}`: "to/0",
		`{"kind":"email","to":["a@m.example, b@m.example"]}`:        "to/0",
		`{"kind":"email","to":["a@m.example"],"subject":"a\nb"}`:    "subject",
		`{"kind":"email","to":["a@m.example"],"cc":["@m.example"]}`: "cc/0", `{"kind":"email","to":["a@m..example"]}`: "to/0",
		`{"kind":"place"}`: "lat", `{"kind":"place","lat":91,"lon":0}`: "lat", `{"kind":"place","lat":0,"lon":-181}`: "lon",
		`{"kind":"place","lat":"52","lon":0}`:                                              "lat",
		`{"kind":"place","lat":1,"lon":1,"form":"link","pattern":"https://maps.example/"}`: "pattern",
		`{"kind":"place","lat":1,"lon":1,"pattern":"https://maps.example/"}`:               "pattern",
		`{"kind":"dynamic","link":"x"}`:                                                    "link", `{"kind":"fax"}`: "kind",
		`{}`: "kind",
		`{"kind":"text","text":"a","colour":"b"}`:              "colour",
		`{"kind":"url","url":"m.example","purpose":"selling"}`: "purpose",
	} {
		t.Run(text, func(t *testing.T) {
			_, problems := readAt(t, text)
			if len(problems) == 0 || problems[0] != want {
				t.Errorf("%.120s: problems at %v, want %s first", text, problems, want)
			}
		})
	}
}

// TestTaken: forms that other programs write.
func TestTaken(t *testing.T) {
	for payload, want := range map[string]string{
		"WIFI:S:\"Barn\";T:WPA;P:\"12345678\";;":    `WIFI:T:WPA;S:Barn;P:12345678;;`,
		"wifi:S:Barn;T:SAE;P:12345678;;":            `WIFI:T:WPA;R:1;S:Barn;P:12345678;;`,
		"WIFI:S:Barn;;":                             `WIFI:T:nopass;S:Barn;;`,
		"TEL:(0044)113 496 0123":                    "tel:+441134960123",
		"tel:+44-113-496-0123;ext=7":                "tel:+441134960123",
		"sms:+441134960123;?&body=Hello%20there":    "sms:+441134960123?body=Hello%20there",
		"smsto:+441134960123:a:b":                   "SMSTO:+441134960123:a:b",
		"MATMSG:TO:a@m.example;SUB:Hi;BODY:x\\;y;;": "mailto:a@m.example?subject=Hi&body=x;y",
		"mailto:?to=a@m.example&subject=Hi":         "mailto:a@m.example?subject=Hi",
		"geo:52.0871,-1.9432;u=35":                  "geo:52.0871,-1.9432",
		"geo:0,0?q=52.0871,-1.9432(Show+garden)":    "geo:52.0871,-1.9432",
		"BEGIN:VCARD\nVERSION:2.1\nN;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:M=C3=BCller;Ann\nTEL;CELL:0049 30 901820\nEND:VCARD": "BEGIN:VCARD\r\nVERSION:3.0\r\nN:Müller;Ann;;;\r\nFN:Ann Müller\r\nTEL;TYPE=CELL:+4930901820\r\nEND:VCARD",
		"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ann\r\n  Lee\r\nitem1.URL:marrowby.example\r\nEND:VCARD":                                "BEGIN:VCARD\r\nVERSION:3.0\r\nN:Lee;Ann;;;\r\nFN:Ann Lee\r\nURL:https://marrowby.example\r\nEND:VCARD",
		"MECARD:TEL:+441134960123;N:Owner;;": "MECARD:N:Owner;TEL:+441134960123;;",
		"HTTPS://MARROWBY.EXAMPLE/FAIR":      "HTTPS://MARROWBY.EXAMPLE/FAIR",
	} {
		t.Run(payload, func(t *testing.T) {
			c := Of(payload)
			if c == nil || c.Kind() == "text" || c.Payload() != want {
				t.Errorf("%q: %v, want %q", payload, c, want)
			}
		})
	}
	// What is wrong or unknown is shown as text, as a phone does.
	for _, payload := range []string{"javascript:alert(1)", "WIFI:T:WPA;S:Barn;P:short;;", "tel:", "geo:1,2;crs=moon",
		"http:/marrowby.example", "BEGIN:VCARD\nEND:VCARD", "mailto:", "otpauth://totp/x", "hello"} {
		t.Run(payload, func(t *testing.T) {
			if c := Of(payload); c == nil || c.Kind() != "text" || c.Phone().Rest != payload {
				t.Errorf("%q is taken for %v", payload, c)
			}
		})
	}
	if c := Of("\xff\xfe"); c != nil {
		t.Errorf("bytes that are no text are taken for %v", c)
	}
}

// TestShownHidesSecrets: the password of a network is in its payload and nowhere else.
func TestShownHidesSecrets(t *testing.T) {
	c, _ := readAt(t, `{"kind":"wifi","ssid":"Barn","security":"wpa","password":"sow;thin;water"}`)
	offer := c.Phone()
	for what, s := range map[string]string{"Shown": Shown(c), "summary": c.Summary().String(), "search": Search(c),
		"offer": offer.Action + offer.Strong + offer.Rest + strings.Join(offer.Lines, "")} {
		t.Run(what, func(t *testing.T) {
			if strings.Contains(s, "sow") || strings.Contains(s, "water") {
				t.Errorf("%s tells the password: %s", what, s)
			}
		})
	}
}

func TestCautions(t *testing.T) {
	for text, want := range map[string]string{
		`{"kind":"url","url":"https://forms.example/d/abc/edit"}`:                            "address.edit",
		`{"kind":"url","url":"https://marrowby.example/login?next=/fair"}`:                   "address.login",
		`{"kind":"url","url":"https://video.example/watch?v=1&si=abc"}`:                      "address.sharer",
		`{"kind":"url","url":"http://marrowby.example"}`:                                     "address.http",
		`{"kind":"url","url":"https://marrowby.example/?gclid=1"}`:                           "address.leftovers",
		`{"kind":"url","url":"https://192.168.1.20/fair"}`:                                   "address.private",
		`{"kind":"url","url":"https://printer.local/fair"}`:                                  "address.private",
		`{"kind":"url","url":"https://files.example/f/abc/view","purpose":"file"}`:           "address.preview",
		`{"kind":"url","url":"https://marrowby.example/manage/form","purpose":"sign-up"}`:    "address.edit",
		`{"kind":"wifi","ssid":"Barn ","security":"open"}`:                                   "wifi.blank",
		`{"kind":"wifi","ssid":"Barn","security":"wep","password":"abcde"}`:                  "wifi.wep wifi.password",
		`{"kind":"wifi","ssid":"Barn","security":"wpa","password":"sowandthin"}`:             "wifi.password",
		`{"kind":"wifi","ssid":"Barn","security":"open"}`:                                    "",
		`{"kind":"url","url":"https://marrowby.example/spring-sale"}`:                        "address.perishable",
		`{"kind":"url","url":"https://marrowby.example/fair-2027/plan"}`:                     "address.perishable",
		`{"kind":"url","url":"https://marrowby.example/wholesale/20271"}`:                    "",
		`{"kind":"phone","number":"+447700900123"}`:                                          "number.unknown",
		`{"kind":"sms","number":"+441134960123","body":"` + strings.Repeat("播", 71) + `"}`:   "sms.parts",
		`{"kind":"event","title":"a","start":"2027-03-20T10:00"}`:                            "event.floating",
		`{"kind":"event","title":"a","start":"2027-10-31T01:30","timezone":"Europe/London"}`: "event.twice",
		`{"kind":"url","url":"https://marrowby.example/editorial/manage"}`:                   "",
		`{"kind":"url","url":"https://marrowby.example/fair"}`:                               "",
		`{"kind":"sms","number":"+441134960123","body":"` + strings.Repeat("€", 80) + `"}`:   "",
		`{"kind":"url","url":"https://files.example/f/abc/view"}`:                            "",
	} {
		t.Run(text, func(t *testing.T) {
			c, problems := readAt(t, text)
			if len(problems) > 0 {
				t.Fatalf("%s: %v", text, problems)
			}
			var got []string
			for _, x := range c.(Careful).Cautions() {
				got = append(got, x.Code)
				if x.Label != "" { // the mending mends
					doc, _, err := x.Patch.Apply(map[string]any{"content": JSON(c)})
					if err != nil {
						t.Errorf("%s: %v", text, err)
						continue
					}
					b, _ := json.Marshal(doc.(map[string]any)["content"])
					mended, _ := readAt(t, string(b))
					for _, y := range mended.(Careful).Cautions() {
						if y.Code == x.Code {
							t.Errorf("%s: %q leaves %s", text, x.Label, y.Code)
						}
					}
				}
			}
			if strings.Join(got, " ") != want {
				t.Errorf("%s: cautions %v, want %q", text, got, want)
			}
		})
	}
}

// TestCapitals: scheme and host in capitals open the same place.
func TestCapitals(t *testing.T) {
	c, problems := readAt(t, `{"kind":"url","url":"marrowby.example/Fair?a=b","capitals":true}`)
	if len(problems) > 0 || c.Payload() != "HTTPS://MARROWBY.EXAMPLE/Fair?a=b" || c.Summary().Object != "marrowby.example/Fair" {
		t.Errorf("%q %v", c.Payload(), problems)
	}
	roundTrip(t, c)
	jsonSame(t, c)
}

// TestSavings: every saving is sound, and says less.
func TestSavings(t *testing.T) {
	for _, text := range []string{
		`{"kind":"url","url":"https://marrowby.example/visit/all?utm_source=a&gclid=1#:~:text=fair","tags":{"medium":"print"}}`,
		`{"kind":"contact","given":"Tamsin","family":"Ashdown","organisation":"Marrowby","title":"Brand lead","phones":[{"number":"+441134960124"},{"number":"+441134960125"}],"emails":[{"address":"a@m.example"}],"urls":["m.example"],"address":{"city":"Marrowby"},"birthday":"1984-03-27","note":"n","socials":[{"service":"s","url":"m.example"}]}`,
		`{"kind":"event","title":"Fair","start":"2027-03-20T10:00","timezone":"Europe/London","location":"Garden","description":"d","url":"m.example","alarm_minutes":60,"uid":"20270320-fair@marrowby.example"}`,
		`{"kind":"email","to":["a@m.example"],"subject":"s","body":"b"}`,
	} {
		t.Run(text, func(t *testing.T) {
			c, problems := readAt(t, text)
			if len(problems) > 0 {
				t.Fatal(text, problems)
			}
			savings := c.(Thrifty).Savings()
			if len(savings) < 2 {
				t.Errorf("%s: only %d savings", text, len(savings))
			}
			for _, s := range savings {
				doc, _, err := s.Patch.Apply(map[string]any{"content": JSON(c)})
				if err != nil {
					t.Errorf("%s: %v", s.Label, err)
					continue
				}
				b, _ := json.Marshal(doc.(map[string]any)["content"])
				then, problems := readAt(t, string(b))
				if len(problems) > 0 || then.Payload() != s.Then.Payload() {
					t.Errorf("%s makes %q %v, promised %q", s.Label, then.Payload(), problems, s.Then.Payload())
				}
				if len(s.Then.Payload()) >= len(c.Payload()) && !strings.Contains(s.Label, "apitals") &&
					!strings.Contains(s.Label, "instead of") {
					t.Errorf("%s saves nothing", s.Label)
				}
			}
		})
	}
}

func FuzzFields(f *testing.F) {
	for _, s := range []string{"WIFI:T:WPA;S:a\\;b;P:12345678;;", "BEGIN:VCARD\nN:a;b\nEND:VCARD", "MECARD:N:a,b;;",
		"tel:+441134960123", "SMSTO:+441134960123:x", "sms:1?body=%41", "mailto:a@b.example?body=%0D%0A", "geo:1,2?q=3,4(x)",
		"BEGIN:VEVENT\nSUMMARY:a\nDTSTART;TZID=Europe/London:20270320T100000\nRRULE:FREQ=WEEKLY;COUNT=3\nEND:VEVENT",
		"https://m.example/?a", "MATMSG:TO:a@b.example;;"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, payload string) {
		values, ok := Fields(payload)
		if !ok {
			return
		}
		c, problems := New(values)
		if len(problems) > 0 {
			return
		}
		// What is sound is stable: its payload taken apart makes itself.
		again := Of(c.Payload())
		if again == nil || again.Payload() != c.Payload() {
			t.Errorf("%q makes %q, which makes %v", payload, c.Payload(), again)
		}
		jsonSame(t, c)
	})
}

func FuzzCoordinates(f *testing.F) {
	for _, s := range []string{"52.0871, -1.9432", "52° 5′ 13.6″ N, 1° 56′ 35.5″ W", "N 52.0871 W 1.9432", "52,0871; -1,9432",
		"https://maps.example/@52.1,-1.9,15z"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		lat, lon, ok := ParsePosition(s)
		if !ok {
			return
		}
		if !(lat >= -90 && lat <= 90 && lon >= -180 && lon <= 180) {
			t.Errorf("%q is at %v, %v", s, lat, lon)
		}
		again, east, ok := ParsePosition(Sexagesimal(lat, lon))
		if d := max(lat-again, again-lat, lon-east, east-lon); !ok || d > 0.00002 {
			t.Errorf("%q is %v, %v; written as %q it is %v, %v", s, lat, lon, Sexagesimal(lat, lon), again, east)
		}
	})
}

// TestFound: what may be found of a code without opening it holds no account, no message, no key and no query.
func TestFound(t *testing.T) {
	for _, c := range []struct{ content, finds string }{
		{`{"kind":"url","url":"https://marrowby.example/fair/tickets?key=hushhush#hushhush"}`, "marrowby.example/fair/tickets"},
		{`{"kind":"url","url":"https://marrowby.example/r/hushhush0123456789/spring-2027"}`, "marrowby.example/r/spring-2027"},
		{`{"kind":"text","text":"otpauth://totp/Marrowby?secret=HUSHHUSH"}`, ""},
		{`{"kind":"wifi","ssid":"Potting Shed","security":"wpa","password":"hushhush"}`, "Potting Shed"},
		{`{"kind":"sms","number":"+441632960001","body":"hushhush"}`, "+441632960001"},
		{`{"kind":"email","to":["orders@marrowby.example"],"subject":"hushhush","body":"hushhush"}`, "orders@marrowby.example"},
		{`{"kind":"contact","given":"Wren","family":"Okafor","note":"hushhush","phones":[{"number":"+441632960001"}]}`,
			"Wren Okafor"},
		{`{"kind":"sepa","name":"Marrowby Seed House","iban":"DE89370400440532013000","text":"hushhush"}`, "Marrowby Seed House"},
		{`{"kind":"upi","payee":"hushhush@upi","name":"Marrowby","note":"hushhush"}`, "Marrowby"},
		{`{"kind":"payto","target":"iban","account":"DE89370400440532013000","receiver":"Marrowby","message":"hushhush"}`,
			"Marrowby"},
		{
			`{"kind":"event","title":"Bulb fair","start":"2027-03-20T10:00","end":"2027-03-20T16:00","timezone":"Europe/London","description":"hushhush"}`, "Bulb fair"},
	} {
		t.Run(c.content, func(t *testing.T) {
			v, err := fields.Decode([]byte(c.content))
			if err != nil {
				t.Fatal(err)
			}
			got, problems := New(v.(map[string]any))
			if len(problems) > 0 {
				t.Fatalf("%s: %v", c.content, problems)
			}
			found := Search(got)
			if !strings.Contains(found, c.finds) || strings.Contains(strings.ToLower(found), "hush") ||
				strings.Contains(found, "0532013000") {
				t.Errorf("%s is found by %q", c.content, found)
			}
		})
	}
}

// TestLookalike: names that pass for others are pointed out, where people would see them; names in a script of their own are not.
func TestLookalike(t *testing.T) {
	for host, want := range map[string]string{
		"m\u0430rrowby.example": "looks like marrowby.example", "\u0440\u0430\u0443.example": "looks like pay.example",
		"m\u0430rrowby\u00e4.example": "can be taken for another",
		"marrowby.example":            "", "g\u00e4rten.example": "", "\u043f\u0440\u0438\u043c\u0435\u0440.example": "",
		"\u65e5\u672c.example": "", "b\u00fccher.example": "", "\u03b4\u03bf\u03ba\u03b9\u03bc\u03ae.example": "",
		"192.0.2.1": "", "xn--bcher-kva.example": "",
	} {
		t.Run(host, func(t *testing.T) {
			if got := Lookalike(host); (want == "") != (got == "") || !strings.Contains(got, want) {
				t.Errorf("%s: %q, want %q", host, got, want)
			}
		})
	}
	u, problems := New(map[string]any{"kind": "url", "url": "https://m\u0430rrowby.example/fair"})
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	if cautions := u.(Careful).Cautions(); len(cautions) == 0 || cautions[0].Code != "address.alike" || u.Phone().Warn == "" {
		t.Errorf("%+v, %+v", cautions, u.Phone())
	}
}
