package desk

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/people"
	"sodrik/internal/records"
	"sodrik/internal/web/desk/reads"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// CheckPage is where pictures of prints are measured.
type CheckPage struct {
	ui.Frame
	ID, Name string
	Place    int
	Version  int // handed over last, 0 for none
	Places   []forms.Choice
	DPI      string // as typed
	Errors   map[string]string
	Newest   *reads.CheckLine // the one just made
	Checks   []reads.CheckLine
	ReadOnly bool
}

// checks shows the page.
func (h *Handler) checks(w http.ResponseWriter, r *http.Request) {
	if c, known := h.code(w, r); known {
		h.checkPage(w, r, c, http.StatusOK, nil)
	}
}

func (h *Handler) checkPage(w http.ResponseWriter, r *http.Request, c *code.Code, status int, problems problem.List) {
	list, err := h.Door.Records.Checks(r.Context(), ui.Actor(r), c.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := CheckPage{
		Frame:    ui.FrameOf(r, c.Name()+", print checked", "codes"),
		ID:       c.ID,
		Name:     c.Name(),
		Place:    placeOf(c, r.FormValue("place")),
		Checks:   reads.CheckLines(list),
		DPI:      r.FormValue("dpi"),
		ReadOnly: !ui.May(r, people.Change),
	}
	if c.Issued != nil {
		v.Version = c.Issued.N
	}
	for i, p := range c.Rendition.Job.Placements {
		v.Places = append(v.Places, forms.Choice{Value: p.ID, Words: p.Name, On: i == v.Place})
	}
	if len(problems) == 0 && r.FormValue("done") != "" && len(v.Checks) > 0 {
		v.Newest, v.Checks = &v.Checks[0], v.Checks[1:]
	}
	v.Errors = saidOf(problems, map[string]string{"picture": "The picture", "dpi": "The scan", "placements": "Places"})
	ui.Render(w, status, pages, "check", v)
}

// check measures a picture; a problem shows the page again with what was typed.
func (h *Handler) check(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	forms.Bound(w, r, artwork.MaxBytes)
	_, data, err := forms.File(r, artwork.MaxBytes)
	if err != nil && !errors.Is(err, http.ErrMissingFile) || len(data) > artwork.MaxBytes {
		h.checkPage(w, r, c, http.StatusUnprocessableEntity, problem.List{{Field: "/picture", Code: "file",
			Message: fmt.Sprintf("was cut off on its way; choose a PNG, JPEG or WebP of at most %d MB", artwork.MaxBytes>>20)}})
		return
	}
	picture := records.Picture{Data: data, DPI: dpiOf(r.FormValue("dpi")), Place: r.FormValue("place")}
	_, err = h.Door.Records.CheckPrint(r.Context(), ui.Actor(r), c.ID, picture)
	if problems, ok := code.IsProblem(err); ok {
		h.checkPage(w, r, c, http.StatusUnprocessableEntity, problems)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, fmt.Sprintf("/codes/%s/print?place=%s&done=1", c.ID, r.FormValue("place")), http.StatusSeeOther)
}

// dpiOf reads the resolution of a scan, 0 where none is given, and −1, which the use case refuses in its own words, where it is
// no number.
func dpiOf(text string) float64 {
	text = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "dpi"))
	if text == "" {
		return 0
	}
	if dpi, ok := measure.ParseDecimal(text); ok && dpi != 0 {
		return dpi
	}
	return -1
}
