package percent

import (
	"net/url"
	"testing"
)

func TestPercent(t *testing.T) {
	for _, c := range []struct{ text, encoded, complete string }{
		{"a b", "a%20b", "a%20b"}, {"100%", "100%25", "100%25"}, {"%7Ea%2fb%zz", "%257Ea%252fb%25zz", "%7Ea%2fb%25zz"},
		{"ü", "%C3%BC", "%C3%BC"}, {"%", "%25", "%25"}, {"%4", "%254", "%254"}, {"", "", ""},
	} {
		t.Run(c.text, func(t *testing.T) {
			if got := Encode(c.text, Unreserved); got != c.encoded || Decode(got) != c.text {
				t.Errorf("%q: %q, back %q; want %q", c.text, got, Decode(got), c.encoded)
			}
			if got := Complete(c.text, Unreserved); got != c.complete {
				t.Errorf("%q completed: %q, want %q", c.text, got, c.complete)
			}
		})
	}
}

// FuzzEncode holds it against net/url, which decodes the same.
func FuzzEncode(f *testing.F) {
	f.Add("a b%41ü")
	f.Fuzz(func(t *testing.T, s string) {
		e := Encode(s, Unreserved)
		theirs, err := url.PathUnescape(e)
		if err != nil || theirs != s || Decode(e) != s {
			t.Errorf("%q: %q decodes as %q and %q, %v", s, e, Decode(e), theirs, err)
		}
	})
}
