package job

import (
	"sodrik/internal/core/content"
	"sodrik/internal/core/patch"
)

// Suggested is what comes along where a field of a draft is set: a first frame brings the words that the content suggests.
func Suggested(doc any, path, text string) patch.Patch {
	if path != "/look/frame/shape" || text == "" {
		return nil
	}
	if was, _ := patch.Get(doc, "/look/frame/shape"); was != nil && was != "" {
		return nil // another frame; who took its words off meant it
	}
	if words, _ := patch.Get(doc, "/look/frame/text"); words != nil && words != "" {
		return nil
	}
	says, _ := patch.Get(doc, "/content")
	values, _ := says.(map[string]any)
	c, problems := content.New(values)
	if len(problems) > 0 || content.CallFor(c) == "" {
		return nil
	}
	return patch.Set("/look/frame/text", content.CallFor(c))
}
