package ledger

import (
	"context"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/table"
	"sodrik/internal/web/ui"
)

// Table is rows that were pasted, of which a batch can be made.
type Table struct {
	Text  string
	Words string // "62 rows with SKU, Variety and Link"
	Look  string // of the house, for the usual; "" is plain
	Cards bool   // they are cards, dates or addresses, each of which can be a code of its own too
}

// tableIn says whether a text is a table of rows; nil where it is none.
func tableIn(ctx context.Context, text string) *Table {
	const most, least = 200_000, 2
	if len(text) > most || !strings.Contains(strings.TrimSpace(text), "\n") {
		return nil
	}
	rows, err := table.Open(ctx, strings.NewReader(text), table.Options{})
	if err != nil || len(rows.Columns) < 2 {
		return nil
	}
	all, err := rows.All(batches.MaxRows)
	if err != nil || len(all) < least {
		return nil
	}
	whole := 0
	for _, row := range all {
		if row.Bad == "" && strings.Count(strings.Join(row.Cells, "\x00"), "\x00") > 0 && row.Cells[1] != "" {
			whole++
		}
	}
	if rows.Kind == "" && 2*whole < len(all) { // a text with a comma here and there
		return nil
	}
	t := &Table{Text: text, Words: measure.Plural(len(all), "row") + " with ", Cards: rows.Kind != ""}
	if t.Cards {
		t.Words = measure.Plural(len(all), map[string]string{"contact": "card", "event": "date"}[rows.Kind])
		return t
	}
	const named = 6
	for i, c := range rows.Columns[:min(named, len(rows.Columns))] {
		switch {
		case i == 0:
		case i == len(rows.Columns)-1:
			t.Words += " and "
		default:
			t.Words += ", "
		}
		t.Words += c
	}
	if n := len(rows.Columns) - named; n > 0 {
		t.Words += " and " + measure.Count(n) + " more"
	}
	return t
}

// Batch is a line of the ledger that stands for many codes.
type Batch struct {
	ID, Name, Campaign, Codes, Changed string
	Verdict                            proof.Verdict // the worst of those that occur
	Words                              string
}

// Unfolded is what the ledger shows of a batch that was unfolded.
type Unfolded struct {
	ID   string
	Few  []Few
	More string
}

// Few is one of its codes.
type Few struct {
	N                int
	Name, Says, Code string
}

// unfolds is how many rows of a batch the ledger shows.
const unfolds = 12

// batchesFirst is how many batches stand above the codes, those changed last; more are unfolded.
const batchesFirst = 2

// batches adds the batches that a page of the ledger shows: all in use, or those of a name.
func (h *Handler) batches(r *http.Request, v *View, query, state string, further bool) error {
	if h.Batches == nil || further || state != code.Active {
		return nil
	}
	all, err := h.Batches.List(r.Context(), ui.Actor(r))
	if err != nil {
		return err
	}
	for _, b := range all {
		if query != "" && !strings.Contains(strings.ToLower(b.Name), strings.ToLower(strings.TrimSpace(query))) {
			continue
		}
		one := Batch{ID: b.ID, Name: b.Name, Campaign: b.Campaign, Codes: plural(b.Rows, "code", "codes"),
			Changed: ui.Ago(h.Store.Now(), b.Changed)}
		if b.Bad > 0 {
			one.Codes += ", " + measure.Count(b.Bad) + " to mend"
		}
		if worst, ok := b.Worst(); ok {
			one.Verdict = proof.Verdict(worst.Verdict)
			one.Words = ui.VerdictWords(one.Verdict)
		}
		if query == "" && len(v.Batches) == batchesFirst { // codes are what a ledger begins with
			v.MoreBatches = append(v.MoreBatches, one)
			continue
		}
		v.Batches = append(v.Batches, one)
	}
	return nil
}

// unfold answers the first rows of a batch.
func (h *Handler) unfold(w http.ResponseWriter, r *http.Request) {
	b, err := h.Batches.Get(r.Context(), ui.Actor(r), chi.URLParam(r, "id"))
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	rows, err := h.Batches.Rows(r.Context(), ui.Actor(r), b.ID, batches.Filter{Limit: unfolds})
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	out := Unfolded{ID: b.ID}
	for _, row := range rows {
		out.Few = append(out.Few, Few{row.N, row.Name, row.Says, row.Code})
	}
	if n := b.Rows - len(rows); n > 0 {
		out.More = plural(n, "more code", "more codes")
	}
	ui.Render(w, http.StatusOK, pages, "unfolded", out)
}
