package webhook

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"net/textproto"
	"testing"
	"time"

	standardwebhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"
)

// headers are as the library takes them.
func headers(of map[string]string) map[string][]string {
	out := map[string][]string{}
	for name, value := range of {
		out[textproto.CanonicalMIMEHeaderKey(name)] = []string{value}
	}
	return out
}

// TestSign against the example of the specification's own text and its library.
func TestSign(t *testing.T) {
	key, err := base64.StdEncoding.DecodeString("MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw")
	if err != nil {
		t.Fatal(err)
	}
	h := Sign([][]byte{key}, "msg_p5jXN8AQM9LWM0D4loKWxJek", time.Unix(1614265330, 0), []byte(`{"test": 2432232314}`))
	if got := h[SignatureHeader]; got != "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=" {
		t.Error(got)
	}
	other := bytes.Repeat([]byte{9}, KeySize)
	body := []byte(`{"type":"test","data":{}}`)
	h = Sign([][]byte{other, key}, "m1", time.Now(), body)
	for _, k := range [][]byte{other, key} {
		reader, err := standardwebhooks.NewWebhook(Secret(k))
		if err != nil {
			t.Fatal(err)
		}
		if err := reader.Verify(body, headers(h)); err != nil {
			t.Error(err)
		}
		if reader.Verify(append(body, ' '), headers(h)) == nil {
			t.Error("a changed body is believed")
		}
	}
	stranger, _ := standardwebhooks.NewWebhook(Secret(bytes.Repeat([]byte{8}, KeySize)))
	if stranger.Verify(body, headers(h)) == nil {
		t.Error("a key that signed nothing is believed")
	}
	if h["Content-Type"] != "application/json" || len(key) < 24 || KeySize < 24 || KeySize > 64 {
		t.Error("not as the specification asks for")
	}
}

// TestWait: the waits grow, are those that the specification proposes, and end after about three days.
func TestWait(t *testing.T) {
	all, before := time.Duration(0), time.Duration(0)
	for n := 1; n < Tries; n++ {
		wait, more := Wait(n)
		if !more || wait <= before {
			t.Errorf("after %d: %v after %v", n, wait, before)
		}
		all, before = all+wait, wait
	}
	if all != 75*time.Hour+35*time.Minute+5*time.Second || Tries != 10 {
		t.Errorf("%d tries within %v", Tries, all)
	}
	for _, n := range []int{-1, 0, Tries, Tries + 1} {
		if wait, more := Wait(n); more || wait != 0 {
			t.Errorf("after %d tries: %v", n, wait)
		}
	}
}

func TestCame(t *testing.T) {
	for status, want := range map[int]Outcome{200: Taken, 204: Taken, 299: Taken, 199: Failed, 300: Failed, 301: Failed,
		404: Failed, 409: Failed, 410: Unwanted, 411: Failed, 429: Failed, 500: Failed, 0: Failed} {
		t.Run(fmt.Sprint(status), func(t *testing.T) {
			if got := Came(status); got != want {
				t.Errorf("%d: %d", status, got)
			}
		})
	}
}

func TestAddress(t *testing.T) {
	for typed, want := range map[string]string{
		"https://stock.marrowby.example/in":  "https://stock.marrowby.example/in",
		" https://stock.marrowby.example ":   "https://stock.marrowby.example",
		"https://stock.marrowby.example?a=b": "https://stock.marrowby.example?a=b",
		"http://stock.marrowby.example/in":   "", "ftp://stock.marrowby.example": "", "stock.marrowby.example/in": "", "": "",
		"https://": "", "https:///in": "", "https://a:b@stock.marrowby.example": "", "https://stock.marrowby.example/#a": "",
		"https://stock.marrowby.example:port": "", "javascript:alert(1)": "",
	} {
		t.Run(typed, func(t *testing.T) {
			got, problems := Address(typed, false)
			if got != want || (len(problems) == 0) != (want != "") {
				t.Errorf("%q: %q %v", typed, got, problems)
			}
		})
	}
	if got, problems := Address("http://stock.marrowby.example", true); got == "" || len(problems) > 0 {
		t.Error(problems)
	}
	long := "https://stock.marrowby.example/"
	long += string(bytes.Repeat([]byte{'a'}, mostAddress-len(long)))
	if _, problems := Address(long, false); len(problems) > 0 {
		t.Error(problems)
	}
	if _, problems := Address(long+"a", false); len(problems) == 0 {
		t.Error("a longer one is taken")
	}
}

func TestKinds(t *testing.T) {
	for _, k := range Kinds {
		if Named(k.Name).Words != k.Words || Chosen(k.Name) != (k.Name != Test) {
			t.Error(k.Name)
		}
	}
	if Chosen("all") || Chosen("") {
		t.Error("what is no kind can be chosen")
	}
}
