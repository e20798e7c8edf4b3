package style

import (
	"cmp"
	"fmt"
	"reflect"
	"strings"

	"sodrik/internal/core/pattern"
)

// Changed says in a few words what a house style has otherwise than another: "colour Pine changed, look Garden sign new". It
// is "" where they are alike.
func Changed(was, now *Style) string {
	var out []string
	part := func(what string, was, now []keyed) {
		old := map[string]keyed{}
		for _, k := range was {
			old[k.key] = k
		}
		for _, k := range now {
			before, there := old[k.key]
			delete(old, k.key)
			switch {
			case !there:
				out = append(out, what+" "+k.name+" new")
			case before.name != k.name:
				out = append(out, fmt.Sprintf("%s %s now called %s", what, before.name, k.name))
			case !reflect.DeepEqual(before.value, k.value):
				out = append(out, what+" "+k.name+" changed")
			}
		}
		for _, k := range was {
			if _, gone := old[k.key]; gone {
				out = append(out, what+" "+k.name+" taken away")
			}
		}
	}
	part("colour", keyedOf(was.Colours, func(c Colour) keyed { return keyed{c.Key, c.Name, c.Value} }),
		keyedOf(now.Colours, func(c Colour) keyed { return keyed{c.Key, c.Name, c.Value} }))
	part("mark", keyedOf(was.Marks, func(m Mark) keyed { return keyed{m.Key, m.Name, m} }),
		keyedOf(now.Marks, func(m Mark) keyed { return keyed{m.Key, m.Name, m} }))
	part("typeface", keyedOf(was.Faces, func(f Face) keyed { return keyed{f.Key, cmp.Or(f.Name, f.Key), nil} }),
		keyedOf(now.Faces, func(f Face) keyed { return keyed{f.Key, cmp.Or(f.Name, f.Key), nil} }))
	part("look", keyedOf(was.Looks, func(l Look) keyed { return keyed{l.Key, l.Name, plainly(l.Wear)} }),
		keyedOf(now.Looks, func(l Look) keyed { return keyed{l.Key, l.Name, plainly(l.Wear)} }))
	link := func(l pattern.Pattern) keyed { return keyed{l.Key, l.Name, l} }
	part("link pattern", keyedOf(was.Links, link), keyedOf(now.Links, link))
	for _, m := range now.Media {
		if !hasMedium(was, m.Key) {
			out = append(out, "medium "+m.Name+" new")
		}
	}
	for _, m := range was.Media {
		if !hasMedium(now, m.Key) {
			out = append(out, "medium "+m.Name+" taken away")
		}
	}
	if was.Names != now.Names {
		out = append(out, "names of files")
	}
	if was.Rules != now.Rules || was.Locked != now.Locked {
		out = append(out, "rules")
	}
	if was.Name != now.Name {
		out = append(out, "name")
	}
	if len(out) > maxChanges {
		out = append(out[:maxChanges-1], fmt.Sprintf("and %d more", len(out)-maxChanges+1))
	}
	return strings.Join(out, ", ")
}

// maxChanges is how many parts are named in one line.
const maxChanges = 5

type keyed struct {
	key, name string
	value     any
}

func keyedOf[T any](list []T, of func(T) keyed) (out []keyed) {
	for _, v := range list {
		out = append(out, of(v))
	}
	return out
}

// plainly is decoded JSON as it prints, so that numbers compare however they are held.
func plainly(v any) any { return fmt.Sprint(v) }

func hasMedium(s *Style, key string) bool {
	for _, m := range s.Media {
		if m.Key == key {
			return true
		}
	}
	return false
}
