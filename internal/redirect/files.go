package redirect

import (
	"bytes"
	"log/slog"
	"mime"
	"net/http"
	"strings"
	"time"

	"sodrik/internal/core/leads"
)

// served is a file of a workspace.
type served struct {
	workspace string
	*leads.Served
}

// filesHeld is how many opened files stay in memory, so that a film is not opened anew for each part of it.
const filesHeld = 4

// file gives a file of ours, below its host; false where there is none. It can do nothing in a browser but be shown.
func (s *Service) file(w http.ResponseWriter, r *http.Request, host string) bool {
	rest, ok := strings.CutPrefix(r.URL.Path, leads.FilesBelow)
	id, _, _ := strings.Cut(rest, "/")
	v, there := s.files.Load(host + leads.FilesBelow + id)
	if !ok || !there {
		return false
	}
	f := v.(*served)
	data, held := s.opened.Get(id)
	if !held {
		sealed, err := s.o.Log.File(r.Context(), id)
		if err == nil {
			data, err = s.o.Seal.Open(sealed, f.workspace+"/"+id+"/file")
		}
		if err != nil {
			slog.Error("a file cannot be opened", "file", id, "error", err)
			s.show(w, http.StatusServiceUnavailable, f.workspace, page{Title: "This file cannot be opened just now.",
				Lines: []string{"Try again in a moment."}, Missing: true})
			return true
		}
		s.opened.Add(id, data)
	}
	how := "attachment"
	if f.Inline {
		how = "inline"
	}
	h := w.Header()
	h.Set("Content-Type", f.Type)
	h.Set("Content-Disposition", mime.FormatMediaType(how, map[string]string{"filename": f.Name}))
	if f.Type != "application/pdf" { // which browsers show by a part of theirs that a sandbox keeps out
		h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; media-src 'self'; img-src 'self'; sandbox")
	}
	h.Set("Cache-Control", "max-age=3600")
	h.Set("ETag", `"`+f.Digest+`"`)
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(data))
	return true
}
