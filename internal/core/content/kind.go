package content

import (
	"slices"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/schema"
)

// Group is where a kind is offered.
type Group int

// Groups: for everybody, among the ways to be paid, for those who know a kind by its name, and what a code becomes later.
const (
	Everyday Group = iota
	Payment
	Trade
	Turned
)

// Kind is one kind of content, declared in its own file: everything that the rest of Sodrik knows of it.
type Kind struct {
	Key     string
	Name    string // as people look for it
	Outcome string // what happens when somebody scans
	Group   Group
	Calls   []string // words to stand beside a code of the kind, what fits most first. They are ours
	Fields  *schema.Part
	Takes   []Taker // payloads that are of the kind
	Long    string  // key of the field that a person would shorten where the whole is too long
	Stays   string  // why no short link can lead to it, as a clause; "" where one can
	Example string  // a content of the kind, as JSON of the job file, without a problem
}

// Taker takes payloads that begin in one way, in lower case, apart.
type Taker struct {
	Prefix string
	Take   func(payload string) (values map[string]any, ok bool)
}

// register is every kind, in the order in which they are offered. It is filled when the program starts, since kinds read one
// another.
var register []*Kind

func init() {
	register = []*Kind{
		&urlKind, &wifiKind, &contactKind, &eventKind, &webcalKind, &placeKind, &phoneKind, &smsKind, &emailKind, &textKind,
		&gs1LinkKind,
		&sepaKind, &swissKind, &emvKind, &upiKind, &bitcoinKind, &payToKind,
		&gs1DataKind, &dynamicKind,
	}
}

// Register is every kind, in the order in which they are offered.
func Register() []*Kind { return register }

// Kinds names the kinds that can be made, in the order of their names.
func Kinds() (out []string) {
	for _, k := range register {
		out = append(out, k.Key)
	}
	slices.Sort(out)
	return out
}

// KindOf finds a kind by its key, nil where there is none.
func KindOf(key string) *Kind {
	if i := slices.IndexFunc(register, func(k *Kind) bool { return k.Key == key }); i >= 0 {
		return register[i]
	}
	return nil
}

// Calls are words to stand beside a code of a kind.
func Calls(kind string) []string {
	if k := KindOf(kind); k != nil {
		return k.Calls
	}
	return nil
}

// CallFor is a call to action for what a content does, "" where none is known: that of what an address is for, else the first
// of its kind.
func CallFor(c Content) string {
	if u, ok := c.(*URL); ok && u.Action() != "" {
		return u.Action()
	}
	if c != nil {
		if list := Calls(c.Kind()); len(list) > 0 {
			return list[0]
		}
	}
	return ""
}

// Read reads the part called "content", every problem noted; nil where its kind is not one.
func Read(o *fields.Object) Content {
	key := o.String("kind")
	k := KindOf(key)
	switch {
	case key == "":
		o.Problem("kind", "content.kind", "is missing; it says what the code holds, such as url")
	case k == nil:
		o.Problem("kind", "content.kind", "%q is not a kind of content; the kinds are %s", key, strings.Join(Kinds(), ", "))
	default:
		c := k.Fields.New().(Content)
		k.Fields.Read(o, c)
		c.check(o)
		o.Close()
		return c
	}
	return nil
}

// JSON is the part of the job called "content", in canonical form.
func JSON(c Content) map[string]any {
	out := KindOf(c.Kind()).Fields.Write(c, nil).Map()
	out["kind"] = c.Kind()
	return out
}

// oneLine is the pattern of a text without control characters.
const oneLine = `^[^\x00-\x1f\x7f]*$`
