// Package gs1 is the identifiers of GS1: their formats and rules, element strings, and Digital Link URIs (GS1 General
// Specifications, section 3; GS1 Digital Link Standard: URI Syntax, release 1.3). Both directions are without loss.
package gs1

import (
	_ "embed"
	"fmt"
	"iter"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"
)

//go:embed identifiers.txt
var table string

// Identifier is one application identifier.
type Identifier struct {
	AI, Name string
	parts    []part
	Fixed    bool       // no separator follows
	Key      bool       // identifies by itself
	Path     [][]string // its qualifiers in a path, in order; alternatives
	with     [][]string // goes only with one of each
	never    []string
}

// part is one component of a value.
type part struct {
	set         byte // N, X, Y or Z
	least, most int
	optional    bool
	mark        string // "*", "d", "d0", "t", "c"
}

var identifiers = parseTable()

func parseTable() map[string]*Identifier {
	out := map[string]*Identifier{}
	for _, line := range strings.Split(table, "\n") {
		f := strings.Fields(line)
		if len(f) < 3 || f[0] == "#" {
			continue
		}
		id := Identifier{Name: f[2]}
		for _, p := range strings.Split(f[1], "+") {
			id.parts = append(id.parts, parsePart(p))
		}
		for _, rule := range f[3:] {
			key, value, _ := strings.Cut(rule, "=")
			switch key {
			case "fixed":
				id.Fixed = true
			case "key":
				id.Key = true
			case "never":
				id.never = strings.Split(value, ",")
			case "with":
				for _, w := range strings.Split(value, ",") {
					id.with = append(id.with, strings.Split(w, "|"))
				}
			case "path":
				for _, w := range strings.Split(value, "|") {
					id.Path = append(id.Path, strings.FieldsFunc(w, func(r rune) bool { return r == ',' }))
				}
			}
		}
		from, to, isRange := strings.Cut(f[0], "-")
		if !isRange {
			to = from
		}
		a, _ := strconv.Atoi(from)
		b, _ := strconv.Atoi(to)
		for n := a; n <= b; n++ {
			one := id
			one.AI = fmt.Sprintf("%0*d", len(from), n)
			out[one.AI] = &one
		}
	}
	return out
}

func parsePart(s string) part {
	p := part{}
	if strings.HasPrefix(s, "[") {
		p.optional, s = true, strings.Trim(s, "[]")
	}
	p.set, s = s[0], s[1:]
	variable := strings.HasPrefix(s, "..")
	s = strings.TrimPrefix(s, "..")
	n := len(s) - len(strings.TrimLeft(s, "0123456789"))
	p.most, _ = strconv.Atoi(s[:n])
	if p.mark = s[n:]; p.mark == "0" {
		p.mark = ""
	}
	p.least = p.most
	if variable {
		p.least = 1
	}
	return p
}

// Lookup finds an application identifier.
func Lookup(ai string) (*Identifier, bool) { id, ok := identifiers[ai]; return id, ok }

// Known gives every application identifier.
func Known() iter.Seq[string] { return maps.Keys(identifiers) }

// Element is one identifier with its value.
type Element struct{ AI, Value string }

// Fault is one thing that is wrong: with an element, or with all together where AI is "".
type Fault struct {
	AI      string
	Message string // begins after the name of what it is about
}

func (f Fault) String() string {
	if f.AI == "" {
		return f.Message
	}
	return "(" + f.AI + ") " + f.Message
}

// CheckDigit is the check digit of digits without it: weights of 3 and 1 from the right (General Specifications, section 7.9).
func CheckDigit(digits string) byte {
	sum := 0
	for i := range len(digits) {
		d := int(digits[len(digits)-1-i] - '0')
		if i%2 == 0 {
			d *= 3
		}
		sum += d
	}
	return byte('0' + (10-sum%10)%10)
}

const (
	set82 = "!\"%&'()*+,-./0123456789:;<=>?ABCDEFGHIJKLMNOPQRSTUVWXYZ_abcdefghijklmnopqrstuvwxyz"
	set39 = "#-/0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"
	set64 = "-0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ_abcdefghijklmnopqrstuvwxyz="
)

var sets = map[byte]struct {
	letters, words string
}{'N': {"0123456789", "digits"}, 'X': {set82, "letters, digits and the signs of character set 82"},
	'Y': {set39, "capitals, digits, # - and /"}, 'Z': {set64, "letters, digits, - and _"}}

// shape says in words what a value looks like.
func (id *Identifier) shape() string {
	least, most := 0, 0
	for _, p := range id.parts {
		if !p.optional {
			least += p.least
		}
		most += p.most
	}
	what := "characters"
	if !slices.ContainsFunc(id.parts, func(p part) bool { return p.set != 'N' }) {
		what = "digits"
	}
	if least == most {
		return fmt.Sprintf("%d %s", most, what)
	}
	return fmt.Sprintf("%d to %d %s", least, most, what)
}

// Check holds a value against the format of its identifier; "" where it is sound.
func (id *Identifier) Check(value string) string {
	rest := value
	if value == "" {
		return "is empty; it has " + id.shape()
	}
	for i, p := range id.parts {
		if rest == "" && p.optional {
			break
		}
		n := min(len(rest), p.most)
		if len(rest) < p.least || i == len(id.parts)-1 && len(rest) > p.most {
			return fmt.Sprintf("is %q, with %d characters; it has %s", value, len(value), id.shape())
		}
		one := rest[:n]
		rest = rest[n:]
		if j := strings.IndexFunc(one, func(r rune) bool { return !strings.ContainsRune(sets[p.set].letters, r) }); j >= 0 {
			return fmt.Sprintf("holds %q; it is made of %s", string([]rune(one[j:])[0]), sets[p.set].words)
		}
		if message := p.check(one); message != "" {
			return message
		}
	}
	return ""
}

func (p part) check(s string) string {
	switch p.mark {
	case "*":
		if want := CheckDigit(s[:len(s)-1]); s[len(s)-1] != want {
			return fmt.Sprintf("is %s, whose check digit does not fit; with these digits it is %c: %s%c", s, want,
				s[:len(s)-1], want)
		}
	case "d", "d0":
		return date(s, p.mark == "d0")
	case "t":
		if message := date(s[:6], false); message != "" {
			return message
		}
		if s[6:] != "9999" { // where no time is meant
			return clock(s[6:])
		}
	case "h":
		if message := date(s[:6], false); message != "" {
			return message
		}
		return clock(s[6:] + "00")
	case "hm":
		return clock(s)
	case "ms":
		if len(s)%2 != 0 || s[:2] > "59" || len(s) == 4 && s[2:] > "59" {
			return fmt.Sprintf("has %s behind its hour, where minutes, 00 to 59, and perhaps seconds stand", s)
		}
	case "c":
		if n, _ := strconv.Atoi(s); n == 0 {
			return "has 000 as its country or currency"
		}
	}
	return ""
}

// clock holds hhmm against the day.
func clock(s string) string {
	if h, m := s[:2], s[2:]; h > "23" || m > "59" {
		return fmt.Sprintf("has %s:%s as its time, which no clock shows", h, m)
	}
	return ""
}

// date holds YYMMDD against the calendar (section 7.12 tells the century, which does not matter here but for leap years).
func date(s string, noDay bool) string {
	month, day := s[2:4], s[4:6]
	if month < "01" || month > "12" {
		return fmt.Sprintf("is %s, with %s as its month; dates are written year, month, day: YYMMDD", s, month)
	}
	if day == "00" {
		if noDay {
			return ""
		}
		return fmt.Sprintf("is %s, with 00 as its day, which this date may not have", s)
	}
	if _, err := time.Parse("060102", s); err != nil {
		return fmt.Sprintf("is %s, a day that the month has not", s)
	}
	return ""
}

// Check holds elements against the formats and against each other.
func Check(elements []Element) (faults []Fault) {
	have := map[string]string{}
	for _, e := range elements {
		id, ok := identifiers[e.AI]
		if !ok {
			faults = append(faults, Fault{e.AI, "is no application identifier that is known"})
			continue
		}
		if message := id.Check(e.Value); message != "" {
			faults = append(faults, Fault{e.AI, message})
		}
		if old, twice := have[e.AI]; twice && old != e.Value {
			faults = append(faults, Fault{e.AI, fmt.Sprintf("is there twice, as %s and as %s", old, e.Value)})
		}
		have[e.AI] = e.Value
	}
	for _, e := range elements {
		id := identifiers[e.AI]
		if id == nil {
			continue
		}
		for _, w := range id.with {
			if !slices.ContainsFunc(w, func(ai string) bool { return have[ai] != "" }) {
				faults = append(faults, Fault{e.AI, fmt.Sprintf("stands alone; %s goes only with %s", id.Name, named(w))})
			}
		}
		for _, n := range id.never {
			if have[n] != "" && (n > e.AI || !slices.Contains(identifiers[n].never, e.AI)) {
				faults = append(faults, Fault{e.AI, fmt.Sprintf("and (%s) never stand together; leave one of the two out", n)})
			}
		}
	}
	return faults
}

func named(ais []string) string {
	out := make([]string, len(ais))
	for i, ai := range ais {
		out[i] = "(" + ai + ")"
		if id := identifiers[ai]; id != nil && i == 0 {
			out[i] += " " + id.Name
		}
	}
	return strings.Join(out, " or ")
}
