package desk

import (
	"cmp"
	"crypto/sha256"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"path"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/svg"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/symbol"
	"sodrik/internal/handover"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/ui"
)

// giveAddress gives the picture of a place an address, and the text that puts it into a page.
func (h *Handler) giveAddress(w http.ResponseWriter, r *http.Request) {
	p, i, token, err := h.Door.GiveAddress(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), cmp.Or(r.FormValue("place"), "0"),
		r.FormValue("follows") != "")
	var u *handover.Unread
	if errors.As(err, &u) {
		err = u.Problem()
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	m := p.Rendition
	s := m.Scene(m.Place(i))
	at := h.Base + "/shown/" + token
	v := struct {
		ID, Page, Image, Tag string
		Follows              bool
		N                    int
		Symbol               template.HTML
	}{ID: p.Code, Page: at, Image: at + "/" + export.FileName(p.Name, 0, p.N, "png"),
		Follows: r.FormValue("follows") != "", N: p.N}
	if v.Follows { // the name of the file tells no version
		v.Image = at + "/" + export.FileName(p.Name, 0, 0, "png")
	}
	wide := min(m.Wide(m.Place(i)), 400)
	v.Tag = fmt.Sprintf(`<img src="%s" width="%d" height="%d" alt="%s">`, template.HTMLEscapeString(v.Image), wide,
		int(float64(wide)*s.Height/s.Width+0.5), template.HTMLEscapeString("QR code: "+content.Shown(m.Job.Content)))
	if own, err := symbol.Encode(v.Page, symbol.Options{}); err == nil {
		v.Symbol = ui.Plain(own)
	}
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, "/shown/"+token, http.StatusSeeOther)
		return
	}
	ui.Render(w, http.StatusOK, pages, "address", v)
}

// takeAddress takes the addresses of a code's pictures away.
func (h *Handler) takeAddress(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	if err := h.Door.Records.HidePictures(r.Context(), ui.Actor(r), id); err != nil {
		ui.Fail(w, r, err)
		return
	}
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
		return
	}
	ui.Render(w, http.StatusOK, pages, "address-gone", nil)
}

// shown is the page of a picture, for a phone or a colleague without an account.
func (h *Handler) shown(w http.ResponseWriter, r *http.Request) {
	token := chi.URLParam(r, "token")
	st, n, i, err := h.Door.Records.Shown(r.Context(), token)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	m := st.Rendition
	name := code.NameOf(m.Job)
	s := m.Scene(m.Place(i))
	v := struct {
		ui.Frame
		Name, Says, Image string
		N                 int
		Picture           template.HTML
	}{Frame: ui.Frame{Title: name}, Name: name, Says: content.Shown(m.Job.Content), N: n, Image: "/shown/" + token + "/" +
		export.FileName(name, 0, n, "png"),
		Picture: template.HTML(svg.Inline(s.Reduced(drawn.ScreenPixels), "QR code: "+content.Shown(m.Job.Content),
			`class="shown-code"`))}
	ui.Render(w, http.StatusOK, pages, "shown", v)
}

// shownFor is how many seconds a picture may be shown without asking for it again: it changes seldom or never, and can be taken
// away.
const shownFor = 300

// shownFile is the picture itself, as PNG or SVG by its ending.
func (h *Handler) shownFile(w http.ResponseWriter, r *http.Request) {
	f, err := h.Door.Shown(r.Context(), chi.URLParam(r, "token"), strings.TrimPrefix(path.Ext(chi.URLParam(r, "name")), "."))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	file := f.Data
	h2 := w.Header()
	h2.Set("Content-Type", f.Format.Type())
	tag := fmt.Sprintf(`"%x"`, sha256.Sum256(file))
	h2.Set("Cache-Control", fmt.Sprintf("public, max-age=%d", shownFor))
	h2.Set("ETag", tag)
	if r.Header.Get("If-None-Match") == tag {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	h2.Set("Cross-Origin-Resource-Policy", "cross-origin") // other pages show it
	h2.Set("Content-Length", strconv.Itoa(len(file)))
	w.Write(file)
}

// show issues a version and leads to its page for print or a projector.
func (h *Handler) show(w http.ResponseWriter, r *http.Request) {
	how := chi.URLParam(r, "how")
	if how != "print" && how != "screen" {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	c, err := h.Store.Issue(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	whole := ""
	if r.FormValue("whole") != "" {
		whole = "?whole=1"
	}
	http.Redirect(w, r, fmt.Sprintf("/codes/%s/versions/%d/%d/%s%s", c.ID, c.Issued.N, placeOf(c, r.FormValue("place")), how,
		whole), http.StatusSeeOther)
}

// OnePage is a version on a page of its own.
type OnePage struct {
	ui.Frame
	ID, Name, Says, Size string
	N, Place             int
	Width, Height        string // mm
	Picture              template.HTML
	Dark                 bool
}

func (h *Handler) onePage(w http.ResponseWriter, r *http.Request,
	attributes func(width, height float64) string) (v OnePage, ok bool) {
	st, n, err := h.versionOf(r)
	if err != nil {
		ui.Fail(w, r, err)
		return v, false
	}
	i, err := strconv.Atoi(chi.URLParam(r, "place"))
	if err != nil || i < -1 || i >= len(st.Rendition.Job.Placements) {
		ui.Fail(w, r, code.ErrNotFound)
		return v, false
	}
	m := st.Rendition
	p := m.Place(i)
	s, size := m.Scene(p), "1 mm a module"
	if p != nil {
		size = p.Width.String() + " wide"
	}
	if r.URL.Query().Get("whole") != "" {
		if c, ok := m.Compose(p); ok {
			s, size = c.Scene, fmt.Sprintf("%s × %s mm", measure.Number(c.Width, 1), measure.Number(c.Height, 1))
		}
	}
	name := code.NameOf(m.Job)
	v = OnePage{Frame: ui.Frame{Title: name}, ID: chi.URLParam(r, "id"), Name: name, Says: content.Shown(m.Job.Content), N: n,
		Place: i, Size: size}
	v.Picture = template.HTML(svg.Inline(s.Reduced(2000), "QR code: "+v.Says, attributes(s.Width, s.Height)))
	return v, true
}

// printPage is the version at its true size, for the browser's own printing.
func (h *Handler) printPage(w http.ResponseWriter, r *http.Request) {
	v, ok := h.onePage(w, r, func(width, height float64) string {
		return fmt.Sprintf(`width="%.3fmm" height="%.3fmm" class="true-size"`, width, height)
	})
	if ok {
		ui.Render(w, http.StatusOK, pages, "print", v)
	}
}

// screenPage is the version as large as the screen, for a projector.
func (h *Handler) screenPage(w http.ResponseWriter, r *http.Request) {
	v, ok := h.onePage(w, r, func(float64, float64) string { return `class="whole-screen"` })
	if ok {
		ui.Render(w, http.StatusOK, pages, "screen", v)
	}
}
