package eventlog

import (
	"fmt"
	"net"
	"strconv"
	"strings"
)

// older says that a version, such as 2.9.10, comes before another. What is after a hyphen does not count; what is no version is
// older than any.
func older(version, than string) bool {
	a, b := numbers(version), numbers(than)
	for i := range b {
		if a[i] != b[i] {
			return a[i] < b[i]
		}
	}
	return false
}

func numbers(version string) (out [3]int) {
	version, _, _ = strings.Cut(version, "-")
	parts := strings.Split(version, ".")
	for i := range out {
		out[i] = -1
		if i < len(parts) {
			if n, err := strconv.Atoi(parts[i]); err == nil && n >= 0 {
				out[i] = n
			}
		}
	}
	return out
}

// split takes an address to listen on apart.
func split(address string) (host string, port int, err error) {
	host, text, err := net.SplitHostPort(address)
	if err != nil {
		return "", 0, fmt.Errorf("eventlog: %q is no address to listen on; write one such as 127.0.0.1:4222", address)
	}
	port, err = strconv.Atoi(text)
	if err != nil || port < 0 || port > 65535 {
		return "", 0, fmt.Errorf("eventlog: %q has no port; write such as 127.0.0.1:4222", address)
	}
	if port == 0 {
		port = -1 // a free one
	}
	return host, port, nil
}
