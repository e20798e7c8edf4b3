package desk

import (
	"net/http"
	"slices"
	"strconv"

	"sodrik/internal/code"
	"sodrik/internal/core/proof"
	"sodrik/internal/web/desk/reads"
	"sodrik/internal/web/ui"
)

// proof answers the remarks, or with set what a further set adds; it waits for the readers.
func (h *Handler) proof(w http.ResponseWriter, r *http.Request) {
	c, known := h.code(w, r)
	if !known {
		return
	}
	i := placeOf(c, r.URL.Query().Get("place"))
	upto, part := proof.Ordinary, "proved"
	if set := proof.Stage(r.URL.Query().Get("set")); slices.Contains(proof.Stages[1:], set) {
		upto, part = set, "further"
	}
	p, err := h.Store.Prove(r.Context(), ui.Actor(r), c.Rendition, i, upto)
	if err == nil {
		p, err = h.around(r, c, i, p)
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	v := NewView(c, i)
	v.Proof = reads.RemarksOf(c, p, i)
	h.follow(r, c, i, &v.Proof.Handset)
	trials, err := h.Door.Records.Trials(r.Context(), ui.Actor(r), c)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	checks, err := h.Door.Records.Checks(r.Context(), ui.Actor(r), c.ID)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	if lines := reads.CheckLines(checks); len(lines) > 0 {
		v.Proof.Checked = &lines[0]
	}
	v.Proof.Reask(p, r.URL.Query().Get("again"))
	v.Proof.Trials, v.Proof.Asked = reads.TrialLines(trials), h.Asked && part == "proved"
	v.Proof.Turned = part == "further" && slices.ContainsFunc(p.Findings, func(f proof.Finding) bool {
		// grades come with the first of what goes beyond the verdict
		return f.Code == "misread" || f.Code == "style.grade" && upto == proof.Hard
	})
	w.Header().Set("Sodrik-Revision", strconv.FormatInt(c.Rev, 10))
	ui.Render(w, http.StatusOK, pages, part, v)
}

// around adds to a proof what is known of the code outside its job.
func (h *Handler) around(r *http.Request, c *code.Code, i int, p *proof.Proof) (*proof.Proof, error) {
	context := proof.Context{Campaign: c.Campaign, House: c.House}
	if c.SaysOtherwise() {
		printed, err := h.Store.Printed(r.Context(), ui.Actor(r), c)
		if err != nil {
			return nil, err
		}
		if printed != nil {
			context.Printed, context.Version = printed.Payload, c.Issued.N
		}
	}
	return proof.Around(p, proof.Input{Payload: c.Rendition.For(c.Rendition.Place(i)).Payload, Content: c.Rendition.Job.Content,
		Look: c.Rendition.Job.Look}, context), nil
}
