package web

import (
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/assets"
)

// forever is for an address that holds the digest of what it names (RFC 8246).
const forever = "public, max-age=31536000, immutable"

// static serves the embedded files, packed where the browser takes that. An address with the digest of its file is kept for
// ever, another is asked for again each time.
func static(w http.ResponseWriter, r *http.Request) {
	f := assets.Files()[chi.URLParam(r, "*")]
	if f == nil {
		http.NotFound(w, r)
		return
	}
	data, tag := f.Data, `"`+f.Digest+`"`
	h := w.Header()
	h.Set("Content-Type", f.Kind)
	if packed := f.Packed(); packed != nil {
		h.Set("Vary", "Accept-Encoding")
		if strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
			data, tag = packed, `"`+f.Digest+`-gz"`
			h.Set("Content-Encoding", "gzip")
		}
	}
	h.Set("ETag", tag)
	h.Set("Cache-Control", "no-cache")
	if r.URL.Query().Get("v") == f.Digest {
		h.Set("Cache-Control", forever)
	}
	if r.Header.Get("If-None-Match") == tag {
		h.Del("Content-Encoding")
		w.WriteHeader(http.StatusNotModified)
		return
	}
	w.Write(data)
}
