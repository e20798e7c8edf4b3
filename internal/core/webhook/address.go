package webhook

import (
	"net/url"
	"strings"

	"sodrik/internal/core/problem"
)

const mostAddress = 1000 // bytes

// Address reads where calls go to: an absolute https address without a name and password. plain allows http too, which whoever
// runs a server has to want.
func Address(typed string, plain bool) (string, problem.List) {
	wrong := func(words string) (string, problem.List) {
		return "", problem.List{{Field: "/address", Code: "webhook.address", Message: words}}
	}
	typed = strings.TrimSpace(typed)
	u, err := url.Parse(typed)
	switch {
	case typed == "":
		return wrong("is missing; write such as https://stock.marrowby.example/sodrik")
	case len(typed) > mostAddress:
		return wrong("is longer than 1,000 bytes")
	case err != nil || u.Hostname() == "":
		return wrong("is no web address; write such as https://stock.marrowby.example/sodrik")
	case u.Scheme != "https" && !(plain && u.Scheme == "http"):
		return wrong("must begin with https://, so that nobody on the way reads or changes what is sent")
	case u.User != nil:
		return wrong("holds a name or a password; leave them out: calls are signed")
	case u.Fragment != "":
		return wrong("holds a part after #, which is never sent; leave it out")
	}
	return u.String(), nil
}
