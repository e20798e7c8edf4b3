// Package fields reads one JSON object key by key and notes every problem with its pointer: a missing key, a wrong type, a
// key nobody knows. It knows no key by name.
package fields

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/problem"
)

// Object is a JSON object being read. Every getter remembers its key; Close reports keys that no getter asked for.
type Object struct {
	at       string // JSON Pointer of the object itself
	values   map[string]any
	known    []string
	problems *problem.List
}

// Decode parses text as one JSON value, numbers kept as json.Number. Keys given twice are not noticed (RFC 8259, clause 4).
func Decode(text []byte) (any, error) {
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	var v any
	if err := d.Decode(&v); err != nil {
		return nil, err
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return nil, errors.New("there is more text after the JSON value")
	}
	if at, ok := Storable(v); !ok {
		return nil, fmt.Errorf("%s holds the character U+0000, which no text may hold", problem.Problem{Field: at}.Dotted())
	}
	return v, nil
}

// Storable says whether no text in a decoded value holds the character U+0000, which no database keeps; else at points to one
// that does.
func Storable(v any) (at string, ok bool) {
	switch v := v.(type) {
	case string:
		return "", !strings.ContainsRune(v, 0)
	case map[string]any:
		for k, x := range v {
			if strings.ContainsRune(k, 0) {
				return "", false
			}
			if below, ok := Storable(x); !ok {
				return "/" + problem.Escape(k) + below, false
			}
		}
	case []any:
		for i, x := range v {
			if below, ok := Storable(x); !ok {
				return "/" + strconv.Itoa(i) + below, false
			}
		}
	}
	return "", true
}

// Open reads v, standing at pointer at, as an object. Anything else is a problem, and reads as an empty object.
func Open(v any, at string, problems *problem.List) *Object {
	m, ok := v.(map[string]any)
	if !ok && v != nil {
		problems.Add(at, "type", "must be an object with keys, not %s", kindOf(v))
	}
	return &Object{at: at, values: m, problems: problems}
}

func kindOf(v any) string {
	switch v.(type) {
	case nil:
		return "null"
	case string:
		return "text"
	case json.Number, float64, int:
		return "a number"
	case bool:
		return "true or false"
	case []any:
		return "a list"
	}
	return "an object"
}

// At is the pointer of a key of this object.
func (o *Object) At(key string) string { return o.at + "/" + problem.Escape(key) }

// Problems is where problems of this object are noted.
func (o *Object) Problems() *problem.List { return o.problems }

// Problem notes a problem with one key.
func (o *Object) Problem(key, code, format string, args ...any) {
	o.problems.Add(o.At(key), code, format, args...)
}

// ProblemBelow notes a problem with one step below a key, such as an item of a list that holds no objects.
func (o *Object) ProblemBelow(key, step, code, message string) {
	o.problems.Add(o.At(key)+"/"+problem.Escape(step), code, "%s", message)
}

// Objects reads a list of objects; absent gives nil. Close each of them.
func (o *Object) Objects(key string) (out []*Object) {
	for i, v := range o.List(key) {
		out = append(out, Open(v, o.At(key)+"/"+strconv.Itoa(i), o.problems))
	}
	return out
}

// Any gives the raw value of a key; ok is false where it is absent or null.
func (o *Object) Any(key string) (v any, ok bool) {
	o.known = append(o.known, key)
	v, ok = o.values[key]
	return v, ok && v != nil
}

// String reads text; absent gives "".
func (o *Object) String(key string) string {
	v, ok := o.Any(key)
	if !ok {
		return ""
	}
	s, ok := v.(string)
	if !ok {
		o.Problem(key, "type", "must be text, not %s", kindOf(v))
	}
	return s
}

// OneOf reads text that must be one of choices; absent gives the first.
func (o *Object) OneOf(key string, choices ...string) string {
	s := o.String(key)
	if s == "" {
		return choices[0]
	}
	if !slices.Contains(choices, s) {
		o.Problem(key, "choice", "is %q; it must be one of %s", s, strings.Join(choices, ", "))
		return choices[0]
	}
	return s
}

// Number reads a finite number; absent gives def.
func (o *Object) Number(key string, def float64) float64 {
	v, ok := o.Any(key)
	if !ok {
		return def
	}
	f, isNumber := Float(v)
	switch {
	case !isNumber:
		o.Problem(key, "type", "must be a number, not %s", kindOf(v))
		return def
	case math.IsInf(f, 0) || math.IsNaN(f):
		o.Problem(key, "range", "is %.20s, which is too large", fmt.Sprint(v))
		return def
	}
	return f
}

// Keys are the keys of the object, in order.
func (o *Object) Keys() []string { return slices.Sorted(maps.Keys(o.values)) }

// Float gives a JSON number; one that is too large is infinite. ok is false where v is none.
func Float(v any) (f float64, ok bool) {
	switch n := v.(type) {
	case json.Number:
		f, err := n.Float64()
		if err != nil {
			f = math.Inf(1)
		}
		return f, true
	case float64:
		return n, true
	case int:
		return float64(n), true
	}
	return 0, false
}

// Sound says whether no problem has been noted with a key, nor with anything below it.
func (o *Object) Sound(key string) bool {
	for _, p := range *o.problems {
		if at := o.At(key); p.Field == at || strings.HasPrefix(p.Field, at+"/") {
			return false
		}
	}
	return true
}

// Int reads a whole number within bounds; absent gives def.
func (o *Object) Int(key string, def, least, most int) int {
	f := o.Number(key, float64(def))
	if f != math.Trunc(f) || f < float64(least) || f > float64(most) {
		o.Problem(key, "range", "must be a whole number from %d to %d", least, most)
		return def
	}
	return int(f)
}

// Bool reads true or false; absent gives def.
func (o *Object) Bool(key string, def bool) bool {
	v, ok := o.Any(key)
	if !ok {
		return def
	}
	b, ok := v.(bool)
	if !ok {
		o.Problem(key, "type", "must be true or false, not %s", kindOf(v))
		return def
	}
	return b
}

// Object opens a nested object; absent reads as empty.
func (o *Object) Object(key string) *Object {
	v, _ := o.Any(key)
	return Open(v, o.At(key), o.problems)
}

// Has says whether the key is there and not null.
func (o *Object) Has(key string) bool { _, ok := o.Any(key); return ok }

// List reads a list; absent gives nil.
func (o *Object) List(key string) []any {
	v, ok := o.Any(key)
	if !ok {
		return nil
	}
	l, ok := v.([]any)
	if !ok {
		o.Problem(key, "type", "must be a list, not %s", kindOf(v))
	}
	return l
}

// Close reports every key that was not asked for, by name, with the keys there are.
func (o *Object) Close() {
	slices.Sort(o.known)
	known := strings.Join(slices.Compact(o.known), ", ")
	var unknown []string
	for k := range o.values {
		if !slices.Contains(o.known, k) {
			unknown = append(unknown, k)
		}
	}
	slices.Sort(unknown)
	for _, k := range unknown {
		o.Problem(k, "unknown", "is not a key here; the keys are %s", known)
	}
}
