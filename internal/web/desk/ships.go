package desk

import (
	"errors"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/handover"
	"sodrik/internal/records"
	"sodrik/internal/web/ui"
)

// ship hands over files: one as it is, several as a zip. format and place may be repeated; place −1 is the bare PNG of at
// least compose.BarePixels.
func (h *Handler) ship(w http.ResponseWriter, r *http.Request) {
	a, err := askOf(r)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	p, err := h.Door.Give(r.Context(), ui.Actor(r), a)
	if err != nil {
		h.failShip(w, r, a, err)
		return
	}
	if len(p.Files) == 1 && !a.All {
		ui.TellArrival(w, r, p.Files[0].Name)
		ui.Attachment(w, p.Files[0].Name, p.Files[0].Data)
		return
	}
	data, err := h.Door.Pack(r.Context(), ui.Actor(r), p, a.All)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.TellArrival(w, r, p.ZipName())
	ui.Attachment(w, p.ZipName(), data)
}

// askOf is what the form of the stub asks for.
func askOf(r *http.Request) (handover.Ask, error) {
	if err := r.ParseForm(); err != nil {
		return handover.Ask{}, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}}
	}
	return handover.Ask{Code: chi.URLParam(r, "id"), Formats: r.Form["format"], Places: r.Form["place"], Way: records.ByFiles,
		Insist: r.Form.Get("insist") != "",
		All:    r.Form.Get("everything") != "", Copied: r.Form.Get("copy") != ""}, nil
}

// failShip answers what stopped a handing over: what does not read back is handed over to whoever insists.
func (h *Handler) failShip(w http.ResponseWriter, r *http.Request, a handover.Ask, err error) {
	var u *handover.Unread
	switch {
	case !errors.As(err, &u):
		ui.Fail(w, r, err)
	case a.Copied:
		ui.Fail(w, r, u.Problem())
	default:
		v := struct {
			ui.Frame
			ID     string
			Names  []string
			Method string
			Form   map[string][]string
			Path   string
		}{ui.FrameOf(r, "Not handed over", "codes"), a.Code, u.Names, strings.ToLower(r.Method), r.Form, r.URL.Path}
		ui.Render(w, http.StatusConflict, pages, "unread", v)
	}
}

// mail sends files to somebody.
func (h *Handler) mail(w http.ResponseWriter, r *http.Request) {
	if _, err := h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	a, err := askOf(r)
	if err == nil {
		a.To, a.Note, a.All = r.FormValue("to"), r.FormValue("note"), r.FormValue("zip") != ""
		var done string
		if done, err = h.Door.Send(r.Context(), ui.Actor(r), a, ui.MailOf(r)); err == nil {
			h.mailed(w, r, done, nil)
			return
		}
	}
	if problems, ok := code.IsProblem(err); ok {
		h.mailed(w, r, "", problems)
		return
	}
	ui.Fail(w, r, err)
}

// mailed answers the slot under the form of a mail.
func (h *Handler) mailed(w http.ResponseWriter, r *http.Request, done string, problems problem.List) {
	v := struct{ Done, Wrong string }{Done: done}
	if len(problems) > 0 {
		v.Wrong = "The address " + problems[0].Message + "."
		if problems[0].Field != "/to" {
			v.Wrong = strings.ToUpper(problems[0].Message[:1]) + problems[0].Message[1:] + "."
		}
	}
	if r.Header.Get("HX-Request") == "" {
		if len(problems) > 0 {
			ui.Fail(w, r, problems)
			return
		}
		http.Redirect(w, r, "/codes/"+chi.URLParam(r, "id"), http.StatusSeeOther)
		return
	}
	ui.Render(w, http.StatusOK, pages, "mailed", v)
}

// afterwards adds to the view what was handed over before.
func (h *Handler) afterwards(r *http.Request, c *code.Code, v *View) error {
	medium := ""
	if p := c.Rendition.Place(v.Place); p != nil {
		medium = p.Medium
	}
	keys, list, err := h.Door.Records.Afterwards(r.Context(), ui.Actor(r), c.ID, medium)
	if err != nil {
		return err
	}
	v.Ships.Before(keys, list, c.Rendition.Pressed(), h.Store.Now())
	return nil
}
