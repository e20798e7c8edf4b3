package ui

import (
	"bytes"
	"crypto/sha256"
	"encoding/base64"
	"html/template"
	"log/slog"
	"net/http"
)

// An answer to a change is made of parts, each for a slot of the page. A browser says which parts it shows already, in the
// header Have, by their digests; those are left out. It is the browser that knows, so that any process can answer, and a
// browser that says nothing gets all.
const (
	Have   = "Sodrik-Have"
	digest = 8 // characters of a digest
)

// slotStart begins every part; no other markup of an answer does, since text of people is escaped.
var slotStart = []byte(`<div data-slot="`)

// Shown are the parts that a browser shows already, by their digests.
type Shown map[string]bool

// ShownBy reads what the browser of a request says.
func ShownBy(r *http.Request) Shown {
	shown, have := Shown{}, r.Header.Get(Have)
	for ; len(have) >= digest; have = have[digest:] {
		shown[have[:digest]] = true
	}
	return shown
}

// Reshaped is the digest of a form that the browser has to draw, "" where it shows one of that shape: until it has other
// fields, a form is the same, whatever stands in them.
func (s Shown) Reshaped(slot, shape string) string {
	if d := digestOf([]byte(slot + " " + shape)); !s[d] {
		return d
	}
	return ""
}

// RenderSlots answers with those parts of a template that the browser does not show yet.
func RenderSlots(w http.ResponseWriter, t *template.Template, name string, view any, shown Shown) {
	var b bytes.Buffer
	if err := t.ExecuteTemplate(&b, name, view); err != nil {
		slog.Error("page", "template", name, "error", err)
		http.Error(w, "The page could not be drawn. Nothing was changed.", http.StatusInternalServerError)
		return
	}
	Write(w, http.StatusOK, shown.missing(b.Bytes()))
}

// missing leaves out of an answer the parts that are shown, and marks the others with their digests. A part that says
// data-fresh is sent every time, since it is asked for again with every change.
func (s Shown) missing(answer []byte) []byte {
	parts := bytes.Split(answer, slotStart)
	last := len(parts) - 1
	end := []byte(nil)
	if i := bytes.LastIndex(parts[last], []byte("</div>")); last > 0 && i >= 0 { // of the element around all parts
		parts[last], end = parts[last][:i], parts[last][i:]
	}
	var out bytes.Buffer
	out.Write(parts[0])
	for _, p := range parts[1:] {
		head, _, _ := bytes.Cut(p, []byte(">"))
		d := digestOf(bytes.TrimSpace(p))
		switch {
		case bytes.Contains(head, []byte(" data-fresh")), bytes.Contains(head, []byte(" data-digest=")):
			out.Write(slotStart)
			out.Write(p)
		case !s[d]:
			out.WriteString(`<div data-digest="` + d + `" data-slot="`)
			out.Write(p)
		}
	}
	out.Write(end)
	return out.Bytes()
}

func digestOf(text []byte) string {
	sum := sha256.Sum256(text)
	return base64.RawURLEncoding.EncodeToString(sum[:])[:digest]
}
