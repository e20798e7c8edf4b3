package desk

import (
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"sync"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/scene"
	"sodrik/internal/core/style"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// thumbSide is how many pixels of a picture a thumbnail holds at most.
const thumbSide = 96

// thumb draws art small, in the colour of the text around it where it has none of its own.
func thumb(a *artwork.Art) template.HTML {
	if a == nil {
		return ""
	}
	s := &scene.Scene{Width: a.Width, Height: a.Height, Items: a.Items}
	return template.HTML(svg.Inline(s.Reduced(thumbSide), "", `aria-hidden="true"`))
}

// thumbOf draws an upload small, where it is a drawing.
func thumbOf(a code.Asset) template.HTML {
	art, _ := a.Is.(*artwork.Art)
	return thumb(art)
}

// iconsAtHand are shown before anything is looked for.
var iconsAtHand = []string{"sprout", "leaf", "flower-2", "tree-deciduous", "bean", "sun", "wifi", "phone", "mail", "calendar-days", "map-pin", "shopping-basket", "gift", "store", "ticket", "euro"}

// drawings are icons to choose from.
func drawings(query string) (out []Choice) {
	names := iconsAtHand
	if strings.TrimSpace(query) != "" {
		names = artwork.Icons(query, 24)
	}
	for _, name := range names {
		if a, ok := artwork.Icon(name); ok {
			out = append(out, Choice{Value: "icon:" + name, Words: strings.ReplaceAll(name, "-", " "), Picture: thumb(a)})
		}
	}
	return out
}

// atHand are the drawings that are shown before anything is looked for, drawn once.
var atHand = sync.OnceValue(func() []Choice { return drawings("") })

// uploadsOf are a workspace's uploads to choose from.
func uploadsOf(list []code.Asset) (out []Choice) {
	for _, a := range list {
		out = append(out, Choice{Value: a.Source, Words: a.Name, Picture: thumbOf(a)})
	}
	return out
}

// houseMarks are the marks of the house to choose from.
func houseMarks(s *style.Style, find compose.Assets) (out []Choice) {
	if s == nil {
		return nil
	}
	for _, m := range s.Marks {
		if a, err := find.Art(m.Source); err == nil {
			out = append(out, Choice{Value: m.Source, Words: m.Name, Picture: thumb(a)})
		}
	}
	return out
}

// MarksLocked says that only marks of the house are offered.
func (v View) MarksLocked() bool { return v.locked && len(v.HouseMarks) > 0 }

// markFields are those of the mark.
func (v *View) markFields(b builder) {
	m := b.c.Rendition
	source := b.at("/look/mark/source")
	v.Icons = atHand()
	mark := m.Job.Look.Mark
	if m.Mark != nil {
		source.Choices = []Choice{{Value: mark.Source, Words: look.MarkName(mark.Source), Picture: thumb(m.Mark.Art)}}
	}
	v.Mark = []Field{source}
	v.MarkShape = "none"
	if m.Mark == nil && b.Text("/look/mark/source") == "" {
		return
	}
	width := b.slide("/look/mark/width", mark.Width)
	width.Hint = m.Kept
	clears := b.chosen("/look/mark/clear", mark.Clear)
	pad := b.slide("/look/mark/pad", mark.Pad)
	crop, reserve := b.chosen("/look/mark/crop", mark.Crop), b.slide("/look/mark/reserve", mark.Reserve)
	v.Mark = append(v.Mark, width, b.at(look.MarkPlace), clears, pad)
	v.MarkMore = []Field{crop, reserve}
	v.MarkShape = "asked"
	if m.Mark == nil {
		return
	}
	v.MarkShape = "drawn"
	if art := m.Mark.Art; !art.Pixels() {
		f := b.at("/look/mark/ink")
		f.Swatches = append(b.inks(), Swatch{Value: "", Name: "Its own"})
		if f.Hex = mark.Ink.String(); !mark.Inked {
			f.Hex = m.Job.Look.Ink.String()
		}
		v.Mark = append(v.Mark, f)
		v.MarkShape = "outlines"
	} else if _, stands := art.Ground(); stands || mark.Ground == "cut" {
		f := b.chosen("/look/mark/ground", mark.Ground)
		v.Mark = append(v.Mark, f)
		v.MarkShape = "ground"
	}
}

func share(f float64) string { return measure.Number(f*100, 1) + " %" }

// icons answers a search for icons.
func (h *Handler) icons(w http.ResponseWriter, r *http.Request) {
	v := View{Icons: drawings(r.FormValue("q"))}
	ui.Render(w, http.StatusOK, pages, "icons", v)
}

// upload takes in a file and lays it into the code.
func (h *Handler) upload(w http.ResponseWriter, r *http.Request) {
	id, actor := chi.URLParam(r, "id"), ui.Actor(r)
	if _, err := h.Store.Get(r.Context(), actor, id); err != nil { // before a file is taken in for nothing
		ui.Fail(w, r, err)
		return
	}
	forms.Bound(w, r, artwork.MaxBytes)
	name, data, err := forms.File(r, artwork.MaxBytes)
	if err != nil {
		h.refuseUpload(w, r, problem.List{{Field: "/file", Code: "file", Message: fmt.Sprintf("was cut off on its way; choose an SVG, PNG, JPEG or WebP of at most %d MB", artwork.MaxBytes>>20)}})
		return
	}
	a, err := h.Store.Upload(r.Context(), actor, name, data)
	if err != nil {
		h.refuseUpload(w, r, err)
		return
	}
	part := partOf(r)
	ops := patch.Patch{{Op: "add", Path: "/look/" + part + "/source", Value: a.Source}}
	if art, drawn := a.Is.(*artwork.Art); drawn && part == "mark" {
		if _, ok := art.Ground(); ok {
			a.Left = append(a.Left, "It stands on one colour, which can be cut out.")
		}
	}
	c, err := h.Store.Patch(r.Context(), actor, id, ops, part+" "+a.Name, changeOf(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	list, err := h.Store.Uploads(r.Context(), actor)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	h.answerWith(w, r, c, nil, func(v *View) {
		v.Uploads, v.Uploaded, v.Left = uploadsOf(list), part, strings.Join(a.Left, " ")
	})
}

// refuseUpload says at the field what is wrong with a file; nothing else changes.
func (h *Handler) refuseUpload(w http.ResponseWriter, r *http.Request, err error) {
	list, ok := code.IsProblem(err)
	if !ok || r.Header.Get("HX-Request") == "" {
		ui.Fail(w, r, err)
		return
	}
	w.Header().Set("Sodrik-Slots", "1")
	ui.Render(w, http.StatusOK, pages, "upload-refused", struct{ Part, Words string }{partOf(r), forms.Sentence(list[0])})
}

// try draws what an edit would make, and changes nothing.
func (h *Handler) try(w http.ResponseWriter, r *http.Request) {
	c, err := h.Store.Try(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), r.FormValue("path"), r.FormValue("text"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := NewView(c, placeOf(c, r.FormValue("place")), h.Store.Now())
	w.Header().Set("Sodrik-Contrast", strings.ReplaceAll(v.Contrast, "\u00a0", " "))
	ui.Render(w, http.StatusOK, pages, "tried", v)
}
