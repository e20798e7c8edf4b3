package scan

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"strconv"
	"time"
)

// goals are names of what can be reached.
var goals = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,39}$`)

// usualGoal is what is reached where nothing else is said.
const usualGoal = "reached"

// Clocks is how far the clock of a server that signs may be off.
const Clocks = 5 * time.Minute

// Goal reads the name of what was reached: small letters, digits and hyphens, 40 at most; "reached" where none is given.
func Goal(text string) (string, error) {
	if text == "" {
		return usualGoal, nil
	}
	if !goals.MatchString(text) {
		return "", fmt.Errorf("goal is %q; write small letters, digits and hyphens, 40 at most, such as order", text)
	}
	return text, nil
}

// Sign signs what a server reports under a key: HMAC-SHA-256 (RFC 2104) of all parameters but sign, sorted by their names and
// encoded as a form (HTML, 4.10.21), in hexadecimal.
func Sign(key []byte, values url.Values) string {
	signed := url.Values{}
	for name, v := range values {
		if name != "sign" {
			signed[name] = v
		}
	}
	mac := hmac.New(sha256.New, key)
	mac.Write([]byte(signed.Encode()))
	return hex.EncodeToString(mac.Sum(nil))
}

// SignedID is the id of a report that is signed, a UUIDv7 (RFC 9562, 5.7), and its time in Unix milliseconds: the same report,
// sent again, is the same event, and counted once. Any further parameter, such as the number of an order, makes it another.
func SignedID(values url.Values) (id string, at int64) {
	seconds, _ := strconv.ParseInt(values.Get("at"), 10, 64)
	at = seconds * 1000
	sum := sha256.Sum256([]byte(values.Get("sign")))
	var b [16]byte
	copy(b[6:], sum[:])
	for i := range 6 {
		b[i] = byte(at >> (40 - 8*i))
	}
	b[6], b[8] = b[6]&0x0f|0x70, b[8]&0x3f|0x80
	h := hex.EncodeToString(b[:])
	return h[:8] + "-" + h[8:12] + "-" + h[12:16] + "-" + h[16:20] + "-" + h[20:], at
}

// Verify says whether a report is signed under a key, at about this time; an error says why a signature does not count. Without
// one it is unsigned, and no error.
func Verify(key []byte, values url.Values, now time.Time) (signed bool, err error) {
	sign := values.Get("sign")
	if sign == "" {
		return false, nil
	}
	if len(key) == 0 {
		return false, errors.New("sign is given, and no key was made for it")
	}
	if !hmac.Equal([]byte(sign), []byte(Sign(key, values))) {
		return false, errors.New("sign is not that of these parameters under the key")
	}
	at, err := strconv.ParseInt(values.Get("at"), 10, 64)
	if err != nil {
		return false, fmt.Errorf("at is %q; write the time in Unix seconds", values.Get("at"))
	}
	if off := now.Sub(time.Unix(at, 0)).Abs(); off > Clocks {
		return false, fmt.Errorf("at is %s off; five minutes is the most", off.Round(time.Second))
	}
	return true, nil
}
