// Package outside asks web servers of others, where whoever runs this one has allowed it. It never reaches this machine or the
// networks around it, whatever a name resolves to, and follows nothing.
package outside

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"syscall"
	"time"
)

// ErrPrivate is that an address lies within a network that is not everybody's.
var ErrPrivate = errors.New("the address is not a public one")

// Asker asks. The zero value asks nobody; New gives one.
type Asker struct {
	client *http.Client
	dial   *net.Dialer
}

// New gives an asker, which reaches public addresses, and those of networks that are allowed.
func New(allowed ...netip.Prefix) *Asker {
	dial := &net.Dialer{
		Timeout: 3 * time.Second,
		Control: func(_, address string, _ syscall.RawConn) error { return reachable(address, allowed) },
	}
	return &Asker{client: &http.Client{Timeout: 10 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error {
		return http.ErrUseLastResponse
	}, Transport: &http.Transport{DialContext: dial.DialContext, Proxy: nil, MaxResponseHeaderBytes: 64 << 10,
		ResponseHeaderTimeout: 5 * time.Second, TLSHandshakeTimeout: 3 * time.Second, DisableKeepAlives: true}}, dial: dial}
}

// reachable refuses addresses that are neither public nor of a network that is allowed.
func reachable(address string, allowed []netip.Prefix) error {
	if at, err := netip.ParseAddrPort(address); err == nil {
		for _, p := range allowed {
			if p.Contains(at.Addr().Unmap()) {
				return nil
			}
		}
	}
	return public(address)
}

// public refuses addresses that are not everybody's. It is asked once a name is resolved, so that no name leads around it.
func public(address string) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return err
	}
	a := at.Addr().Unmap()
	if !a.IsGlobalUnicast() || a.IsPrivate() {
		return ErrPrivate
	}
	for _, p := range special {
		if p.Contains(a) {
			return ErrPrivate
		}
	}
	return nil
}

// special are networks that are global by form and nobody's in fact (the special-purpose registries of IANA, RFC 6890; RFC
// 3879, 4291 (2.5.5.1), 2765, 6666, 9637, 9602, 7526, 7535 and 7534).
var special = []netip.Prefix{netip.MustParsePrefix("0.0.0.0/8"), netip.MustParsePrefix("100.64.0.0/10"),
	netip.MustParsePrefix("192.0.0.0/24"), netip.MustParsePrefix("192.0.2.0/24"), netip.MustParsePrefix("198.18.0.0/15"),
	netip.MustParsePrefix("198.51.100.0/24"), netip.MustParsePrefix("203.0.113.0/24"), netip.MustParsePrefix("240.0.0.0/4"),
	netip.MustParsePrefix("64:ff9b::/96"), netip.MustParsePrefix("64:ff9b:1::/48"), netip.MustParsePrefix("2001:db8::/32"),
	netip.MustParsePrefix("2002::/16"), netip.MustParsePrefix("fec0::/10"), netip.MustParsePrefix("::/96"),
	netip.MustParsePrefix("::ffff:0:0:0/96"), netip.MustParsePrefix("100::/64"), netip.MustParsePrefix("2001::/23"),
	netip.MustParsePrefix("3fff::/20"), netip.MustParsePrefix("5f00::/16"), netip.MustParsePrefix("192.88.99.0/24"),
	netip.MustParsePrefix("192.31.196.0/24"), netip.MustParsePrefix("192.52.193.0/24"), netip.MustParsePrefix("192.175.48.0/24")}

// Ask asks for an address, and gives where it leads, one step; "" where it leads nowhere.
func (a *Asker) Ask(ctx context.Context, address string) (to string, err error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return "", err
	}
	r.Header.Set("User-Agent", "Sodrik (asks where a short link leads)")
	w, err := a.client.Do(r)
	if err != nil {
		return "", err
	}
	defer w.Body.Close()
	if w.StatusCode >= 500 {
		return "", fmt.Errorf("outside: %s is answered by %d", address, w.StatusCode)
	}
	at, err := w.Location()
	if err != nil {
		return "", nil // no redirect
	}
	return at.String(), nil
}

// mostHops is how many redirects of others are followed to their end.
const mostHops = 5

// Status is what an address is answered by in the end: after redirects, each to a public address.
func (a *Asker) Status(ctx context.Context, address string) (int, error) {
	follow := *a.client
	follow.CheckRedirect = func(_ *http.Request, via []*http.Request) error {
		if len(via) > mostHops {
			return fmt.Errorf("outside: %s leads on more than %d times", address, mostHops)
		}
		return nil
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return 0, err
	}
	r.Header.Set("User-Agent", "Sodrik (asks once a day whether a destination answers)")
	w, err := follow.Do(r)
	if err != nil {
		return 0, err
	}
	w.Body.Close()
	return w.StatusCode, nil
}

// Certificate is when the certificate of a host ends, as it stands on port 443.
func (a *Asker) Certificate(ctx context.Context, host string) (time.Time, error) {
	return a.certificate(ctx, net.JoinHostPort(host, "443"), &tls.Config{ServerName: host, MinVersion: tls.VersionTLS12})
}

func (a *Asker) certificate(ctx context.Context, address string, config *tls.Config) (time.Time, error) {
	conn, err := (&tls.Dialer{NetDialer: a.dial, Config: config}).DialContext(ctx, "tcp", address)
	if err != nil {
		return time.Time{}, err
	}
	defer conn.Close()
	return conn.(*tls.Conn).ConnectionState().PeerCertificates[0].NotAfter, nil
}
