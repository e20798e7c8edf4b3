package ui

import (
	"context"
	"net/http"
	"net/netip"
)

type addressKey struct{}

// WithAddress puts the network address of who asks into a request.
func WithAddress(r *http.Request, a netip.Addr) *http.Request {
	return r.WithContext(context.WithValue(r.Context(), addressKey{}, a))
}

// Address is the network address of who asks, "" where it is not known.
func Address(r *http.Request) string {
	if a, ok := r.Context().Value(addressKey{}).(netip.Addr); ok && a.IsValid() {
		return a.String()
	}
	return ""
}

// Network is what tries are counted by: the address, or the /64 that one line of IPv6 has.
func Network(r *http.Request) string {
	a, ok := r.Context().Value(addressKey{}).(netip.Addr)
	if !ok || !a.IsValid() {
		return "unknown"
	}
	if a.Is6() {
		if p, err := a.Prefix(64); err == nil {
			return p.String()
		}
	}
	return a.String()
}
