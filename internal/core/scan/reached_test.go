package scan

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
)

func TestGoal(t *testing.T) {
	for text, want := range map[string]string{"": "reached", "order": "order", "seed-order-2": "seed-order-2", "Order": "",
		"-x":  "",
		"a b": "", strings.Repeat("a", 40): strings.Repeat("a", 40), strings.Repeat("a", 41): "", "=1": ""} {
		t.Run(text, func(t *testing.T) {
			got, err := Goal(text)
			if got != want || (err == nil) != (want != "") {
				t.Errorf("%q: %q, %v", text, got, err)
			}
		})
	}
}

// TestSign holds a signature against one that OpenSSL made:
// printf 'at=1806483600&goal=order&scan=FA1R' | openssl dgst -sha256 -mac HMAC -macopt hexkey:0102030405060708
func TestSign(t *testing.T) {
	key := []byte{1, 2, 3, 4, 5, 6, 7, 8}
	at := time.Unix(1806483600, 0)
	values := url.Values{"scan": {"FA1R"}, "goal": {"order"}, "at": {strconv.FormatInt(at.Unix(), 10)}}
	const want = "cedc9e3a639bb4be3f9fa214e557bdd8b6d83fefc0d0d69d035d1ff262590c29"
	if got := Sign(key, values); got != want {
		t.Errorf("it is signed %s", got)
	}
	if signed, err := Verify(key, values, at); signed || err != nil {
		t.Errorf("without a signature: %v, %v", signed, err)
	}
	values.Set("sign", want)
	for off, ok := range map[time.Duration]bool{0: true, Clocks: true, -Clocks: true, Clocks + time.Second: false,
		-Clocks - time.Second: false} {
		t.Run(fmt.Sprint(off), func(t *testing.T) {
			if signed, err := Verify(key, values, at.Add(off)); signed != ok || (err == nil) != ok {
				t.Errorf("%s off: %v, %v", off, signed, err)
			}
		})
	}
	if signed, err := Verify([]byte{9}, values, at); signed || err == nil {
		t.Error("another key signs as well")
	}
	if signed, err := Verify(nil, values, at); signed || err == nil {
		t.Error("no key signs as well")
	}
	id, ms := SignedID(values)
	if u, err := uuid.Parse(id); err != nil || u.Version() != 7 || u.Variant() != uuid.RFC4122 || ms != at.UnixMilli() ||
		!strings.HasPrefix(strings.ReplaceAll(id, "-", ""), fmt.Sprintf("%012x", ms)) {
		t.Errorf("its id is %s, %v", id, err)
	}
	if again, _ := SignedID(values); again != id {
		t.Error("the same report is another event")
	}
	values.Set("goal", "sale")
	if signed, err := Verify(key, values, at); signed || err == nil {
		t.Error("another goal is signed as well")
	}
	values = url.Values{"scan": {"FA1R"}}
	values.Set("sign", Sign(key, values))
	if signed, err := Verify(key, values, at); signed || err == nil {
		t.Error("what is signed without a time counts for ever")
	}
}
