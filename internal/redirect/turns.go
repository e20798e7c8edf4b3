package redirect

import (
	"net/netip"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
)

// turns lets each network do something so many times within an hour, whatever other networks do.
type turns struct {
	most int
	mu   sync.Mutex
	of   *lru.Cache[string, []time.Time] // when each had its last turns, the oldest first
}

// networksHeld is of how many networks it is known what they did; of more, the one heard of longest ago is forgotten.
const networksHeld = 20_000

func newTurns(most int) *turns { return &turns{most: most, of: newMemory[[]time.Time](networksHeld)} }

// take gives an address a turn, unless its network has had so many within the hour before now.
func (t *turns) take(from netip.Addr, now time.Time) bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	network := networkOf(from).String()
	had, _ := t.of.Get(network)
	for len(had) > 0 && !had[0].After(now.Add(-time.Hour)) {
		had = had[1:]
	}
	if len(had) >= t.most {
		return false
	}
	t.of.Add(network, append(had, now))
	return true
}

// networkOf is the network that counts as one: what a house or a company is given, 24 bits of IPv4 and 48 of IPv6 (RFC 6177).
func networkOf(a netip.Addr) netip.Prefix {
	bits := 48
	if a = a.Unmap(); a.Is4() {
		bits = 24
	}
	p, _ := a.WithZone("").Prefix(bits)
	return p
}
