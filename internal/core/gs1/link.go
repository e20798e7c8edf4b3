package gs1

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"sodrik/internal/core/percent"
)

// Canonical is the domain of canonical Digital Link URIs (clause 5).
const Canonical = "id.gs1.org"

// Link writes elements as a GS1 Digital Link URI on a domain, which may have a path of its own: the primary key and its
// qualifiers in order in the path, everything else as the query, in the order of the elements (clauses 4.6 to 4.9). The GTIN is
// written with 14 digits.
func Link(domain string, elements []Element) (string, error) {
	key, err := PrimaryKey(elements)
	if err != nil {
		return "", err
	}
	values := map[string]string{}
	for _, e := range elements {
		values[e.AI] = e.Value
	}
	path := "/" + key.AI + "/" + percent.Encode(values[key.AI], percent.Unreserved)
	used := map[string]bool{key.AI: true}
	for _, qualifier := range qualifiers(key, values) {
		if values[qualifier] != "" {
			path += "/" + qualifier + "/" + percent.Encode(values[qualifier], percent.Unreserved)
			used[qualifier] = true
		}
	}
	query := ""
	for _, e := range elements {
		if used[e.AI] {
			continue
		}
		used[e.AI] = true
		if query == "" {
			query = "?"
		} else {
			query += "&"
		}
		query += e.AI + "=" + percent.Encode(e.Value, percent.Unreserved)
	}
	return "https://" + strings.TrimSuffix(domain, "/") + path + query, nil
}

// qualifiers are those of a key's alternatives that fit: the first that has a value, else the first.
func qualifiers(key *Identifier, values map[string]string) []string {
	for _, alternative := range key.Path {
		if slices.ContainsFunc(alternative, func(ai string) bool { return values[ai] != "" }) {
			return alternative
		}
	}
	if len(key.Path) > 0 {
		return key.Path[0]
	}
	return nil
}

// PrimaryKey finds the one element that identifies by itself.
func PrimaryKey(elements []Element) (*Identifier, error) {
	var key *Identifier
	for _, e := range elements {
		id := identifiers[e.AI]
		if id == nil || !id.Key {
			continue
		}
		if key != nil && key.AI != id.AI {
			return nil, fmt.Errorf("has two primary keys, (%s) and (%s); a link identifies one thing", key.AI, id.AI)
		}
		key = id
	}
	if key == nil {
		return nil, fmt.Errorf("has no primary key, such as (01) GTIN; nothing says what is meant")
	}
	return key, nil
}

// ParseLink takes a Digital Link URI apart. ok is false where it is none: where no primary key stands in its path. A GTIN of
// fewer digits is filled up to 14 (clause 4.4). Parameters that are no identifiers are given back too, as they may belong to
// somebody else.
func ParseLink(uri string) (domain string, elements []Element, others []string, ok bool) {
	u, err := url.Parse(uri)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || u.User != nil {
		return "", nil, nil, false
	}
	steps := strings.Split(strings.TrimPrefix(u.EscapedPath(), "/"), "/")
	for at := 0; at+1 < len(steps); at++ {
		key := identifiers[steps[at]]
		if key == nil || !key.Key || (len(steps)-at)%2 != 0 {
			continue
		}
		elements = elements[:0]
		sound := true
		for i := at; i+1 < len(steps); i += 2 {
			value, err := url.PathUnescape(steps[i+1])
			if sound = sound && err == nil && value != ""; !sound || i > at &&
				!slices.ContainsFunc(key.Path, func(a []string) bool { return slices.Contains(a, steps[i]) }) {
				sound = false
				break
			}
			if steps[i] == "01" && len(value) < 14 && (len(value) == 8 || len(value) == 12 || len(value) == 13) {
				value = strings.Repeat("0", 14-len(value)) + value
			}
			elements = append(elements, Element{steps[i], value})
		}
		if !sound {
			continue
		}
		domain = u.Host
		if at > 0 {
			domain += "/" + strings.Join(steps[:at], "/")
		}
		for _, p := range strings.FieldsFunc(u.RawQuery, func(r rune) bool { return r == '&' || r == ';' }) {
			name, raw, _ := strings.Cut(p, "=")
			value, err := url.QueryUnescape(strings.ReplaceAll(raw, "+", "%2B"))
			if _, known := identifiers[name]; known && err == nil {
				elements = append(elements, Element{name, value})
			} else {
				others = append(others, p)
			}
		}
		if u.Fragment != "" {
			others = append(others, "#"+u.Fragment)
		}
		return domain, elements, others, true
	}
	return "", nil, nil, false
}
