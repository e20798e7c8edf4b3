package desk

import (
	"net/http"

	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/ui"
)

// Borne is a code that the artwork of a place bears already.
type Borne struct {
	Says ui.Says
	Over *bound.Act // lays ours over it, nil where that is so or cannot be
	Why  string     // why not, "" where ours lies over it
}

// maxBorne is how many codes of one artwork are told.
const maxBorne = 6

// borne tells of the codes that the artwork of a place bears already, and offers to lay ours over one.
func (h *Handler) borne(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	list := c.Rendition.Borne(r.Context(), c.Rendition.Place(i))
	var v []Borne
	for _, one := range list[:min(len(list), maxBorne)] {
		b := Borne{Why: one.Why}
		if says := content.Of(one.Payload); says != nil {
			b.Says = ui.SaysOf(says)
		}
		if !one.Covered && one.Why == "" {
			over := job.Guarded(c.Draft, "", job.Complete(c.Draft, one.Over(i)))
			act := bound.Code{C: c, Place: i}.Act("Lay this code over it", over)
			b.Over = &act
		}
		v = append(v, b)
	}
	ui.Render(w, http.StatusOK, pages, "borne", v)
}
