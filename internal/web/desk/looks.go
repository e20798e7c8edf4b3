package desk

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"math/rand/v2"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/jackc/pgx/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/style"
	"sodrik/internal/proving"
	"sodrik/internal/web/desk/wears"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// Tile is one look as the person's own code would wear it.
type Tile struct {
	CodeID  string
	Place   int
	Key     string // of a look
	Name    string
	Picture template.HTML // "" where it cannot be made
	On      bool          // worn now
	N       int           // of a variation, from 1
	Patch   string        // of a variation
	Label   string
	Proof   *Verdicted // nil until it is there
}

// Verdicted is a verdict with its words.
type Verdicted struct {
	Verdict proof.Verdict
	Words   string
}

func verdicted(p *proof.Proof) *Verdicted { return &Verdicted{p.Verdict, ui.VerdictWords(p.Verdict)} }

// pictureOf draws what a code would wear, without what only print needs.
func pictureOf(m *compose.Rendition, i int) template.HTML {
	if m == nil {
		return ""
	}
	return ui.Worn(m, m.Place(i))
}

// LooksView is the looks side by side.
type LooksView struct {
	CodeID      string
	House, Come []Tile
}

func (h *Handler) looks(w http.ResponseWriter, r *http.Request) {
	var all []style.Look
	c, made, err := h.Store.Wearing(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), func(c *code.Code) (out []any) {
		all = append(append(all, c.House.Looks...), style.Shipped...)
		for _, l := range all {
			out = append(out, code.Dressed(c.Draft, l))
		}
		return out
	})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := LooksView{CodeID: c.ID}
	i := placeOf(c, r.URL.Query().Get("place"))
	from := code.From(c.Draft)
	for k, l := range all {
		t := Tile{CodeID: c.ID, Place: i, Key: l.Key, Name: l.Name, Picture: pictureOf(made[k], i), On: l.Key == from &&
			!code.Altered(c.Draft, l)}
		if strings.HasPrefix(l.Key, style.ShippedKey) {
			v.Come = append(v.Come, t)
		} else {
			v.House = append(v.House, t)
		}
	}
	ui.Render(w, http.StatusOK, pages, "looks", v)
}

// lookVerdict proves what the code would be in a look.
func (h *Handler) lookVerdict(w http.ResponseWriter, r *http.Request) {
	key := r.URL.Query().Get("key")
	c, made, err := h.Store.Wearing(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), func(c *code.Code) []any {
		if l, ok := c.House.Find(key); ok {
			return []any{code.Dressed(c.Draft, l)}
		}
		return nil
	})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if len(made) == 0 || made[0] == nil {
		w.WriteHeader(http.StatusNoContent)
		return
	}
	p, err := h.Store.Prove(proving.Patiently(r.Context()), ui.Actor(r), made[0], placeOf(c, r.URL.Query().Get("place")),
		proof.Ordinary)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "tile-verdict", verdicted(p))
}

func (h *Handler) wear(w http.ResponseWriter, r *http.Request) {
	id, key := chi.URLParam(r, "id"), r.FormValue("key")
	c, err := h.Store.Get(r.Context(), ui.Actor(r), id)
	if err == nil {
		l, ok := c.House.Find(key)
		if !ok {
			err = problem.List{{Field: "/look/from", Code: "look.from",
				Message: "is no look of the house any more; choose another"}}
		} else {
			c, err = h.Store.Wear(r.Context(), ui.Actor(r), id, l, changeOf(r))
		}
	}
	h.answer(w, r, c, err)
}

// keepLook keeps what a code wears as a look of the house, or changes the one it came from, for new codes or on those too
// that wear it.
func (h *Handler) keepLook(w http.ResponseWriter, r *http.Request) {
	actor := ui.Actor(r)
	c, err := h.Store.Get(r.Context(), actor, chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	name, over := strings.TrimSpace(r.FormValue("name")), r.FormValue("over")
	worn := style.Look{Key: cmp.Or(over, style.KeyOf(name)), Name: name, Wear: style.Take(c.Draft)}
	var changed int
	drafts := over != "" && r.FormValue("drafts") != ""
	_, err = h.House.Change(r.Context(), ui.Actor(r), -1, func(s *style.Style) error {
		if over == "" {
			s.Looks = append(s.Looks, worn)
			return nil
		}
		for i := range s.Looks {
			if s.Looks[i].Key == over {
				worn.Name = s.Looks[i].Name
				s.Looks[i].Wear = worn.Wear
				return nil
			}
		}
		return problem.List{{Field: "/look/from", Code: "look.from",
			Message: "is no look of the house any more; keep this one under a name"}}
	}, func(tx pgx.Tx, was, _ *style.Style) (err error) {
		var others []string
		if old, ok := was.Look(over); ok && drafts {
			if others, err = h.Store.WearersIn(r.Context(), tx, actor, old); err != nil {
				return err
			}
			others = slices.DeleteFunc(others, func(id string) bool { return id == c.ID })
		}
		if c, err = h.Store.ChangeLookIn(r.Context(), tx, actor, c.ID, worn, changeOf(r)); err != nil {
			return err
		}
		changed, err = h.Store.WearIn(r.Context(), tx, actor, others, worn)
		return err
	})
	var problems problem.List
	if errors.As(err, &problems) {
		s := wears.LookSlotOf(c)
		s.Typed, s.Problem = name, forms.Sentence(problems[0])
		ui.Render(w, http.StatusUnprocessableEntity, pages, "look-slot", s)
		return
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	var done string
	switch {
	case over == "":
		done = worn.Name + " is kept. Any code can wear it."
	case !drafts:
		done = worn.Name + " is changed for codes that put it on from now."
	default:
		done = fmt.Sprintf("%s is changed, and on %s. Versions handed over stay as they are.", worn.Name,
			plural(changed, "further draft", "further drafts"))
	}
	h.answerWith(w, r, c, nil, func(v *View) { v.LookSlot.Done = done })
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// VariationsView is nine alternatives to come.
type VariationsView struct {
	CodeID string
	Place  int
	Seed   uint64
	Next   uint64
	K      []int
}

func (h *Handler) variations(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	seed, err := strconv.ParseUint(r.URL.Query().Get("seed"), 10, 32)
	if err != nil {
		seed = uint64(rand.Uint32())
	}
	v := VariationsView{CodeID: c.ID, Place: placeOf(c, r.URL.Query().Get("place")), Seed: seed, Next: (seed + 1) & (1<<32 - 1)}
	for k := range style.Variations {
		v.K = append(v.K, k)
	}
	ui.Render(w, http.StatusOK, pages, "variations", v)
}

// triedVariations is how many candidates are proved for one of the nine before the last is shown as it is.
const triedVariations = 4

// variation proves candidates for one of the nine, and shows the first that is safe at its place, or reads flat without one.
func (h *Handler) variation(w http.ResponseWriter, r *http.Request) {
	seed, err := strconv.ParseUint(chi.URLParam(r, "seed"), 10, 32)
	k, err2 := strconv.Atoi(chi.URLParam(r, "k"))
	if err != nil || err2 != nil || k < 0 || k >= style.Variations {
		ui.Fail(w, r, code.ErrNotFound)
		return
	}
	var looks []any
	c, made, err := h.Store.Wearing(r.Context(), ui.Actor(r), chi.URLParam(r, "id"), func(c *code.Code) []any {
		for n := range triedVariations {
			looks = append(looks, style.Vary(c.Draft, c.House, seed, k+n*style.Variations))
		}
		return looks
	})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	t := Tile{CodeID: c.ID, Place: placeOf(c, r.URL.Query().Get("place")), N: k + 1, Label: fmt.Sprintf("variation %d", k+1)}
	for n, m := range made {
		if m == nil {
			continue
		}
		p, err := h.Store.Prove(proving.Patiently(r.Context()), ui.Actor(r), m, t.Place, proof.Ordinary)
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		t.Picture, t.Proof, t.Patch = pictureOf(m, t.Place), verdicted(p), forms.PatchText(style.Changes(looks[n]))
		if p.Verdict == proof.Safe || p.Verdict == proof.Flat {
			break
		}
	}
	ui.Render(w, http.StatusOK, pages, "variation", t)
}
