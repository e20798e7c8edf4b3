package job

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/patch"
)

// A placement stands in a list, and lists shift when another place goes. So that a change means the same place whatever
// happened since, each placement of a draft has an id of its own, patches name it in a test (RFC 6902, clause 4.6) beside the
// index, and Rebased finds where it stands now.

// MaxPlacements bounds the placements of one job.
const MaxPlacements = 100

// ErrGone is wrapped where a patch names a placement that is not there any more.
var ErrGone = errors.New("the place was taken away since; undo brings it back")

// placementIDs are those of a list of placements, "" for one without.
type placementIDs []string

func idsIn(list any) (out placementIDs) {
	l, _ := list.([]any)
	for _, v := range l {
		out = append(out, idIn(v))
	}
	return out
}

func idIn(placement any) string {
	v, _ := patch.Get(placement, "/id")
	s, _ := v.(string)
	return s
}

func idsOf(doc any, at string) placementIDs {
	list, _ := patch.Get(doc, at+"/placements")
	return idsIn(list)
}

func (p placementIDs) index(id string) int {
	for i, have := range p {
		if have == id && id != "" {
			return i
		}
	}
	return -1
}

// PlacementID is the id of placement i of a draft, "" where it has none.
func PlacementID(draft any, i int) string {
	ids := idsOf(draft, "")
	if i < 0 || i >= len(ids) {
		return ""
	}
	return ids[i]
}

// PlacementAt is the index of the placement with an id, −1 where there is none.
func PlacementAt(draft any, id string) int { return idsOf(draft, "").index(id) }

// Identified gives a draft in which every placement has an id. Those that lack one get one by where they stand, the same
// every time, so that a draft from before placements had ids means the same to everybody who reads it.
func Identified(draft any) any {
	doc, is := draft.(map[string]any)
	list, has := doc["placements"].([]any)
	ids := idsIn(list)
	if !is || !has || !slices.Contains(ids, "") {
		return draft
	}
	out := maps.Clone(doc)
	placed := make([]any, len(list))
	for i, v := range list {
		placed[i] = v
		if m, is := v.(map[string]any); is && ids[i] == "" {
			for n := i + 1; ids[i] == ""; n++ {
				if id := "p" + strconv.Itoa(n); ids.index(id) < 0 {
					ids[i] = id
				}
			}
			placed[i] = withID(m, ids[i])
		}
	}
	out["placements"] = placed
	return out
}

func withID(m map[string]any, id string) map[string]any {
	out := maps.Clone(m)
	out["id"] = id
	return out
}

// WithIDs gives the placements that a patch adds ids of their own, made by fresh, where they have none.
func WithIDs(p patch.Patch, fresh func() string) patch.Patch {
	one := func(v any) any {
		if m, is := v.(map[string]any); is && idIn(m) == "" {
			return withID(m, fresh())
		}
		return v
	}
	all := func(v any) any {
		l, is := v.([]any)
		if !is {
			return v
		}
		out := make([]any, len(l))
		for i, x := range l {
			out[i] = one(x)
		}
		return out
	}
	out := make(patch.Patch, len(p))
	for i, op := range p {
		if op.Op == "add" || op.Op == "replace" {
			switch step, depth := placementStep(op.Path, ""); {
			case op.Path == "":
				if m, is := op.Value.(map[string]any); is && m["placements"] != nil {
					copied := maps.Clone(m)
					copied["placements"] = all(m["placements"])
					op.Value = copied
				}
			case depth == 1:
				op.Value = all(op.Value)
			case depth == 2 && step != "":
				op.Value = one(op.Value)
			}
		}
		out[i] = op
	}
	return out
}

// placementStep takes a path below at+"/placements" apart: the index as it is written, and how deep the path goes: 1 for the
// list, 2 for one placement, more for a part of it; 0 where it leads elsewhere.
func placementStep(path, at string) (step string, depth int) {
	rest, ok := strings.CutPrefix(path, at+"/placements")
	if !ok || rest != "" && rest[0] != '/' {
		return "", 0
	}
	if rest == "" {
		return "", 1
	}
	step, _, deeper := strings.Cut(rest[1:], "/")
	depth = 2
	if deeper {
		depth = 3
	}
	return step, depth
}

// after is the ids once an operation has been carried out.
func (p placementIDs) after(op patch.Op, at string) placementIDs {
	step, depth := placementStep(op.Path, at)
	switch {
	case op.Op == "test":
		return p
	case op.Path == at: // all of it
		return idsOf(op.Value, "")
	case depth == 1 && op.Op == "remove":
		return nil
	case depth == 1:
		return idsIn(op.Value)
	case depth == 3 && op.Path == at+"/placements/"+step+"/id":
		if i, err := strconv.Atoi(step); err == nil && i >= 0 && i < len(p) {
			out := append(placementIDs{}, p...)
			out[i], _ = op.Value.(string)
			return out
		}
	case depth != 2:
		return p
	}
	i, err := strconv.Atoi(step)
	if step == "-" && op.Op == "add" {
		i, err = len(p), nil
	}
	if err != nil || i < 0 || i > len(p) || i == len(p) && op.Op != "add" {
		return p
	}
	out := append(placementIDs{}, p[:i]...)
	switch op.Op {
	case "add":
		out = append(append(out, idIn(op.Value)), p[i:]...)
	case "remove":
		out = append(out, p[i+1:]...)
	default:
		out = append(append(out, idIn(op.Value)), p[i+1:]...)
	}
	return out
}

// structural says that an operation changes which placement stands where.
func structural(op patch.Op, at string) bool {
	_, depth := placementStep(op.Path, at)
	return op.Op != "test" && (op.Path == at || depth == 1 || depth == 2)
}

// within says that an operation is about a placement that is there, by its index.
func within(op patch.Op, at string) (step string, ok bool) {
	step, depth := placementStep(op.Path, at)
	return step, depth == 3 || depth == 2 && op.Op != "add"
}

// guardOf is the index and the id of an operation that tests the id of a placement.
func guardOf(op patch.Op, at string) (step, id string, ok bool) {
	step, depth := placementStep(op.Path, at)
	if op.Op != "test" || depth != 3 || op.Path != at+"/placements/"+step+"/id" {
		return "", "", false
	}
	id, ok = op.Value.(string)
	return step, id, ok && id != ""
}

// Guarded puts a test of its id in front of what a patch does to a placement of doc, whose job stands at the pointer at.
func Guarded(doc any, at string, p patch.Patch) (out patch.Patch) {
	ids, tested := idsOf(doc, at), ""
	for _, op := range p {
		if step, _, ok := guardOf(op, at); ok {
			tested = step
		} else if step, ok := within(op, at); ok && step != tested {
			if i, err := strconv.Atoi(step); err == nil && i >= 0 && i < len(ids) && ids[i] != "" {
				out = append(out, patch.Op{Op: "test", Path: at + "/placements/" + step + "/id", Value: ids[i]})
				tested = step
			}
		}
		if structural(op, at) {
			tested = ""
		}
		out, ids = append(out, op), ids.after(op, at)
	}
	return out
}

// Rebased gives a guarded patch the indices that its placements have in doc now. Where one is not there any more the error
// wraps ErrGone.
func Rebased(doc any, at string, p patch.Patch) (out patch.Patch, err error) {
	ids, claims := idsOf(doc, at), map[string]string{}
	for _, op := range p {
		if step, id, ok := guardOf(op, at); ok {
			i := ids.index(id)
			if i < 0 {
				return nil, fmt.Errorf("%w", ErrGone)
			}
			claims[step] = id
			op.Path = fmt.Sprintf("%s/placements/%d/id", at, i)
		} else if step, ok := within(op, at); ok && claims[step] != "" {
			rest := strings.TrimPrefix(op.Path, at+"/placements/"+step)
			op.Path = fmt.Sprintf("%s/placements/%d%s", at, ids.index(claims[step]), rest)
		} else if step, depth := placementStep(op.Path, at); depth == 2 && op.Op == "add" { // back where it stood, or at the end
			if i, err := strconv.Atoi(step); err == nil && i > len(ids) {
				op.Path = at + "/placements/-"
			}
		}
		if structural(op, at) {
			clear(claims)
		}
		out, ids = append(out, op), ids.after(op, at)
	}
	return out, nil
}

// PlacementOrder is the key of which placements there are and in which order.
const PlacementOrder = "/placements#order"

// Keys are what a patch of doc changes, as pointers that hold the id of a placement in place of its index, so that they mean
// the same at any time.
func Keys(doc any, at string, p patch.Patch) (keys []string) {
	ids := idsOf(doc, at)
	for _, op := range p {
		next := ids.after(op, at)
		if op.Op != "test" {
			have := ids
			if _, depth := placementStep(op.Path, at); depth == 2 && op.Op == "add" {
				have = next
			}
			keys = append(keys, have.key(op.Path, at))
			if structural(op, at) {
				keys = append(keys, at+PlacementOrder)
			}
		}
		ids = next
	}
	return keys
}

// KeyOf is the pointer of a field with the id of its placement in place of the index.
func KeyOf(draft any, path string) string { return idsOf(draft, "").key(path, "") }

func (p placementIDs) key(path, at string) string {
	step, depth := placementStep(path, at)
	if depth < 2 {
		return path
	}
	i, err := strconv.Atoi(step)
	if step == "-" {
		i, err = len(p)-1, nil
	}
	if err != nil || i < 0 || i >= len(p) || p[i] == "" {
		return path
	}
	return at + "/placements/" + p[i] + strings.TrimPrefix(path, at+"/placements/"+step)
}

// PathOf is a pointer of KeyOf with the index that the placement has in a draft; ok is false where it is not there.
func PathOf(draft any, key string) (path string, ok bool) {
	step, depth := placementStep(key, "")
	if depth < 2 {
		return key, true
	}
	ids := idsOf(draft, "")
	if i, err := strconv.Atoi(step); err == nil { // written before placements had ids
		return key, i < len(ids)
	}
	i := ids.index(step)
	if i < 0 {
		return key, false
	}
	return fmt.Sprintf("/placements/%d%s", i, strings.TrimPrefix(key, "/placements/"+step)), true
}

// Overlap says whether two lists of pointers have one that is another, or lies within it.
func Overlap(a, b []string) bool {
	for _, x := range a {
		for _, y := range b {
			if x == y || strings.HasPrefix(x, y+"/") || strings.HasPrefix(y, x+"/") {
				return true
			}
		}
	}
	return false
}
