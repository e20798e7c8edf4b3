package desk

import (
	"encoding/json"
	"html/template"
	"net/http"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// clashView is one field that two tabs have changed.
type clashView struct {
	FieldID, CodeID      string
	Theirs, Mine         string
	TakeTheirs, TakeMine string // values of the request that each choice makes
	Rev                  int64
	Path                 string
}

// answerClash gives both values for the person to choose; nothing has been changed.
func (h *Handler) answerClash(w http.ResponseWriter, c *code.Conflict) {
	take := func(text string) string {
		b, err := json.Marshal(map[string]string{"path": c.Path, "at": c.Place, "text": text,
			"base": strconv.FormatInt(c.Code.Rev, 10), "chosen": "1"})
		if err != nil {
			panic(err) // made of strings
		}
		return string(b)
	}
	w.Header().Set("Sodrik-Slots", "1")
	theirs, mine := c.Theirs, c.Mine
	if job.Secret(c.Path) {
		theirs, mine = "the one typed there", "the one typed here"
	}
	ui.Render(w, http.StatusOK, pages, "clash", clashView{forms.ID(c.Path), c.Code.ID, theirs, mine, take(c.Theirs), take(c.Mine),
		c.Code.Rev, c.Path})
}

// changes answers what other tabs have changed since a revision; nothing where nothing has.
func (h *Handler) changes(w http.ResponseWriter, r *http.Request) {
	c, err := h.Store.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err == nil && strconv.FormatInt(c.Rev, 10) == r.FormValue("since") {
		w.WriteHeader(http.StatusNoContent)
		return
	}
	h.answer(w, r, c, err)
}

// HistoryView is the drawer.
type HistoryView struct {
	ID      string
	Entries []HistoryLine
	Cut     bool // there are older ones
}

// HistoryLine is one entry, formatted.
type HistoryLine struct {
	code.Entry
	When          string
	Checked       string // what a picture of its print showed, "" for none
	First, Second bool   // chosen to be compared
}

func (h *Handler) history(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	entries, err := h.Store.History(r.Context(), ui.Actor(r), id)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	checks, err := h.Door.Records.Checks(r.Context(), ui.Actor(r), id)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	checked := map[int]string{} // the newest of each version
	for _, c := range slices.Backward(checks) {
		checked[c.N] = c.Line()
	}
	v := HistoryView{ID: id, Cut: len(entries) == code.MaxEntries}
	printed := -1
	for i, e := range entries {
		v.Entries = append(v.Entries, HistoryLine{Entry: e, When: ui.Ago(h.Store.Now(), e.At), Checked: checked[e.Issue]})
		if e.Issue > 0 && printed < 0 && i > 0 {
			printed = i
		}
	}
	if printed < 0 {
		printed = min(1, len(entries)-1)
		if entries[0].Issue > 0 { // which freezes what is right below it
			printed = min(2, len(entries)-1)
		}
	}
	// the newest beside what was handed over before it, or stands before it
	v.Entries[0].Second, v.Entries[printed].First = true, true
	ui.Render(w, http.StatusOK, pages, "history", v)
}

// CompareView is two states side by side.
type CompareView struct {
	ID            string
	First, Second CompareSide
	Differences   []job.Difference
	Same          bool
}

// CompareSide is one of the two.
type CompareSide struct {
	Ref, Words, Payload string
	Symbol              template.HTML
}

func (h *Handler) compare(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	v := CompareView{ID: id}
	var jobs [2]*job.Job
	for i, side := range []*CompareSide{&v.First, &v.Second} {
		ref := r.FormValue([]string{"first", "second"}[i])
		st, err := h.Store.At(r.Context(), ui.Actor(r), id, ref)
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		*side = CompareSide{Ref: ref, Words: code.RefWords(ref)}
		if st.Rendition != nil {
			side.Payload, side.Symbol = content.Shown(st.Rendition.Job.Content), ui.Picture(st.Rendition)
			jobs[i] = st.Rendition.Job
		}
	}
	if jobs[0] != nil && jobs[1] != nil {
		v.Differences = job.Differences(jobs[0], jobs[1])
		v.Same = len(v.Differences) == 0
	}
	ui.Render(w, http.StatusOK, pages, "compare", v)
}

func (h *Handler) goBack(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	if _, err := h.Store.Return(r.Context(), ui.Actor(r), id, r.FormValue("ref"), changeOf(r)); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/codes/"+id, http.StatusSeeOther)
}
