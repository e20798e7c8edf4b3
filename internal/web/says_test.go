package web

import (
	"bytes"
	"html"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"strings"
	"testing"

	"sodrik/internal/web/forms"
)

// sendFile posts a file to the paste field.
func (s *site) sendFile(t *testing.T, name string, data []byte) *httptest.ResponseRecorder {
	t.Helper()
	var body bytes.Buffer
	m := multipart.NewWriter(&body)
	f, err := m.CreateFormFile("file", name)
	if err == nil {
		_, err = f.Write(data)
	}
	if err != nil {
		t.Fatal(err)
	}
	m.Close()
	r := httptest.NewRequest(http.MethodPost, "/find", &body)
	r.Header.Set("Content-Type", m.FormDataContentType())
	r.Header.Set("HX-Request", "true")
	r.AddCookie(s.cookie)
	w := httptest.NewRecorder()
	s.handler.ServeHTTP(w, r)
	return w
}

var spaces = regexp.MustCompile(`\s+|<[^>]*>`)

func plainText(w *httptest.ResponseRecorder) string {
	return spaces.ReplaceAllString(html.UnescapeString(w.Body.String()), " ")
}

// TestFiles: what is pasted or dropped as a file.
func TestFiles(t *testing.T) {
	s := open(t)
	picture := s.send("POST", "/paste/png", url.Values{"text": {"WIFI:T:WPA;S:Barn;P:sow thin water;;"}}).Body.Bytes()
	for _, c := range []struct {
		name string
		data []byte
		has  []string
	}{
		{"two.vcf",
			[]byte(
				"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Tamsin Ashdown\r\nEND:VCARD\r\nBEGIN:VCARD\r\nVERSION:3.0\r\nFN:Idris " +
					"Penn\r\nEND:VCARD\r\n"), []string{"Number 1 of 2 cards", "Saves Tamsin Ashdown", "Saves Idris Penn"}},
		{"fair.ics",
			[]byte(
				"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:20270320T100000Z\r\nSUMMARY:Bulb fair\r\nEND:VEVENT\r\nEND:VCALENDAR"), []string{"A calendar entry", "Adds", "Bulb fair, 20 March 2027"}},
		{"code.png", picture, []string{"Read from the picture: Wi-Fi access", "Joins", "Barn", "It could be", "plain text"}},
		{"broken.png", picture[:len(picture)/2], []string{"The picture is damaged"}},
		{"words.bin", []byte{0, 1, 2, 3}, []string{"This is not a picture that can be read"}},
		{"empty.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>`),
			[]string{"No code was found in the picture"}},
		{"card.svg", []byte(`<svg`), []string{"The drawing cannot be opened"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			w := s.sendFile(t, c.name, c.data)
			text := plainText(w)
			for _, has := range c.has {
				if w.Code != 200 || !strings.Contains(text, has) {
					t.Errorf("%s: %d %.600q, want %q", c.name, w.Code, text, has)
				}
			}
		})
	}
	if w := s.sendFile(t, "large.png", make([]byte, 21<<20)); w.Code != 200 ||
		!strings.Contains(plainText(w), "The file is larger than 20 megabytes") {
		t.Errorf("a file of 21 megabytes: %d", w.Code)
	}
}

// TestReadings: the second reading is a reading of the same text, and a reading with problems leads to its form, filled.
func TestReadings(t *testing.T) {
	s := open(t)
	for _, c := range []struct{ text, reading, has string }{
		{"0113 496 0123", "", "Calls +44 113 496 0123"}, {"0113 496 0123", "1", "Texts +44 113 496 0123"},
		{"0113 496 0123", "2", "Shows 0113 496 0123"},
		{"orders@marrowby.example", "1", "Saves Orders"}, {"52.0871, -1.9432", "", "Points to 52.0871, -1.9432"},
		{"gate", "9", "1 in 1 campaign"},
		{"WIFI:T:WPA;S:Barn;P:short;;", "", "phones will not join. WPA passwords have 8 to 63 characters"},
	} {
		t.Run(c.text, func(t *testing.T) {
			w := s.send("POST", "/find", url.Values{"text": {c.text}, "reading": {c.reading}})
			if text := plainText(w); w.Code != 200 || !strings.Contains(strings.Join(strings.Fields(text), " "), c.has) {
				t.Errorf("%s as %s: %d %.800q, want %q", c.text, c.reading, w.Code, text, c.has)
			}
		})
	}
	w := s.send("POST", "/new/wifi", url.Values{"text": {"WIFI:T:WPA;S:Barn;P:short;;"}})
	if w.Code != 200 || !strings.Contains(w.Body.String(), `value="Barn"`) ||
		!strings.Contains(w.Body.String(), `value="short"`) || !strings.Contains(w.Body.String(), "8 to 63 characters") {
		t.Errorf("the form is not filled: %d %.300q", w.Code, w.Body)
	}
}

// typed is the example of a kind, as it is typed into its form.
func typed(t *testing.T, k *content.Kind) url.Values {
	t.Helper()
	v, err := fields.Decode([]byte(k.Example))
	if err != nil {
		t.Fatal(err)
	}
	draft, out := map[string]any{"content": v}, url.Values{}
	for _, c := range k.Fields.Columns("/content") {
		if text := job.Text(draft, c.Path); text != "" && !c.Field.Fixed {
			out.Set(c.Path, text)
		}
	}
	return out
}

// TestNewForms: every kind has a form; empty it is quiet, sent empty it says what is missing, filled it makes a code.
func TestNewForms(t *testing.T) {
	s := open(t)
	filled := map[string]url.Values{}
	for _, k := range content.Register() {
		filled[k.Key] = typed(t, k)
	}
	for kind, values := range map[string]url.Values{ // as people type
		"contact": {"/content/given": {"Tamsin"}, "/content/phones/0/number": {"0113 496 0124"}, "/content/region": {"GB"}},
		"phone":   {"/content/number": {"0113 496 0123"}, "/content/region": {"GB"}},
		"event": {"/content/title": {"Fair"}, "/content/start": {"20 March 2027 10:00"},
			"/content/timezone": {"Europe/London"}},
		"place":   {"/content/position": {"N 52.0871 W 1.9432"}},
		"gs1link": {"/content/gtin": {"9521234500018"}, "/content/attributes/17": {"31 March 2027"}},
		"text":    {"/content/text": {"a\r\nb"}},
		"wifi":    {"/content/ssid": {"Barn"}, "/content/security": {"wpa"}, "/content/password": {"sow thin water"}},
		"emv": {"/content/accounts/0/id": {"26"}, "/content/accounts/0/guid": {"g"}, "/content/mcc": {"5261"},
			"/content/currency": {"SGD"}, "/content/country": {"SG"}, "/content/merchant": {"m"}, "/content/city": {"c"}},
	} {
		filled[kind] = values
	}
	told := regexp.MustCompile(`class="error">[^<]`)
	for _, o := range slices.Concat(forms.Outcomes(), forms.Payments(), forms.Trade()) {
		at := "/new/" + o.Kind
		if o.Kind == "pay" { // leads on
			if w := s.send("GET", at, nil); w.Code != 200 ||
				strings.Count(w.Body.String(), `href="/new/`) != len(forms.Payments()) {
				t.Errorf("the ways to be paid: %d", w.Code)
			}
			continue
		}
		if w := s.send("GET", at, nil); w.Code != 200 || told.MatchString(w.Body.String()) ||
			!strings.Contains(html.UnescapeString(w.Body.String()), o.Words) {
			t.Errorf("%s empty: %d", at, w.Code)
		}
		if w := s.send("POST", at+"/open", url.Values{}); w.Code != http.StatusUnprocessableEntity ||
			!strings.Contains(plainText(w), " is ") && !strings.Contains(plainText(w), "Is ") &&
				!strings.Contains(plainText(w), "Has no") {
			t.Errorf("%s sent empty: %d %.400q", at, w.Code, plainText(w))
		}
		w := s.send("POST", at+"/open", filled[o.Kind])
		if w.Code != http.StatusSeeOther {
			t.Errorf("%s filled: %d %.900q", at, w.Code, plainText(w))
			continue
		}
		code := w.Header().Get("Location")
		if w = s.send("GET", code, nil); w.Code != 200 || !strings.Contains(w.Body.String(), "modules.") {
			t.Errorf("%s: the desk answers %d", code, w.Code)
		}
		if strings.Contains(w.Body.String(), "thin water") &&
			strings.Count(w.Body.String(), "thin water") != strings.Count(w.Body.String(), `value="sow thin water"`) {
			t.Errorf("%s shows the password outside its field", code)
		}
		if w = s.send("POST", at+"/png", filled[o.Kind]); w.Code != 200 || !bytes.HasPrefix(w.Body.Bytes(), []byte("\x89PNG")) {
			t.Errorf("%s as PNG: %d", at, w.Code)
		}
	}
	if w := s.send("GET", "/new/fax", nil); w.Code != 404 {
		t.Errorf("an unknown kind: %d", w.Code)
	}
	if w := s.send("GET", "/towns?lat=52&lon=-1.9&span=1", nil); w.Code != 200 ||
		!strings.Contains(w.Body.String(), "Birmingham") {
		t.Errorf("towns: %d %s", w.Code, w.Body)
	}
	if w := s.send("GET", "/towns?lat=x&span=NaN", nil); w.Code != 200 {
		t.Errorf("towns around nothing: %d", w.Code)
	}
}

// TestSecretsOnPages: the password of a network stands on no page but in its field.
func TestSecretsOnPages(t *testing.T) {
	s := open(t)
	const secret = "crocus-anemone"
	w := s.send("POST", "/codes", url.Values{"text": {"WIFI:T:WPA;S:Secret Barn;P:" + secret + ";;"}})
	code := w.Header().Get("Location")
	s.send("POST", code+"/ship", url.Values{"format": {"svg"}, "place": {"-1"}})
	s.send("PATCH", code, url.Values{"path": {"/content/password"}, "text": {secret + "-two"}})
	for _, at := range []string{"/codes", code, code + "/peek", code + "/history", code + "/compare?first=v1&second=r1",
		code + "/versions/1", code + "/proof"} {
		t.Run(at, func(t *testing.T) {
			w := s.send("GET", at, nil)
			body := w.Body.String()
			if w.Code != 200 {
				t.Errorf("%s: %d", at, w.Code)
			}
			if strings.Count(body, secret) != strings.Count(body, `value="`+secret) {
				t.Errorf("%s shows the password: %s", at,
					body[max(0, strings.Index(body, secret)-200):strings.Index(body, secret)+40])
			}
		})
	}
	w = s.send("POST", "/find", url.Values{"text": {secret}})
	if strings.Contains(w.Body.String(), "Secret Barn") {
		t.Error("the password can be searched for")
	}
}
