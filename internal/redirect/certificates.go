package redirect

import (
	"net"
	"net/http"
	"strings"
)

// Certificates answers a proxy that asks, before it has a certificate made, whether a host is ours: 200 if it is, 404 if not,
// with ?domain= as Caddy's on_demand_tls asks. It is for an address that only the proxy reaches.
func (s *Service) Certificates() http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := strings.ToLower(r.URL.Query().Get("domain"))
		_, ours := s.Answers(host)
		for h := range s.ours { // the settings may name a host with its port
			if name, _, err := net.SplitHostPort(h); err == nil && name == host {
				ours = true
			}
		}
		if !ours {
			http.Error(w, "not one of ours", http.StatusNotFound)
			return
		}
		w.Write([]byte("ours\n"))
	})
}
