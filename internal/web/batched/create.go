package batched

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"path"
	"strings"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/core/table"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// New is the form that takes rows in.
type New struct {
	ui.Frame
	Name, Campaign, Text, From, To string
	Likes, Looks                   []forms.Choice
	Campaigns                      []string
	Errors                         map[string]string
	Heads, Delimiters, Encodings   []forms.Choice // how the file is read, by hand
	Tab                            string
	Products                       bool
	ByHand                         bool // something of that is chosen
}

func (h *Handler) newPage(w http.ResponseWriter, r *http.Request) {
	h.form(w, r, http.StatusOK, New{Errors: map[string]string{}})
}

func (h *Handler) form(w http.ResponseWriter, r *http.Request, status int, v New) {
	v.Frame = ui.FrameOf(r, "New batch", "batches")
	codes, _, err := h.Codes.Listed(r.Context(), ui.Actor(r), code.Active, "", code.Cursor{}, maxLikes)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	like := r.FormValue("like")
	for _, c := range codes {
		if c.Rendition != nil && c.Rendition.Job.Content.Kind() != "dynamic" {
			v.Likes = append(v.Likes, forms.Choice{Value: "code:" + c.ID, Words: c.Name(), On: like == "code:"+c.ID})
		}
	}
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	for _, l := range append(append([]style.Look{}, house.Looks...), style.Shipped...) {
		v.Looks = append(v.Looks, forms.Choice{Value: "look:" + l.Key, Words: l.Name, On: like == "look:"+l.Key})
	}
	v.readBy(r)
	if v.Campaigns, err = h.Codes.Campaigns(r.Context(), ui.Actor(r)); err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, status, pages, "batch-new", v)
}

// readBy fills the choices of how a file is read.
func (v *New) readBy(r *http.Request) {
	choice := func(key, value, words string) forms.Choice {
		v.ByHand = v.ByHand || value != "" && r.FormValue(key) == value
		return forms.Choice{Value: value, Words: words, On: r.FormValue(key) == value}
	}
	v.Heads = []forms.Choice{choice("heads", "", "found out"), choice("heads", string(table.HeadsThere),
		"the first row names columns"),
		choice("heads", string(table.HeadsNone), "there are none")}
	v.Delimiters = []forms.Choice{choice("delimiter", "", "found out")}
	for _, d := range table.Delimiters {
		v.Delimiters = append(v.Delimiters, choice("delimiter", d.Key, d.Words))
	}
	v.Encodings = []forms.Choice{choice("encoding", "", "found out")}
	for _, e := range table.Encodings {
		v.Encodings = append(v.Encodings, choice("encoding", e.Key, e.Words))
	}
	v.Tab = r.FormValue("tab")
	v.ByHand = v.ByHand || v.Tab != ""
}

// rowsOf reads the rows of a form: a file, what was pasted, a range of numbers, or the products that codes say.
func (h *Handler) rowsOf(r *http.Request, o table.Options) (rows *table.Rows, source string, err error) {
	name, data, err := forms.File(r, MaxFile)
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large) || len(data) > MaxFile:
		return nil, "", problem.List{{Field: "/rows", Code: "rows.large", Message: fmt.Sprintf(
			"are more than %d MB; split the file, or make the batch on the command line", MaxFile>>20)}}
	case err != nil && !errors.Is(err, http.ErrMissingFile) && !errors.Is(err, http.ErrNotMultipart):
		return nil, "", problem.List{{Field: "/rows", Code: "rows.cut", Message: "were cut off on their way; send them again"}}
	case len(data) > 0:
		rows, err = table.Open(r.Context(), bytes.NewReader(data), o)
		return rows, path.Base(name), err
	}
	if from, to := strings.TrimSpace(r.PostFormValue("from")), strings.TrimSpace(r.PostFormValue("to")); from != "" || to != "" {
		rows, err = table.Numbers(from, to)
		return rows, "", err
	}
	if text := r.PostFormValue("text"); r.PostFormValue("products") == "" || strings.TrimSpace(text) != "" {
		rows, err = table.Open(r.Context(), strings.NewReader(text), o)
		return rows, "", err
	}
	list, err := h.Codes.Products(r.Context(), ui.Actor(r))
	if err == nil && len(list) == 0 {
		err = problem.List{{Field: "/products", Code: "products.none",
			Message: "are in no code yet; make one, or paste their numbers above"}}
	}
	if err != nil {
		return nil, "", err
	}
	cells := make([][]string, len(list))
	for i, p := range list {
		cells[i] = []string{p.GTIN, p.Name}
	}
	return table.List([]string{"GTIN", "Name"}, cells), "Products", nil
}

// create makes a batch of rows. What was typed stays where something is wrong.
func (h *Handler) create(w http.ResponseWriter, r *http.Request) {
	o, problems := table.ReadOptions(r.FormValue)
	rows, source, err := h.rowsOf(r, o)
	if len(problems) > 0 {
		err = problems
	}
	v := New{Name: r.PostFormValue("name"), Campaign: r.PostFormValue("campaign"), Text: r.PostFormValue("text"),
		From: r.PostFormValue("from"), To: r.PostFormValue("to"), Products: r.PostFormValue("products") != "",
		Errors: map[string]string{}, ByHand: len(problems) > 0}
	id := ""
	if err == nil {
		a := batches.Ask{Name: v.Name, Campaign: v.Campaign, Rows: rows, Source: source}
		if a.Name == "" {
			if a.Name = strings.TrimSuffix(source, path.Ext(source)); a.Name == "" {
				a.Name = "Batch of " + h.Codes.Now().Format("2 January 15:04")
			}
		}
		what, key, _ := strings.Cut(r.PostFormValue("like"), ":")
		switch what {
		case "code":
			a.Like = key
		case "look":
			a.Look = key
		}
		id, err = h.Batches.Create(r.Context(), ui.Actor(r), a)
	}
	if problems, is := code.IsProblem(err); is {
		for _, p := range problems {
			v.Errors[strings.TrimPrefix(p.Field, "/")] = about(p)
		}
		h.form(w, r, http.StatusUnprocessableEntity, v)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/batches/"+id, http.StatusSeeOther)
}

// about is a problem of rows as a sentence.
func about(p problem.Problem) string {
	subject := map[string]string{"/rows": "The rows ", "/products": "Products ",
		"/from": "The first number ", "/to": "The last number ",
		"/name": "The name ",
		"/like": "The pattern ", "/campaign": "The campaign ", "/key": "The key ",
		"/links": "Short links ", "/file": "The zip ", "/heads": "Heads: it ", "/delimiter": "Between cells: it ",
		"/encoding": "The encoding "}[p.Field]
	if subject == "" {
		return forms.Sentence(p)
	}
	return subject + p.Message + "."
}
