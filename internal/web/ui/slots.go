package ui

import (
	"bytes"
	"crypto/sha256"
	"encoding/base64"
	"html/template"
	"log/slog"
	"net/http"
	"strings"
)

// An answer to a change is made of parts, each for a slot of the page. A browser says which parts it shows already, in the header Have, by their
// digests; those are left out. It is the browser that knows, so that any process can answer, and a browser that says nothing gets all.
const (
	Have   = "Sodrik-Have"
	digest = 8 // characters of a digest
)

// slotStart begins every part; no other markup of an answer does, since text of people is escaped.
var slotStart = []byte(`<div data-slot="`)

// RenderSlots answers with those parts of a template that the browser does not show yet.
func RenderSlots(w http.ResponseWriter, r *http.Request, t *template.Template, name string, view any) {
	var b bytes.Buffer
	if err := t.ExecuteTemplate(&b, name, view); err != nil {
		slog.Error("page", "template", name, "error", err)
		http.Error(w, "The page could not be drawn. Nothing was changed.", http.StatusInternalServerError)
		return
	}
	Write(w, http.StatusOK, missing(b.Bytes(), r.Header.Get(Have)))
}

// missing leaves out of an answer the parts whose digests are in have, and marks the others with theirs.
func missing(answer []byte, have string) []byte {
	shown := map[string]bool{}
	for ; len(have) >= digest; have = have[digest:] {
		shown[have[:digest]] = true
	}
	parts := bytes.Split(answer, slotStart)
	last := len(parts) - 1
	end := []byte(nil)
	if i := bytes.LastIndex(parts[last], []byte("</div>")); last > 0 && i >= 0 { // of the element around all parts
		parts[last], end = parts[last][:i], parts[last][i:]
	}
	var out bytes.Buffer
	out.Write(parts[0])
	for _, p := range parts[1:] {
		d := digestOf(p)
		switch {
		case d == "":
			out.Write(slotStart)
			out.Write(p)
		case !shown[d]:
			out.WriteString(`<div data-digest="` + d + `" data-slot="`)
			out.Write(p)
		}
	}
	out.Write(end)
	return out.Bytes()
}

// digestOf is what a part is told from others by, "" for one that has to be filled in anew every time: what is asked for again with every change.
// A form is drawn again where it has other fields; until then it is the same, whatever stands in them.
func digestOf(part []byte) string {
	head, _, _ := bytes.Cut(part, []byte(">"))
	if bytes.Contains(head, []byte(" data-fresh")) {
		return ""
	}
	told := part
	if bytes.Contains(head, []byte(" data-shape=")) {
		told = head
	}
	sum := sha256.Sum256([]byte(strings.TrimSpace(string(told))))
	return base64.RawURLEncoding.EncodeToString(sum[:])[:digest]
}
