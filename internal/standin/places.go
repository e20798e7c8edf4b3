package standin

import (
	"bytes"
	"net/netip"
	"os"

	"github.com/maxmind/mmdbwriter"
	"github.com/maxmind/mmdbwriter/mmdbtype"
	"go4.org/netipx"
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

// Places writes the made-up database of places, in MaxMind's open format, to a file.
func Places(file string) error {
	tree, err := mmdbwriter.New(mmdbwriter.Options{DatabaseType: "GeoLite2-City", IncludeReservedNetworks: true,
		Languages: []string{"en"}, Description: map[string]string{"en": "Made up, for addresses of documentation"}})
	if err != nil {
		return err
	}
	for _, t := range towns {
		p, err := netip.ParsePrefix(t.network)
		if err != nil {
			return err
		}
		is := mmdbtype.Map{"country": mmdbtype.Map{"iso_code": mmdbtype.String(t.country)},
			"location": mmdbtype.Map{"accuracy_radius": mmdbtype.Uint16(t.radius)}}
		if t.part != "" {
			is["subdivisions"] = mmdbtype.Slice{mmdbtype.Map{"names": mmdbtype.Map{"en": mmdbtype.String(t.part)}}}
		}
		if t.name != "" {
			is["city"] = mmdbtype.Map{"names": mmdbtype.Map{"en": mmdbtype.String(t.name)}}
		}
		if err := tree.Insert(netipx.PrefixIPNet(p), is); err != nil {
			return err
		}
	}
	var b bytes.Buffer
	if _, err := tree.WriteTo(&b); err != nil {
		return err
	}
	return os.WriteFile(file, b.Bytes(), 0o600)
}
