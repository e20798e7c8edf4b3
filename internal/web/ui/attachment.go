package ui

import (
	"context"
	"mime"
	"net/http"
	"net/url"
	"path"
	"regexp"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/compose"
)

// Attachment sends a file to be saved under name, whose ending says what it is.
func Attachment(w http.ResponseWriter, name string, file []byte) {
	Attached(w, name)
	w.Header().Set("Content-Length", strconv.Itoa(len(file)))
	w.Write(file)
}

// arrivals are the marks by which a page knows its own downloads.
var arrivals = regexp.MustCompile(`^[a-z0-9]{4,20}$`)

// TellArrival lets the page that asked for a file know that it comes, and by what name: browsers tell scripts nothing of
// downloads, but they keep cookies of them. It does so for forms that carry a mark in arrival, for a minute.
func TellArrival(w http.ResponseWriter, r *http.Request, name string) {
	if mark := r.Form.Get("arrival"); arrivals.MatchString(mark) {
		http.SetCookie(w, &http.Cookie{Name: "arrival", Value: mark + "." + url.PathEscape(name),
			Path: path.Dir(r.URL.Path), MaxAge: 60, SameSite: http.SameSiteStrictMode})
	}
}

// Longer gives a request more time than others have; it ends when nobody reads any more what it writes.
func Longer(r *http.Request, most time.Duration) (context.Context, context.CancelFunc) {
	return context.WithTimeout(context.WithoutCancel(r.Context()), most)
}

// Attached says that what follows is a file to be kept under a name.
func Attached(w http.ResponseWriter, name string) {
	kind := compose.Types[strings.TrimPrefix(path.Ext(name), ".")]
	if strings.HasSuffix(name, ".zip") {
		kind = "application/zip"
	}
	h := w.Header()
	h.Set("Content-Type", kind)
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	h.Set("Cache-Control", "no-store")
}
