package desk

import (
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/jackc/pgx/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/shelf"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/desk/sits"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// InPlace is the view of a code at its place.
type InPlace struct {
	CodeID  string
	Place   int
	Picture template.HTML
	Words   string
	Why     string // it cannot be shown
}

// inPlace answers the view: the thing that the code lies on at true proportions, with the code to be moved on it.
func (h *Handler) inPlace(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	v := InPlace{CodeID: c.ID, Place: i}
	p := c.Rendition.Place(i)
	composed, ok := c.Rendition.Compose(p)
	switch {
	case p == nil:
		v.Why = "No place is given yet. Under Sits you say where it goes."
	case !ok:
		v.Why = "Nothing is known of what it lies on. Choose a medium under Sits, or give its artwork or size."
	default:
		v.Picture = drawn.InPlace(c, i, p, composed)
		v.Words = fmt.Sprintf("%s × %s mm. The code %s from the left, %s from the top.", measure.Number(composed.Width, 1),
			measure.Number(composed.Height, 1),
			measure.Length(composed.Code.X), measure.Length(composed.Code.Y))
	}
	w.Header().Set("Sodrik-Revision", strconv.FormatInt(c.Rev, 10))
	ui.Render(w, http.StatusOK, pages, "in-place", v)
}

// shownSheet is how many pixels a side a picture of artwork has at most.
const shownSheet = 1000

// artwork answers a picture of the artwork of a place, for screens. It does not change under its address.
func (h *Handler) artwork(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i, err := strconv.Atoi(chi.URLParam(r, "place"))
	if err != nil || i < 0 || i >= len(c.Rendition.Job.Placements) || c.Rendition.Sheet(c.Rendition.Place(i)) == nil {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	s := c.Rendition.Sheet(c.Rendition.Place(i))
	pic := s.Cut(artwork.Rect{W: s.Width, H: s.Height}, shownSheet)
	if pic == nil {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	w.Header().Set("Content-Type", "image/png")
	w.Header().Set("Cache-Control", "private, max-age=3600")
	w.Write(pic.PNG())
}

// move puts the code of a place somewhere else on what it lies on.
func (h *Handler) move(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	i, err := placed(c, r.FormValue("place"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	p := c.Rendition.Place(i)
	width, height, ok := c.Rendition.Surface(p)
	x, okX := measure.ParseDecimal(r.FormValue("x"))
	y, okY := measure.ParseDecimal(r.FormValue("y"))
	if !ok || !okX || !okY || math.Abs(x) > place.MaxSurface || math.Abs(y) > place.MaxSurface {
		ui.Fail(w, r, problem.List{{Field: "/x", Code: "artwork.place",
			Message: "is no place on what the code lies on; drag it there, or type millimetres"}})
		return
	}
	x, y = math.Round(x*100)/100, math.Round(y*100)/100
	at := fmt.Sprintf("/placements/%d/artwork", i)
	var ops patch.Patch
	if p.Artwork.None() {
		ops = patch.Patch{{Op: "add", Path: at, Value: map[string]any{"width_mm": width, "height_mm": height, "x_mm": x,
			"y_mm": y}}}
	} else {
		ops = patch.Patch{{Op: "add", Path: at + "/x_mm", Value: x}, {Op: "add", Path: at + "/y_mm", Value: y}}
	}
	c, err = h.Store.Patch(r.Context(), ui.Actor(r), id, job.Guarded(c.Draft, "", ops), changeOf(r).As("the code moved"))
	h.answer(w, r, c, err)
}

// uploadArtwork takes in what the code of a place lies on.
func (h *Handler) uploadArtwork(w http.ResponseWriter, r *http.Request) {
	id, actor := chi.URLParam(r, "id"), ui.Actor(r)
	c, err := h.Store.Get(r.Context(), actor, id)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	forms.Bound(w, r, artwork.MaxBytes)
	i := -1
	var a shelf.Asset
	if chosen := r.FormValue("source"); chosen != "" {
		a.Source, a.Name = chosen, "another"
	} else {
		name, data, err := forms.File(r, artwork.MaxBytes)
		if err != nil {
			h.refuseArtwork(w, r, problem.List{{Field: "/file", Code: "file",
				Message: fmt.Sprintf("was cut off on its way; choose a PDF, SVG, PNG, JPEG or WebP of at most %d MB",
					artwork.MaxBytes>>20)}})
			return
		}
		if a, err = h.Store.UploadArtwork(r.Context(), actor, name, data); err != nil {
			h.refuseArtwork(w, r, err)
			return
		}
	}
	if i, err = placed(c, r.FormValue("place")); err != nil {
		h.refuseArtwork(w, r, err)
		return
	}
	if i < 0 {
		h.refuseArtwork(w, r, problem.List{{Field: "/file", Code: "artwork.place",
			Message: "has no place to lie at yet; put the code somewhere first"}})
		return
	}
	value := map[string]any{"source": a.Source}
	if was := c.Rendition.Job.Placements[i].Artwork; was.Panel != nil {
		value["panel"] = was.Panel.String()
	}
	if m, ok := place.MediumOf(c.Rendition.Job.Placements[i].Medium); ok && m.At[0] > 0 { // a picture as large as the plain sheet
		value["x_mm"], value["y_mm"] = float64(m.At[0]), float64(m.At[1])
	}
	c, err = h.Store.Patch(r.Context(), actor, id,
		job.Guarded(c.Draft, "", patch.Patch{{Op: "add", Path: fmt.Sprintf("/placements/%d/artwork", i), Value: value}}),
		changeOf(r).As("artwork "+a.Name))
	h.answerWith(w, r, c, err, func(v *View) { v.Uploaded, v.Left = "artwork", strings.Join(a.Left, " ") })
}

// refuseArtwork says at the field what is wrong with a file; nothing else changes.
func (h *Handler) refuseArtwork(w http.ResponseWriter, r *http.Request, err error) {
	list, ok := code.IsProblem(err)
	if !ok || r.Header.Get("HX-Request") == "" {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Sodrik-Slots", "1")
	ui.Render(w, http.StatusOK, pages, "upload-refused", struct{ Part, Words string }{"artwork", forms.Sentence(list[0])})
}

// turnPage lays the code of a place on another page of its artwork.
func (h *Handler) turnPage(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	i, err := placed(c, r.FormValue("place"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	number, _ := strconv.Atoi(r.FormValue("page"))
	var source string
	if i >= 0 {
		source = c.Rendition.Job.Placements[i].Artwork.Source
	}
	next, err := h.Store.ArtworkPage(r.Context(), ui.Actor(r), source, number)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	c, err = h.Store.Patch(r.Context(), ui.Actor(r), id,
		job.Guarded(c.Draft, "", patch.Set(fmt.Sprintf("/placements/%d/artwork/source", i), next)),
		changeOf(r).As(fmt.Sprintf("page %d", number)))
	h.answer(w, r, c, err)
}

// minWidth answers the smallest width of a place that still proves safe, as a change to make. It waits for the readers.
func (h *Handler) minWidth(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	if i < 0 {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	width, ok, err := h.Store.MinWidth(r.Context(), ui.Actor(r), c, i)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := struct {
		bound.Act
		Words string
	}{Words: "No width that was tried proves safe there. The remarks say what stands in the way."}
	if ok {
		now := c.Rendition.Job.Placements[i].Width
		v.Words = fmt.Sprintf("Safe down to %s.", width)
		if width != now {
			v.Act = bound.Code{C: c, Place: i}.Act(fmt.Sprintf("Print it %s wide", width),
				job.Guarded(c.Draft, "", patch.Set(fmt.Sprintf("/placements/%d/width_mm", i), float64(width))))
		}
	}
	ui.Render(w, http.StatusOK, pages, "least", v)
}

// keepMedium keeps the place as a medium of the house.
func (h *Handler) keepMedium(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	i, err := placed(c, r.FormValue("place"))
	if err == nil && i < 0 {
		err = code.ErrNotFound
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	medium := sits.OwnMedium(c.Rendition, c.Rendition.Job.Placements[i], r.FormValue("medium_name"))
	if medium.Name == "" {
		h.refuseMedium(w, r, problem.List{{Field: "/medium_name", Code: "place.medium",
			Message: "has no name; call it what you call the thing, such as herb label"}})
		return
	}
	ops := job.Guarded(c.Draft, "", patch.Set(fmt.Sprintf("/placements/%d/medium", i), medium.Key))
	_, err = h.House.Change(r.Context(), ui.Actor(r), -1, func(s *style.Style) error {
		s.Media = append(s.Media, medium)
		return nil
	},
		func(tx pgx.Tx, _, _ *style.Style) (err error) {
			c, err = h.Store.PatchIn(r.Context(), tx, ui.Actor(r), id, ops, changeOf(r).As("kept as "+medium.Name))
			return err
		})
	if err != nil {
		h.refuseMedium(w, r, err)
		return
	}
	h.answerWith(w, r, c, err, func(v *View) { v.MediumKept = medium.Name })
}

func (h *Handler) refuseMedium(w http.ResponseWriter, r *http.Request, err error) {
	var list problem.List
	if !errors.As(err, &list) || r.Header.Get("HX-Request") == "" {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Sodrik-Slots", "1")
	ui.Render(w, http.StatusOK, pages, "upload-refused", struct{ Part, Words string }{"medium", forms.Sentence(list[0])})
}
