// Package percent writes and reads percent-encoding (RFC 3986, clause 2.1). Which characters stand as they are is for each
// part of each sort of address to say.
package percent

import "strings"

// Unreserved are the characters that never need encoding (RFC 3986, clause 2.3).
const Unreserved = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~"

// Encode encodes every byte that is not in safe; % too.
func Encode(s, safe string) string { return encode(s, safe, false) }

// Complete encodes what is not in safe and leaves %XX as it is; a lone % becomes %25.
func Complete(s, safe string) string { return encode(s, safe, true) }

func encode(s, safe string, keep bool) string {
	const hex = "0123456789ABCDEF"
	var b strings.Builder
	for i := range len(s) {
		c := s[i]
		if strings.IndexByte(safe, c) >= 0 || keep && escaped(s, i) {
			b.WriteByte(c)
			continue
		}
		b.WriteByte('%')
		b.WriteByte(hex[c>>4])
		b.WriteByte(hex[c&15])
	}
	return b.String()
}

// Decode is the reverse; what is no %XX stays.
func Decode(s string) string {
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if escaped(s, i) {
			b.WriteByte(value(s[i+1])<<4 | value(s[i+2]))
			i += 2
			continue
		}
		b.WriteByte(s[i])
	}
	return b.String()
}

// escaped says that %XX stands at i.
func escaped(s string, i int) bool {
	return s[i] == '%' && i+2 < len(s) && isHex(s[i+1]) && isHex(s[i+2])
}

func isHex(c byte) bool { return strings.IndexByte("0123456789abcdefABCDEF", c) >= 0 }

func value(c byte) byte {
	if c <= '9' {
		return c - '0'
	}
	return c&^0x20 - 'A' + 10
}
