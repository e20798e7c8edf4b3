package style

import (
	"fmt"
	"slices"
	"strings"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/typeface"
)

// Face is a typeface of the house: one that comes along, or one that came in as a file.
type Face struct {
	Key  string // "bitter", or "asset:sha256-…"
	Name string
}

// readFace reads an entry of "typefaces": the key of one that comes along, or {"source", "name"} of one that came in.
func readFace(o *fields.Object, i int, v any) (Face, bool) {
	if m, is := v.(map[string]any); is {
		at := fields.Open(m, fmt.Sprintf("%s/%d", o.At("typefaces"), i), o.Problems())
		f := Face{at.String("source"), strings.TrimSpace(at.String("name"))}
		if !typeface.Uploaded(f.Key) {
			at.Problem("source", "style.typeface",
				"%.40q is no typeface that came in; write asset:sha256- and the digest of its file", f.Key)
		}
		if n := len(f.Name); n == 0 || n > 120 {
			at.Problem("name", "style.name", "is missing or longer than 120 bytes; name the typeface as its maker does")
		}
		at.Close()
		return f, typeface.Uploaded(f.Key)
	}
	key, _ := v.(string)
	face, ok := typeface.Of(key)
	if !ok {
		o.ProblemBelow("typefaces", fmt.Sprint(i), "style.typeface",
			fmt.Sprintf("is %q, which is none of the typefaces at hand", key))
		return Face{}, false
	}
	return Face{key, face.Name}, true
}

func (f Face) json() any {
	if typeface.Uploaded(f.Key) {
		return map[string]any{"source": f.Key, "name": f.Name}
	}
	return f.Key
}

func (s *Style) hasFace(key string) bool {
	return s != nil && slices.ContainsFunc(s.Faces, func(f Face) bool { return f.Key == key })
}

// Offered are the typefaces to choose from, the house's first, and alone where it is locked; current is the one worn, which
// stays.
func (s *Style) Offered(current *typeface.Face) []Face {
	var own, others []Face
	if s != nil {
		own = slices.Clone(s.Faces)
	}
	for _, f := range append(slices.Clone(typeface.Faces), current) {
		in := func(list []Face) bool {
			return slices.ContainsFunc(list, func(g Face) bool { return g.Key == f.Key })
		}
		if in(own) || in(others) || s != nil && s.Locked && len(s.Faces) > 0 && f.Key != current.Key {
			continue
		}
		others = append(others, Face{f.Key, f.Name})
	}
	return append(own, others...)
}
