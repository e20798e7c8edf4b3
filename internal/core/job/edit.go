package job

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// kindIn is the kind of the content of a draft, "" where it has none.
func kindIn(draft any) string {
	v, _ := patch.Get(draft, "/content/kind")
	s, _ := v.(string)
	return s
}

// fieldIn is the field of a draft that can be typed at a path, nil where there is none.
func fieldIn(draft any, path string) *schema.Field {
	if f := Field(kindIn(draft), path); f != nil && f.Leaf() && !f.Fixed {
		return f
	}
	return nil
}

// Editable says whether a path of a draft is one that a person edits by typing.
func Editable(draft any, path string) bool { return fieldIn(draft, path) != nil }

// Called is what a field of a draft is called in a sentence: "the password". It is its pointer, dotted, where it has no name.
func Called(draft any, path string) string {
	if f := fieldIn(draft, path); f != nil {
		return "the " + f.Name()
	}
	return problem.Problem{Field: path}.Dotted()
}

// Secret says whether what is typed at a path must not be shown again in words, in whatever kind of content.
func Secret(path string) bool {
	below, isContent := strings.CutPrefix(path, "/content/")
	if !isContent {
		f := Fields.Find(path)
		return f != nil && f.Secret
	}
	return slices.ContainsFunc(content.Register(), func(k *content.Kind) bool {
		f := k.Fields.Find("/" + below)
		return f != nil && f.Secret
	})
}

// Unparsed gives the problem with text that no value of the field can hold, or nil.
func Unparsed(draft any, path, typed string) *problem.Problem {
	f := fieldIn(draft, path)
	if f == nil {
		return &problem.Problem{Field: path, Code: "field", Message: "is not a field that can be edited"}
	}
	if f.Unsets(typed) {
		return nil
	}
	_, bad := put(f, draft, path, typed)
	return bad
}

// put makes the operation that sets a field, whatever stands above it.
func put(f *schema.Field, draft any, path, typed string) (patch.Patch, *problem.Problem) {
	if f.Put != nil {
		return f.Put(draft, path, typed)
	}
	value, bad := f.Parse(path, typed)
	if bad != nil {
		return nil, bad
	}
	op := patch.Op{Op: "add", Path: path, Value: value}
	if _, there := patch.Get(draft, path); there {
		if _, inList := parent(draft, path).([]any); inList {
			op.Op = "replace"
		}
	}
	return patch.Patch{op}, nil
}

// Edit makes the patch that puts typed text into a draft, objects above it made where they are missing, and what changes
// along with it: a medium brings the habits of its kind. It returns the problem where the draft cannot hold the text; the
// patch is then nil.
func Edit(draft any, path, typed string) (patch.Patch, *problem.Problem) {
	if bad := Unparsed(draft, path, typed); bad != nil {
		return nil, bad
	}
	f := fieldIn(draft, path)
	if f.Unsets(typed) {
		return unset(f, draft, path), nil
	}
	ops, bad := put(f, draft, path, typed)
	if bad != nil {
		return nil, bad
	}
	ops = Complete(draft, ops)
	if f.Along != nil {
		ops = append(ops, f.Along(draft, path, typed)...)
	}
	return ops, nil
}

// unset makes the patch that takes a field away, and the object that is nothing without it.
func unset(f *schema.Field, draft any, path string) (ops patch.Patch) {
	if _, there := patch.Get(draft, path); !there {
		return patch.Patch{}
	}
	gone := path
	if f.Bears {
		gone = path[:strings.LastIndexByte(path, '/')]
	}
	if f.Along != nil {
		ops = f.Along(draft, path, "")
	}
	ops = slices.DeleteFunc(ops, func(op patch.Op) bool { return op.Path == gone || strings.HasPrefix(op.Path, gone+"/") })
	return append(ops, patch.Op{Op: "remove", Path: gone})
}

func parent(draft any, path string) any {
	v, _ := patch.Get(draft, path[:strings.LastIndexByte(path, '/')])
	return v
}

// above makes the objects and lists that must be there before a value can be put at path.
func above(draft any, path string) (ops patch.Patch) {
	kind := kindIn(draft)
	for i := 1; i < len(path); i++ {
		if path[i] != '/' {
			continue
		}
		if _, ok := patch.Get(draft, path[:i]); !ok {
			var empty any = map[string]any{}
			if f := Field(kind, path[:i]); f != nil && f.Type == schema.List {
				empty = []any{}
			}
			ops = append(ops, missing(draft, kind, path[:i])...)
			ops = append(ops, patch.Op{Op: "add", Path: path[:i], Value: empty})
		}
	}
	return ops
}

// missing makes the entries of a list of a fixed length that have to be there before one at path can be: the eyes before the
// third.
func missing(draft any, kind, path string) (ops patch.Patch) {
	at := strings.LastIndexByte(path, '/')
	up, key := path[:at], path[at+1:]
	f := Field(kind, up)
	n, err := strconv.Atoi(key)
	if f == nil || f.Type != schema.List || f.Item != nil || err != nil || n >= int(f.Most) || f.Most > maxFilled {
		return nil
	}
	have := 0
	if l, ok := parent(draft, path).([]any); ok {
		have = len(l)
	}
	for i := have; i < n; i++ {
		ops = append(ops, patch.Op{Op: "add", Path: fmt.Sprintf("%s/%d", up, i), Value: map[string]any{}})
	}
	return ops
}

// maxFilled is the longest list that is filled up to an entry; longer ones are only ever added to at their end.
const maxFilled = 3

// Complete puts in front of a patch what its adds need above them, so that a finding's fix can be applied to a draft that
// leaves out defaults.
func Complete(draft any, p patch.Patch) patch.Patch {
	var ops patch.Patch
	made := map[string]bool{}
	for _, op := range p {
		if op.Op == "add" {
			for _, a := range above(draft, op.Path) {
				if !made[a.Path] {
					ops, made[a.Path] = append(ops, a), true
				}
			}
			made[op.Path] = true
		}
		ops = append(ops, op)
	}
	return ops
}

// Text writes a draft's value the way it is typed.
func Text(draft any, path string) string {
	f := Field(kindIn(draft), path)
	if f != nil && f.Show != nil {
		return f.Show(draft, path)
	}
	v, ok := patch.Get(draft, path)
	if !ok {
		return ""
	}
	if f == nil {
		f = &schema.Field{}
	}
	return f.Format(v)
}

// Words says what an edit of a draft did, for undo: "ink to #12594a".
func Words(draft any, path, typed string) string {
	f := fieldIn(draft, path)
	switch {
	case f == nil:
		return "a change"
	case Secret(path) && typed != "":
		return f.Name() + " changed"
	case strings.TrimSpace(typed) == "":
		return f.Name() + " taken away"
	}
	return f.Name() + " to " + f.Spoken(typed)
}
