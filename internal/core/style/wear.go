package style

import (
	"maps"

	"sodrik/internal/core/patch"
)

// own are the parts that a code keeps where a look says nothing of them.
var own = []string{"mark", "frame", "backdrop", "caption"}

// Wear gives the look that a code has after putting one on. What the new look says nothing of, a mark, a frame, a backdrop,
// stays as the code has it; the words on a frame are always the code's own where it has some. Neither value is changed.
func Wear(draft any, l Look) any {
	out := map[string]any{}
	if m, is := l.Wear.(map[string]any); is {
		out = maps.Clone(m)
	}
	v, _ := patch.Get(draft, "/look")
	has, _ := v.(map[string]any)
	for _, key := range own {
		if out[key] == nil && has[key] != nil {
			out[key] = has[key]
		}
	}
	if frame, is := out["frame"].(map[string]any); is {
		if old, _ := has["frame"].(map[string]any); old["text"] != nil {
			frame = maps.Clone(frame)
			frame["text"] = old["text"]
			out["frame"] = frame
		}
	}
	return out
}

// Take gives what a code wears as a look to keep: all of it but the words on its frame.
func Take(draft any) any {
	v, _ := patch.Get(draft, "/look")
	has, is := v.(map[string]any)
	if !is {
		return map[string]any{}
	}
	out := maps.Clone(has)
	delete(out, "from")
	delete(out, "caption") // its words are the code's alone
	if frame, is := out["frame"].(map[string]any); is {
		frame = maps.Clone(frame)
		delete(frame, "text")
		out["frame"] = frame
	}
	return out
}
