// Package style is the page of the house style: the colours, marks, typefaces and looks of a actor, its rules, and the file
// in which they leave and come in.
package style

import (
	"cmp"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/jackc/pgx/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/artwork"
	"sodrik/internal/core/export"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/core/typeface"
	"sodrik/internal/housestyle"
	"sodrik/internal/people"
	"sodrik/internal/shelf"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Handler serves the page.
type Handler struct {
	Codes  *code.Store
	House  *housestyle.Store
	People *people.Store
}

// Routes mounts the page.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	look, change, manage := r.With(may(people.Look)), r.With(may(people.Change)), r.With(may(people.Manage))
	look.Get("/style", h.page)
	look.Get("/style/kit", h.kit)
	look.Get("/style/looks/*", h.lookPage)
	change.Post("/style/colours", h.setColour)
	change.Post("/style/colours/remove", h.removeColour)
	change.Post("/style/marks", h.addMark)
	change.Post("/style/marks/remove", h.removeMark)
	change.Post("/style/typefaces", h.setFaces)
	change.Post("/style/typefaces/add", h.addFace)
	change.Post("/style/looks/wear", h.wear)
	change.Post("/style/looks/rename", h.rename)
	change.Post("/style/looks/remove", h.removeLook)
	change.Post("/style/media/remove", h.removeMedium)
	change.Post("/style/names", h.setNames)
	change.Post("/style/links", h.addLink)
	change.Post("/style/links/remove", h.removeLink)
	change.Post("/style/back", h.takeBack)
	manage.Get("/style/first", h.firstPage)
	manage.Post("/style/first", h.first)
	manage.Post("/style/rules", h.setRules)
	manage.Post("/style/kit", h.takeKit)
}

// said is what an answer says beside the page: what was wrong with which form, what was typed, what was done.
type said struct {
	form     string // "colour", "mark", "rules", "kit", "look"
	problems problem.List
	typed    map[string]string
	done     string
}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	done := map[string]string{"colour": "Kept. Codes printed in it have it from now.", "mark": "Kept.",
		"link": "Kept. It is offered where a code begins, and on the desk of every web address.", "typefaces": "Kept.",
		"rules": "Kept.", "kit": "The house style is replaced.", "gone": "Taken away.",
		"back": "The house style is what it was before that change. This can be taken back too."}[r.URL.Query().Get("done")]
	h.show(w, r, http.StatusOK, said{done: done})
}

func (h *Handler) show(w http.ResponseWriter, r *http.Request, status int, s said) {
	actor := ui.Actor(r)
	house, rev, err := h.House.Get(r.Context(), actor)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	wearers, err := h.Codes.Wearers(r.Context(), actor)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := NewView(house, rev, wearers, h.Codes.Assets(r.Context(), actor))
	if err := h.dress(r, &v); err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Frame, v.MayChange, v.Manages = ui.FrameOf(r, "House style", "style"), ui.May(r, people.Change), ui.May(r, people.Manage)
	if v.History, v.Older, err = h.history(r); err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Done, v.form, v.problems, v.typed = s.done, s.form, s.problems, s.typed
	ui.Render(w, status, pages, "house", v)
}

// maxHistory is how many changes of the house style are listed at once.
const maxHistory = 12

// history lists the last changes; older is the one from which the list goes on, 0 for none.
func (h *Handler) history(r *http.Request) (lines []HistoryLine, older int64, err error) {
	from, _ := strconv.ParseInt(r.URL.Query().Get("older"), 10, 64)
	list, more, err := h.House.History(r.Context(), ui.Actor(r), max(0, from), maxHistory)
	if err != nil {
		return nil, 0, err
	}
	for _, e := range list {
		words := e.Words
		if words == "" {
			words = "As it was when changes began to be kept"
		}
		lines = append(lines, HistoryLine{Rev: e.Rev, Words: strings.ToUpper(words[:1]) + words[1:], Who: e.Who,
			When: ui.Ago(h.House.Now(), e.At), First: e.Words == ""})
	}
	if more {
		older = list[len(list)-1].Rev
	}
	return lines, older, nil
}

// dress draws one of the workspace's own codes in every look: that of the fewest modules, which shows most.
func (h *Handler) dress(r *http.Request, v *View) error {
	id, err := h.Codes.Smallest(r.Context(), ui.Actor(r))
	if err != nil || id == "" {
		return err
	}
	c, made, err := h.Codes.Wearing(r.Context(), ui.Actor(r), id, func(c *code.Code) (out []any) {
		for _, l := range v.Looks {
			out = append(out, code.Dressed(c.Draft, l.look))
		}
		return out
	})
	if err != nil {
		return err
	}
	v.Model = c.Name()
	for i, m := range made {
		if m != nil {
			v.Looks[i].Picture = ui.Worn(m, nil)
		}
	}
	return nil
}

// done leads back to the page after a change.
func (h *Handler) done(w http.ResponseWriter, r *http.Request, what, part string) {
	http.Redirect(w, r, "/style?done="+what+"#"+part, http.StatusSeeOther)
}

// change changes the house style and answers: a problem shows the page again with what was typed.
func (h *Handler) change(w http.ResponseWriter, r *http.Request, form, part string, change func(*style.Style) error,
	after ...after) bool {
	_, err := h.House.Change(r.Context(), ui.Actor(r), revOf(r), change, after...)
	return h.answered(w, r, form, err)
}

// after is what belongs to a change of the house style: it is done in the same transaction, or neither is.
type after = func(tx pgx.Tx, was, now *style.Style) error

// refresh makes the drafts again that are printed in a colour whose value has changed.
func (h *Handler) refresh(r *http.Request) after {
	return func(tx pgx.Tx, was, now *style.Style) error {
		var keys []string
		for _, c := range now.Colours {
			if old, had := was.Colour(c.Key); !had || old.Value != c.Value {
				keys = append(keys, c.Key)
			}
		}
		if len(keys) == 0 {
			return nil
		}
		return h.Codes.Refresh(r.Context(), tx, ui.Actor(r), keys...)
	}
}

// unused refuses a change that takes a colour away in which something is printed.
func (h *Handler) unused(r *http.Request) after {
	return func(tx pgx.Tx, was, now *style.Style) error {
		var problems problem.List
		for _, c := range was.Colours {
			if _, kept := now.Colour(c.Key); kept {
				continue
			}
			names, err := h.Codes.InColour(r.Context(), tx, ui.Actor(r), c.Key)
			if err != nil {
				return err
			}
			problems = append(problems, inUse(c, append(names, looksIn(now, c.Key)...))...)
		}
		return problems.Err()
	}
}

// looksIn names the looks of a house that use a colour.
func looksIn(s *style.Style, key string) (names []string) {
	for _, l := range s.Looks {
		if style.Uses(l.Wear, key) {
			names = append(names, "the look "+l.Name)
		}
	}
	return names
}

// inUse says that a colour cannot be taken away, nothing where nobody uses it.
func inUse(c style.Colour, names []string) (problems problem.List) {
	more := ""
	if n := len(names) - 3; n > 0 {
		more = fmt.Sprintf(" and %d more", n)
	}
	if len(names) > 0 {
		problems.Add("/key", "style.used", "%s is in use: %s%s. Give them another colour first", c.Name,
			strings.Join(names[:min(3, len(names))], ", "), more)
	}
	return problems
}

// answered says whether all went well; else it has answered.
func (h *Handler) answered(w http.ResponseWriter, r *http.Request, form string, err error) bool {
	var problems problem.List
	switch {
	case err == nil:
		return true
	case errors.Is(err, housestyle.ErrStale):
		problems.Add("", "style.stale", "%v", err)
	case !errors.As(err, &problems):
		ui.Fail(w, r, err)
		return false
	}
	typed := map[string]string{}
	for k, v := range r.Form {
		typed[k] = v[0]
	}
	h.show(w, r, http.StatusUnprocessableEntity, said{form: form, problems: problems, typed: typed})
	return false
}

func revOf(r *http.Request) int64 {
	n, err := strconv.ParseInt(r.FormValue("rev"), 10, 64)
	if err != nil {
		return -1
	}
	return n
}

// colourOf reads the form of a colour: what screens show, and the inks and the spot name that print it.
func colourOf(r *http.Request) (c style.Colour, problems problem.List) {
	c.Name = strings.TrimSpace(r.FormValue("name"))
	screen, inks, spot := strings.TrimSpace(r.FormValue("screen")), strings.TrimSpace(r.FormValue("cmyk")),
		strings.TrimSpace(r.FormValue("spot"))
	shown, ok := ink.Typed(screen)
	if screen != "" && !ok {
		problems.Add("/screen", "look.colour", "is %q, which is no colour; write six hexadecimal digits such as #12352b", screen)
	}
	if inks != "" {
		v, ok := ink.Typed("cmyk(" + strings.TrimSuffix(strings.TrimPrefix(strings.ToLower(inks), "cmyk("), ")") + ")")
		if !ok {
			problems.Add("/cmyk", "look.cmyk",
				"is %q; write four shares in percent, cyan, magenta, yellow and black, such as 84, 30, 70, 45", inks)
		}
		if screen == "" {
			shown = v
		}
		v.R, v.G, v.B = shown.R, shown.G, shown.B
		shown = v
	}
	switch {
	case screen == "" && inks == "":
		problems.Add("/screen", "look.colour", "is missing; write what screens show, such as #12352b, or the inks of a press")
	case spot != "" && inks == "":
		problems.Add("/cmyk", "look.cmyk", "is missing; four shares in percent stand in where %s is not printed", spot)
	}
	shown.Spot = spot
	c.Value = shown
	return c, problems
}

func (h *Handler) setColour(w http.ResponseWriter, r *http.Request) {
	c, problems := colourOf(r)
	key := r.FormValue("key")
	c.Key = cmp.Or(key, style.KeyOf(c.Name))
	if len(problems) > 0 {
		h.answered(w, r, "colour", problems)
		return
	}
	if !h.change(w, r, "colour", "colours", func(s *style.Style) error {
		if key == "" {
			s.Colours = append(s.Colours, c)
			return nil
		}
		for i := range s.Colours {
			if s.Colours[i].Key == key {
				s.Colours[i] = c
				return nil
			}
		}
		return problem.List{{Field: "/name", Code: "style.gone", Message: "is no colour of the house any more"}}
	}, h.refresh(r)) {
		return
	}
	h.done(w, r, "colour", "colours")
}

// removeColour takes a colour away that nothing is printed in.
func (h *Handler) removeColour(w http.ResponseWriter, r *http.Request) {
	if h.change(w, r, "colours", "colours", func(s *style.Style) error {
		key := r.FormValue("key")
		if c, ok := s.Colour(key); ok { // without it, such looks could not be read any more
			if err := inUse(c, looksIn(s, key)).Err(); err != nil {
				return err
			}
		}
		s.Colours = slices.DeleteFunc(s.Colours, func(c style.Colour) bool { return c.Key == key })
		return nil
	}, h.unused(r)) {
		h.done(w, r, "gone", "colours")
	}
}

// addMark keeps a drawing or an upload as a mark of the house.
func (h *Handler) addMark(w http.ResponseWriter, r *http.Request) {
	forms.Bound(w, r, artwork.MaxBytes)
	m := style.Mark{Name: strings.TrimSpace(r.FormValue("name")), Clear: 1}
	m.Key = style.KeyOf(m.Name)
	var problems problem.List
	if text := strings.TrimSpace(r.FormValue("clear")); text != "" {
		f, ok := measure.ParseDecimal(text)
		if !ok {
			problems.Add("/clear", "number", "is %q, which is no number of modules", text)
		}
		m.Clear = f
	}
	icon := strings.ToLower(strings.TrimSpace(r.FormValue("icon")))
	name, data, err := forms.File(r, artwork.MaxBytes)
	switch {
	case err == nil && len(data) > 0:
		a, err := h.Codes.Upload(r.Context(), ui.Actor(r), name, data)
		var bad problem.List
		if errors.As(err, &bad) {
			problems = append(problems, bad...)
		} else if err != nil {
			ui.Fail(w, r, err)
			return
		}
		m.Source = a.Source
	case icon != "":
		if _, ok := artwork.Icon(strings.ReplaceAll(icon, " ", "-")); !ok {
			problems.Add("/icon", "mark.source",
				"is %q, which is no drawing at hand; try sprout, leaf or store, or choose a file", icon)
		}
		m.Source = "icon:" + strings.ReplaceAll(icon, " ", "-")
	default:
		problems.Add("/file", "file", "is missing; choose an SVG, PNG, JPEG or WebP, or name a drawing at hand such as sprout")
	}
	if len(problems) > 0 {
		h.answered(w, r, "mark", problems)
		return
	}
	if h.change(w, r, "mark", "marks", func(s *style.Style) error { s.Marks = append(s.Marks, m); return nil }) {
		h.done(w, r, "mark", "marks")
	}
}

func (h *Handler) removeMark(w http.ResponseWriter, r *http.Request) {
	if h.change(w, r, "marks", "marks", func(s *style.Style) error {
		s.Marks = slices.DeleteFunc(s.Marks, func(m style.Mark) bool { return m.Key == r.FormValue("key") })
		return nil
	}) {
		h.done(w, r, "gone", "marks")
	}
}

func (h *Handler) setFaces(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}})
		return
	}
	if h.change(w, r, "typefaces", "typefaces", func(s *style.Style) error {
		var chosen []style.Face
		for _, key := range r.Form["face"] {
			chosen = append(chosen, style.Face{Key: key, Name: nameOfFace(s, key)})
		}
		s.Faces = chosen
		return nil
	}) {
		h.done(w, r, "typefaces", "typefaces")
	}
}

// nameOfFace is what the house calls a typeface.
func nameOfFace(s *style.Style, key string) string {
	for _, f := range s.Faces {
		if f.Key == key {
			return f.Name
		}
	}
	return ""
}

// addFace takes a typeface in.
func (h *Handler) addFace(w http.ResponseWriter, r *http.Request) {
	forms.Bound(w, r, typeface.MaxFile)
	_, data, err := forms.File(r, typeface.MaxFile)
	var problems problem.List
	if large := new(http.MaxBytesError); errors.As(err, &large) {
		problems.Add("/file", "artwork", "%v", typeface.ErrLarge)
	} else if err != nil {
		problems.Add("/file", "file", "is missing; choose a TTF or OTF file")
	}
	if len(problems) > 0 {
		h.answered(w, r, "typeface", problems)
		return
	}
	a, err := h.Codes.UploadFace(r.Context(), ui.Actor(r), data)
	if !h.answered(w, r, "typeface", err) {
		return
	}
	if h.change(w, r, "typeface", "typefaces", func(s *style.Style) error {
		s.Faces = append(s.Faces, style.Face{Key: a.Source, Name: a.Name})
		return nil
	}) {
		h.done(w, r, "typefaces", "typefaces")
	}
}

func (h *Handler) setRules(w http.ResponseWriter, r *http.Request) {
	f, ok := measure.ParseDecimal(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(cmp.Or(r.FormValue("contrast"), "0")),
		"%")))
	if !ok || f < 0 || f > 100 {
		h.answered(w, r, "rules",
			problem.List{{Field: "/contrast", Code: "look.share",
				Message: fmt.Sprintf("is %q; write percent, from 0 for no rule to 100", r.FormValue("contrast"))}})
		return
	}
	if h.change(w, r, "rules", "rules", func(s *style.Style) error {
		s.Rules.Contrast, s.Rules.Grade, s.Locked = f/100, r.FormValue("grade"), r.FormValue("locked") != ""
		return nil
	}) {
		h.done(w, r, "rules", "rules")
	}
}

// removeMedium takes a medium away; places keep what they took from it.
func (h *Handler) removeMedium(w http.ResponseWriter, r *http.Request) {
	if h.change(w, r, "media", "media", func(s *style.Style) error {
		s.Media = slices.DeleteFunc(s.Media, func(m place.Medium) bool { return m.Key == r.FormValue("key") })
		return nil
	}) {
		h.done(w, r, "gone", "media")
	}
}

// setNames says how files are called.
func (h *Handler) setNames(w http.ResponseWriter, r *http.Request) {
	names := export.Names(strings.TrimSpace(r.FormValue("names")))
	if wrong := names.Check(); names != "" && wrong != "" {
		h.answered(w, r, "names", problem.List{{Field: "/names", Code: "style.names", Message: wrong}})
		return
	}
	if h.change(w, r, "names", "media", func(s *style.Style) error { s.Names = names; return nil }) {
		h.done(w, r, "rules", "media")
	}
}

// kit hands over the house style as one file.
func (h *Handler) kit(w http.ResponseWriter, r *http.Request) {
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	find := h.Codes.Assets(r.Context(), ui.Actor(r))
	data, err := style.Pack(house, func(source string) ([]byte, bool) {
		u, ok := find(source)
		if kept, whole := u.(artwork.Rebuilt); ok && whole {
			return kept.Normal(), true
		}
		return nil, false
	})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attachment(w, "house-style.zip", data)
}

// takeKit takes a file in, in place of what is there.
func (h *Handler) takeKit(w http.ResponseWriter, r *http.Request) {
	forms.Bound(w, r, style.MaxKit)
	_, data, err := forms.File(r, style.MaxKit)
	if err != nil {
		h.answered(w, r, "kit", problem.List{{Field: "/file", Code: "file",
			Message: fmt.Sprintf("was cut off on its way; choose a zip of at most %d MB that was downloaded from a house style",
				style.MaxKit>>20)}})
		return
	}
	budget := artwork.NewBudget() // of all drawings in it together
	in, problems := style.Unpack(data, func(name string, data []byte) (string, error) {
		take := func() (shelf.Asset, error) {
			return h.Codes.UploadWithin(r.Context(), ui.Actor(r), name, data, budget)
		}
		if typeface.Is(data) {
			take = func() (shelf.Asset, error) { return h.Codes.UploadFace(r.Context(), ui.Actor(r), data) }
		}
		a, err := take()
		var bad problem.List
		if errors.As(err, &bad) {
			err = errors.New(bad[0].Message)
		}
		return a.Source, err
	})
	if len(problems) > 0 {
		h.answered(w, r, "kit", problems)
		return
	}
	if h.change(w, r, "kit", "kit", func(s *style.Style) error {
		*s = *in
		return nil
	}, h.unused(r), h.refresh(r)) {
		h.done(w, r, "kit", "kit")
	}
}

// takeBack makes the house style what it was before one of its changes.
func (h *Handler) takeBack(w http.ResponseWriter, r *http.Request) {
	to, err := strconv.ParseInt(r.FormValue("before"), 10, 64)
	if err != nil {
		to = -1
	}
	before, err := h.House.Before(r.Context(), ui.Actor(r), to)
	if errors.Is(err, housestyle.ErrNoEntry) {
		err = problem.List{{Field: "/before", Code: "style.gone",
			Message: "is no change of the house style; look at the list again"}}
	}
	if err != nil {
		h.answered(w, r, "history", err)
		return
	}
	if h.change(w, r, "history", "history", func(s *style.Style) error {
		if (s.Rules != before.Rules || s.Locked != before.Locked) && !ui.May(r, people.Manage) {
			return problem.List{{Field: "/before", Code: "style.rules",
				Message: "touches the rules of the house, which an owner sets. Ask one to take it back"}}
		}
		*s = *before
		return nil
	}, h.unused(r), h.refresh(r)) {
		h.done(w, r, "back", "history")
	}
}
