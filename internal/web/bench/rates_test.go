package bench

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"os"
	"strings"
	"testing"

	"sodrik/internal/web/ui"
)

// TestNetworks: what is counted together.
func TestNetworks(t *testing.T) {
	for _, c := range []struct{ name, address, want string }{
		{"the beginning of a /24", "192.0.2.0", "192.0.2.0/24"}, {"its end", "192.0.2.255", "192.0.2.0/24"},
		{"the next", "192.0.3.0", "192.0.3.0/24"},
		{"IPv4 written as IPv6", "::ffff:192.0.2.7", "192.0.2.0/24"},
		{"the beginning of a /64", "2001:db8:0:1::", "2001:db8:0:1::/64"},
		{"its end", "2001:db8:0:1:ffff:ffff:ffff:ffff", "2001:db8:0:1::/64"},
		{"the next one", "2001:db8:0:2::1", "2001:db8:0:2::/64"},
		{"no address", "", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := networkOf(c.address); got != c.want {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
}

// TestUsualRates: they are those that the document for whoever runs a server promises.
func TestUsualRates(t *testing.T) {
	text, err := os.ReadFile("../../../docs/serving.md")
	if err != nil {
		t.Fatal(err)
	}
	r := UsualRates
	if want := fmt.Sprintf("%d edits, %d proofs and %d files a minute", r.Edits, r.Proofs,
		r.Files); !strings.Contains(string(text), want) {
		t.Errorf("docs/serving.md does not say %q", want)
	}
}

// TestRates: a network gets so many in a minute, whichever of its addresses asks, and others are not held up by it.
func TestRates(t *testing.T) {
	h := Rates{}.limit(3)(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {}))
	ask := func(address string) int {
		w := httptest.NewRecorder()
		h.ServeHTTP(w, ui.WithAddress(httptest.NewRequest("POST", "/bench", nil), netip.MustParseAddr(address)))
		if w.Code == http.StatusTooManyRequests && w.Header().Get("Retry-After") != "60" {
			t.Errorf("Retry-After is %q", w.Header().Get("Retry-After"))
		}
		return w.Code
	}
	for i, c := range []struct {
		address string
		want    int
	}{
		{"192.0.2.1", 200}, {"192.0.2.2", 200}, {"192.0.2.3", 200}, {"192.0.2.4", 429}, {"192.0.2.1", 429}, {"192.0.3.1", 200},
		{"2001:db8:0:1::1", 200}, {"2001:db8:0:1::2", 200}, {"2001:db8:0:1::3", 200}, {"2001:db8:0:1::4", 429},
		{"2001:db8:0:2::1", 200},
	} {
		t.Run(c.address, func(t *testing.T) {
			if got := ask(c.address); got != c.want {
				t.Errorf("%d, from %s: %d, want %d", i, c.address, got, c.want)
			}
		})
	}
}
