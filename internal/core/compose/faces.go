package compose

import (
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/job"
	"sodrik/internal/core/look"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/typeface"
)

// Face finds a typeface that came in as a file.
func (find Assets) Face(key string) (*typeface.Face, bool) {
	if find == nil {
		return nil, false
	}
	u, ok := find(key)
	if t, isType := u.(*artwork.Type); ok && isType {
		return t.Face, true
	}
	return nil, false
}

// faced is a job with the typefaces that came in as files and that its words are set in, the words checked against them.
func faced(asked *job.Job, find Assets) (_ *job.Job, problems problem.List) {
	with := *asked
	j := &with
	own := func(at, font, text string) *typeface.Face {
		if !typeface.Uploaded(font) {
			return nil
		}
		if face, ok := find.Face(font); ok {
			if says := look.Lacks(face, text); says != "" {
				problems.Add(at+"/text", "frame.glyph", "%s", says)
			}
			return face
		}
		problems.Add(at+"/font", "typeface.missing",
			"is not among the typefaces here; choose another, or take it in under House style again")
		return nil
	}
	f, c := &j.Look.Frame, &j.Look.Caption
	f.Own, c.Own = own("/look/frame", f.Font, f.Text), own("/look/caption", c.Font, c.Text)
	return j, problems
}
