package job

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/schema"
)

// Difference is one field that two jobs have otherwise.
type Difference struct {
	Path     string // JSON Pointer
	What     string // in words: "ink", "width at gate"
	From, To string // as typed; "" where the field is not there
}

func (d Difference) String() string {
	switch {
	case d.From == "":
		return d.What + " set to " + d.To
	case d.To == "":
		return d.What + " taken away, it was " + d.From
	}
	return d.What + " " + d.From + " → " + d.To
}

// Differences lists in words how b differs from a, in the order of the job's fields. Placements are matched by their name.
func Differences(a, b *Job) []Difference {
	from, to := leaves(a), leaves(b)
	var paths []string
	for p := range from {
		paths = append(paths, p)
	}
	for p := range to {
		if _, both := from[p]; !both {
			paths = append(paths, p)
		}
	}
	slices.Sort(paths)
	var out []Difference
	for _, p := range paths {
		a, b := from[p], to[p]
		if a.text == b.text {
			continue
		}
		name := a.name
		if name == "" {
			name = b.name
		}
		if a.secret || b.secret {
			a.text, b.text = hide(a.text, "the old one"), hide(b.text, "a new one")
		}
		out = append(out, Difference{p, name, a.text, b.text})
	}
	return out
}

// hide puts words in place of a secret.
func hide(secret, words string) string {
	if secret == "" {
		return ""
	}
	return words
}

// leaf is one value of a job, as a person reads it.
type leaf struct {
	name, text string
	secret     bool
}

// leaves takes a job apart, by pointer; a placement's index is replaced by its name.
func leaves(j *Job) map[string]leaf {
	out := map[string]leaf{}
	text, err := j.MarshalJSON()
	if err != nil {
		panic(err) // every part marshals
	}
	doc, err := fields.Decode(text)
	if err != nil {
		panic(err) // it was written just now
	}
	kind := kindIn(doc)
	var walk func(v any, pointer, path, at string)
	walk = func(v any, pointer, path, at string) {
		switch v := v.(type) {
		case map[string]any:
			if text, ok := colourText(v); ok { // one thing to a person, however many numbers it is written with
				out[path] = leaf{nameOf(kind, pointer, at), text, false}
				return
			}
			for k, x := range v {
				if k == "id" && strings.HasPrefix(pointer, "/placements/") { // says nothing of the code
					continue
				}
				walk(x, pointer+"/"+k, path+"/"+k, at)
			}
		case []any:
			for i, x := range v {
				name := strconv.Itoa(i)
				if n, ok := patch.Get(x, "/name"); ok {
					name = fmt.Sprint(n)
				}
				walk(x, pointer+"/"+strconv.Itoa(i), path+"/"+name, name)
			}
		default:
			f := Field(kind, pointer)
			if f == nil {
				f = &schema.Field{}
			}
			out[path] = leaf{nameOf(kind, pointer, at), f.Sentence(v), f.Secret}
		}
	}
	walk(doc, "", "", "")
	delete(out, "/version")
	return out
}

// nameOf is what people call a field; at is the name of the place that it belongs to, "" for none.
func nameOf(kind, path, at string) string {
	name := strings.ReplaceAll(strings.TrimPrefix(path, "/"), "/", " ")
	if f := Field(kind, path); f != nil && f.Called != "" {
		name = f.Called
	} else if f != nil && f.Leaf() {
		name = f.Key
	}
	if at != "" && name != "name of the place" {
		name += " at " + at
	}
	return name
}

// colourText writes a colour by its inks, a spot ink, a colour of the house or a gradient in words; ok is false where v is
// something else.
func colourText(v map[string]any) (text string, ok bool) {
	one := func(v any) string {
		if m, is := v.(map[string]any); is {
			text, _ := colourText(m)
			return text
		}
		return fmt.Sprint(v)
	}
	if key, is := v["style"].(string); is {
		return "the house's " + key, true
	}
	if name, is := v["spot"].(string); is {
		return "spot ink " + name, true
	}
	if inks, is := v["cmyk"].([]any); is && len(inks) == 4 {
		return fmt.Sprintf("C %v M %v Y %v K %v", inks[0], inks[1], inks[2], inks[3]), true
	}
	stops, is := v["stops"].([]any)
	if kind, named := v["kind"].(string); is && named && len(stops) > 1 {
		var colours []string
		for _, s := range stops {
			if m, is := s.(map[string]any); is {
				colour := one(m["colour"])
				if at, ok := measure.ParseDecimal(fmt.Sprint(m["at"])); ok {
					colour += " at " + measure.Number(at*100, 0) + " %"
				}
				colours = append(colours, colour)
			}
		}
		text = kind + " gradient, " + strings.Join(colours, ", ")
		if angle, is := v["angle"]; is && kind == "linear" {
			text += fmt.Sprintf(", turned %v°", angle)
		}
		return text, true
	}
	return "", false
}
