package shortlink

import (
	"bytes"
	"crypto/sha256"
	"errors"
	"io"
	"math"
	"strings"
	"testing"
)

// long is the name of a host that is one letter too long; without its last it is not.
var long = strings.Repeat("a.", 126) + "ab"

func TestParse(t *testing.T) {
	for text, want := range map[string]string{
		"go.marrowby.example/FA1R":                       "HTTPS://GO.MARROWBY.EXAMPLE/FA1R",
		" go.marrowby.example/fa1r ":                     "HTTPS://GO.MARROWBY.EXAMPLE/FA1R",
		"HTTPS://GO.MARROWBY.EXAMPLE/FA1R":               "HTTPS://GO.MARROWBY.EXAMPLE/FA1R",
		"http://go.marrowby.localhost:8091/spring":       "HTTP://GO.MARROWBY.LOCALHOST:8091/SPRING",
		"gö.marrowby.example/spring-fair":                "HTTPS://XN--G-1GA.MARROWBY.EXAMPLE/SPRING-FAIR",
		"go.marrowby.example/" + strings.Repeat("a", 40): "HTTPS://GO.MARROWBY.EXAMPLE/" + strings.Repeat("A", 40),
		"go.marrowby.example:1/FA1R":                     "HTTPS://GO.MARROWBY.EXAMPLE:1/FA1R",
		"go.marrowby.example:65535/FA1R":                 "HTTPS://GO.MARROWBY.EXAMPLE:65535/FA1R",
		long[:253] + "/FA1R":                             "HTTPS://" + strings.ToUpper(long[:253]) + "/FA1R",
		"go.marrowby.example/ab":                         "HTTPS://GO.MARROWBY.EXAMPLE/AB",
	} {
		t.Run(text, func(t *testing.T) {
			a, err := Parse(text)
			if err != nil || a.Payload() != want {
				t.Errorf("%q: %q, %v", text, a.Payload(), err)
			}
			if again, err := Parse(a.String()); err != nil || again != a {
				t.Errorf("%q is read again as %v, %v", a.String(), again, err)
			}
			if again, err := Parse(a.Payload()); err != nil || again != a {
				t.Errorf("the payload of %q is read as %v, %v", text, again, err)
			}
		})
	}
}

func TestParseRefuses(t *testing.T) {
	for text, want := range map[string]string{
		"": "is no short link", "go.marrowby.example": "is no short link", "go.marrowby.example/": "is no short link",
		"/FA1R": "is no short link", "ftp://go.marrowby.example/FA1R": "begins with",
		"javascript://go.marrowby.example/FA1R": "begins with",
		"localhost/FA1R":                        "has the host", "192.0.2.1/FA1R": "has the host",
		"[2001:db8::1]/FA1R":       "has the host",
		"go marrowby.example/FA1R": "has the host", "a@go.marrowby.example/FA1R": "has the host",
		"go.marrowby.example:0/FA1R": "has the port", "go.marrowby.example:65536/FA1R": "has the port",
		"go.marrowby.example:x/FA1R": "has the port", "go.marrowby.example:080/FA1R": "has the port",
		long + "/FA1R":          "has the host",
		"go.marrowby.example/F": "has 1 characters", "go.marrowby.example/" +
			strings.Repeat("A", 41): "has 41 characters",
		"go.marrowby.example/../etc": "after the host", "go.marrowby.example/a/b": "after the host",
		"go.marrowby.example/a?b=c": "after the host", "go.marrowby.example/-ab": "after the host",
		"go.marrowby.example/ab-":  "after the host",
		"go.marrowby.example/a--b": "after the host", "go.marrowby.example/a%2Fb": "after the host",
		"go.marrowby.example/ſh": "after the host", "go.marrowby.example/\x00a": "after the host",
		"go.marrowby.example/a b": "after the host",
	} {
		t.Run(text, func(t *testing.T) {
			if a, err := Parse(text); err == nil || !strings.Contains(err.Error(), want) {
				t.Errorf("%q: %v, %v", text, a, err)
			}
		})
	}
}

func TestWord(t *testing.T) {
	for text, want := range map[string]string{"spring-fair": "SPRING-FAIR", " Where2 ": "WHERE2", "2027": "2027"} {
		t.Run(text, func(t *testing.T) {
			if got, err := Word(text); got != want || err != nil {
				t.Errorf("%q: %q, %v", text, got, err)
			}
		})
	}
	for _, text := range []string{"where", "Report", "HEALTH", "api", "", "a", "a b", "../x", "straße", "a\nb"} {
		t.Run(text, func(t *testing.T) {
			if got, err := Word(text); err == nil {
				t.Errorf("%q is taken as %q", text, got)
			}
		})
	}
}

// TestDraw: each letter is as likely at each place, and none is one of two that are alike.
func TestDraw(t *testing.T) {
	const draws = 36000
	random := io.Reader(&chained{})
	var count [Length]map[rune]int
	for i := range count {
		count[i] = map[rune]int{}
	}
	for range draws {
		path, err := Draw(random)
		if err != nil || len(path) != 5 || strings.Trim(path, "34679CFHJKMNPRTWXY") != "" {
			t.Fatalf("%q, %v", path, err)
		}
		if _, err := Word(path); err != nil {
			t.Fatalf("%q: %v", path, err)
		}
		for i, r := range path {
			count[i][r]++
		}
	}
	for i := range count {
		chi := 0.0 // of 17 degrees of freedom it is over 45 once in 5,000 times; rude words take less away
		for _, r := range Letters {
			d := float64(count[i][r]) - draws/18.
			chi += d * d / (draws / 18.)
		}
		if len(count[i]) != 18 || chi > 45 || math.IsNaN(chi) {
			t.Errorf("place %d: %d letters, χ² %.1f", i, len(count[i]), chi)
		}
	}
	for _, alike := range []string{"0OQD", "1IL", "2Z", "5S", "8B", "6G", "UV"} {
		t.Run(alike, func(t *testing.T) {
			if n := strings.Count(Letters, "") - 1 - len(strings.Map(func(r rune) rune {
				if strings.ContainsRune(alike, r) {
					return -1
				}
				return r
			}, Letters)); n > 1 {
				t.Errorf("%d of %s", n, alike)
			}
		})
	}
}

// chained gives the digests of a counter, one after the other.
type chained struct {
	n    uint64
	left []byte
}

func (c *chained) Read(p []byte) (int, error) {
	if len(c.left) == 0 {
		sum := sha256.Sum256([]byte{byte(c.n), byte(c.n >> 8), byte(c.n >> 16), byte(c.n >> 24)})
		c.n, c.left = c.n+1, sum[:]
	}
	n := copy(p, c.left)
	c.left = c.left[n:]
	return n, nil
}

// TestDrawAgain: a byte that would prefer some letters, and a rude word, are drawn again.
func TestDrawAgain(t *testing.T) {
	at := func(path string) (out []byte) {
		for _, r := range path {
			out = append(out, byte(strings.IndexRune(Letters, r)))
		}
		return out
	}
	for path, want := range map[string]bool{"CR4PX": true, "W4NKY": true, "XF4RT": true, "F466Y": true, "TW47X": true,
		"C4C4P": true,
		"CR3PX": false, "W4RMX": false, "Y666C": true, "Y66YC": false, "N36RC": true, "R4P3X": true} {
		t.Run(path, func(t *testing.T) {
			if Rude(path) != want {
				t.Errorf("%s: %t", path, !want)
			}
			next := "HJKMN"
			if !want {
				next = path
			}
			got, err := Draw(bytes.NewReader(append(at(path), at("HJKMN")...)))
			if got != next || err != nil {
				t.Errorf("after %s: %s, %v", path, got, err)
			}
		})
	}
	if got, err := Draw(bytes.NewReader(append([]byte{252, 255}, at("HJKMN")...))); got != "HJKMN" || err != nil {
		t.Error(got, err)
	}
	if got, err := Draw(bytes.NewReader([]byte{251, 0, 0, 0, 0})); got != "Y3333" || err != nil {
		t.Error(got, err)
	}
	if _, err := Draw(bytes.NewReader([]byte{0, 1})); !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		t.Error(err)
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"go.marrowby.example/FA1R", "http://go.marrowby.localhost:8091/x-1", "a/b", "İ.example/ab"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		a, err := Parse(text)
		if err != nil {
			return
		}
		if strings.Trim(a.Payload(), "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ $%*+-./:") != "" {
			t.Errorf("%q is beyond the alphanumeric set", a.Payload())
		}
		if again, err := Parse(a.Payload()); err != nil || again != a {
			t.Errorf("%q: %v, then %v, %v", text, a, again, err)
		}
	})
}
