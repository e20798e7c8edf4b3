package standin

import (
	"bytes"
	"flag"
	"net/netip"
	"os"
	"testing"

	"github.com/maxmind/mmdbwriter"
	"github.com/maxmind/mmdbwriter/mmdbtype"
	"go4.org/netipx"
)

var update = flag.Bool("update", false, "write the database of places anew")

// TestPlaces: the database that ships is made of this table.
func TestPlaces(t *testing.T) {
	tree, err := mmdbwriter.New(mmdbwriter.Options{DatabaseType: "GeoLite2-City", IncludeReservedNetworks: true,
		Languages: []string{"en"}, BuildEpoch: 1, Description: map[string]string{"en": "Made up, for addresses of documentation"}})
	if err != nil {
		t.Fatal(err)
	}
	for _, at := range towns {
		p, err := netip.ParsePrefix(at.network)
		if err != nil {
			t.Fatal(err)
		}
		is := mmdbtype.Map{"country": mmdbtype.Map{"iso_code": mmdbtype.String(at.country)},
			"location": mmdbtype.Map{"accuracy_radius": mmdbtype.Uint16(at.radius)}}
		if at.part != "" {
			is["subdivisions"] = mmdbtype.Slice{mmdbtype.Map{"names": mmdbtype.Map{"en": mmdbtype.String(at.part)}}}
		}
		if at.name != "" {
			is["city"] = mmdbtype.Map{"names": mmdbtype.Map{"en": mmdbtype.String(at.name)}}
		}
		if err := tree.Insert(netipx.PrefixIPNet(p), is); err != nil {
			t.Fatal(err)
		}
	}
	var b bytes.Buffer
	if _, err := tree.WriteTo(&b); err != nil {
		t.Fatal(err)
	}
	if *update {
		if err := os.WriteFile("places.mmdb", b.Bytes(), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	if !bytes.Equal(b.Bytes(), places) {
		t.Error("places.mmdb is of another table; go test ./internal/standin -update writes it anew")
	}
}
