package web

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/go-chi/chi/v5/middleware"
)

// TestLogAndMetrics: every request has an id, is logged by its route and counted, and nothing that may be secret is in
// either.
func TestLogAndMetrics(t *testing.T) {
	s := open(t)
	var log bytes.Buffer
	old := slog.Default()
	slog.SetDefault(slog.New(slog.NewJSONHandler(&log, nil)))
	defer slog.SetDefault(old)
	w := s.send("POST", "/find", url.Values{"text": {"marrowby.example/hush-hush"}}, "X-Request-Id", "abc-123")
	if w.Header().Get("X-Request-Id") != "abc-123" {
		t.Errorf("id %q", w.Header().Get("X-Request-Id"))
	}
	s.send("GET", "/sign-in?next=/hush-hush", nil)
	s.send("POST", "/sign-in", url.Values{"email": {"hush@marrowby.example"}, "password": {"hush-hush"}})
	s.send("GET", "/first/hush-hush", nil)
	if w := s.send("GET", "/codes", nil, "X-Request-Id", "two words"); len(w.Header().Get("X-Request-Id")) != 16 {
		t.Errorf("an id of its own: %q", w.Header().Get("X-Request-Id"))
	}
	text := log.String()
	for _, want := range []string{`"id":"abc-123"`, `"route":"/find"`, `"route":"/first/{secret}"`, `"status":200`,
		`"method":"POST"`} {
		t.Run(want, func(t *testing.T) {
			if !strings.Contains(text, want) {
				t.Errorf("the log has no %s:\n%s", want, text)
			}
		})
	}
	if strings.Contains(text, "hush") {
		t.Errorf("the log holds what it must not:\n%s", text)
	}
	read := func() string {
		rec := httptest.NewRecorder()
		s.metrics.Handler().ServeHTTP(rec, httptest.NewRequest("GET", "/", nil))
		return rec.Body.String()
	}
	if body := read(); !strings.Contains(body, `sodrik_http_requests_total{method="POST",route="/find",status="200"} 1`) ||
		strings.Contains(body, "hush") {
		t.Errorf("metrics: %.300s", body)
	}
	gone, leave := context.WithCancel(t.Context())
	leave()
	log.Reset()
	r := httptest.NewRequest("GET", "/codes", nil).WithContext(gone)
	r.AddCookie(s.cookie)
	s.handler.ServeHTTP(httptest.NewRecorder(), r)
	if !strings.Contains(log.String(), `"level":"INFO"`) || !strings.Contains(log.String(), `"status":499`) {
		t.Errorf("whoever went away is logged as %s", log.String())
	}
	if w := s.send("HEAD", "/codes", nil); w.Code != 200 || s.send("HEAD", "/nowhere", nil).Code != 404 {
		t.Errorf("HEAD is answered %d", w.Code)
	}
	before := len(read())
	for i := range 300 {
		s.send(fmt.Sprintf("M%d", i), "/codes", nil)
	}
	if body := read(); len(body) > before+2000 || !strings.Contains(body, `method="other"`) {
		t.Errorf("300 made-up methods make %d bytes of %d", len(body), before)
	}
	if w := s.send("GET", "/metrics", nil); w.Code != http.StatusNotFound {
		t.Errorf("metrics among the pages: %d", w.Code)
	}
	if w := s.send("GET", "/readyz", nil); w.Code != 200 {
		t.Errorf("ready: %d", w.Code)
	}
	s.closed = true
	s.store.DB.Close()
	if w := s.send("GET", "/readyz", nil); w.Code != http.StatusServiceUnavailable {
		t.Errorf("ready without a database: %d", w.Code)
	}
	if w := s.send("GET", "/healthz", nil); w.Code != 200 {
		t.Errorf("alive without a database: %d", w.Code)
	}
}

// TestFlushed: what is sent piece by piece leaves piece by piece, through all that stands around the pages.
func TestFlushed(t *testing.T) {
	m := NewMetrics(nil)
	sent := make(chan struct{})
	h := m.observe(middleware.Compress(packing, "text/html")(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/event-stream")
		io.WriteString(w, "data: 1\n\n")
		if err := http.NewResponseController(w).Flush(); err != nil {
			t.Error(err)
		}
		<-sent
	})))
	s := httptest.NewServer(h)
	defer s.Close()
	r, err := http.Get(s.URL)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	line, err := bufio.NewReader(r.Body).ReadString('\n')
	if err != nil || line != "data: 1\n" {
		t.Errorf("%q, %v", line, err)
	}
	close(sent)
}
