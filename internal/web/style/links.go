package style

import (
	"net/http"
	"slices"
	"strings"

	"sodrik/internal/core/pattern"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
)

// addLink keeps a link pattern, or another address under a name that there is.
func (h *Handler) addLink(w http.ResponseWriter, r *http.Request) {
	p := pattern.Pattern{Name: strings.TrimSpace(r.FormValue("name")), Address: strings.TrimSpace(r.FormValue("address"))}
	p.Key = style.KeyOf(p.Name)
	if wrong := pattern.Check(p.Address); wrong != "" {
		h.answered(w, r, "link", problem.List{{Field: "/address", Code: "pattern.address", Message: wrong}})
		return
	}
	if h.change(w, r, "link", "links", func(s *style.Style) error { s.Links = append(s.Links, p); return nil }) {
		h.done(w, r, "link", "links")
	}
}

// removeLink takes a link pattern away. Codes keep their addresses.
func (h *Handler) removeLink(w http.ResponseWriter, r *http.Request) {
	if h.change(w, r, "links", "links", func(s *style.Style) error {
		s.Links = slices.DeleteFunc(s.Links, func(p pattern.Pattern) bool { return p.Key == r.FormValue("key") })
		return nil
	}) {
		h.done(w, r, "gone", "links")
	}
}
