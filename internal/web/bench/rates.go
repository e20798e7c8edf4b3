package bench

import (
	"math"
	"net/http"
	"net/netip"
	"strconv"
	"time"

	"github.com/go-chi/httprate"

	"sodrik/internal/web/ui"
)

// Rates are how many requests of each sort one network may make in a minute. They are counted in memory, for as long as the
// minute lasts.
type Rates struct{ Edits, Proofs, Files int }

// UsualRates do for somebody who types fast, and for the colleagues beside them.
var UsualRates = Rates{Edits: 600, Proofs: 40, Files: 30}

// networkOf is the network that an address is counted under: a /24 of IPv4 or a /64 of IPv6, since one household or office holds
// as many.
func networkOf(address string) string {
	a, err := netip.ParseAddr(address)
	if err != nil {
		return ""
	}
	bits := 64
	if a = a.Unmap(); a.Is4() {
		bits = 24
	}
	p, err := a.Prefix(bits)
	if err != nil {
		return ""
	}
	return p.String()
}

func (Rates) limit(n int) func(http.Handler) http.Handler {
	return httprate.LimitBy(n, time.Minute, func(r *http.Request) (string, error) { return networkOf(ui.Address(r)), nil },
		httprate.WithResponseHeaders(httprate.ResponseHeaders{}),
		httprate.WithLimitHandler(func(w http.ResponseWriter, r *http.Request) {
			w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(time.Minute.Seconds()))))
			http.Error(
				w,
				"That is more in a minute than one network gets here. Wait a minute, then try again.",
				http.StatusTooManyRequests,
			)
		}))
}
