package ledger

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"

	"sodrik/internal/code"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/handover"
	"sodrik/internal/records"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/paste"
	"sodrik/internal/web/ui"
)

// Done is what an act on several codes did, with the way back.
type Done struct {
	Words string
	Undo  string // the act, as the form that takes it back carries it; "" where nothing was changed
	Wrong string // why nothing was done
}

// many acts on the codes that are chosen, and answers the list as it is then.
func (h *Handler) many(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}})
		return
	}
	ids := r.PostForm["id"]
	var acted code.Acted
	var err error
	var words string
	switch act := r.PostFormValue("act"); act {
	case "retire", "restore":
		state, verb := code.Retired, "retired"
		if act == "restore" {
			state, verb = code.Active, "restored"
		}
		acted, err = h.Store.SetStates(r.Context(), ui.Actor(r), ids, state)
		words = plural(len(acted.Was), "code", "codes") + " " + verb
	case "move":
		name := r.PostFormValue("campaign")
		acted, err = h.Store.MoveAll(r.Context(), ui.Actor(r), ids, name)
		words = plural(len(acted.Was), "code", "codes") + " moved to " + name
		if name == "" {
			words = plural(len(acted.Was), "code", "codes") + " taken out of its campaign"
		}
	case "wear":
		var l style.Look
		if l, err = h.look(r); err == nil {
			acted, err = h.Store.DressAll(r.Context(), ui.Actor(r), ids, l)
			words = plural(len(acted.Was), "code wears", "codes wear") + " " + l.Name
		}
	default:
		err = problem.List{{Field: "/act", Code: "many.act",
			Message: "is not something that can be done with several codes; move, wear, retire and restore are"}}
	}
	h.answerMany(w, r, words, acted, err)
}

// look finds the look that is asked for.
func (h *Handler) look(r *http.Request) (l style.Look, err error) {
	house, _, err := h.House.Get(r.Context(), ui.Actor(r))
	if err != nil {
		return l, err
	}
	l, ok := house.Find(r.PostFormValue("look"))
	if !ok {
		return l, problem.List{{Field: "/look", Code: "look.from", Message: "is no look of the house any more; choose another"}}
	}
	return l, nil
}

// takeBack undoes what was done with several codes.
func (h *Handler) takeBack(w http.ResponseWriter, r *http.Request) {
	var a code.Acted
	if err := json.Unmarshal([]byte(r.PostFormValue("undo")), &a); err != nil {
		ui.Fail(w, r, problem.List{{Code: "many", Message: "what was to be undone was cut off on its way; undo it on each desk"}})
		return
	}
	n, err := h.Store.TakeBack(r.Context(), ui.Actor(r), a)
	words := "Undone on " + plural(n, "code", "codes")
	if left := len(a.Was) - n; left > 0 && err == nil {
		words += fmt.Sprintf("; %s changed since and stayed as %s", plural(left, "code was", "codes were"),
			map[bool]string{true: "it is", false: "they are"}[left == 1])
	}
	h.answerMany(w, r, words, code.Acted{}, err)
}

// answerMany answers the list, and what was done.
func (h *Handler) answerMany(w http.ResponseWriter, r *http.Request, words string, acted code.Acted, err error) {
	done := Done{Words: words + "."}
	problems, isProblem := code.IsProblem(err)
	switch {
	case isProblem:
		done = Done{Wrong: "Nothing was changed: " + problems.Error()}
	case err != nil:
		ui.Fail(w, r, err)
		return
	case len(acted.Was) > 0:
		text, err := json.Marshal(acted)
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		done.Undo = string(text)
	case acted.Act != "":
		done.Words = "They were so already."
	}
	if r.Header.Get("HX-Request") == "" { // a plain form
		if isProblem {
			ui.Fail(w, r, err)
			return
		}
		http.Redirect(w, r, "/codes", http.StatusSeeOther)
		return
	}
	state := code.Active
	if r.PostFormValue("state") == code.Retired {
		state = code.Retired
	}
	v, err := h.view(r, paste.Pasted{Asked: -1, Text: r.PostFormValue("query")}, state)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v.Done = &done
	ui.Render(w, http.StatusOK, pages, "acted", v)
}

// manyFiles hands over the pictures of the codes that are chosen, in one zip.
func (h *Handler) manyFiles(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		ui.Fail(w, r, problem.List{{Code: "form", Message: "the form was cut off on its way; try again"}})
		return
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	names := map[string]int{}
	ids := r.PostForm["id"]
	if len(ids) == 0 || len(ids) > maxFiles {
		ui.Fail(w, r, problem.List{{Field: "/id", Code: "many.most",
			Message: fmt.Sprintf("are %s; choose from 1 to %d codes", plural(len(ids), "code", "codes"), maxFiles)}})
		return
	}
	for _, id := range ids {
		p, err := h.Door.Give(r.Context(), ui.Actor(r), handover.Ask{Code: id, Formats: []string{"png"}, Places: []string{"-1"},
			Way: records.ByFiles})
		var unread *handover.Unread
		if errors.As(err, &unread) {
			err = unread.Problem()
		}
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		for _, f := range p.Files {
			name := f.Name
			if names[name]++; names[name] > 1 {
				name = fmt.Sprintf("%d-%s", names[name], name)
			}
			part, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store}) // a PNG does not get smaller
			if err == nil {
				_, err = part.Write(f.Data)
			}
			if err != nil {
				ui.Fail(w, r, err)
				return
			}
		}
	}
	if err := z.Close(); err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Attachment(w, "codes.zip", b.Bytes())
}

// maxFiles is of how many codes the pictures are handed over at once.
const maxFiles = 60

// manyChoices answers what the chosen codes can be moved to and can wear.
func (h *Handler) manyChoices(w http.ResponseWriter, r *http.Request) {
	var v struct {
		Campaigns []string
		Looks     []forms.Choice
	}
	var err error
	if v.Campaigns, err = h.Store.Campaigns(r.Context(), ui.Actor(r)); err == nil {
		var house *style.Style
		if house, _, err = h.House.Get(r.Context(), ui.Actor(r)); err == nil {
			for _, l := range append(slices.Clone(house.Looks), style.Shipped...) {
				v.Looks = append(v.Looks, forms.Choice{Value: l.Key, Words: l.Name})
			}
		}
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "many-choices", v)
}
