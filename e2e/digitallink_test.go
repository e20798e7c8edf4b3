package e2e

import (
	"bytes"
	"encoding/json"
	"net/url"
	"os"
	"strings"
	"testing"

	"sodrik/internal/core/gs1"
)

// TestOthersBuildLinks: an outside library makes the same Digital Links and takes ours for valid. It rejects 235 and 417, which
// are valid, so that these are not asked.
func TestOthersBuildLinks(t *testing.T) {
	if _, err := os.Stat("../assets/node_modules/digital-link.js"); err != nil {
		t.Fatal("the outside library is not here; run assets/build once")
	}
	type ask struct {
		Domain     string            `json:"domain"`
		Key        map[string]string `json:"key"`
		Qualifiers map[string]string `json:"qualifiers"`
		Attributes map[string]string `json:"attributes"`
		Ours       string            `json:"ours"`
	}
	var asks []ask
	for _, text := range []string{"(01)09521234500018", "(01)09521234500018(10)A1209", "(01)09521234500018(22)2a(10)A/B(21)7",
		"(01)09521234500018(21)7(17)270331", "(01)09521234500018(3103)000500", "(01)09521234500018(10)a+b&c=d",
		"(414)9521234500018(254)A7", "(8010)9521234AB(8011)7", "(8018)952123450000000005(8019)3",
		"(8017)952123450000000005(8019)3", "(00)095212345000000018", "(253)9521234500018ABC", "(8003)09521234500018X1",
		"(8004)9521234AB", "(401)9521234AB", "(402)95212345000000018"} {
		elements, err := gs1.Brackets(text)
		if err != nil {
			t.Fatal(err)
		}
		uri, err := gs1.Link("id.marrowby.example", elements)
		if err != nil {
			t.Fatal(err)
		}
		a := ask{"id.marrowby.example", map[string]string{}, map[string]string{}, map[string]string{}, uri}
		key, err := gs1.PrimaryKey(elements)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range elements {
			where := a.Attributes
			if e.AI == key.AI {
				where = a.Key
			}
			for _, path := range key.Path {
				for _, q := range path {
					if q == e.AI {
						where = a.Qualifiers
					}
				}
			}
			where[e.AI] = e.Value
		}
		asks = append(asks, a)
	}
	in, _ := json.Marshal(asks)
	cmd := node(t, "digitallink.cjs")
	cmd.Stdin = bytes.NewReader(in)
	var failed bytes.Buffer
	cmd.Stderr = &failed
	b, err := cmd.Output()
	var answers []struct {
		Theirs string
		Valid  bool
	}
	if err != nil || json.Unmarshal(b, &answers) != nil || len(answers) != len(asks) {
		t.Fatalf("%v: %s %s", err, b, failed.String())
	}
	for i, got := range answers {
		// Its parser refuses these keys, which its own grammar and the standard allow; what it builds of them is compared all the
		// same.
		refuses := strings.Contains(" 8010 8017 8004 401 ", " "+strings.Split(asks[i].Ours, "/")[3]+" ")
		if !got.Valid && !refuses {
			t.Errorf("it does not take %s", asks[i].Ours)
		}
		theirs, err := url.PathUnescape(got.Theirs) // it encodes fewer signs than we do
		ours, err2 := url.PathUnescape(asks[i].Ours)
		if err != nil || err2 != nil || theirs != ours {
			t.Errorf("it builds %s, we build %s", got.Theirs, asks[i].Ours)
		}
	}
}
