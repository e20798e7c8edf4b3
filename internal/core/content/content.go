// Package content holds what a code says: fields ⇄ payload, what is wrong with them, a summary in words, and what a phone
// offers to do. One file a kind; so far, web addresses.
package content

import (
	"strings"

	"sodrik/internal/core/fields"
)

// Content is one kind with its fields filled in.
type Content interface {
	Kind() string     // as in the job file
	Payload() string  // what is encoded; only meaningful where Read noted no problem
	Summary() Summary // in words; never a secret
	Search() string   // what words are looked for in besides the summary; never a secret
	Phone() Offer     // what a phone does with the payload
	JSON() any        // the part of the job called "content"
}

// Summary says what a code does in a verb and an object: Opens marrowby.example/fair.
type Summary struct{ Verb, Object string }

func (s Summary) String() string { return s.Verb + " " + s.Object }

// Offer is what a phone shows after reading: an action, the part a person checks, and the rest.
type Offer struct {
	Action string   // "Opens in the browser"
	Strong string   // the host
	Rest   string   // the path
	Lines  []string // parameters and other details
	Warn   string   // what a careful phone would add
}

// kinds of the job format and how each is read; nil for those the format has and this version does not.
var kinds = map[string]func(*fields.Object) Content{
	"url": func(o *fields.Object) Content { return readURL(o) },
}

// later are kinds the job format names.
const later = " text wifi contact phone sms email event place sepa swiss emv upi payto bitcoin gs1link gs1data dynamic "

// Read reads the part called "content", every problem noted; nil where its kind is not one.
func Read(o *fields.Object) Content {
	kind := o.String("kind")
	read := kinds[kind]
	switch {
	case kind == "":
		o.Problem("kind", "content.kind", "is missing; it says what the code holds, such as url")
	case read == nil && strings.Contains(later, " "+kind+" "):
		o.Problem("kind", "content.kind", "%q cannot be made yet; url can", kind)
	case read == nil:
		o.Problem("kind", "content.kind", "%q is not a kind of content; url is", kind)
	default:
		c := read(o)
		o.Close()
		return c
	}
	return nil
}

// Of takes a payload, as a reader gives it, for the kind it is; nil where it is none that can be edited here.
func Of(payload string) Content {
	if u, ok := urlOf(payload); ok {
		return u
	}
	return nil
}
