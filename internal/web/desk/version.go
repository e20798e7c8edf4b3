package desk

import (
	"fmt"
	"html/template"
	"net/http"
	"path"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/handover"
	"sodrik/internal/records"
	"sodrik/internal/web/ui"
)

// VersionView is one issued version: what a printer sees.
type VersionView struct {
	ui.Frame
	ID, Name, When string
	N              int
	Symbol         template.HTML
	Says           ui.Says
	Payload        string
	Places         []VersionPlace
	MayOpen        bool
}

// VersionPlace is one placement with its files.
type VersionPlace struct {
	Name, Words string
	Files       []VersionFile
}

// VersionFile is one file to take.
type VersionFile struct{ Title, Href string }

// versionOf reads the version that the address names.
func (h *Handler) versionOf(r *http.Request) (code.State, int, error) {
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	if err != nil || n < 1 {
		return code.State{}, 0, code.ErrNotFound
	}
	st, err := h.Store.At(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), "v"+strconv.Itoa(n))
	return st, n, err
}

func (h *Handler) version(w http.ResponseWriter, r *http.Request) {
	st, n, err := h.versionOf(r)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	m := st.Rendition
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	names := house.FileNames()
	file := func(i int, f compose.Format, query string) VersionFile {
		return VersionFile{f.Title(), fmt.Sprintf("/codes/%s/versions/%d/%d/%s%s", chi.URLParam(r, "id"), n, i,
			handover.FileName(names, m.Job, i, n, f), query)}
	}
	frame := ui.FrameOf(r, code.NameOf(m.Job), "codes")
	v := VersionView{Frame: frame, MayOpen: frame.MayLook, ID: chi.URLParam(r, "id"), Name: code.NameOf(m.Job), N: n,
		When:   st.At.Format("2 January 2006"),
		Symbol: ui.Picture(m), Says: ui.SaysOf(m.Job.Content), Payload: content.Shown(m.Job.Content)}
	for i := min(0, len(m.Job.Placements)-1); i < max(1, len(m.Job.Placements)); i++ {
		if i < 0 && len(m.Job.Placements) > 0 {
			continue
		}
		p := VersionPlace{Name: "No place", Words: "1 mm a module"}
		if i >= 0 {
			at := m.Job.Placements[i]
			p = VersionPlace{Name: at.Name, Words: at.Width.String() + " wide, " +
				strings.TrimPrefix(at.Where(), "at "+at.Name+": ")}
		}
		for _, kind := range compose.Formats {
			p.Files = append(p.Files, file(i, compose.Format{Kind: kind}, ""))
		}
		if m.Pressed() {
			for _, kind := range []string{"pdfx", "eps", "tif"} {
				p.Files = append(p.Files, file(i, compose.Format{Kind: kind}, "?format="+kind))
			}
		}
		v.Places = append(v.Places, p)
		if i < 0 {
			break
		}
	}
	ui.Render(w, http.StatusOK, pages, "version", v)
}

// versionFile hands over a file of an issued version, the same bytes every time.
func (h *Handler) versionFile(w http.ResponseWriter, r *http.Request) {
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	if err != nil || n < 1 {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	format := strings.TrimPrefix(path.Ext(chi.URLParam(r, "name")), ".")
	if f, ok := compose.FormatOf(r.URL.Query().Get("format")); ok {
		format = f.Key()
	}
	a := handover.Ask{Code: chi.URLParam(r, "id"), Version: n, Formats: []string{format},
		Places: []string{chi.URLParam(r, "place")}, Way: records.ByVersion, Insist: r.FormValue("insist") != ""}
	p, err := h.Door.Give(r.Context(), ui.Actor(r), a)
	if problems, ok := code.IsProblem(err); ok && problems[0].Code == "place.unknown" {
		err = code.ErrNotFound
	}
	if err != nil {
		h.failShip(w, r, a, err)
		return
	}
	ui.Attachment(w, p.Files[0].Name, p.Files[0].Data)
}
