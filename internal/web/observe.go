package web

import (
	"context"
	"crypto/rand"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"sodrik/internal/db"
)

// Metrics are what a Prometheus server reads at /metrics. Labels are route patterns, never addresses or identifiers.
type Metrics struct {
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	seconds  *prometheus.HistogramVec

	// Ready says why this process is not ready beside what the database says; nil: nothing can keep it
	Ready func() error
}

// NewMetrics makes the counts of one process. d is nil where it has no database.
func NewMetrics(d *db.DB) *Metrics {
	m := &Metrics{registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "sodrik_http_requests_total",
			Help: "Requests answered, by route, method and status."}, []string{"route", "method", "status"}),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "sodrik_http_request_seconds",
			Help:    "Time to answer, by route and method.",
			Buckets: []float64{.002, .005, .01, .015, .025, .05, .1, .25, .5, 1, 2.5, 5, 15}}, []string{"route", "method"})}
	m.registry.MustRegister(m.requests, m.seconds, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	if d != nil {
		m.Gauge("sodrik_database_connections", "Connections in use.",
			func() float64 { return float64(d.Pool.Stat().AcquiredConns()) })
	}
	return m
}

// Gauge adds a figure that goes up and down.
func (m *Metrics) Gauge(name, help string, now func() float64) {
	m.registry.MustRegister(prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, now))
}

// Count adds a figure that only grows.
func (m *Metrics) Count(name, help string, now func() int64) {
	m.registry.MustRegister(prometheus.NewCounterFunc(prometheus.CounterOpts{Name: name, Help: help},
		func() float64 { return float64(now()) }))
}

// Handler answers a Prometheus server. It belongs on a listener of its own, which nobody else reaches.
func (m *Metrics) Handler() http.Handler {
	r := chi.NewRouter()
	counts := promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{})
	r.Get("/readyz", func(w http.ResponseWriter, r *http.Request) {
		if err := m.notReady(); err != nil {
			http.Error(w, err.Error(), http.StatusServiceUnavailable)
			return
		}
		w.Write([]byte("ready\n"))
	})
	r.Handle("/*", counts)
	return r
}

func (m *Metrics) notReady() error {
	if m.Ready == nil {
		return nil
	}
	return m.Ready()
}

// methodOf is a method as a label: anybody can make up others, each of which would be counted apart and kept for good.
func methodOf(r *http.Request) string {
	switch r.Method {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete,
		http.MethodOptions:
		return r.Method
	}
	return "other"
}

type requestKey struct{}

// RequestID is the id under which a request stands in the log and in its answer.
func RequestID(ctx context.Context) string { s, _ := ctx.Value(requestKey{}).(string); return s }

// observe gives each request an id, counts it, and logs it: method, route, status, time, never a query, a body, a cookie or
// anything else that may hold a secret.
func (m *Metrics) observe(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		id := r.Header.Get("X-Request-Id")
		if len(id) > 64 || strings.Trim(id, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_") != "" ||
			id == "" {
			id = strings.ToLower(rand.Text()[:16])
		}
		w.Header().Set("X-Request-Id", id)
		rec := &statusWriter{ResponseWriter: w, status: http.StatusOK}
		start := time.Now()
		r = r.WithContext(context.WithValue(r.Context(), requestKey{}, id))
		next.ServeHTTP(rec, r)
		route := "none"
		if c := chi.RouteContext(r.Context()); c != nil && c.RoutePattern() != "" && rec.status != http.StatusNotFound {
			route = c.RoutePattern()
		}
		if r.Context().Err() == context.Canceled && (rec.status >= 500 || !rec.wrote) {
			rec.status = left
		}
		took := time.Since(start)
		method := methodOf(r)
		m.requests.WithLabelValues(route, method, strconv.Itoa(rec.status)).Inc()
		m.seconds.WithLabelValues(route, method).Observe(took.Seconds())
		level := slog.LevelInfo
		if rec.status == http.StatusServiceUnavailable { // busy, or the database is away, which says so itself
			level = slog.LevelWarn
		} else if rec.status >= 500 {
			level = slog.LevelError
		} else if route == "/static/*" || route == "/healthz" || route == "/readyz" {
			level = slog.LevelDebug
		}
		slog.Log(r.Context(), level, "request", "id", id, "method", method, "route", route, "status", rec.status, "ms",
			float64(took.Microseconds())/1000, "bytes", rec.bytes)
	})
}

// left is the status of a request whose browser went away before there was an answer, as when the next key is typed: nobody sees
// it, and nothing has failed. No standard has a number for that; several servers log this one.
const left = 499

// statusWriter notes what was answered.
type statusWriter struct {
	http.ResponseWriter
	status, bytes int
	wrote         bool
}

func (s *statusWriter) WriteHeader(status int) {
	if !s.wrote {
		s.status, s.wrote = status, true
	}
	s.ResponseWriter.WriteHeader(status)
}

func (s *statusWriter) Write(b []byte) (int, error) {
	s.wrote = true
	n, err := s.ResponseWriter.Write(b)
	s.bytes += n
	return n, err
}

// Flush sends what was written so far: what lies between asks for a http.Flusher and looks no further.
func (s *statusWriter) Flush() { http.NewResponseController(s.ResponseWriter).Flush() }

// Unwrap lets http.ResponseController through.
func (s *statusWriter) Unwrap() http.ResponseWriter { return s.ResponseWriter }
