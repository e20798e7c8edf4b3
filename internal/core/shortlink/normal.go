package shortlink

import (
	"fmt"
	"net/url"
	"path"
	"strings"

	"golang.org/x/net/idna"
)

// Normal is the one form of an address of the web in which hosts and paths are compared. Host is in small letters and A-labels,
// without the last dot and without the ports 80 and 443; Path has no dot segments, no doubled and no last slash (RFC 3986,
// 6.2.2 and 6.2.3), as browsers and the answering service take it. Web is false for an address of another scheme. An error is
// that it cannot be taken apart, so that nobody can say where it leads.
func Normal(address string) (host, at string, web bool, err error) {
	scheme, _, _ := strings.Cut(address, ":")
	if scheme = strings.ToLower(strings.TrimSpace(scheme)); scheme != "http" && scheme != "https" {
		return "", "", false, nil
	}
	u, err := url.Parse(strings.ReplaceAll(address, `\`, "/")) // as browsers read it (WHATWG URL, special schemes)
	if err != nil {
		return "", "", true, fmt.Errorf("cannot be taken apart; write it anew, such as https://marrowby.example/fair")
	}
	name, err := idna.Lookup.ToASCII(strings.TrimRight(strings.ToLower(u.Hostname()), "."))
	if err != nil || name == "" {
		return "", "", true, fmt.Errorf("has the host %q; the name of one is needed, such as marrowby.example", u.Hostname())
	}
	if p := strings.TrimLeft(u.Port(), "0"); p != "" && p != "80" && p != "443" {
		name += ":" + p
	}
	return name, path.Clean("/" + u.Path), true, nil
}
