package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/pb33f/libopenapi"
	validator "github.com/pb33f/libopenapi-validator"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/handover"
	"sodrik/internal/housestyle"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/readers"
	"sodrik/internal/records"
	"sodrik/internal/scans"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

const ws = "marrowby"

type service struct {
	t       *testing.T
	handler http.Handler
	h       *Handler
	now     time.Time
	person  *people.Person
	token   string // sent with every request
}

func open(t *testing.T) *service {
	t.Helper()
	d := dbtest.Open(t)
	s := &service{t: t, now: time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)}
	now := func() time.Time { return s.now }
	panel := readers.Panel()
	s.h = &Handler{Codes: code.New(ground.Ground{DB: d, Now: now, Seal: sealtest.Box(t)}, panel, readers.Version(panel)),
		People: &people.Store{DB: d, Now: now, Seal: sealtest.Box(t)}}
	s.h.Scans = &scans.Store{DB: d, Now: now}
	s.h.Links = link.New(s.h.Codes, "https://go.marrowby.example")
	s.h.Batches = &batches.Store{Codes: s.h.Codes, Links: s.h.Links}
	s.h.Door = &handover.Door{Codes: s.h.Codes, Records: records.Of(s.h.Codes), House: &housestyle.Store{DB: d, Now: now}}
	for _, id := range []string{ws, "other"} {
		if _, err := s.h.Codes.EnsureWorkspace(t.Context(), id, id); err != nil {
			t.Fatal(err)
		}
	}
	var err error
	if s.person, err = s.h.People.Register(t.Context(), "tamsin@marrowby.example", "Tamsin", ""); err != nil {
		t.Fatal(err)
	}
	r := chi.NewRouter()
	s.h.Routes(r)
	s.handler = r
	s.token = s.tokenFor(ws, people.Owner, people.Scopes...)
	return s
}

// tokenFor makes a token of the person in a workspace.
func (s *service) tokenFor(workspace string, role people.Role, scopes ...people.Scope) string {
	s.t.Helper()
	err := s.h.People.Join(s.t.Context(), workspace, s.person.ID, role)
	text := ""
	if err == nil {
		text, err = s.h.People.NewToken(s.t.Context(), &people.Present{Person: *s.person, Workspace: workspace, Role: role},
			"test", scopes, 30)
	}
	if err != nil {
		s.t.Fatal(err)
	}
	return text
}

func (s *service) send(method, path, body string, headers ...string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(method, "/api/v1"+path, strings.NewReader(body))
	if s.token != "" {
		r.Header.Set("Authorization", "Bearer "+s.token)
	}
	for i := 0; i+1 < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	w := httptest.NewRecorder()
	s.handler.ServeHTTP(w, r)
	s.described(r, body, w)
	if w.Code >= 500 { // whatever the test is about
		s.t.Errorf("%s %s answers %d %.300s", method, path, w.Code, w.Body)
	}
	return w
}

// described holds a request that was answered, and its answer, against the document, by an outside validator: what the API
// takes and gives is what it says.
func (s *service) described(r *http.Request, body string, w *httptest.ResponseRecorder) {
	s.t.Helper()
	v, err := documented()
	if err != nil {
		s.t.Fatal(err)
	}
	again := r.Clone(context.Background())
	again.Body, again.RequestURI = io.NopCloser(strings.NewReader(body)), ""
	if w.Code < 400 {
		if again.Header.Get("Content-Type") == "" && body != "" {
			again.Header.Set("Content-Type", mediaOfBody(body))
		}
		if ok, problems := v.ValidateHttpRequest(again); !ok {
			for _, p := range problems {
				s.t.Errorf("%s %s was answered %d; the document says: %s %s %v", r.Method, r.URL, w.Code, p.Message, p.Reason,
					p.SchemaValidationErrors)
			}
		}
	}
	again.Body = io.NopCloser(strings.NewReader(body))
	answer := w.Result()
	answer.Body = io.NopCloser(bytes.NewReader(w.Body.Bytes()))
	if ok, problems := v.ValidateHttpResponse(again, answer); !ok {
		for _, p := range problems {
			s.t.Errorf("%s %s answers %d otherwise than the document says: %s %s %v", r.Method, r.URL, w.Code, p.Message,
				p.Reason, p.SchemaValidationErrors)
		}
	}
}

// documented is the validator of the document, made once.
var documented = sync.OnceValues(func() (validator.Validator, error) {
	b, err := json.Marshal(Document())
	if err != nil {
		return nil, err
	}
	doc, err := libopenapi.NewDocument(b)
	if err != nil {
		return nil, err
	}
	v, errs := validator.NewValidator(doc)
	return v, errors.Join(errs...)
})

// mediaOfBody is what a client would call a body that tests send without a type.
func mediaOfBody(body string) string {
	switch {
	case strings.HasPrefix(body, "\x89PNG"):
		return "image/png"
	case strings.HasPrefix(body, "<"):
		return "image/svg+xml"
	case strings.HasPrefix(body, "%PDF"):
		return "application/pdf"
	case strings.HasPrefix(body, "\x00\x01\x00\x00"):
		return "font/ttf"
	}
	return "application/json"
}

// expect sends a request and decodes the answer.
func expect[T any](s *service, status int, method, path, body string, headers ...string) (out T, w *httptest.ResponseRecorder) {
	s.t.Helper()
	w = s.send(method, path, body, headers...)
	if w.Code != status {
		s.t.Fatalf("%s %s: %d %s, want %d", method, path, w.Code, w.Body, status)
	}
	if err := json.Unmarshal(w.Body.Bytes(), &out); err != nil {
		s.t.Fatalf("%s %s: %v in %s", method, path, err, w.Body)
	}
	return out, w
}

const gate = `{"name":"Gate poster","content":{"kind":"url","url":"https://marrowby.example/fair"},"placements":[{"name":"gate","width_mm":160,"distance_mm":1500},{"name":"card","medium":"business-card"}]}`

func TestDocument(t *testing.T) {
	b, err := json.Marshal(Document())
	if err != nil {
		t.Fatal(err)
	}
	doc, err := libopenapi.NewDocument(b)
	if err != nil {
		t.Fatal(err)
	}
	v, errs := validator.NewValidator(doc)
	if errs != nil {
		t.Fatal(errs)
	}
	if ok, problems := v.ValidateDocument(); !ok {
		for _, p := range problems {
			t.Errorf("%s: %s %v", p.Message, p.Reason, p.SchemaValidationErrors)
		}
	}
	if n := len(Document()["paths"].(map[string]any)); n < 8 {
		t.Errorf("%d paths", n)
	}
	if len(Operations()) != len(operations) {
		t.Error("the page lists other operations")
	}
}

// TestPatchesAsDescribed: of JSON Patch the document names four operations, and those are taken; move, copy and null are
// refused by both.
func TestPatchesAsDescribed(t *testing.T) {
	s := open(t)
	made, _ := expect[Code](s, 201, "POST", "/codes", `{"job":`+gate+`}`)
	for _, c := range []struct {
		patch  string
		status int
	}{
		{`[{"op":"add","path":"/name","value":"a"}]`, 200}, {`[{"op":"replace","path":"/name","value":"b"}]`, 200},
		{`[{"op":"test","path":"/name","value":"b"}]`, 200}, {`[{"op":"remove","path":"/name"}]`, 200}, {`[]`, 200},
		{`[{"op":"move","from":"/name","path":"/campaign"}]`, 422}, {`[{"op":"copy","from":"/name","path":"/campaign"}]`, 422},
		{`null`, 422}, {`{"op":"remove","path":"/name"}`, 422},
	} {
		t.Run(c.patch, func(t *testing.T) {
			if w := s.send("PATCH", "/codes/"+made.ID, c.patch); w.Code != c.status {
				t.Errorf("%s: %d %s, want %d", c.patch, w.Code, w.Body, c.status)
			}
		})
	}
}

func TestStateless(t *testing.T) {
	s := open(t)
	e, _ := expect[compose.Encoded](s, 200, "POST", "/encode", gate)
	if e.Payload != "https://marrowby.example/fair" || len(e.Matrix) != e.Size {
		t.Errorf("%+v", e)
	}
	m, _ := compose.Parse([]byte(gate), nil)
	for _, format := range compose.Formats {
		for i, place := range []string{"gate", "card"} {
			t.Run(place, func(t *testing.T) {
				want, _ := m.File(compose.MustFormat(format), m.Place(i), export.Meta{Title: m.Title(i), Payload: m.Payload})
				w := s.send("POST", "/draw?format="+format+"&placement="+place, gate)
				if w.Code != 200 || !bytes.Equal(w.Body.Bytes(), want) ||
					w.Header().Get("Content-Type") != compose.Types[format] {
					t.Errorf("%s at %s: %d, %d bytes", format, place, w.Code, w.Body.Len())
				}
			})
		}
	}
	picture := s.send("POST", "/draw?format=png", gate).Body.String()
	if f, _ := expect[readers.Found](s, 200, "POST", "/read", picture); len(f.Symbols) != 1 || f.Symbols[0].Payload != e.Payload {
		t.Errorf("read: %+v", f)
	}
	if p, _ := expect[map[string]any](s, 200, "POST", "/prove", gate); p["verdict"] != "safe" {
		t.Errorf("prove: %v", p["verdict"])
	}
}

// TestAssets: an upload is named by what is kept of it, and jobs of its workspace wear it.
func TestAssets(t *testing.T) {
	s := open(t)
	const logo = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 30 20"><script>alert(1)</script><path d="M0 0H30V20H0z" fill="#12594a"/></svg>`
	a, _ := expect[Asset](s, 201, "POST", "/assets?name=logo.svg", logo)
	if !strings.HasPrefix(a.Source, "asset:sha256-") || a.Name != "logo.svg" || a.Aspect != 1.5 || len(a.Left) != 1 {
		t.Errorf("%+v", a)
	}
	if again, _ := expect[Asset](s, 201, "POST", "/assets?name=logo.svg", logo); again.Source != a.Source {
		t.Errorf("the same file is kept as %s and %s", a.Source, again.Source)
	}
	marked := strings.Replace(gate, `"look":{`, `"look":{"mark":{"source":"`+a.Source+`","width":0.2},`, 1)
	if !strings.Contains(marked, a.Source) {
		marked = strings.Replace(gate, `"placements"`, `"look":{"mark":{"source":"`+a.Source+`","width":0.2}},"placements"`, 1)
	}
	e, _ := expect[compose.Encoded](s, 200, "POST", "/encode", marked)
	if e.Mark == nil || e.Mark.Reserve < 0.35 || len(e.Mark.Blocks) == 0 {
		t.Errorf("%+v", e.Mark)
	}
	if w := s.send("POST", "/draw?format=svg", marked); w.Code != 200 || !strings.Contains(w.Body.String(), "#12594a") ||
		strings.Contains(w.Body.String(), "script") {
		t.Errorf("drawn: %d %s", w.Code, w.Body)
	}
	board, _ := expect[Asset](s, 201, "POST", "/assets?as=artwork&name=board.svg",
		`<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm"><path d="M0 0h50v50z"/></svg>`)
	if board.Source == "" || board.Aspect != 2 {
		t.Errorf("artwork: %+v", board)
	}
	lies := `{"content":{"kind":"url","url":"https://marrowby.example/fair"},"placements":[{"name":"a","width_mm":30,"artwork":{"source":"` + board.Source + `","x_mm":10,"y_mm":10}}]}`
	if w := s.send("POST", "/draw?format=sheet-pdf", lies); w.Code != 200 ||
		w.Header().Get("Content-Type") != "application/pdf" || !strings.HasPrefix(w.Body.String(), "%PDF") {
		t.Errorf("the whole: %d %.80s", w.Code, w.Body)
	}
	if w := s.send("POST", "/draw?format=pdfx", lies); w.Code != 200 || !strings.Contains(w.Body.String(), "PDF/X-1a:2003") {
		t.Errorf("for a press: %d %.80s", w.Code, w.Body)
	}
	font, err := os.ReadFile("../core/typeface/fonts/caveat.ttf")
	if err != nil {
		t.Fatal(err)
	}
	if face, _ := expect[Asset](s, 201, "POST", "/assets?as=typeface", string(font)); face.Name != "Caveat Bold" {
		t.Errorf("typeface: %+v", face)
	}
	expect[Details](s, 422, "POST", "/assets?as=poem", logo)
	for body, says := range map[string]string{"": "is empty", "GIF89a": "is a GIF", "words": "is none of"} {
		t.Run(body, func(t *testing.T) {
			if d, _ := expect[Details](s, 422, "POST", "/assets", body); !strings.Contains(fmt.Sprint(d), says) {
				t.Errorf("%q: %+v", body, d)
			}
		})
	}
	expect[Details](s, 422, "POST", "/encode", strings.Replace(marked, a.Source, "asset:sha256-0", 1))
}

func TestCodes(t *testing.T) {
	s := open(t)
	made, w := expect[Code](s, 201, "POST", "/codes", `{"campaign":"Bulb Fair 2027","job":`+gate+`}`)
	path := "/codes/" + made.ID
	if w.Header().Get("Location") != "/api/v1"+path || made.Campaign != "Bulb Fair 2027" || made.Rev != 0 ||
		w.Header().Get("ETag") != `"0"` {
		t.Errorf("%+v %v", made, w.Header())
	}
	if w := s.send("GET", path, "", "If-None-Match", `"0"`); w.Code != 304 || w.Body.Len() > 0 {
		t.Errorf("not changed: %d", w.Code)
	}
	changed, w := expect[Code](s, 200, "PATCH", path, `[{"op":"add","path":"/look/ink","value":"#12352b"}]`, "If-Match", `"0"`)
	if changed.Rev != 1 || w.Header().Get("ETag") != `"1"` ||
		fmt.Sprint(changed.Job.(map[string]any)["look"]) != "map[ink:#12352b]" {
		t.Errorf("%+v", changed)
	}
	expect[Details](s, 412, "PATCH", path, `[{"op":"add","path":"/name","value":"x"}]`, "If-Match", `"0"`)
	v, _ := expect[Version](s, 200, "POST", path+"/versions", "")
	if again, _ := expect[Version](s, 200, "POST", path+"/versions", ""); v.N != 1 || again.N != 1 {
		t.Errorf("issued %d, then %d", v.N, again.N)
	}
	file := s.send("GET", path+"/versions/1/file?format=svg&placement=card", "")
	if file.Code != 200 || !strings.Contains(file.Body.String(), `width="22mm"`) ||
		!strings.Contains(file.Body.String(), "#12352b") {
		t.Errorf("the file of version 1: %d %.200s", file.Code, file.Body)
	}
	bad, _ := expect[Code](s, 200, "PATCH", path, `[{"op":"replace","path":"/content/url","value":"javascript:x"}]`)
	if len(bad.Problems) != 1 || bad.Problems[0].Field != "/content/url" || bad.Payload != "https://marrowby.example/fair" {
		t.Errorf("a draft that cannot be made: %+v", bad)
	}
	if d, _ := expect[Details](s, 422, "POST", path+"/versions", ""); len(d.Problems) != 1 {
		t.Errorf("issuing it: %+v", d)
	}
	for i := range 5 {
		s.now = s.now.Add(time.Second)
		expect[Code](s, 201, "POST", "/codes", strings.Replace(`{"job":`+gate+`}`, "/fair", fmt.Sprintf("/fair-%d", i), 1))
	}
	seen, cursor, pages := map[string]bool{}, "", 0
	for {
		p, _ := expect[Listing](s, 200, "GET", "/codes?limit=2&cursor="+cursor, "")
		pages++
		for _, c := range p.Codes {
			if seen[c.ID] {
				t.Errorf("%s comes twice", c.ID)
			}
			seen[c.ID] = true
		}
		if cursor = p.Next; cursor == "" {
			break
		}
	}
	if len(seen) != 6 || pages != 3 {
		t.Errorf("%d codes in %d pages", len(seen), pages)
	}
	if p, _ := expect[Listing](s, 200, "GET", "/codes?q=fair-3", ""); len(p.Codes) != 1 {
		t.Errorf("%d codes found", len(p.Codes))
	}
	s.token = s.tokenFor("other", people.Owner, people.Scopes...)
	expect[Details](s, 404, "GET", path, "")
	expect[Details](s, 404, "PATCH", path, `[{"op":"add","path":"/name","value":"x"}]`)
	expect[Details](s, 404, "GET", path+"/versions/1", "")
	if p, _ := expect[Listing](s, 200, "GET", "/codes", ""); len(p.Codes) != 0 {
		t.Errorf("another workspace sees %d codes", len(p.Codes))
	}
}

// TestRefusals: every refusal is a problem document with its status, and the field where there is one.
func TestRefusals(t *testing.T) {
	s := open(t)
	owner := s.token
	reader := s.tokenFor(ws, people.Owner, people.ScopeRead)
	for _, c := range []struct {
		token, method, path, body string
		status                    int
		field                     string
	}{
		{"", "POST", "/encode", gate, 401, ""},
		{"sodrik_nonsense", "POST", "/encode", gate, 401, ""},
		{"nonsense", "POST", "/encode", gate, 401, ""},
		{reader, "POST", "/encode", gate, 403, ""},
		{reader, "POST", "/codes", `{}`, 403, ""},
		{owner, "POST", "/encode", "", 422, ""},
		{owner, "POST", "/encode", `{"look":{}}`, 422, "/content"},
		{owner, "POST", "/encode", strings.Replace(gate, "https://marrowby", "javascript:", 1), 422, "/content/url"},
		{owner, "POST", "/draw", gate, 422, "/format"},
		{owner, "POST", "/draw?format=svg&placement=moon", gate, 422, "/placements"},
		{owner, "POST", "/read", "not a picture", 422, ""},
		{owner, "POST", "/encode", strings.Repeat(" ", 2<<20), 413, ""},
		{owner, "POST", "/read", strings.Repeat("x", 21<<20), 413, ""},
		{owner, "POST", "/codes", `{"job":{}}`, 422, "/job/content"},
		{owner, "POST", "/codes", `{"jobs":{}}`, 422, ""},
		{owner, "GET", "/codes?limit=0", "", 422, "/limit"},
		{owner, "GET", "/codes?cursor=!", "", 422, "/cursor"},
		{owner, "GET", "/codes?state=lost", "", 422, "/state"},
		{owner, "GET", "/codes/nowhere", "", 404, ""},
		{owner, "PATCH", "/codes/nowhere", `{`, 422, ""},
		{owner, "GET", "/codes/nowhere/versions/x", "", 404, ""},
	} {
		t.Run(c.token, func(t *testing.T) {
			s.token = c.token
			d, w := expect[Details](s, c.status, c.method, c.path, c.body)
			if w.Header().Get("Content-Type") != "application/problem+json" || d.Status != c.status || d.Title == "" {
				t.Errorf("%s %s: %+v", c.method, c.path, d)
			}
			if c.field != "" && (len(d.Problems) == 0 || d.Problems[0].Field != c.field) {
				t.Errorf("%s %s: %+v, want a problem at %s", c.method, c.path, d, c.field)
			}
			if c.status == 401 && !strings.HasPrefix(w.Header().Get("WWW-Authenticate"), "Bearer") {
				t.Errorf("%s %s: no WWW-Authenticate", c.method, c.path)
			}
		})
	}
}

// TestTokens: a token ends with its time, with its person's membership, and loses what the role no longer allows.
func TestTokens(t *testing.T) {
	s := open(t)
	if w := s.send("GET", "/codes", ""); w.Code != 200 || w.Header().Get("RateLimit-Limit") != fmt.Sprint(people.PerMinute) {
		t.Fatalf("%d %v", w.Code, w.Header())
	}
	for range people.PerMinute {
		s.send("GET", "/codes?limit=1", "")
	}
	if w := s.send("GET", "/codes", ""); w.Code != 429 || w.Header().Get("Retry-After") == "" ||
		w.Header().Get("RateLimit-Remaining") != "0" {
		t.Errorf("after %d requests in a minute: %d %v", people.PerMinute, w.Code, w.Header())
	}
	s.now = s.now.Add(time.Minute)
	if w := s.send("GET", "/codes", ""); w.Code != 200 {
		t.Errorf("in the next minute: %d", w.Code)
	}
	other, err := s.h.People.Register(t.Context(), "idris@marrowby.example", "Idris", "")
	if err == nil {
		err = s.h.People.Join(t.Context(), ws, other.ID, people.Owner)
	}
	if err == nil {
		err = s.h.People.SetRole(t.Context(), ws, s.person.ID, people.Viewer)
	}
	if err != nil {
		t.Fatal(err)
	}
	if w := s.send("POST", "/codes", `{"job":`+gate+`}`); w.Code != 403 {
		t.Errorf("a viewer's token makes codes: %d", w.Code)
	}
	if w := s.send("GET", "/codes", ""); w.Code != 200 {
		t.Errorf("and reads them: %d", w.Code)
	}
	if err := s.h.People.SetRole(t.Context(), ws, s.person.ID, ""); err != nil {
		t.Fatal(err)
	}
	if w := s.send("GET", "/codes", ""); w.Code != 401 {
		t.Errorf("after leaving: %d", w.Code)
	}
	if err := s.h.People.Join(t.Context(), ws, s.person.ID, people.Editor); err != nil {
		t.Fatal(err)
	}
	s.now = s.now.AddDate(0, 0, 31)
	if w := s.send("GET", "/codes", ""); w.Code != 401 {
		t.Errorf("after its time: %d", w.Code)
	}
}

func TestIdempotency(t *testing.T) {
	s := open(t)
	body := `{"job":` + gate + `}`
	first, _ := expect[Code](s, 201, "POST", "/codes", body, "Idempotency-Key", "k1")
	again, w := expect[Code](s, 201, "POST", "/codes", body, "Idempotency-Key", "k1")
	if again.ID != first.ID || w.Header().Get("Idempotency-Replayed") != "true" ||
		w.Header().Get("Location") != "/api/v1/codes/"+first.ID {
		t.Errorf("%s, then %s, %v", first.ID, again.ID, w.Header())
	}
	expect[Details](s, 409, "POST", "/codes", strings.Replace(body, "fair", "other", 1), "Idempotency-Key", "k1")
	if other, _ := expect[Code](s, 201, "POST", "/codes", body, "Idempotency-Key", "k2"); other.ID == first.ID {
		t.Error("another key gave the same code")
	}
	bad, _ := expect[Details](s, 422, "POST", "/codes", `{"job":{}}`, "Idempotency-Key", "k3")
	if replayed, _ := expect[Details](s, 422, "POST", "/codes", `{"job":{}}`, "Idempotency-Key",
		"k3"); replayed.Detail != bad.Detail {
		t.Error("a refusal is not given again")
	}
	s.now = s.now.AddDate(0, 0, 2)
	if later, _ := expect[Code](s, 201, "POST", "/codes", body, "Idempotency-Key", "k1"); later.ID == first.ID {
		t.Error("a key is kept for more than a day")
	}
}
