package style

import (
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

// LookPage is one look and the codes that can wear it.
type LookPage struct {
	ui.Frame
	MayChange bool
	Look      LookTile
	Codes     []Wearer
	Worn      int
	Error     string
	Typed     string
}

// Wearer is a code that can wear a look.
type Wearer struct {
	ID, Name, Wears string
	On              bool
}

func (h *Handler) lookPage(w http.ResponseWriter, r *http.Request) {
	h.showLook(w, r, http.StatusOK, chi.URLParam(r, "*"), "", "")
}

func (h *Handler) showLook(w http.ResponseWriter, r *http.Request, status int, key, bad, typed string) {
	house, rev, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	l, ok := house.Find(key)
	if !ok {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	wearers, err := h.Codes.Wearers(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := View{Rev: rev, Looks: []LookTile{tileOf(l, wearers)}}
	if err := h.dress(r, &v); err != nil {
		ui.Fail(w, r, err)
		return
	}
	p := LookPage{Frame: ui.FrameOf(r, l.Name, "style"), MayChange: ui.May(r, people.Change), Look: v.Looks[0], Error: bad,
		Typed: typed}
	for _, x := range wearers {
		one := Wearer{ID: x.ID, Name: x.Name, On: x.Look == key && !x.Altered}
		if worn, ok := house.Find(x.Look); ok {
			if one.Wears = worn.Name; x.Altered {
				one.Wears += ", altered"
			}
		}
		if one.On {
			p.Worn++
		}
		p.Codes = append(p.Codes, one)
	}
	ui.Render(w, status, pages, "look", p)
}

// wear puts a look on every code that is chosen.
func (h *Handler) wear(w http.ResponseWriter, r *http.Request) {
	r.ParseForm()
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	key := r.FormValue("key")
	l, ok := house.Find(key)
	if !ok {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	if len(r.Form["code"]) == 0 {
		h.showLook(w, r, http.StatusUnprocessableEntity, key, "Choose the codes that are to wear it.", "")
		return
	}
	if _, err := h.Codes.DressAll(r.Context(), ui.Actor(r), r.Form["code"], l); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/style/looks/"+key, http.StatusSeeOther)
}

func (h *Handler) rename(w http.ResponseWriter, r *http.Request) {
	key, name := r.FormValue("key"), strings.TrimSpace(r.FormValue("name"))
	_, err := h.House.Change(r.Context(), ui.Actor(r), -1, func(s *style.Style) error {
		for i := range s.Looks {
			if s.Looks[i].Key == key {
				s.Looks[i].Name = name
				return nil
			}
		}
		return code.ErrNotFound
	})
	if problems, ok := code.IsProblem(err); ok {
		h.showLook(w, r, http.StatusUnprocessableEntity, key, sentence(problems[0]), name)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/style/looks/"+key, http.StatusSeeOther)
}

// removeLook takes a look away; codes keep what they wear.
func (h *Handler) removeLook(w http.ResponseWriter, r *http.Request) {
	if h.change(w, r, "looks", "looks", func(s *style.Style) error {
		s.Looks = slices.DeleteFunc(s.Looks, func(l style.Look) bool { return l.Key == r.FormValue("key") })
		return nil
	}) {
		h.done(w, r, "gone", "looks")
	}
}

// sentence makes a problem, which starts after its field's name, a sentence.
func sentence(p problem.Problem) string {
	m := p.Message
	return strings.ToUpper(m[:1]) + m[1:] + "."
}
