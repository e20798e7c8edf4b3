package desk

import (
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/records"
	"sodrik/internal/web/desk/ships"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// printed notes that a version is in print, or takes that back.
func (h *Handler) printed(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	n, err := strconv.Atoi(r.FormValue("version"))
	if err != nil {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	typed := ships.Printed{On: r.FormValue("on"), Printer: r.FormValue("printer"), Quantity: r.FormValue("quantity")}
	if r.FormValue("back") != "" {
		err = h.Door.Records.TakePrintBack(r.Context(), ui.Actor(r), id, n)
	} else {
		said, problems := records.ReadPrinting(typed.On, typed.Printer, typed.Quantity, h.Store.Now())
		for _, p := range problems {
			if typed.Errors == nil {
				typed.Errors = map[string]string{}
			}
			typed.Errors[p.Field[1:]] = forms.Sentence(p)
		}
		if len(problems) == 0 {
			err = h.Door.Records.SayPrinted(r.Context(), ui.Actor(r), id, n, said)
		}
	}
	var c *code.Code
	if err == nil {
		c, err = h.Store.Get(r.Context(), ui.Actor(r), id)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v, status := ships.PrintedOf(c), http.StatusOK
	if typed.Errors != nil {
		v.On, v.Printer, v.Quantity, v.Errors = typed.On, typed.Printer, typed.Quantity, typed.Errors
		status = http.StatusUnprocessableEntity
	}
	if r.Header.Get("HX-Request") == "" && typed.Errors == nil {
		http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
		return
	}
	v.Chip = chip(c)
	ui.Render(w, status, pages, "in-print-said", v)
}
