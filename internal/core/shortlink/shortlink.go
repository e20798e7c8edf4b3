// Package shortlink holds the rules of the address that a dynamic code encodes: its host and its path, how a path is drawn, and
// which words may be chosen for one. Where an address leads is not its matter.
//
// Scheme, host and path are written in capitals, which RFC 3986 (6.2.2.1) takes for the same as small letters in the first two
// and the answering service in the third: all of it is then within the alphanumeric set of ISO/IEC 18004:2015, table 5, and
// takes 5.5 bits a character where bytes take 8.
package shortlink

import (
	"fmt"
	"net/netip"
	"regexp"
	"strconv"
	"strings"

	"golang.org/x/net/idna"
)

// Address is where a short link stands.
type Address struct {
	Scheme string // https, or http
	Host   string // in small letters and A-labels, with a port where it is not the scheme's own
	Path   string // in capitals, without its slash
}

// String is the address as it stands in a job and as people read it: without https:, which is taken for granted.
func (a Address) String() string {
	if a.Scheme == "https" {
		return a.Host + "/" + a.Path
	}
	return a.Scheme + "://" + a.Host + "/" + a.Path
}

// URL is the address in full, as a browser shows it.
func (a Address) URL() string { return a.Scheme + "://" + a.Host + "/" + a.Path }

// Payload is what a symbol holds.
func (a Address) Payload() string { return strings.ToUpper(a.URL()) }

// maxHost is the longest name of a host (RFC 1035, 2.3.4, without its last dot).
const maxHost = 253

// Parse reads an address, with or without its scheme, in letters of any case. The error is a sentence that goes on after what
// the field is called.
func Parse(text string) (a Address, err error) {
	text = strings.TrimSpace(text)
	a.Scheme = "https"
	if scheme, rest, ok := strings.Cut(text, "://"); ok {
		if a.Scheme = strings.ToLower(scheme); a.Scheme != "https" && a.Scheme != "http" {
			return Address{}, fmt.Errorf("begins with %q; a short link begins with https://, or with its host", scheme)
		}
		text = rest
	}
	host, path, ok := strings.Cut(text, "/")
	if !ok || host == "" || path == "" {
		return Address{}, fmt.Errorf("is no short link; one is a host and a word, such as go.marrowby.example/FA1R")
	}
	if a.Host, err = Host(host); err != nil {
		return Address{}, err
	}
	if a.Path, err = form(path); err != nil {
		return Address{}, err
	}
	return a, nil
}

// Host reads the name of a host, with a port or without, and gives it in small letters and A-labels.
func Host(text string) (string, error) {
	name, port, ported := strings.Cut(strings.ToLower(strings.TrimSpace(text)), ":")
	ascii, err := idna.Lookup.ToASCII(name)
	_, address := netip.ParseAddr(name)
	if err != nil || !strings.Contains(ascii, ".") || len(ascii) > maxHost || address == nil {
		return "", fmt.Errorf("has the host %q; the name of one is needed, such as go.marrowby.example", text)
	}
	if !ported {
		return ascii, nil
	}
	if n, err := strconv.Atoi(port); err != nil || n < 1 || n > 65535 || strconv.Itoa(n) != port {
		return "", fmt.Errorf("has the port %q; a port is a number up to 65535", port)
	}
	return ascii + ":" + port, nil
}

// MinWord and MaxWord are how many characters a path may have.
const MinWord, MaxWord = 2, 40

var word = regexp.MustCompile(`^[A-Z0-9]+(-[A-Z0-9]+)*$`)

// form gives a path in capitals, or says why it can be none.
func form(path string) (string, error) {
	up := strings.ToUpper(path)
	switch {
	case len(up) < MinWord || len(up) > MaxWord:
		return "", fmt.Errorf("has %d characters after the host; %d to %d are possible", len(up), MinWord, MaxWord)
	case !word.MatchString(up) || len(up) != len(path): // ſ is an S in capitals
		return "", fmt.Errorf("has %q after the host; letters A to Z, digits, and hyphens between them are possible", path)
	}
	return up, nil
}

// reserved are words that the service answers by itself.
var reserved = map[string]bool{"WHERE": true, "REPORT": true, "REACHED": true, "HEALTH": true, "API": true}

// Word reads a word that somebody chose as a path.
func Word(text string) (string, error) {
	text = strings.TrimSpace(text)
	up, err := form(text)
	if err != nil {
		return "", err
	}
	if reserved[up] {
		return "", fmt.Errorf("is %q, which the service needs for itself; choose another word", text)
	}
	return up, nil
}
