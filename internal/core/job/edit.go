package job

import (
	"fmt"
	"regexp"
	"strings"

	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
)

// field is one path that a person edits by typing: how its text becomes a value, and what it is called.
type field struct {
	path  *regexp.Regexp
	words string
	value func(path, text string) (any, *problem.Problem)
	unset bool // empty text takes the key away
}

func text(_, s string) (any, *problem.Problem) { return s, nil }

func trimmed(_, s string) (any, *problem.Problem) { return strings.TrimSpace(s), nil }

func length(path, s string) (any, *problem.Problem) {
	l, ok := measure.ParseLength(s, measure.Millimetre)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "length", Message: fmt.Sprintf("%q is not a length; write a number with a unit, such as 160 mm or 6.3 in", s)}
	}
	return float64(l), nil
}

func whole(path, s string) (any, *problem.Problem) {
	f, ok := measure.ParseDecimal(s)
	if !ok {
		return nil, &problem.Problem{Field: path, Code: "number", Message: fmt.Sprintf("%q is not a number", s)}
	}
	return f, nil
}

func mask(path, s string) (any, *problem.Problem) {
	if s == "auto" {
		return s, nil
	}
	return whole(path, s)
}

var editable = []field{
	{regexp.MustCompile(`^/name$`), "name", text, false},
	{regexp.MustCompile(`^/content/url$`), "address", text, false},
	{regexp.MustCompile(`^/content/tags/(source|medium|campaign|term|content)$`), "campaign tag", text, true},
	{regexp.MustCompile(`^/look/ink$`), "ink", trimmed, true},
	{regexp.MustCompile(`^/look/paper$`), "paper", trimmed, true},
	{regexp.MustCompile(`^/placements/\d+/name$`), "name of the place", text, false},
	{regexp.MustCompile(`^/placements/\d+/medium$`), "medium", text, true},
	{regexp.MustCompile(`^/placements/\d+/substrate$`), "substrate", text, false},
	{regexp.MustCompile(`^/placements/\d+/light$`), "light", text, false},
	{regexp.MustCompile(`^/placements/\d+/background$`), "ground", trimmed, true},
	{regexp.MustCompile(`^/placements/\d+/width_mm$`), "width", length, false},
	{regexp.MustCompile(`^/placements/\d+/distance_mm$`), "distance", length, false},
	{regexp.MustCompile(`^/symbol/level$`), "level", text, false},
	{regexp.MustCompile(`^/symbol/mask$`), "mask", mask, false},
	{regexp.MustCompile(`^/symbol/(min|max)_version$`), "version", whole, false},
	{regexp.MustCompile(`^/symbol/quiet_zone$`), "quiet zone", whole, false},
	{regexp.MustCompile(`^/output/dpi$`), "resolution", whole, false},
}

func fieldOf(path string) (field, bool) {
	for _, f := range editable {
		if f.path.MatchString(path) {
			return f, true
		}
	}
	return field{}, false
}

// Editable says whether a path is one that a person edits by typing.
func Editable(path string) bool { _, ok := fieldOf(path); return ok }

// Unparsed gives the problem with text that no value of the field can hold, or nil.
func Unparsed(path, text string) *problem.Problem {
	f, ok := fieldOf(path)
	if !ok {
		return &problem.Problem{Field: path, Code: "field", Message: "is not a field that can be edited"}
	}
	_, p := f.value(path, text)
	return p
}

// Edit makes the patch that puts typed text into a draft, objects above it made where they are missing. A changed medium
// brings the habits of its kind. It returns the problem where the draft cannot hold the text; the patch is then nil.
func Edit(draft any, path, typed string) (patch.Patch, *problem.Problem) {
	if p := Unparsed(path, typed); p != nil {
		return nil, p
	}
	f, _ := fieldOf(path)
	_, there := patch.Get(draft, path)
	if f.unset && strings.TrimSpace(typed) == "" {
		if !there {
			return patch.Patch{}, nil
		}
		return patch.Patch{{Op: "remove", Path: path}}, nil
	}
	value, _ := f.value(path, typed)
	ops := above(draft, path)
	ops = append(ops, patch.Op{Op: "add", Path: path, Value: value})
	if base, isMedium := strings.CutSuffix(path, "/medium"); isMedium && strings.HasPrefix(path, "/placements/") {
		if m, ok := place.MediumOf(typed); ok {
			for _, set := range []patch.Op{{Path: "/substrate", Value: m.Substrate}, {Path: "/light", Value: m.Light},
				{Path: "/width_mm", Value: m.WidthMM}, {Path: "/distance_mm", Value: m.Distance}} {
				ops = append(ops, patch.Op{Op: "add", Path: base + set.Path, Value: set.Value})
			}
		}
	}
	return ops, nil
}

// above makes the objects that must be there before a value can be put at path.
func above(draft any, path string) (ops patch.Patch) {
	for i := 1; i < len(path); i++ {
		if path[i] != '/' {
			continue
		}
		if _, ok := patch.Get(draft, path[:i]); !ok {
			ops = append(ops, patch.Op{Op: "add", Path: path[:i], Value: map[string]any{}})
		}
	}
	return ops
}

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
		}
		ops = append(ops, op)
	}
	return ops
}

// Words says what an edit did, for undo: "ink to #12594a".
func Words(path, typed string) string {
	f, ok := fieldOf(path)
	if !ok {
		return "a change"
	}
	typed = strings.TrimSpace(typed)
	if r := []rune(typed); len(r) > 40 {
		typed = string(r[:39]) + "…"
	}
	if typed == "" {
		return f.words + " taken away"
	}
	return f.words + " to " + typed
}
