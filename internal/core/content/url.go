package content

import (
	"net/netip"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"golang.org/x/net/idna"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/percent"
	"sodrik/internal/core/schema"
)

// URL is a web address. The payload is a URI (RFC 3986) with http or https: the scheme completed, the host in A-labels
// (RFC 5891), characters that a URI may not hold percent-encoded, campaign tags appended as utm_ parameters.
type URL struct {
	Raw      string // as typed
	Tags     [5]string
	Purpose  string // key of a Purpose
	Capitals bool   // scheme and host are written in capitals

	scheme, host, port  string
	path, query, anchor string // encoded; query without ?, anchor without #
	hasQuery, hasAnchor bool
}

// TagNames are the keys of "tags", in the order in which they are appended.
var TagNames = [5]string{"source", "medium", "campaign", "term", "content"}

func (u *URL) Kind() string { return "url" }

func tagFields() (out []schema.Field) {
	for i, name := range TagNames {
		out = append(out, schema.Field{Key: name, Type: schema.Line, At: schema.In(func(u *URL) any { return &u.Tags[i] }),
			Called: "campaign tag", Label: strings.ToUpper(name[:1]) + name[1:]})
	}
	return out
}

var urlFields = schema.Part{
	Fields: []schema.Field{
		{
			Key:      "url",
			Heads:    "link, web, website, web address, destination, landing page, page, href, target",
			At:       schema.In(func(u *URL) any { return &u.Raw }),
			Required: true,
			Keep:     true,
			Called:   "address",
			Label:    "Address",
			Control:  "area",
			Mode:     "url",
			Example:  "marrowby.example/fair",
			About: "A web address; https: is completed, host names beyond ASCII become A-labels, characters a URI may not " +
				"hold are percent-encoded.",
		},
		{Key: "purpose", Type: schema.Line, At: schema.In(func(u *URL) any { return &u.Purpose }), Choices: purposeChoices(),
			Called: "purpose", Label: "What opens",
			Note: func(value string, _ func(string) string) string {
				if p := purposeOf(value); p.Action != "" {
					return "Beside the code it could say: “" + p.Action + "”."
				}
				return ""
			}, About: "What the link is for. Changes no byte of the payload."},
		{Key: "capitals", Type: schema.Flag, At: schema.In(func(u *URL) any { return &u.Capitals }), Called: "setting", Off: true,
			About: "Scheme and host in capitals, which a symbol holds in fewer bits."},
		{Key: "tags", Type: schema.Object, At: schema.In(func(u *URL) any { return u }), Off: true,
			Part: &schema.Part{Fields: tagFields(), New: func() any { return &URL{} }, About: "Appended as utm_ parameters."}},
	},
	New: func() any { return &URL{} },
}

var urlKind = Kind{Key: "url", Long: "url", Name: "Web address", Outcome: "Someone opens a page",
	Calls: []string{"Scan to read on", "See it grow", "Scan for more"}, Fields: &urlFields,
	Takes:   []Taker{{"http:", takeURL}, {"https:", takeURL}},
	Example: `{"kind": "url", "url": "https://marrowby.example/fair"}`}

func (u *URL) check(o *fields.Object) {
	if code, message := u.parse(); code != "" {
		o.Problem("url", code, "%s", message)
		return
	}
	for i, t := range u.Tags {
		if t != "" && u.param("utm_"+TagNames[i]) {
			o.ProblemBelow("tags", TagNames[i], "url.tag",
				"the address already carries utm_"+TagNames[i]+"; leave one of the two out")
		}
	}
}

var schemeForm = regexp.MustCompile(`^([a-zA-Z][a-zA-Z0-9+.-]*):`)

// MaxBytes is what a symbol of version 40 holds at level L in byte mode (ISO/IEC 18004:2015, table 7).
const MaxBytes = 2953

// parse fills the parts, or says what is wrong: a stable code and a sentence for the field "url".
func (u *URL) parse() (code, message string) {
	s := strings.TrimSpace(u.Raw)
	if s == "" {
		return "url.empty", "is empty; type or paste a web address such as marrowby.example/fair"
	}
	if !utf8.ValidString(s) {
		return "url.control", "holds bytes that are not text in UTF-8"
	}
	if strings.ContainsFunc(s, func(r rune) bool { return r < ' ' || r == 0x7F }) {
		return "url.control", "holds a line break or another control character; one address in one line is needed"
	}
	u.scheme = "https"
	if m := schemeForm.FindStringSubmatch(s); m != nil && !portFollows(s[len(m[0]):]) {
		u.scheme = strings.ToLower(m[1])
		rest := s[len(m[0]):]
		switch u.scheme {
		case "http", "https":
			if !strings.HasPrefix(rest, "//") {
				return "url.slashes", "needs two slashes after " + u.scheme + ":, as in " + u.scheme + "://marrowby.example"
			}
			s = rest[2:]
		case "javascript", "vbscript", "data", "file", "blob", "about", "view-source":
			return "url.scheme", u.scheme +
				": addresses hold a program or a file instead of a place on the web, and phones refuse them; use one that " +
				"starts with https:"
		default:
			return "url.scheme", u.scheme + ": is not a web address; use one that starts with https:"
		}
	} else {
		s = strings.TrimPrefix(s, "//")
	}
	authority := s
	if i := strings.IndexAny(s, "/?#"); i >= 0 {
		authority, s = s[:i], s[i:]
	} else {
		s = ""
	}
	if code, message = u.authority(authority); code != "" {
		return code, message
	}
	s, u.anchor, u.hasAnchor = strings.Cut(s, "#")
	s, u.query, u.hasQuery = strings.Cut(s, "?")
	u.path = percent.Complete(s, pathSafe)
	u.query = percent.Complete(u.query, querySafe)
	u.anchor = percent.Complete(u.anchor, querySafe)
	if n := len(u.Payload()); n > MaxBytes {
		return "url.long", "is " + strconv.Itoa(n) + " bytes long; no code holds more than " + strconv.Itoa(MaxBytes) +
			", and one that people can scan rarely more than 300"
	}
	return "", ""
}

// portFollows tells "host:8080/path" from "scheme:rest".
func portFollows(rest string) bool {
	digits := len(rest) - len(strings.TrimLeft(rest, "0123456789"))
	return digits > 0 && (digits == len(rest) || strings.ContainsRune("/?#", rune(rest[digits])))
}

func (u *URL) authority(a string) (code, message string) {
	if strings.Contains(a, "@") {
		return "url.userinfo", "carries a name or password before the @, which everybody who scans would see; leave it out"
	}
	if strings.ContainsAny(a, " \t\u00a0") && !strings.Contains(a, ".") {
		return "url.words", "is no web address; write one such as marrowby.example/fair, or have the code show the words as text"
	}
	host, port := a, ""
	if i := strings.LastIndex(a, ":"); i >= 0 && !strings.HasSuffix(a, "]") {
		host, port = a[:i], a[i+1:]
		if n, err := strconv.Atoi(port); err != nil || n < 1 || n > 65535 || port != strconv.Itoa(n) {
			return "url.port", "has " + strconv.Quote(port) + " as its port; a port is a number from 1 to 65535"
		}
	}
	u.port = port
	switch {
	case host == "":
		return "url.host", "has no host name; write an address such as marrowby.example/fair"
	case strings.ContainsAny(host, " \t\u00a0"):
		return "url.host", "has a space in the host name " + strconv.Quote(host) + "; host names have none"
	case strings.Contains(host, ":") && !strings.HasPrefix(host, "["):
		return "url.host", "has " + strconv.Quote(host) + " as its host; an IPv6 address stands in square brackets"
	case strings.HasPrefix(host, "["):
		ip, err := netip.ParseAddr(strings.Trim(host, "[]"))
		if err != nil || !ip.Is6() || ip.Zone() != "" || !strings.HasSuffix(host, "]") {
			return "url.host", "has " + host + " as its host, which is not an IPv6 address"
		}
		u.host = "[" + ip.String() + "]"
		return "", ""
	}
	if ip, err := netip.ParseAddr(host); err == nil && ip.Is4() {
		u.host = ip.String()
		return "", ""
	}
	ascii, err := idna.Lookup.ToASCII(strings.TrimSuffix(host, "."))
	switch {
	case err != nil || len(ascii) > 253 || slices.ContainsFunc(strings.Split(ascii, "."), func(l string) bool {
		return len(l) == 0 || len(l) > 63
	}):
		return "url.host", "has the host name " + strconv.Quote(host) + ", which the domain name rules do not allow"
	case !strings.Contains(ascii, "."):
		return "url.host", "has only " + strconv.Quote(host) + " as its host; a whole name has a dot, like marrowby.example"
	case strings.Trim(ascii[strings.LastIndex(ascii, ".")+1:], "0123456789") == "":
		return "url.host", "has " + strconv.Quote(host) + " as its host, which is neither a name nor an IP address"
	}
	u.host = ascii
	return "", ""
}

// Characters a path, and a query or fragment, may hold as they are (RFC 3986, clauses 3.3 to 3.5).
const (
	pathSafe  = percent.Unreserved + "!$&'()*+,;=:@/"
	querySafe = pathSafe + "?"
)

// Payload is the address in full.
func (u *URL) Payload() string {
	var b strings.Builder
	if head := u.scheme + "://" + u.authorityText(); u.Capitals {
		b.WriteString(strings.ToUpper(head))
	} else {
		b.WriteString(head)
	}
	b.WriteString(u.path)
	query := u.fullQuery()
	if u.hasQuery || query != "" {
		b.WriteString("?" + query)
	}
	if u.hasAnchor {
		b.WriteString("#" + u.anchor)
	}
	return b.String()
}

func (u *URL) authorityText() string {
	if u.port != "" {
		return u.host + ":" + u.port
	}
	return u.host
}

func (u *URL) fullQuery() string {
	parts := []string{}
	if u.query != "" {
		parts = append(parts, u.query)
	}
	for i, t := range u.Tags {
		if t != "" {
			parts = append(parts, "utm_"+TagNames[i]+"="+percent.Complete(t, percent.Unreserved))
		}
	}
	return strings.Join(parts, "&")
}

// Scheme is "http" or "https".
func (u *URL) Scheme() string { return u.scheme }

// Host is the host as people read it: U-labels, no "www." taken off.
func (u *URL) Host() string {
	if s, err := idna.Display.ToUnicode(u.host); err == nil {
		return s
	}
	return u.host
}

// Summary leaves out scheme and parameters.
func (u *URL) Summary() Summary {
	return Summary{purposeOf(u.Purpose).Verb, u.Host() + strings.TrimSuffix(u.path, "/")}
}

// Search is the host and the steps of the path that are words. What follows a question mark may be a key, and so may a step
// of letters and figures that nobody would type.
func (u *URL) Search() string {
	steps := strings.FieldsFunc(u.path, func(r rune) bool { return r == '/' })
	steps = slices.DeleteFunc(steps, func(step string) bool {
		return len(step) >= minToken && strings.ContainsAny(step, "0123456789")
	})
	return u.Host() + "/" + strings.Join(steps, "/")
}

// minToken is how long a step of a path with figures is that may be a key.
const minToken = 16

// Phone is the browser.
func (u *URL) Phone() Offer {
	o := Offer{Action: "Opens in the browser", Strong: u.Host(), Rest: u.path}
	if q := u.fullQuery(); q != "" {
		o.Lines = strings.Split(q, "&")
	}
	if u.hasAnchor {
		o.Lines = append(o.Lines, "#"+u.anchor)
	}
	switch alike := Lookalike(u.Host()); {
	case alike != "":
		o.Warn = alike
	case u.scheme == "http":
		o.Warn = "Not secure"
	}
	return o
}

func (u *URL) param(name string) bool {
	for _, p := range strings.Split(u.query, "&") {
		if key, _, _ := strings.Cut(p, "="); key == name {
			return true
		}
	}
	return false
}
