package shortlink

import "strings"

// Record is the name at which a host shows whose it is: an underscored name of its own (RFC 8552), since a host that leads on by
// a CNAME record can hold no other beside it.
func Record(host string) string {
	name, _, _ := strings.Cut(host, ":")
	return "_sodrik." + name
}

// Proof is the text of the TXT record there, for the token of a workspace.
func Proof(token string) string { return "sodrik-workspace=" + token }

// Proved says whether one of the TXT records of a host is that of a workspace. Some panels keep the quotation marks of a zone
// file as part of the text; blanks around it mean nothing.
func Proved(records []string, token string) bool {
	for _, r := range records {
		if token != "" && strings.Trim(r, "\" \t") == Proof(token) {
			return true
		}
	}
	return false
}
