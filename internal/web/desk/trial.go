package desk

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/problem"
	"sodrik/internal/people"
	"sodrik/internal/records"
	"sodrik/internal/web/desk/reads"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// TrialPage is a plain page with the code at its true size, to hold a phone against.
type TrialPage struct {
	ui.Frame
	ID, Name, Where, Size string
	Width                 string // CSS
	Until                 string // when the link of the trial ends; "" where there is none
	As                    string // somebody as whom it is tried, in words
	Place                 int
	Symbol                template.HTML
	Phone, Result, Note   string // as typed
	Errors                map[string]string
	Results               []forms.Choice
	Trials                []reads.TrialLine
	ReadOnly              bool
}

// tryOn shows the page.
func (h *Handler) tryOn(w http.ResponseWriter, r *http.Request) {
	h.trialPage(w, r, http.StatusOK, nil)
}

func (h *Handler) trialPage(w http.ResponseWriter, r *http.Request, status int, problems problem.List) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	list, err := h.Door.Records.Trials(r.Context(), ui.Actor(r), c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	i := placeOf(c, r.FormValue("place"))
	as, who, err := h.triedAs(r, c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	name := c.Name() // and not that of the link by which it is tried
	c, until, err := h.underTrial(r, c, i, as)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := TrialPage{
		Until:    until,
		As:       who,
		Frame:    ui.FrameOf(r, name+", on a phone", "codes"),
		ID:       c.ID,
		Name:     name,
		Place:    i,
		Symbol:   ui.Picture(c.Rendition.For(c.Rendition.Place(i))),
		Trials:   reads.TrialLines(list),
		Phone:    r.FormValue("phone"),
		Result:   r.FormValue("result"),
		Note:     r.FormValue("note"),
		ReadOnly: !ui.May(r, people.Change),
	}
	width := float64(c.Rendition.Modules())
	v.Where, v.Size = "no place", measure.Number(width, 1)+" mm wide, a millimetre a module"
	if p := c.Rendition.Place(i); p != nil {
		width = float64(p.Width)
		v.Where, v.Size = "at "+p.Name, fmt.Sprintf("%s wide, to be read from %s", p.Width.Spoken(), p.Distance.Spoken())
	}
	p := c.Rendition.Place(i)
	v.Width = measure.Number(width*c.Rendition.Scene(p).Width/c.Rendition.Unframed(p).Width, 2) // with a frame around, more
	for _, x := range records.Results {
		v.Results = append(v.Results, forms.Choice{Value: x.Key, Words: reads.UpperFirst(x.Words), On: x.Key == v.Result})
	}
	v.Errors = saidOf(problems, map[string]string{"phone": "The phone", "result": "What happened", "note": "The note"})
	ui.Render(w, status, pages, "trial", v)
}

// underTrial is a code as it is tried: one that leads through a short link does so through another, which is not counted.
func (h *Handler) underTrial(r *http.Request, c *code.Code, i int, as *leads.As) (tried *code.Code, until string, err error) {
	if !ui.May(r, people.Change) || c.Stale() {
		return c, "", nil
	}
	t, err := h.Links.Trial(r.Context(), ui.Actor(r), c, i, as)
	if err != nil || t == nil {
		return c, "", err
	}
	path := "/content/link"
	if p := c.Rendition.Place(i); p != nil && p.Link != "" {
		path = fmt.Sprintf("/placements/%d/link", i)
	}
	tried, err = h.Store.TryPatch(r.Context(), ui.Actor(r), c.ID, patch.Set(path, t.Address.String()))
	return tried, t.Ends.Format("2 January, 15:04 MST"), err
}

// triedAs is somebody as whom a code is tried, as the routes ask, and in words; nil for whoever tries it.
func (h *Handler) triedAs(r *http.Request, c *code.Code) (as *leads.As, who string, err error) {
	if r.FormValue("as") == "" {
		return nil, "", nil
	}
	l, err := h.Links.Of(r.Context(), ui.Actor(r), c)
	if err != nil || l == nil {
		return nil, "", err
	}
	asked := askedOf(r)
	in, problems := asked.Input(l.Draft.Zone, h.Store.Now())
	if len(problems) > 0 {
		return nil, "", problems
	}
	as = &leads.As{Country: in.Country, Part: in.Part, Town: in.Town, Tongues: in.Languages, System: in.System}
	var words []string
	for _, w := range []string{asked.Where, asked.Languages, asked.At} {
		if w != "" {
			words = append(words, w)
		}
	}
	if asked.At != "" {
		as.At = in.At.Unix()
	}
	if who = strings.Join(words, "; "); who == "" {
		who = "somebody of whom nothing is known"
	}
	return as, who, nil
}

// saidOf are problems of a form as sentences, by the names of their fields; subjects are what those are called.
func saidOf(problems problem.List, subjects map[string]string) map[string]string {
	out := map[string]string{}
	for _, p := range problems {
		key := strings.TrimPrefix(p.Field, "/")
		out[key] = subjects[key] + " " + p.Message
	}
	return out
}

// tried keeps what somebody saw; a problem shows the page again with what was typed.
func (h *Handler) tried(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.FormValue("place"))
	err := h.Door.Records.NoteTrial(r.Context(), ui.Actor(r), c, i,
		records.Trial{Phone: r.FormValue("phone"), Result: r.FormValue("result"), Note: r.FormValue("note")})
	var problems problem.List
	if errors.As(err, &problems) {
		h.trialPage(w, r, http.StatusUnprocessableEntity, problems)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, fmt.Sprintf("/codes/%s/phone?place=%d", c.ID, i), http.StatusSeeOther)
}
