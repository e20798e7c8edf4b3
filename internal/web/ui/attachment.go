package ui

import (
	"mime"
	"net/http"
	"strconv"

	"sodrik/internal/core/compose"
)

// Attachment sends a file to be saved under name. format is an ending of compose.Types, or "zip".
func Attachment(w http.ResponseWriter, format, name string, file []byte) {
	kind := compose.TypeOf(format)
	if format == "zip" {
		kind = "application/zip"
	}
	h := w.Header()
	h.Set("Content-Type", kind)
	h.Set("Content-Length", strconv.Itoa(len(file)))
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	h.Set("Cache-Control", "no-store")
	w.Write(file)
}
