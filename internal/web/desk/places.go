package desk

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/web/ui"
)

// placeOf reads the current placement: the asked one, by its id or its index, else the first, −1 where there is none.
func placeOf(c *code.Code, asked string) int {
	n := len(c.Rendition.Job.Placements)
	if i := job.PlacementAt(c.Draft, asked); i >= 0 && i < n {
		return i
	}
	i, err := strconv.Atoi(asked)
	if err != nil || i < 0 || i >= n {
		return min(0, n-1)
	}
	return i
}

// placed reads the placement that a change is for. One that was taken away since is a problem, not another place.
func placed(c *code.Code, asked string) (int, error) {
	if _, err := strconv.Atoi(asked); err != nil && asked != "" && job.PlacementAt(c.Draft, asked) < 0 {
		return -1, problem.List{{Code: "place.gone", Message: "Nothing was changed: " + job.ErrGone.Error()}}
	}
	return placeOf(c, asked), nil
}

// addPlace adds a placement of a medium's usual size, named after it.
func (h *Handler) addPlace(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	m, ok := c.House.Medium(r.FormValue("medium"))
	if !ok {
		m = place.Media[0]
	}
	if len(c.Rendition.Job.Placements) >= job.MaxPlacements {
		ui.Fail(w, r, problem.List{{Field: "/placements", Code: "job.Placements",
			Message: fmt.Sprintf("hold %d places already; a code has %d at most", len(c.Rendition.Job.Placements),
				job.MaxPlacements)}})
		return
	}
	value := map[string]any{"name": freeName(c, m.Name)}
	for key, v := range m.Habits() {
		if v != nil {
			value[key] = v
		}
	}
	if s := m.Surface(); s != nil {
		value["artwork"] = s
	}
	own, err := h.Links.Own(r.Context(), ui.Actor(r), c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if own != "" {
		value["link"] = own
	}
	ops := patch.Patch{{Op: "add", Path: "/placements/-", Value: value}}
	n := 0
	if list, ok := patch.Get(c.Draft, "/placements"); !ok {
		ops = patch.Patch{{Op: "add", Path: "/placements", Value: []any{value}}}
	} else if l, ok := list.([]any); ok {
		n = len(l)
	}
	if _, err = h.Store.Patch(r.Context(), ui.Actor(r), id, ops, changeOf(r).As(m.Name+" added")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, fmt.Sprintf("/codes/%s?place=%d", id, n), http.StatusSeeOther)
}

func freeName(c *code.Code, name string) string {
	for i := 1; ; i++ {
		try := name
		if i > 1 {
			try = fmt.Sprintf("%s %d", name, i)
		}
		if !slices.ContainsFunc(c.Rendition.Job.Placements, func(p place.Placement) bool { return p.Name == try }) {
			return try
		}
	}
}

func (h *Handler) removePlace(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	i, known := -1, false
	if err == nil {
		if i = job.PlacementAt(c.Draft, r.FormValue("remove")); i < 0 {
			i, err = strconv.Atoi(r.FormValue("remove"))
		}
		known = err == nil && i >= 0 && i < len(c.Rendition.Job.Placements)
	}
	switch {
	case err == nil && known:
		p := patch.Patch{{Op: "remove", Path: fmt.Sprintf("/placements/%d", i)}}
		_, err = h.Store.Patch(r.Context(), ui.Actor(r), id, job.Guarded(c.Draft, "", p),
			changeOf(r).As(c.Rendition.Job.Placements[i].Name+" taken away"))
	case c != nil:
		err = problem.List{{Field: "/placements", Code: "place.gone", Message: "does not fit any more: " + job.ErrGone.Error()}}
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
}
