// Package client says from which address a request comes. Proxies of ours are believed, nobody else.
package client

import (
	"net"
	"net/http"
	"net/netip"
	"strings"
)

// Of is the address of whoever asks: the last in X-Forwarded-For that is not within the networks of our proxies, or the other end
// of the connection where that is none. The zero value is one that cannot be read.
func Of(r *http.Request, proxies []netip.Prefix) netip.Addr {
	trusted := func(a netip.Addr) bool {
		for _, p := range proxies {
			if p.Contains(a) {
				return true
			}
		}
		return false
	}
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		host = r.RemoteAddr
	}
	at, err := netip.ParseAddr(host)
	if err != nil {
		return netip.Addr{}
	}
	at = at.Unmap().WithZone("")
	if !trusted(at) {
		return at
	}
	hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for i := len(hops) - 1; i >= 0; i-- {
		hop, err := netip.ParseAddr(strings.TrimSpace(hops[i]))
		if err != nil {
			break
		}
		if at = hop.Unmap().WithZone(""); !trusted(at) {
			break
		}
	}
	return at
}
