package style

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// First is the page with which a house begins: its name and its logo, of which a mark, colours and a look are made.
type First struct {
	ui.Frame
	Name     string
	Problems problem.List
}

// OfName is what is wrong with the name, as a sentence, "" for nothing.
func (f First) OfName() string {
	return f.first(func(field string) bool { return field == "/name" })
}

// OfLogo is what is wrong with the logo, or keeps the house style from taking it in.
func (f First) OfLogo() string {
	return f.first(func(field string) bool { return field != "/name" })
}

func (f First) first(of func(field string) bool) string {
	for _, p := range f.Problems {
		if of(p.Field) {
			return sentence(p)
		}
	}
	return ""
}

func (h *Handler) firstPage(w http.ResponseWriter, r *http.Request) {
	name := ""
	if who := ui.Who(r); who != nil {
		name = who.Name
	}
	h.showFirst(w, r, http.StatusOK, name, nil)
}

func (h *Handler) showFirst(w http.ResponseWriter, r *http.Request, status int, name string, problems problem.List) {
	ui.Render(w, status, pages, "first", First{ui.FrameOf(r, "Your house", "style"), name, problems})
}

// logoDPI is how finely a logo in a PDF is drawn.
const logoDPI = 300

// first names the house and dresses it in its logo.
func (h *Handler) first(w http.ResponseWriter, r *http.Request) {
	forms.Bound(w, r, artwork.MaxBytes)
	name := strings.TrimSpace(r.FormValue("name"))
	var problems problem.List
	if err := h.People.Name(r.Context(), ui.Actor(r).Workspace, name); !problemsOf(err, &problems) {
		ui.Fail(w, r, err)
		return
	}
	file, data, err := forms.File(r, artwork.MaxBytes)
	var large *http.MaxBytesError
	switch {
	case errors.Is(err, http.ErrMissingFile), errors.Is(err, http.ErrNotMultipart): // a house may have none
	case err == nil && len(problems) > 0: // which are told first
	case err == nil:
		if err := h.wearLogo(r, file, data); !problemsOf(err, &problems) {
			ui.Fail(w, r, err)
			return
		}
	case errors.As(err, &large):
		problems.Add("/file", "file", "is larger than %d MB; a smaller one does", artwork.MaxBytes>>20)
	default:
		ui.Fail(w, r, err)
		return
	}
	if len(problems) > 0 {
		h.showFirst(w, r, http.StatusUnprocessableEntity, name, problems)
		return
	}
	http.Redirect(w, r, "/codes", http.StatusSeeOther)
}

// problemsOf adds the problems that err is to problems; it is false for any other error.
func problemsOf(err error, problems *problem.List) bool {
	var list problem.List
	if err == nil {
		return true
	}
	if !errors.As(err, &list) {
		return false
	}
	*problems = append(*problems, list...)
	return true
}

// wearLogo makes of a logo a mark of the house, its colours, and a look in the darkest of them.
func (h *Handler) wearLogo(r *http.Request, file string, data []byte) error {
	if bytes.HasPrefix(data, []byte("%PDF-")) && h.Codes.Pages != nil {
		page, err := h.Codes.Pages(r.Context(), data, 1, logoDPI)
		if err != nil {
			return problem.List{{Field: "/file", Code: "file", Message: "is a PDF that cannot be opened; an SVG or a picture does"}}
		}
		data = page
	}
	a, err := h.Codes.Upload(r.Context(), ui.Actor(r), file, data)
	if err != nil {
		return err
	}
	art, err := artwork.Read(data)
	if err != nil { // what was just taken in
		return err
	}
	_, err = h.House.Change(r.Context(), ui.Actor(r), -1, func(s *style.Style) error {
		dress(s, a.Source, art.Colours(4))
		return nil
	})
	return err
}

// dress adds a mark, its colours and a look to a house style; what is there already stays.
func dress(s *style.Style, source string, colours []ink.Colour) {
	key, called := free("Logo", func(k string) bool {
		return slices.ContainsFunc(s.Marks, func(m style.Mark) bool { return m.Key == k })
	})
	s.Marks = append(s.Marks, style.Mark{Key: key, Name: called, Source: source, Clear: 1})
	wear := map[string]any{"mark": map[string]any{"source": source, "clear": "outline", "pad": 1}}
	white := ink.Colour{R: 255, G: 255, B: 255}
	darkest := white
	for _, c := range colours {
		c.Style, called = free(c.Called(), func(k string) bool { _, is := s.Colour(k); return is })
		s.Colours = append(s.Colours, style.Colour{Key: c.Style, Name: called, Value: c})
		if c.Luminance() < darkest.Luminance() {
			darkest = c
		}
	}
	if ink.Contrast(darkest, white) >= readable {
		wear["ink"] = map[string]any{"style": darkest.Style}
	}
	key, called = free("First look", func(k string) bool {
		return slices.ContainsFunc(s.Looks, func(l style.Look) bool { return l.Key == k })
	})
	s.Looks = append(s.Looks, style.Look{Key: key, Name: called, Wear: wear})
}

// readable is the contrast with white from which a colour of a logo is the ink of codes; with a paler one they stay black.
const readable = 0.7

// free is a name, with a number where its key is taken, and the key.
func free(name string, taken func(key string) bool) (key, called string) {
	called = name
	for n := 2; ; n++ {
		if key = style.KeyOf(called); !taken(key) {
			return key, called
		}
		called = fmt.Sprintf("%s %d", name, n)
	}
}
