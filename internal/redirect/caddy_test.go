package redirect

import (
	"context"
	"crypto/tls"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"sodrik/internal/core/leads"
)

// TestProxy: Debian's Caddy in front has a certificate made for a host once we say that it is ours, for no other, and leads
// people through.
func TestProxy(t *testing.T) {
	w := start(t)
	w.bring("seed.example/", leads.Standing{Ours: true}.Encode())
	w.live("seed.example/FA1R", fair, "gate")
	answers, asked := httptest.NewServer(w.s), httptest.NewServer(w.s.Certificates())
	defer answers.Close()
	defer asked.Close()
	dir := t.TempDir()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	at := l.Addr().String()
	l.Close()
	_, port, _ := net.SplitHostPort(at)
	file := filepath.Join(dir, "Caddyfile")
	if err := os.WriteFile(file, fmt.Appendf(nil, `{
	admin off
	auto_https disable_redirects
	skip_install_trust
	on_demand_tls {
		ask %s
	}
}
https://:%s {
	bind 127.0.0.1
	tls {
		on_demand
		issuer internal
	}
	reverse_proxy %s
}
`, asked.URL, port, answers.Listener.Addr()), 0o600); err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(t.Context())
	c := exec.CommandContext(ctx, "caddy", "run", "--adapter", "caddyfile", "--config", file)
	c.Env = append(os.Environ(), "HOME="+dir, "XDG_DATA_HOME="+dir, "XDG_CONFIG_HOME="+dir)
	c.Cancel = func() error { return c.Process.Signal(os.Interrupt) }
	c.WaitDelay = 10 * time.Second
	said, err := os.Create(filepath.Join(dir, "log"))
	if err != nil {
		t.Fatal(err)
	}
	c.Stdout, c.Stderr = said, said
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		stop()
		c.Wait()
		if text, err := os.ReadFile(said.Name()); err == nil && t.Failed() {
			t.Logf("caddy said: %s", text)
		}
	})
	ask := func(host string) (*http.Response, error) {
		client := &http.Client{Timeout: 10 * time.Second, Transport: &http.Transport{DisableKeepAlives: true,
			TLSClientConfig: &tls.Config{InsecureSkipVerify: true, ServerName: host}, // its authority is made up here
			DialContext: func(ctx context.Context, _, _ string) (net.Conn, error) {
				return (&net.Dialer{}).DialContext(ctx, "tcp", at)
			}}, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
		r, err := client.Get("https://" + host + "/fa1r")
		if err == nil {
			r.Body.Close()
		}
		return r, err
	}
	var r *http.Response
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		if r, err = ask("seed.example"); err == nil {
			break
		}
	}
	if err != nil || r.StatusCode != http.StatusFound || r.Header.Get("Location") != "https://marrowby.example/fair?a=b#map" {
		t.Fatalf("through the proxy: %v %v", r, err)
	}
	if got := r.TLS.PeerCertificates[0].DNSNames; len(got) != 1 || got[0] != "seed.example" {
		t.Errorf("the certificate is for %v", got)
	}
	if r, err := ask("other.example"); err == nil {
		t.Errorf("a host that is not ours has a certificate, and answers %d", r.StatusCode)
	}
}
