package web

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/people"
	"sodrik/internal/seal/sealtest"
	"sodrik/internal/standin"
	"sodrik/internal/web/person"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

const ws = "marrowby"

type site struct {
	t       testing.TB
	closed  bool // the database is, on purpose
	handler http.Handler
	store   *code.Store
	people  *people.Store
	box     *standin.Mailbox
	metrics *Metrics
	id      string
	cookies map[string]*http.Cookie // by role, "outsider" for the owner of another workspace
	cookie  *http.Cookie            // sent with every request
}

const other = "other"

// open makes a site with somebody of every role, and somebody from elsewhere.
func open(t testing.TB) *site {
	t.Helper()
	d := dbtest.Open(t)
	s := &site{t: t, store: code.New(ground.Ground{DB: d, Now: time.Now, Seal: sealtest.Box(t)}, proof.Panel{}, "none"),
		box: &standin.Mailbox{DB: d, Now: time.Now}, cookies: map[string]*http.Cookie{}}
	s.people = &people.Store{DB: d, Now: time.Now, Mail: s.box, Base: "http://sodrik.example", Seal: s.store.Seal,
		Later: func(do func()) { do() }}
	for _, id := range []string{ws, other} {
		if _, err := s.store.EnsureWorkspace(t.Context(), id, "Workspace "+id); err != nil {
			t.Fatal(err)
		}
	}
	m,
		problems := compose.Parse(
		[]byte(
			`{"name":"Gate <poster>","content":{"kind":"url","url":"https://marrowby.example/fair?a=1&b=<2>"},"look":{"ink":"#12352b"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	var err error
	if s.id, err = s.store.Create(t.Context(), access.OfProgram(ws, ""), m, "Bulb Fair 2027"); err != nil {
		t.Fatal(err)
	}
	if _, err = s.store.Issue(t.Context(), access.OfProgram(ws, ""), s.id); err != nil {
		t.Fatal(err)
	}
	var guests []person.Guest
	for _, role := range []string{"owner", "editor", "viewer", "printer", "outsider"} {
		email := role + "@marrowby.example"
		p, err := s.people.Register(t.Context(), email, "Some "+role, "")
		if err != nil {
			t.Fatal(err)
		}
		if role == "outsider" {
			err = s.people.Join(t.Context(), other, p.ID, people.Owner)
		} else {
			err = s.people.Join(t.Context(), ws, p.ID, people.Role(role))
		}
		if err != nil {
			t.Fatal(err)
		}
		guests = append(guests, person.Guest{Email: email, Words: role})
	}
	s.metrics = NewMetrics(d)
	s.handler = New(Options{Codes: s.store, People: s.people, Guests: guests, Metrics: s.metrics, Bench: true})
	for _, g := range guests {
		w := s.send("POST", "/enter", url.Values{"as": {g.Email}})
		if w.Code != http.StatusSeeOther || len(w.Result().Cookies()) != 1 {
			t.Fatalf("entering as %s: %d %s", g.Words, w.Code, w.Body)
		}
		s.cookies[g.Words] = w.Result().Cookies()[0]
	}
	s.cookie = s.cookies["owner"]
	return s
}

func (s *site) send(method, path string, form url.Values, headers ...string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(method, path, strings.NewReader(form.Encode()))
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	for i := 0; i+1 < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	if s.cookie != nil {
		r.AddCookie(s.cookie)
	}
	if path, _, _ := strings.Cut(path, "?"); path == "/scans/now" { // which goes on until whoever asked has gone
		ctx, cancel := context.WithTimeout(r.Context(), 200*time.Millisecond)
		defer cancel()
		r = r.WithContext(ctx)
	}
	w := httptest.NewRecorder()
	s.handler.ServeHTTP(w, r)
	s.answered(r, w)
	return w
}

// answered fails the test, whatever it is about, where the server says that it failed.
func (s *site) answered(r *http.Request, w *httptest.ResponseRecorder) {
	if w.Code >= 500 && !s.closed {
		s.t.Errorf("%s %s answers %d %.300s", r.Method, r.URL, w.Code, w.Body)
	}
}

func TestAnswers(t *testing.T) {
	s := open(t)
	code := "/codes/" + s.id
	form := func(pairs ...string) url.Values {
		v := url.Values{}
		for i := 0; i < len(pairs); i += 2 {
			v.Add(pairs[i], pairs[i+1])
		}
		return v
	}
	for _, c := range []struct {
		method, path string
		form         url.Values
		status       int
		has          string
	}{
		{"GET", "/", nil, 303, ""},
		{"GET", "/codes", nil, 200, "Gate &lt;poster&gt;"},
		{"GET", code, nil, 200, "b=%3C2%3E"},
		{"GET", code + "?place=99", nil, 200, "gate"},
		{"GET", code + "/peek", nil, 200, "Duplicate"},
		{"GET", code + "/camera?place=0&tilt=20&wear=x&blur=-5", nil, 200, "pixels a module, in an ordinary phone"},
		{"GET", code + "/camera?place=0&phone=poor", nil, 200, "pixels a module, in a poor phone"},
		{"GET", code + "/picture/x.png", nil, 200, "PNG"},
		{"GET", code + "/proof", nil, 200, "Not proved yet"},
		{"GET", "/codes/nothere", nil, 404, "no such code"},
		{"GET", "/codes/nothere/peek", nil, 404, "no such code"},
		{"GET", "/nowhere", nil, 404, ""},
		{"GET", "/static/app.css", nil, 200, "--marigold"},
		{"GET", "/static/../web.go", nil, 404, ""},
		{"POST", "/find", form("text", "gate"), 200, "1 in 1 campaign"},
		{"POST", "/find", form("text", "javascript:alert(1)"), 200, "phones refuse them"},
		{"POST", "/paste/png", form("text", "marrowby.example"), 200, "PNG"},
		{"POST", "/paste/png", form("text", ""), 400, "is empty"},
		{"POST", "/codes", form("text", ""), 400, "is empty"},
		{"PATCH", code, form("path", "/version", "text", "2"), 400, "not a field"},
		{"PATCH", code, form("path", "/look/ink", "text", "#123"), 303, ""},
		{"PATCH", "/codes/nothere", form("path", "/name", "text", "x"), 404, "no such code"},
		{"POST", code + "/fix", form("patch", "[]", "label", ""), 303, ""},
		{"POST", code + "/fix", form("patch", "{"), 400, "was cut off on its way"},
		{"POST", code + "/fix", form("patch", `[{"op":"remove","path":"/x"}]`), 400, "does not fit"},
		{"POST", code + "/ship", form(), 400, "none is chosen"},
		{"POST", code + "/ship", form("format", "gif"), 400, "cannot be written"},
		{"POST", code + "/ship", form("format", "svg", "place", "7"), 400, "no such place"},
		{"POST", code + "/ship", form("format", "svg", "place", "0"), 200, "<svg"},
		{"POST", code + "/places/remove", form("remove", "9"), 400, "does not fit"},
		{"POST", "/find", form("text", strings.Repeat("a", 2<<20)), 200, ""},
		{"DELETE", code, nil, 405, ""},
	} {
		t.Run(c.method, func(t *testing.T) {
			w := s.send(c.method, c.path, c.form)
			if w.Code != c.status || !strings.Contains(w.Body.String(), c.has) {
				t.Errorf("%s %s %.60v: %d %.300q, want %d with %q", c.method, c.path, c.form, w.Code, w.Body.String(),
					c.status, c.has)
			}
			h := w.Header()
			if !strings.Contains(h.Get("Content-Security-Policy"), "script-src 'self';") ||
				strings.Contains(h.Get("Content-Security-Policy"), "unsafe") || h.Get("X-Content-Type-Options") != "nosniff" {
				t.Errorf("%s %s: headers %v", c.method, c.path, h)
			}
		})
	}
}

// TestOtherSites: a form on another site cannot change anything.
func TestOtherSites(t *testing.T) {
	s := open(t)
	for _, c := range [][2]string{{"POST", "/retire"}, {"PATCH", ""}, {"POST", "/ship"}} {
		w := s.send(c[0], "/codes/"+s.id+c[1], url.Values{"path": {"/name"}, "text": {"x"}, "format": {"svg"}}, "Sec-Fetch-Site",
			"cross-site", "Origin", "https://elsewhere.example")
		if w.Code != http.StatusForbidden {
			t.Errorf("%v from elsewhere: %d", c, w.Code)
		}
	}
}

// TestNoInlineCode: pages hold no inline script, style or handler, which the policy would refuse.
func TestNoInlineCode(t *testing.T) {
	s := open(t)
	for _, path := range []string{"/codes", "/codes/" + s.id, "/codes/" + s.id + "/peek", "/codes/" + s.id + "/proof",
		"/nowhere"} {
		t.Run(path, func(t *testing.T) {
			body := s.send("GET", path, nil).Body.String()
			for _, bad := range []string{"<style", " style=", " onclick=", " onload=", "javascript:", "<script>"} {
				if strings.Contains(body, bad) {
					t.Errorf("%s holds %q", path, bad)
				}
			}
		})
	}
}

// endless is a body that would never end.
type endless struct{ read int }

func (e *endless) Read(b []byte) (int, error) {
	for i := range b {
		b[i] = 'a'
	}
	e.read += len(b)
	return len(b), nil
}

// TestHugeBodies: a body of 200 MB, or without end, is cut off early, on pages and in the API.
func TestHugeBodies(t *testing.T) {
	s := open(t)
	for _, path := range []string{"/find", "/codes/" + s.id + "/fix", "/sign-in", "/api/v1/encode"} {
		t.Run(path, func(t *testing.T) {
			e := &endless{}
			r := httptest.NewRequest("POST", path, io.LimitReader(e, 200<<20))
			r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			r.AddCookie(s.cookie)
			w := httptest.NewRecorder()
			s.handler.ServeHTTP(w, r)
			if e.read > 4<<20 || w.Code >= 500 {
				t.Errorf("%s read %d bytes and answered %d", path, e.read, w.Code)
			}
		})
	}
}

// TestIdsOfOthers puts what belongs to another workspace into every place where an id fits.
func TestIdsOfOthers(t *testing.T) {
	s := open(t)
	owner, err := s.people.ByEmail(t.Context(), "owner@marrowby.example")
	if err != nil {
		t.Fatal(err)
	}
	s.cookie = s.cookies["outsider"]
	for _, c := range []struct {
		path string
		form url.Values
	}{
		{"/account/workspace", url.Values{"workspace": {ws}}},
		{"/people/role", url.Values{"person": {owner.ID}, "role": {"viewer"}}},
		{"/codes/" + s.id + "/retire", url.Values{}},
		{"/codes/" + s.id + "/return", url.Values{"ref": {"v1"}}},
	} {
		t.Run(c.path, func(t *testing.T) {
			if w := s.send("POST", c.path, c.form); w.Code != http.StatusNotFound {
				t.Errorf("%s %v: %d %.100s", c.path, c.form, w.Code, w.Body)
			}
		})
	}
	list, err := s.people.SignIns(t.Context(), owner.ID)
	if err != nil || len(list) == 0 {
		t.Fatal(err)
	}
	s.send("POST", "/account/end", url.Values{"id": {list[0].ID}})
	s.cookie = s.cookies["owner"]
	if w := s.send("GET", "/codes", nil); w.Code != http.StatusOK {
		t.Errorf("an outsider ended the owner's sign-in: %d", w.Code)
	}
}

// TestFreshCookie: signing in gives a cookie of its own; one that somebody set before, to know it afterwards, lets nobody in.
func TestFreshCookie(t *testing.T) {
	s := open(t)
	s.cookie = nil
	w := s.send("POST", "/passkey/ask", url.Values{})
	if len(w.Result().Cookies()) != 1 {
		t.Fatalf("a stranger who asks for a passkey gets %d and %d cookies", w.Code, len(w.Result().Cookies()))
	}
	before := w.Result().Cookies()[0]
	s.cookie = before
	w = s.send("POST", "/enter", url.Values{"as": {"viewer@marrowby.example"}})
	var after *http.Cookie
	for _, c := range w.Result().Cookies() {
		if c.Name == before.Name {
			after = c
		}
	}
	if after == nil || after.Value == before.Value {
		t.Fatalf("signing in leaves the cookie %v", after)
	}
	if w := s.send("GET", "/codes", nil); w.Code != http.StatusSeeOther {
		t.Errorf("the cookie from before gives %d", w.Code)
	}
	s.cookie = after
	if w := s.send("GET", "/codes", nil); w.Code != http.StatusOK {
		t.Errorf("the new cookie gives %d", w.Code)
	}
}
