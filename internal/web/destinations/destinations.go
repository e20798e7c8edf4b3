// Package destinations is the page on which many codes are led elsewhere in one act: old and new side by side, made live
// together, and taken back together.
package destinations

import (
	"embed"
	"encoding/json"
	"fmt"
	"net/http"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Handler serves the page.
type Handler struct{ Links *link.Store }

// Routes mounts the page.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Change)).Post("/destinations", h.page)
}

// View is the page.
type View struct {
	ui.Frame
	IDs      []string
	Old, New string
	Error    string
	Rows     []link.Swapped
	Change   int    // how many of them would change
	Looked   bool   // somebody has asked what would change
	Done     string // what was done, in words
	Back     string // of what was done, for the form that takes it back
}

// page shows what a change would make of the codes that are chosen, makes it live, or takes it back.
func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}})
		return
	}
	v := View{Frame: ui.FrameOf(r, "Destinations", "codes"), IDs: r.PostForm["id"], Old: r.PostFormValue("old"),
		New: r.PostFormValue("new")}
	swap, act := link.Swap{Find: v.Old, With: v.New,
		Region: ui.RegionOf(r.Header.Get("Accept-Language"))}, r.PostFormValue("act")
	err := error(nil)
	switch act {
	case "live":
		err = h.live(r, &v, swap)
	case "back":
		err = h.back(r, &v)
	}
	if err == nil {
		if v.Rows, err = h.rows(r, &v, swap, act == "show"); err == nil {
			for _, row := range v.Rows {
				if row.To != "" {
					v.Change++
				}
			}
		}
	}
	if problems, is := code.IsProblem(err); is {
		v.Error = forms.Sentence(problems[0])
		v.Looked = false
		v.Rows, err = h.Links.SwapOf(r.Context(), ui.Actor(r), v.IDs, link.AsTheyAre)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "destinations", v)
}

// rows are the codes as they are, or as they would be.
func (h *Handler) rows(r *http.Request, v *View, swap link.Swap, looked bool) ([]link.Swapped, error) {
	if v.Looked = looked; !looked {
		swap = link.AsTheyAre
	}
	return h.Links.SwapOf(r.Context(), ui.Actor(r), v.IDs, swap)
}

func (h *Handler) live(r *http.Request, v *View, swap link.Swap) error {
	done, err := h.Links.SwapAll(r.Context(), ui.Actor(r), v.IDs, swap)
	if err != nil {
		return err
	}
	was := map[string]int{}
	for _, one := range done {
		if one.N > 0 {
			was[one.Code] = one.N
		}
	}
	v.Done = fmt.Sprintf("%s changed.", plural(len(done)))
	if len(was) > 0 {
		back, err := json.Marshal(was)
		if err != nil {
			return err
		}
		v.Back = string(back)
	}
	return nil
}

func (h *Handler) back(r *http.Request, v *View) error {
	var was map[string]int
	if err := json.Unmarshal([]byte(r.PostFormValue("back")), &was); err != nil {
		return problem.List{{Field: "/back", Code: "many", Message: "was cut off on its way; lead each code back on its desk"}}
	}
	n, err := h.Links.SwapBack(r.Context(), ui.Actor(r), was)
	if err != nil {
		return err
	}
	v.Done = plural(n) + " led back."
	if left := len(was) - n; left > 0 {
		v.Done += fmt.Sprintf(" %s since, and stayed.", map[bool]string{true: "1 was changed",
			false: fmt.Sprintf("%d were changed",
				left)}[left == 1])
	}
	return nil
}

func plural(n int) string {
	if n == 1 {
		return "1 destination"
	}
	return fmt.Sprintf("%d destinations", n)
}
