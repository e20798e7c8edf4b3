package standin

import (
	_ "embed"
	"os"
)

// town is a place of the made-up world: addresses kept for documentation (RFC 5737, RFC 3849) lie there.
type town struct {
	network             string
	country, part, name string
	radius              uint16
}

var towns = []town{
	{"192.0.2.0/26", "GB", "England", "Ludlow", 10}, {"192.0.2.64/26", "GB", "England", "Shrewsbury", 10},
	{"192.0.2.128/26", "GB", "England", "Hereford", 20}, {"192.0.2.192/26", "GB", "England", "London", 50},
	{"198.51.100.0/25", "GB", "Wales", "Newtown", 20}, {"198.51.100.128/26", "GB", "Wales", "", 200},
	{"198.51.100.192/26", "PL", "", "", 500}, {"203.0.113.0/24", "NL", "North Holland", "Haarlem", 20},
	{"2001:db8:1::/48", "GB", "England", "Ludlow", 10}, {"2001:db8:2::/48", "GB", "Scotland", "Perth", 50},
}

// places is the made-up database of places, in MaxMind's open format; the test of this package makes it from that table.
//
//go:embed places.mmdb
var places []byte

// Places writes the made-up database of places to a file.
func Places(file string) error { return os.WriteFile(file, places, 0o600) }
