package web

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"strings"
	"testing"

	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

// TestNext: after signing in nobody is led to another host, however the address is written.
func TestNext(t *testing.T) {
	s := open(t)
	s.cookie = nil
	for next, want := range map[string]string{
		"/codes/abc?place=1": "/codes/abc?place=1", "/style/looks/come/plain": "/style/looks/come/plain", "/": "/", "": "/codes",
		"/codes":              "/codes",
		"//elsewhere.example": "/codes", "/\\elsewhere.example": "/codes", "/\t/elsewhere.example": "/codes",
		"/./\\elsewhere.example": "/codes", "/.//elsewhere.example": "/codes",
		"/%09/elsewhere.example": "/codes", "/%5Celsewhere.example": "/codes", "/./%5Celsewhere.example": "/codes",
		"/..//elsewhere.example": "/codes", "/a/..//elsewhere.example": "/codes",
		"https://elsewhere.example": "/codes", "javascript:alert(1)": "/codes", "elsewhere.example": "/codes",
		"/codes\r\nSet-Cookie: x": "/codes", "/@elsewhere.example": "/codes",
	} {
		t.Run(next, func(t *testing.T) {
			w := s.send("POST", "/enter", url.Values{"as": {"owner@marrowby.example"}, "next": {next}})
			if got := w.Header().Get("Location"); got != want {
				t.Errorf("%q leads to %q, want %q", next, got, want)
			}
		})
	}
}

// TestDoor: what is no text is refused at the door, with the field, wherever it comes in; nothing answers with an error of
// the server.
func TestDoor(t *testing.T) {
	s := open(t)
	code := "/codes/" + s.id
	for _, c := range []struct {
		method, path string
		form         url.Values
		field        string
	}{
		{"POST", "/find", url.Values{"text": {"a\x00b"}}, "text"},
		{"POST", "/find", url.Values{"text": {"a\xffb"}}, "text"},
		{"POST", code + "/campaign", url.Values{"campaign": {"\x00"}}, "campaign"},
		{"PATCH", code, url.Values{"path": {"/name"}, "text": {"x\x00"}, "tab": {"t"}, "seq": {"1"}}, "text"},
		{"PATCH", code, url.Values{"path": {"/name\x00"}, "text": {"x"}}, "path"},
		{"PATCH", code, url.Values{"path": {"/name"}, "text": {"x"}, "tab": {"\xfe"}}, "tab"},
		{"POST", code + "/fix", url.Values{"patch": {"[]"}, "label": {"\x00"}}, "label"},
		{"POST", "/sign-in", url.Values{"email": {"\x00"}, "password": {"x"}}, "email"},
		{"POST", "/people/invite", url.Values{"email": {"a\x00@marrowby.example"}, "role": {"viewer"}}, "email"},
		{"POST", "/style/colours", url.Values{"name": {"\x00"}, "screen": {"#123456"}}, "name"},
		{"GET", "/codes/%00", nil, "address"},
		{"GET", "/codes/%ff/history", nil, "address"},
		{"GET", "/icons?q=%00", nil, "q"},
		{"GET", "/style/looks/%00", nil, "address"},
		{"GET", "/first/%00", nil, "address"},
		{"GET", "/shown/%00", nil, "address"},
	} {
		t.Run(c.method, func(t *testing.T) {
			w := s.send(c.method, c.path, c.form)
			if w.Code != http.StatusBadRequest ||
				!strings.Contains(w.Body.String(), c.field+": holds something that is no text") {
				t.Errorf("%s %s %q: %d %.200q, want 400 with %s", c.method, c.path, c.form, w.Code, w.Body, c.field)
			}
		})
	}
	long := strings.Repeat("x", 300_000)
	for _, c := range []struct {
		method, path string
		form         url.Values
	}{
		{"POST", code + "/campaign", url.Values{"campaign": {long}}},
		{"PATCH", code, url.Values{"path": {"/name"}, "text": {long}}},
		{"PATCH", code, url.Values{"path": {"/look/ink"}, "text": {long}, "tab": {long}, "seq": {"9"}}},
		{"PATCH", code, url.Values{"path": {long}, "text": {"x"}}},
		{"POST", "/sign-in", url.Values{"email": {long}, "password": {long}}},
		{"POST", "/forgot", url.Values{"email": {long + "@marrowby.example"}}},
		{"POST", "/people/invite", url.Values{"email": {long}, "role": {long}}},
		{"POST", "/account/token", url.Values{"name": {long}, "scope": {long}, "days": {long}}},
		{"POST", "/style/colours", url.Values{"name": {long}, "screen": {long}}},
		{"POST", "/style/names", url.Values{"names": {long}}},
		{"POST", code + "/fix", url.Values{"patch": {`[{"op":"add","path":"/name","value":"a\u0000b"}]`}, "label": {long}}},
		{"POST", code + "/fix", url.Values{"patch": {`[{"op":"add","path":"","value":null}]`}, "label": {"x"}}},
		{"POST", code + "/return", url.Values{"ref": {long}}},
		{"POST", code + "/mail", url.Values{"to": {long}, "format": {"svg"}}},
		{"POST", code + "/ship", url.Values{"format": {long}, "place": {"0"}}},
	} {
		t.Run(c.method, func(t *testing.T) {
			if w := s.send(c.method, c.path, c.form); w.Code >= 500 {
				t.Errorf("%s %s: %d %.200q", c.method, c.path, w.Code, w.Body)
			}
		})
	}
	if w := s.send("GET", code, nil); w.Code != http.StatusOK {
		t.Errorf("afterwards the desk answers %d %.200s", w.Code, w.Body)
	}
}

// TestClientAddress: the last address that no trusted proxy has is who asks; what a stranger claims is not believed.
func TestClientAddress(t *testing.T) {
	proxies := []netip.Prefix{netip.MustParsePrefix("10.0.0.0/8"), netip.MustParsePrefix("fd00::/8")}
	for _, c := range []struct{ remote, forwarded, want, network string }{
		{"192.0.2.7:4000", "", "192.0.2.7", "192.0.2.7"},
		{"192.0.2.7:4000", "198.51.100.1", "192.0.2.7", "192.0.2.7"},
		{"10.1.2.3:4000", "198.51.100.1", "198.51.100.1", "198.51.100.1"},
		{"10.1.2.3:4000", "203.0.113.9, 198.51.100.1, 10.9.9.9", "198.51.100.1", "198.51.100.1"},
		{"10.1.2.3:4000", "nonsense", "10.1.2.3", "10.1.2.3"},
		{"[fd00::1]:4000", "2001:db8:1:2:3:4:5:6", "2001:db8:1:2:3:4:5:6", "2001:db8:1:2::/64"},
		{"[::ffff:192.0.2.7]:4000", "", "192.0.2.7", "192.0.2.7"},
	} {
		t.Run(c.remote, func(t *testing.T) {
			r := httptest.NewRequest("GET", "/", nil)
			r.RemoteAddr = c.remote
			if c.forwarded != "" {
				r.Header.Set("X-Forwarded-For", c.forwarded)
			}
			var got, network string
			client(proxies)(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
				got, network = ui.Address(r), ui.Network(r)
			})).ServeHTTP(httptest.NewRecorder(), r)
			if got != c.want || network != c.network {
				t.Errorf("%s, forwarded for %q: %s in %s, want %s in %s", c.remote, c.forwarded, got, network, c.want, c.network)
			}
		})
	}
}

// TestBehindProxy: forty who sign in through one proxy do not lock each other out, and a device that was signed in from stays
// open while somebody guesses from the same place.
func TestBehindProxy(t *testing.T) {
	s := open(t)
	proxied := New(Options{Codes: s.store, People: s.people, Proxies: []netip.Prefix{netip.MustParsePrefix("192.0.2.0/24")}})
	if _, err := s.people.Register(t.Context(), "tamsin@marrowby.example", "Tamsin", "leeks in october"); err != nil {
		t.Fatal(err)
	}
	var device *http.Cookie
	signIn := func(from, password string, with *http.Cookie) int {
		r := httptest.NewRequest("POST", "/sign-in",
			strings.NewReader(url.Values{"email": {"tamsin@marrowby.example"}, "password": {password}}.Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("X-Forwarded-For", from)
		if with != nil {
			r.AddCookie(with)
		}
		w := httptest.NewRecorder()
		proxied.ServeHTTP(w, r)
		for _, c := range w.Result().Cookies() {
			if c.Name == "sodrik-device" {
				device = c
			}
		}
		if w.Code == http.StatusUnprocessableEntity && strings.Contains(w.Body.String(), "too many tries") {
			return http.StatusTooManyRequests
		}
		return w.Code
	}
	for i := range 60 {
		if got := signIn(fmt.Sprint("198.51.100.", i), "leeks in october", nil); got != http.StatusSeeOther {
			t.Fatalf("sign-in %d: %d", i, got)
		}
	}
	if device == nil || !device.HttpOnly {
		t.Fatalf("no mark of the device: %v", device)
	}
	for range 9 {
		signIn("203.0.113.5", "wrong password", nil)
	}
	if got := signIn("203.0.113.5", "leeks in october", nil); got != http.StatusTooManyRequests {
		t.Errorf("after nine wrong tries from there: %d", got)
	}
	if got := signIn("203.0.113.5", "leeks in october", device); got != http.StatusSeeOther {
		t.Errorf("from a device of theirs: %d", got)
	}
}

// TestOverTLS: where cookies go over TLS only, browsers are told to come by no other way.
func TestOverTLS(t *testing.T) {
	s := open(t)
	w := httptest.NewRecorder()
	New(Options{Codes: s.store, People: s.people, Secure: true}).ServeHTTP(w, httptest.NewRequest("GET", "/healthz", nil))
	if w.Header().Get("Strict-Transport-Security") != "max-age=31536000" {
		t.Errorf("%q", w.Header().Get("Strict-Transport-Security"))
	}
	if h := s.send("GET", "/healthz", nil).Header().Get("Strict-Transport-Security"); h != "" {
		t.Errorf("without TLS: %q", h)
	}
}

// TestTokenAsksAgain: a token is made only by who knows the password.
func TestTokenAsksAgain(t *testing.T) {
	s := open(t)
	owner, err := s.people.ByEmail(t.Context(), "owner@marrowby.example")
	if err == nil {
		err = s.people.SetPassword(t.Context(), owner.ID, "leeks in october", signInOf(t, s, owner))
	}
	if err != nil {
		t.Fatal(err)
	}
	form := url.Values{"name": {"script"}, "scope": {string(people.ScopeMake)}, "days": {"30"}}
	for confirm, want := range map[string]int{"": 422, "wrong": 422, "leeks in october": 200} {
		t.Run(confirm, func(t *testing.T) {
			form.Set("confirm", confirm)
			w := s.send("POST", "/account/token", form)
			if w.Code != want || strings.Contains(w.Body.String(), "This is the token") != (want == 200) {
				t.Errorf("with %q: %d", confirm, w.Code)
			}
			if w := s.send("POST", "/account/passkey/new", url.Values{"confirm": {confirm}}); want == 422 &&
				w.Code != http.StatusBadRequest {
				t.Errorf("a passkey with %q: %d", confirm, w.Code)
			}
		})
	}
}

func signInOf(t *testing.T, s *site, p *people.Person) string {
	t.Helper()
	list, err := s.people.SignIns(t.Context(), p.ID)
	if err != nil || len(list) == 0 {
		t.Fatal(err)
	}
	return list[0].ID
}
