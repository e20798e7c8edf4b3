package job

import (
	"maps"
	"slices"
	"strings"

	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
)

// habits is what else changes with a field, so that a draft does not contradict itself: a medium brings the habits of its
// kind, an open network has no password, a day has no hour.
func habits(draft any, path, typed string) (ops patch.Patch) {
	drop := func(paths ...string) {
		for _, p := range paths {
			if _, ok := patch.Get(draft, p); ok {
				ops = append(ops, patch.Op{Op: "remove", Path: p})
			}
		}
	}
	if base, isMedium := strings.CutSuffix(path, "/medium"); isMedium && strings.HasPrefix(path, "/placements/") {
		if m, ok := place.MediumOf(typed); ok {
			brought := m.Habits()
			for _, key := range slices.Sorted(maps.Keys(brought)) {
				switch at := base + "/" + key; {
				case key == "medium":
				case brought[key] == nil:
					drop(at)
				default:
					ops = append(ops, patch.Op{Op: "add", Path: at, Value: brought[key]})
				}
			}
		}
	}
	switch path {
	case "/look/modules/motif":
		if typed != "custom" {
			drop("/look/modules/path")
		} else if _, ok := patch.Get(draft, "/look/modules/path"); !ok {
			ops = append(ops, patch.Op{Op: "add", Path: "/look/modules/path", Value: "M.5 0L1 1H0Z"})
		}
	case "/content/security":
		if typed == "open" {
			drop("/content/password")
		}
		if typed != "eap" {
			drop("/content/eap")
		} else if _, ok := patch.Get(draft, "/content/eap/method"); !ok {
			ops = append(ops, patch.Op{Op: "add", Path: "/content/eap", Value: map[string]any{"method": "PEAP", "phase2": "MSCHAPV2"}})
		}
	case "/content/all_day":
		drop("/content/timezone")
		for _, p := range []string{"/content/start", "/content/end"} {
			if s, ok := stringAt(draft, p); ok {
				if day, _, hour := strings.Cut(s, "T"); hour {
					ops = append(ops, patch.Op{Op: "add", Path: p, Value: day})
				}
			}
		}
	case "/content/repeat/until":
		drop("/content/repeat/count")
	case "/content/repeat/count":
		drop("/content/repeat/until")
	case "/content/form":
		if typed == "link" {
			if _, ok := patch.Get(draft, "/content/pattern"); !ok {
				ops = append(ops, patch.Op{Op: "add", Path: "/content/pattern", Value: "https://maps.example/?q={lat},{lon}"})
			}
		} else {
			drop("/content/pattern")
		}
	}
	return ops
}

// unsettled is what else changes where a key is taken away.
func unsettled(draft any, path string) (ops patch.Patch) {
	switch path {
	case "/content/all_day":
		for i, p := range []string{"/content/start", "/content/end"} {
			if s, ok := stringAt(draft, p); ok && len(s) == len("2006-01-02") {
				ops = append(ops, patch.Op{Op: "add", Path: p, Value: s + []string{"T10:00", "T17:00"}[i]})
			}
		}
	case "/content/form":
		if _, ok := patch.Get(draft, "/content/pattern"); ok {
			ops = append(ops, patch.Op{Op: "remove", Path: "/content/pattern"})
		}
	}
	return ops
}

func stringAt(draft any, path string) (string, bool) {
	v, ok := patch.Get(draft, path)
	s, isText := v.(string)
	return s, ok && isText
}

// inkKind turns a plain ink into a gradient that begins with it, one sort of gradient into the other, and a gradient into the plain ink
// of its first stop.
func inkKind(draft any, kind string) patch.Patch {
	var first any = "#000000"
	if old, ok := patch.Get(draft, "/look/ink"); ok {
		first = old
	}
	if stop, ok := patch.Get(draft, "/look/ink/stops/0/colour"); ok {
		first = stop
	}
	ops := above(draft, "/look/ink")
	if kind != "linear" && kind != "radial" {
		return append(ops, patch.Op{Op: "add", Path: "/look/ink", Value: first})
	}
	if _, is := patch.Get(draft, "/look/ink/stops"); is {
		return append(ops, patch.Op{Op: "add", Path: "/look/ink/kind", Value: kind})
	}
	second := "#1f3a5a"
	if first == second {
		second = "#12352b"
	}
	return append(ops, patch.Op{Op: "add", Path: "/look/ink", Value: map[string]any{"kind": kind, "angle": 45.0,
		"stops": []any{map[string]any{"at": 0.0, "colour": first}, map[string]any{"at": 1.0, "colour": second}}}})
}
