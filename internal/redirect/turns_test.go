package redirect

import (
	"net/netip"
	"testing"
	"time"
)

// TestTurns: a network has twenty turns within any hour, whatever another does; what counts as one network is what a house is
// given.
func TestTurns(t *testing.T) {
	at := time.Date(2027, 3, 1, 12, 0, 0, 0, time.UTC)
	turns := newTurns(reportsEach)
	take := func(from string, after time.Duration) bool {
		return turns.take(netip.MustParseAddr(from), at.Add(after))
	}
	for i := range 20 {
		if !take("192.0.2.7", time.Duration(i)*time.Minute) {
			t.Fatalf("turn %d is refused", i+1)
		}
	}
	for _, c := range []struct {
		name, from string
		after      time.Duration
		want       bool
	}{
		{"the 21st", "192.0.2.7", 59 * time.Minute, false},
		{"a neighbour", "192.0.2.200", 59 * time.Minute, false},
		{"another network", "198.51.100.7", 59 * time.Minute, true},
		{"an hour after the first", "192.0.2.7", 60 * time.Minute, true},
		{"and no more", "192.0.2.7", 60 * time.Minute, false},
		{"mapped into IPv6", "::ffff:192.0.2.7", 60 * time.Minute, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := take(c.from, c.after); got != c.want {
				t.Errorf("%v", got)
			}
		})
	}
	for range 20 {
		take("2001:db8:1:1::1", 0)
	}
	if take("2001:db8:1:ffff::2", time.Minute) || !take("2001:db8:2::1", time.Minute) {
		t.Error("networks of IPv6 are 48 bits")
	}
}
