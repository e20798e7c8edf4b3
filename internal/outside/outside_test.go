package outside

import (
	"crypto/tls"
	"crypto/x509"
	"errors"
	"net/http"
	"net/http/httptest"
	"testing"
)

func TestPublic(t *testing.T) {
	for address, want := range map[string]bool{"8.8.8.8:443": true, "[2606:4700::1]:443": true, "127.0.0.1:80": false,
		"10.1.2.3:80":   false,
		"172.31.0.1:80": false, "192.168.0.1:80": false, "169.254.169.254:80": false, "100.64.0.1:80": false, "0.0.0.0:80": false,
		"224.0.0.1:80": false, "255.255.255.255:80": false, "[::1]:80": false, "[fe80::1]:80": false, "[fd00::1]:80": false,
		"[::ffff:127.0.0.1]:80": false, "[64:ff9b::7f00:1]:80": false, "192.0.2.1:80": false, "198.18.0.1:80": false,
		"[fec0::1]:80": false, "[::7f00:1]:80": false, "[::ffff:0:7f00:1]:80": false, "[100::1]:80": false, "[2001::1]:80": false,
		"[3fff::1]:80": false, "[5f00::1]:80": false, "192.88.99.1:80": false,
		"no address": false} {
		t.Run(address, func(t *testing.T) {
			if err := public(address); (err == nil) != want {
				t.Errorf("%s: %v", address, err)
			}
		})
	}
}

// TestAsk: this machine is not asked, by no name; of others the first step is told.
func TestAsk(t *testing.T) {
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/fair":
			http.Redirect(w, r, "/next", http.StatusMovedPermanently)
		case "/broken":
			w.WriteHeader(500)
		}
	}))
	defer s.Close()
	a := New()
	if _, err := a.Ask(t.Context(), s.URL+"/fair"); !errors.Is(err, ErrPrivate) {
		t.Errorf("this machine is asked: %v", err)
	}
	a.client.Transport = http.DefaultTransport
	for path, want := range map[string]string{"/fair": s.URL + "/next", "/next": "", "/none": ""} {
		t.Run(path, func(t *testing.T) {
			if to, err := a.Ask(t.Context(), s.URL+path); to != want || err != nil {
				t.Errorf("%s leads to %q, %v", path, to, err)
			}
		})
	}
	if _, err := a.Ask(t.Context(), s.URL+"/broken"); err == nil {
		t.Error("a server in trouble leads nowhere, as if it had said so")
	}
}

// TestStatus: redirects are followed to their end, not for ever, and never to this machine.
func TestStatus(t *testing.T) {
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/fair":
			http.Redirect(w, r, "/gone", http.StatusFound)
		case "/gone":
			w.WriteHeader(http.StatusGone)
		case "/round":
			http.Redirect(w, r, "/round", http.StatusFound)
		}
	}))
	defer s.Close()
	a := New()
	if _, err := a.Status(t.Context(), s.URL+"/fair"); !errors.Is(err, ErrPrivate) {
		t.Errorf("this machine is asked: %v", err)
	}
	a.client.Transport = http.DefaultTransport
	for path, want := range map[string]int{"/fair": 410, "/": 200} {
		t.Run(path, func(t *testing.T) {
			if got, err := a.Status(t.Context(), s.URL+path); got != want || err != nil {
				t.Errorf("%s answers %d, %v", path, got, err)
			}
		})
	}
	if _, err := a.Status(t.Context(), s.URL+"/round"); err == nil {
		t.Error("what leads to itself has an end")
	}
}

// TestCertificate: the end of the certificate that a host shows is told; this machine is not asked.
func TestCertificate(t *testing.T) {
	s := httptest.NewTLSServer(http.NotFoundHandler())
	defer s.Close()
	a := New()
	if _, err := a.Certificate(t.Context(), "127.0.0.1"); !errors.Is(err, ErrPrivate) {
		t.Errorf("this machine is asked: %v", err)
	}
	a.dial.Control = nil
	pool := x509.NewCertPool()
	pool.AddCert(s.Certificate())
	ends, err := a.certificate(t.Context(), s.Listener.Addr().String(), &tls.Config{RootCAs: pool, ServerName: "example.com"})
	if err != nil || !ends.Equal(s.Certificate().NotAfter) {
		t.Errorf("it ends %v, %v", ends, err)
	}
	if _, err := a.certificate(t.Context(), s.Listener.Addr().String(), &tls.Config{ServerName: "example.com"}); err == nil {
		t.Error("a certificate that nobody trusts is believed")
	}
}
