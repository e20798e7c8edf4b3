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
	"sodrik/internal/core/export"
	"sodrik/internal/core/job"
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
	m := st.Made
	names, err := h.names(r)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	frame := ui.FrameOf(r, code.NameOf(m.Job), "codes")
	v := VersionView{Frame: frame, MayOpen: frame.MayLook, ID: chi.URLParam(r, "id"), Name: code.NameOf(m.Job), N: n, When: st.At.Format("2 January 2006"),
		Symbol: ui.Picture(m), Says: ui.SaysOf(m.Job.Content), Payload: content.Shown(m.Job.Content)}
	for i := min(0, len(m.Job.Placements)-1); i < max(1, len(m.Job.Placements)); i++ {
		if i < 0 && len(m.Job.Placements) > 0 {
			continue
		}
		p := VersionPlace{Name: "No place", Words: "1 mm a module"}
		if i >= 0 {
			at := m.Job.Placements[i]
			p = VersionPlace{Name: at.Name, Words: at.Width.String() + " wide, " + strings.TrimPrefix(at.Where(), "at "+at.Name+": ")}
		}
		for _, format := range compose.Formats {
			p.Files = append(p.Files, VersionFile{strings.ToUpper(format), fmt.Sprintf("/codes/%s/versions/%d/%d/%s", v.ID, n, i, fileName(names, m.Job, i, n, format))})
		}
		if m.Pressed() {
			for _, format := range []string{"pdfx", "eps", "tif"} {
				f, _ := compose.FormatOf(format)
				p.Files = append(p.Files, VersionFile{f.Title, fmt.Sprintf("/codes/%s/versions/%d/%d/%s?format=%s", v.ID, n, i, fileName(names, m.Job, i, n, format), format)})
			}
		}
		v.Places = append(v.Places, p)
		if i < 0 {
			break
		}
	}
	ui.Render(w, http.StatusOK, pages, "version", v)
}

// names is how files are called in the workspace.
func (h *Handler) names(r *http.Request) (export.Names, error) {
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	return house.FileNames(), err
}

// fileName is the name under which a version's file is handed over.
func fileName(names export.Names, j *job.Job, i, version int, format string) string {
	of := export.Named{Name: code.NameOf(j), Version: version}
	if language, ending, ok := compose.SlipFormat(format); ok {
		of.Name += " payment part " + language
		return names.File(of, ending)
	}
	if i >= 0 {
		of.Width = j.Placements[i].Width
		if len(j.Placements) > 1 {
			of.Place = j.Placements[i].Name
		}
	}
	f, ok := compose.FormatOf(format)
	if !ok { // a zip
		f.Ending = format
	}
	switch {
	case format == compose.OnSheet+"pdfx":
		of.Name, of.Width = of.Name+" whole press", 0
	case strings.HasPrefix(format, compose.OnSheet):
		of.Name, of.Width = of.Name+" whole", 0
	case format == "pdfx":
		of.Name += " press"
	case format == "label":
		of.Name += " label"
	case format == "svg-current":
		of.Name += " text colour"
	}
	return names.File(of, f.Ending)
}

// versionFile hands over a file of an issued version, the same bytes every time.
func (h *Handler) versionFile(w http.ResponseWriter, r *http.Request) {
	st, n, err := h.versionOf(r)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	m := st.Made
	format := strings.TrimPrefix(path.Ext(chi.URLParam(r, "name")), ".")
	if f, ok := compose.FormatOf(r.URL.Query().Get("format")); ok {
		format = f.Key
	}
	i, err := strconv.Atoi(chi.URLParam(r, "place"))
	if err != nil || i < -1 || i >= len(m.Job.Placements) {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	data, err := h.Store.File(r.Context(), m, format, m.Place(i), compose.MetaOf(format, m.Title(i), st.At))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	names, err := h.names(r)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attachment(w, format, fileName(names, m.Job, i, n, format), data)
}
