package desk

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/jackc/pgx/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/style"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// Things beside the sheet that say how large it is, in mm.
const (
	disc       = 20.0
	person     = 1700.0
	besideMan  = 1000.0 // high enough for a person beside it
	shownSheet = 1000   // pixels a side of the picture of artwork
	handleSide = 11.0   // of the grip that sizes the code, in units of the view
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
		v.Picture = drawInPlace(c, i, p, composed)
		v.Words = fmt.Sprintf("%s × %s mm. The code %s from the left, %s from the top.", measure.Number(composed.Width, 1), measure.Number(composed.Height, 1),
			measure.Length(composed.Code.X), measure.Length(composed.Code.Y))
	}
	w.Header().Set("Sodrik-Revision", strconv.FormatInt(c.Rev, 10))
	ui.Render(w, http.StatusOK, pages, "in-place", v)
}

// drawInPlace draws the thing, the code on it to be taken hold of, rulers in millimetres, a disc of 20 mm, and a person beside what is large.
func drawInPlace(c *code.Code, i int, p *place.Placement, at compose.Composed) template.HTML {
	m := c.Rendition
	var b strings.Builder
	tall, wide := at.Height, at.Width
	man := at.Height >= besideMan
	if man {
		tall, wide = max(tall, person), at.Width+700
	}
	const side = 26.0
	k := min((sheetWidth-ruler-2*side-40)/wide, (sheetHeight-ruler-2*side)/tall)
	left := ruler + (sheetWidth-ruler-k*wide)/2
	top := ruler + (sheetHeight-ruler-k*tall)/2 + k*(tall-at.Height)
	medium, _ := c.House.Medium(p.Medium)
	what := medium.Name
	if what == "" {
		what = "sheet"
	}
	fmt.Fprintf(&b, `<svg viewBox="0 0 %g %g" preserveAspectRatio="xMidYMid meet" role="group" aria-label="%s">`, sheetWidth, sheetHeight,
		template.HTMLEscapeString(fmt.Sprintf("%s of %s × %s mm with the code on it", what, measure.Number(at.Width, 1), measure.Number(at.Height, 1))))
	b.WriteString(`<rect x="-2000" y="-2000" width="5000" height="5000" fill="#E6E9E4"/>`)
	if man {
		x := left + k*(at.Width+350)
		drawPerson(&b, x, top+k*at.Height, k)
	}
	fmt.Fprintf(&b, `<g transform="translate(%.3f %.3f) scale(%.6f)">`, left, top, k)
	clip := ""
	if medium.Round {
		fmt.Fprintf(&b, `<clipPath id="round"><circle cx="%g" cy="%g" r="%g"/></clipPath>`, at.Width/2, at.Height/2, min(at.Width, at.Height)/2)
		clip = ` clip-path="url(#round)"`
	}
	fmt.Fprintf(&b, `<g%s><rect width="%g" height="%g" fill="%s"/>`, clip, at.Width, at.Height, groundOf(p))
	if sheet := m.Sheet(p); sheet != nil {
		fmt.Fprintf(&b, `<image href="/codes/%s/artwork/%d?of=%s" width="%g" height="%g" preserveAspectRatio="none"/>`, c.ID, i, template.URLQueryEscaper(p.Artwork.Source[max(0, len(p.Artwork.Source)-24):]), at.Width, at.Height)
	}
	b.WriteString(`</g>`)
	snaps, err := json.Marshal(snapsOf(m.Sheet(p), at))
	if err != nil {
		snaps = []byte("{}")
	}
	fmt.Fprintf(&b, `<g id="placed" class="placed" tabindex="0" role="application" aria-label="The code. Arrow keys move it by a millimetre, with Alt by a tenth; plus and minus size it." data-x="%g" data-y="%g" data-w="%g" data-h="%g" data-snaps="%s">`,
		at.Code.X, at.Code.Y, at.Code.W, at.Code.H, template.HTMLEscapeString(string(snaps)))
	b.WriteString(svg.Inline(m.OnPaper(&scene.Scene{Width: at.Added.Width, Height: at.Added.Height, Items: at.Added.Items}, p).Reduced(screenPixels), "QR code",
		fmt.Sprintf(`x="%g" y="%g" width="%g" height="%g" overflow="visible"`, at.AddedX, at.AddedY, at.Added.Width, at.Added.Height)))
	fmt.Fprintf(&b, `<rect class="grip" x="%g" y="%g" width="%g" height="%g" fill="transparent"/>`, at.Code.X, at.Code.Y, at.Code.W, at.Code.H)
	handle := handleSide / k
	fmt.Fprintf(&b, `<rect id="place-size" class="place-handle" data-field="f-placements-%d-width_mm" x="%.3f" y="%.3f" width="%.3f" height="%.3f"><title>Drag to size it in millimetres</title></rect></g>`,
		i, at.Code.X+at.Code.W-handle/2, at.Code.Y+at.Code.H-handle/2, handle, handle)
	b.WriteString(`<g id="guides"></g></g>`)
	fmt.Fprintf(&b, `<rect x="%g" y="%g" width="%g" height="%g" fill="none" stroke="#16241F" stroke-width=".75" pointer-events="none"/>`, left, top, k*at.Width, k*at.Height)
	if d := disc * k; d >= 5 {
		x, y := left+k*at.Width+d/2+8, top+k*at.Height-d/2
		if x+d/2 > sheetWidth-2 {
			x, y = left+k*at.Width-d/2-4, top-d/2-4
		}
		fmt.Fprintf(&b, `<g pointer-events="none"><circle cx="%.2f" cy="%.2f" r="%.2f" fill="#C3CAC2" stroke="#6F7B73"/><text x="%.2f" y="%.2f" text-anchor="middle">20 mm</text></g>`, x, y, d/2, x, y-d/2-4)
	}
	drawRulers(&b, k, left, top, "mm")
	b.WriteString(`</svg>`)
	return template.HTML(b.String())
}

func groundOf(p *place.Placement) string {
	switch {
	case p.Artwork.Colour != nil:
		return p.Artwork.Colour.String()
	case p.Artwork.Source == "" && p.Background != nil:
		return p.Background.String()
	}
	return "#FFFFFF"
}

// drawPerson draws somebody 1.7 m tall, standing at x on the line y.
func drawPerson(b *strings.Builder, x, y, k float64) {
	s := person * k / 100 // drawn 100 units high
	fmt.Fprintf(b, `<g transform="translate(%.2f %.2f) scale(%.5f)" fill="#8A958E" pointer-events="none"><circle cx="0" cy="-93" r="6.500"/><path d="M-9 -84q9 -4 18 0q3 1 3.500 6l2 26q0 2.500 -2 2.500t-2.300 -2.200l-2.200 -22v25l1.500 45q0 3.700 -3 3.700t-3.200 -3.700l-2 -40h-2.600l-2 40q-.2 3.700 -3.200 3.700t-3 -3.700l1.500 -45v-25l-2.200 22q-.3 2.200 -2.300 2.200t-2 -2.500l2 -26q.5 -5 3.500 -6z"/></g>`, x, y, s)
	fmt.Fprintf(b, `<text x="%.2f" y="%.2f" text-anchor="middle">1.7 m</text>`, x, y-person*k-4)
}

// Snaps are the places that a code is drawn to while it is moved: left and top edges of it, in mm.
type Snaps struct {
	X []float64 `json:"x"`
	Y []float64 `json:"y"`
}

// snapsOf are the edges of the thing, its middle, its margins, and the edges and middles of its empty parts.
func snapsOf(sheet *artwork.Sheet, c compose.Composed) (s Snaps) {
	add := func(list *[]float64, from, room, size float64) {
		if size <= room {
			*list = append(*list, from, from+(room-size)/2, from+room-size)
		}
	}
	w, h := c.Code.W, c.Code.H
	margin := math.Min(10, math.Min(c.Width, c.Height)*0.05)
	for _, m := range []float64{0, margin} {
		add(&s.X, m, c.Width-2*m, w)
		add(&s.Y, m, c.Height-2*m, h)
	}
	if sheet != nil {
		for _, r := range sheet.Free() {
			add(&s.X, r.X*c.Scale, r.W*c.Scale, w)
			add(&s.Y, r.Y*c.Scale, r.H*c.Scale, h)
		}
	}
	for _, list := range []*[]float64{&s.X, &s.Y} {
		for i, v := range *list {
			(*list)[i] = math.Round(v*100) / 100
		}
		slices.Sort(*list)
		*list = slices.Compact(*list)
	}
	return s
}

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
		ui.Fail(w, r, problem.List{{Field: "/x", Code: "artwork.place", Message: "is no place on what the code lies on; drag it there, or type millimetres"}})
		return
	}
	x, y = math.Round(x*100)/100, math.Round(y*100)/100
	at := fmt.Sprintf("/placements/%d/artwork", i)
	var ops patch.Patch
	if p.Artwork.None() {
		ops = patch.Patch{{Op: "add", Path: at, Value: map[string]any{"width_mm": width, "height_mm": height, "x_mm": x, "y_mm": y}}}
	} else {
		ops = patch.Patch{{Op: "add", Path: at + "/x_mm", Value: x}, {Op: "add", Path: at + "/y_mm", Value: y}}
	}
	c, err = h.Store.Patch(r.Context(), ui.Actor(r), id, job.Guarded(c.Draft, "", ops), "the code moved", changeOf(r))
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
	var a code.Asset
	if chosen := r.FormValue("source"); chosen != "" {
		a.Source, a.Name = chosen, "another"
	} else {
		name, data, err := forms.File(r, artwork.MaxBytes)
		if err != nil {
			h.refuseArtwork(w, r, problem.List{{Field: "/file", Code: "file", Message: fmt.Sprintf("was cut off on its way; choose a PDF, SVG, PNG, JPEG or WebP of at most %d MB", artwork.MaxBytes>>20)}})
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
		h.refuseArtwork(w, r, problem.List{{Field: "/file", Code: "artwork.place", Message: "has no place to lie at yet; put the code somewhere first"}})
		return
	}
	value := map[string]any{"source": a.Source}
	if was := c.Rendition.Job.Placements[i].Artwork; was.Panel != nil {
		value["panel"] = was.Panel.String()
	}
	c, err = h.Store.Patch(r.Context(), actor, id, job.Guarded(c.Draft, "", patch.Patch{{Op: "add", Path: fmt.Sprintf("/placements/%d/artwork", i), Value: value}}), "artwork "+a.Name, changeOf(r))
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
	c, err = h.Store.Patch(r.Context(), ui.Actor(r), id, job.Guarded(c.Draft, "", patch.Set(fmt.Sprintf("/placements/%d/artwork/source", i), next)), fmt.Sprintf("page %d", number), changeOf(r))
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
		Act
		Words string
	}{Words: "No width that was tried proves safe there. The remarks say what stands in the way."}
	if ok {
		now := c.Rendition.Job.Placements[i].Width
		v.Words = fmt.Sprintf("Safe down to %s.", width)
		if !near(width, now) || width != now {
			v.Act = Act{Label: fmt.Sprintf("Print it %s wide", width), CodeID: c.ID, Patch: forms.PatchText(job.Guarded(c.Draft, "", patch.Set(fmt.Sprintf("/placements/%d/width_mm", i), float64(width))))}
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
	medium := ownMedium(c.Rendition, c.Rendition.Job.Placements[i], r.FormValue("medium_name"))
	if medium.Name == "" {
		h.refuseMedium(w, r, problem.List{{Field: "/medium_name", Code: "place.medium", Message: "has no name; call it what you call the thing, such as herb label"}})
		return
	}
	ops := job.Guarded(c.Draft, "", patch.Set(fmt.Sprintf("/placements/%d/medium", i), medium.Key))
	_, err = h.House.Change(r.Context(), ui.Actor(r), -1, func(s *style.Style) error { s.Media = append(s.Media, medium); return nil },
		func(tx pgx.Tx, _, _ *style.Style) (err error) {
			c, err = h.Store.PatchIn(r.Context(), tx, ui.Actor(r), id, ops, "kept as "+medium.Name, changeOf(r))
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
