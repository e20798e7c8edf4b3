package e2e

import (
	"fmt"
	"net/http"
	"sync"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/core/export"
)

var meta = export.Meta{}

// faults are the answers of a server that say that it failed. No test may cause one that it did not mean to.
type faults struct {
	mu   sync.Mutex
	list []string
}

// take gives what has come since the last time.
func (f *faults) take() []string {
	f.mu.Lock()
	defer f.mu.Unlock()
	list := f.list
	f.list = nil
	return list
}

// watch notes them.
func (f *faults) watch(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		rec := &statusOf{ResponseWriter: w}
		next.ServeHTTP(rec, r)
		if rec.status >= 500 && r.Context().Err() == nil {
			route := r.URL.Path
			if c := chi.RouteContext(r.Context()); c != nil {
				route = c.RoutePattern()
			}
			f.mu.Lock()
			defer f.mu.Unlock()
			f.list = append(f.list, fmt.Sprintf("%d to %s %s: %.200s", rec.status, r.Method, route, rec.body))
		}
	})
}

type statusOf struct {
	http.ResponseWriter
	status int
	body   []byte
}

func (s *statusOf) WriteHeader(status int) {
	if s.status == 0 {
		s.status = status
	}
	s.ResponseWriter.WriteHeader(status)
}

func (s *statusOf) Write(b []byte) (int, error) {
	if s.status >= 500 {
		s.body = append(s.body, b...)
	}
	return s.ResponseWriter.Write(b)
}

func (s *statusOf) Unwrap() http.ResponseWriter { return s.ResponseWriter }
