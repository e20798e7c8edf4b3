package gs1

import (
	"fmt"
	"slices"
	"strings"
)

// Separator stands between elements of open length in an element string, where a symbol has FNC1 (General Specifications,
// section 7.8).
const Separator = '\x1d'

// Brackets reads elements as they are written for people: (01)09521234500018(10)A1209. A bracket that belongs to a value has a
// backslash in front.
func Brackets(s string) (out []Element, err error) {
	s = strings.TrimSpace(s)
	for s != "" {
		end := strings.IndexByte(s, ')')
		if s[0] != '(' || end < 0 {
			return nil,
				fmt.Errorf("is %q; every value has its identifier in brackets in front, as in (01)09521234500018(10)A1209", s)
		}
		ai := s[1:end]
		if len(ai) < 2 || len(ai) > 4 || strings.Trim(ai, "0123456789") != "" {
			return nil, fmt.Errorf("has (%s), which is no application identifier; they have 2 to 4 digits", ai)
		}
		var value strings.Builder
		i := end + 1
		for ; i < len(s) && s[i] != '('; i++ {
			if s[i] == '\\' && i+1 < len(s) && strings.IndexByte(`\()`, s[i+1]) >= 0 {
				i++
			}
			value.WriteByte(s[i])
		}
		out = append(out, Element{ai, strings.TrimSpace(value.String())})
		s = s[i:]
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("is empty; write identifiers with values, as in (01)09521234500018(10)A1209")
	}
	return out, nil
}

var escapes = strings.NewReplacer(`\`, `\\`, "(", `\(`, ")", `\)`)

// Bracketed is the reverse of Brackets.
func Bracketed(elements []Element) string {
	var b strings.Builder
	for _, e := range elements {
		b.WriteString("(" + e.AI + ")" + escapes.Replace(e.Value))
	}
	return b.String()
}

// Raw writes the element string of a symbol: identifiers and values on end, a separator behind each value that is not of a length
// known beforehand, unless it is the last.
func Raw(elements []Element) string {
	var b strings.Builder
	for i, e := range elements {
		b.WriteString(e.AI + e.Value)
		if id := identifiers[e.AI]; i < len(elements)-1 && (id == nil || !id.Fixed) {
			b.WriteByte(Separator)
		}
	}
	return b.String()
}

// ParseRaw takes an element string apart, as a scanner gives it; a symbology identifier in front, such as ]Q3, is left out.
func ParseRaw(s string) (out []Element, err error) {
	if len(s) > 3 && s[0] == ']' {
		s = s[3:]
	}
	s = strings.TrimPrefix(s, string(Separator))
	for s != "" {
		var id *Identifier
		for n := 2; n <= 4 && n <= len(s) && id == nil; n++ {
			id = identifiers[s[:n]]
		}
		if id == nil {
			return nil, fmt.Errorf("begins with %q, which is no application identifier that is known", s[:min(4, len(s))])
		}
		s = s[len(id.AI):]
		end := strings.IndexByte(s, Separator)
		if id.Fixed {
			n := id.parts[0].most
			if len(s) < n {
				return nil, fmt.Errorf("ends within (%s), which has %s", id.AI, id.shape())
			}
			end = n
		}
		if end < 0 {
			end = len(s)
		}
		out = append(out, Element{id.AI, s[:end]})
		s = strings.TrimPrefix(s[end:], string(Separator))
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("is empty")
	}
	return out, nil
}

// Ordered puts elements of known length in front, in which order a symbol is shortest; the order within both stays.
func Ordered(elements []Element) []Element {
	out := slices.Clone(elements)
	slices.SortStableFunc(out, func(a, b Element) int { return open(a.AI) - open(b.AI) })
	return out
}

func open(ai string) int {
	if id := identifiers[ai]; id != nil && id.Fixed {
		return 0
	}
	return 1
}
