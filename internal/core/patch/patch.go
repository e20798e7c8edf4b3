// Package patch applies JSON Patch (RFC 6902) to a decoded JSON value and gives the patch that undoes it. Operations
// understood are add, replace, remove and test; move and copy are not needed on a job.
package patch

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"
)

// Op is one operation.
type Op struct {
	Op    string `json:"op"`
	Path  string `json:"path"`
	Value any    `json:"value,omitempty"`
}

// MarshalJSON writes a value wherever the operation has one, null and false too.
func (o Op) MarshalJSON() ([]byte, error) {
	m := map[string]any{"op": o.Op, "path": o.Path}
	if o.Op != "remove" {
		m["value"] = o.Value
	}
	return json.Marshal(m)
}

// Patch is a list of operations, applied in order.
type Patch []Op

// Kinds are the operations that are understood.
var Kinds = []string{"add", "replace", "remove", "test"}

// MaxOps bounds a patch that comes from outside.
const MaxOps = 200

// ErrTest is returned, wrapped, where a test operation does not hold.
var ErrTest = errors.New("patch: a test does not hold")

// Set is the patch that puts value at path whether or not something is there; the objects above it must be there, or are
// made by Apply's caller.
func Set(path string, value any) Patch { return Patch{{Op: "add", Path: path, Value: value}} }

// Squash is what two patches that set the same values of the same objects come to: the first with the values of the second.
// Its inverse is that of the first. ok is false where it is not so simple: where they have other paths, or the second inserts
// into a list.
func Squash(first, second Patch) (both Patch, ok bool) {
	if len(first) != len(second) {
		return nil, false
	}
	both = slices.Clone(first)
	for i, op := range second {
		key := op.Path[strings.LastIndexByte(op.Path, '/')+1:]
		listed := strings.Trim(key, "0123456789") == "" || key == "-"
		switch {
		case op.Path != first[i].Path:
			return nil, false
		case op.Op == "test" && first[i].Op == "test" && equal(op.Value, first[i].Value):
		case (op.Op == "replace" || op.Op == "add" && !listed) && (first[i].Op == "add" || first[i].Op == "replace"):
			both[i].Value = op.Value
		default:
			return nil, false
		}
	}
	return both, true
}

// Without is the patch that takes away what is at paths of doc; nothing where nothing is.
func Without(doc any, paths ...string) (p Patch) {
	for _, path := range paths {
		if _, ok := Get(doc, path); ok {
			p = append(p, Op{Op: "remove", Path: path})
		}
	}
	return p
}

// Apply gives doc with the patch applied, and the inverse patch. doc itself is not changed. On an error nothing is applied.
func (p Patch) Apply(doc any) (out any, inverse Patch, err error) {
	out = clone(doc)
	for _, op := range p {
		var undo Op
		if out, undo, err = apply(out, op); err != nil {
			return nil, nil, err
		}
		if undo.Op != "" {
			inverse = append(inverse, undo)
		}
	}
	slices.Reverse(inverse)
	return out, inverse, nil
}

func clone(v any) any {
	switch v := v.(type) {
	case map[string]any:
		m := make(map[string]any, len(v))
		for k, x := range v {
			m[k] = clone(x)
		}
		return m
	case []any:
		l := make([]any, len(v))
		for i, x := range v {
			l[i] = clone(x)
		}
		return l
	}
	return v
}

// Split takes a JSON Pointer apart (RFC 6901).
func Split(pointer string) ([]string, error) {
	if pointer == "" {
		return nil, nil
	}
	if !strings.HasPrefix(pointer, "/") {
		return nil, fmt.Errorf("patch: %q is not a JSON Pointer; it must start with /", pointer)
	}
	steps := strings.Split(pointer[1:], "/")
	for i, s := range steps {
		steps[i] = strings.ReplaceAll(strings.ReplaceAll(s, "~1", "/"), "~0", "~")
	}
	return steps, nil
}

// Get finds the value at a pointer; ok is false where there is none.
func Get(doc any, pointer string) (v any, ok bool) {
	steps, err := Split(pointer)
	if err != nil {
		return nil, false
	}
	v = doc
	for _, s := range steps {
		switch c := v.(type) {
		case map[string]any:
			if v, ok = c[s]; !ok {
				return nil, false
			}
		case []any:
			i, err := strconv.Atoi(s)
			if err != nil || i < 0 || i >= len(c) {
				return nil, false
			}
			v = c[i]
		default:
			return nil, false
		}
	}
	return v, true
}

func apply(doc any, op Op) (out any, undo Op, err error) {
	steps, err := Split(op.Path)
	if err != nil {
		return nil, undo, err
	}
	old, had := Get(doc, op.Path)
	switch op.Op {
	case "test":
		if !had || !equal(old, op.Value) {
			return nil, undo, fmt.Errorf("%w at %s", ErrTest, op.Path)
		}
		return doc, undo, nil
	case "replace", "remove":
		if !had {
			return nil, undo, fmt.Errorf("patch: nothing is at %q to %s", op.Path, op.Op)
		}
	case "add":
	default:
		return nil, undo, fmt.Errorf("patch: operation %q is not one of add, replace, remove, test", op.Op)
	}
	if len(steps) == 0 {
		if op.Op == "remove" {
			return nil, undo, errors.New("patch: the whole document cannot be removed")
		}
		return clone(op.Value), Op{"replace", "", old}, nil
	}
	list, inList := parentOf(doc, steps).([]any) // before it grows
	undo = Op{Op: "replace", Path: op.Path, Value: clone(old)}
	if out, err = edit(doc, steps, op); err != nil {
		return nil, undo, err
	}
	switch {
	case op.Op == "remove":
		undo.Op = "add"
	case op.Op == "add" && (inList || !had):
		undo = Op{Op: "remove", Path: op.Path}
		if inList && steps[len(steps)-1] == "-" {
			undo.Path = strings.TrimSuffix(op.Path, "-") + strconv.Itoa(len(list))
		}
	}
	return out, undo, nil
}

func parentOf(doc any, steps []string) any {
	v := doc
	for _, s := range steps[:len(steps)-1] {
		switch c := v.(type) {
		case map[string]any:
			v = c[s]
		case []any:
			i, err := strconv.Atoi(s)
			if err != nil || i < 0 || i >= len(c) {
				return nil
			}
			v = c[i]
		default:
			return nil
		}
	}
	return v
}

// edit changes doc, which is ours, along steps.
func edit(doc any, steps []string, op Op) (any, error) {
	step, last := steps[0], len(steps) == 1
	switch c := doc.(type) {
	case map[string]any:
		if !last {
			inner, err := edit(c[step], steps[1:], op)
			if err != nil {
				return nil, err
			}
			c[step] = inner
			return c, nil
		}
		if op.Op == "remove" {
			delete(c, step)
		} else {
			c[step] = clone(op.Value)
		}
		return c, nil
	case []any:
		i, err := strconv.Atoi(step)
		if step == "-" && op.Op == "add" && last {
			i, err = len(c), nil
		}
		most := len(c) - 1
		if op.Op == "add" && last {
			most++
		}
		if err != nil || i < 0 || i > most || len(step) > 1 && step[0] == '0' {
			return nil, fmt.Errorf("patch: %q is not a place in a list of %d", op.Path, len(c))
		}
		switch {
		case !last:
			if c[i], err = edit(c[i], steps[1:], op); err != nil {
				return nil, err
			}
		case op.Op == "add":
			c = append(c, nil)
			copy(c[i+1:], c[i:])
			c[i] = clone(op.Value)
		case op.Op == "remove":
			c = append(c[:i], c[i+1:]...)
		default:
			c[i] = clone(op.Value)
		}
		return c, nil
	}
	return nil, fmt.Errorf("patch: nothing is above %q to hold it", op.Path)
}

// equal compares JSON values; numbers by value, however they are held.
func equal(a, b any) bool {
	return reflect.DeepEqual(normal(a), normal(b))
}

func normal(v any) any {
	b, err := json.Marshal(v)
	if err != nil {
		return v
	}
	var out any
	if json.Unmarshal(b, &out) != nil {
		return v
	}
	return out
}
