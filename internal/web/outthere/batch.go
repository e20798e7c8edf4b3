package outthere

import (
	"cmp"
	"net/http"
	"slices"
	"time"

	"sodrik/internal/batches"
	"sodrik/internal/core/measure"
	"sodrik/internal/web/ui"
)

// addBatches adds the labels of batches to their campaigns. A campaign of which nothing else is out there stands after the
// others.
func (h *Handler) addBatches(r *http.Request, v *View) error {
	if h.Batches == nil || v.Cut {
		return nil
	}
	return h.Batches.Out(r.Context(), ui.Actor(r), func(o batches.Out) error {
		v.Batches++
		name := cmp.Or(o.Campaign, noCampaign)
		i := slices.IndexFunc(v.Campaigns, func(c Campaign) bool { return c.Name == name })
		if i < 0 {
			if i = len(v.Campaigns); i > 0 && v.Campaigns[i-1].Name == noCampaign {
				i--
			}
			v.Campaigns = slices.Insert(v.Campaigns, i, Campaign{Name: name})
		}
		v.Campaigns[i].Rows = append(v.Campaigns[i].Rows, batchRow(o))
		return nil
	})
}

func batchRow(o batches.Out) Row {
	r := Row{Href: "/batches/" + o.Batch, Name: o.Name, Which: measure.Plural(o.Labels, "label"),
		Place: mediumOf(o.Medium, measure.Length(o.WidthMM)), Since: o.At.Format(shortDay), Says: "On each label its own"}
	if o.Printed != nil {
		r.Printed, r.Since, r.Noted = printed(o.Printed, o.Printed.Quantity), o.Printed.On.Format(shortDay), true
	}
	if o.Links {
		r.Says = "On each label a short link of its own"
	}
	if o.Says != "" {
		r.Says += ": " + o.Says
	}
	return r
}

// batchCells are the row of the table for a file of a batch.
func batchCells(o batches.Out) []any {
	quantity := 0
	if o.Printed != nil {
		quantity = o.Printed.Quantity
	}
	width := any("")
	if o.WidthMM > 0 {
		width = measure.Number(o.WidthMM, 2)
	}
	on, printer, many := printing(o.Printed, quantity)
	return []any{o.Campaign, o.Name, "", "", o.Medium, width, "", "", "", o.At.UTC().Format(time.DateOnly), o.Who, on,
		printer, many, o.Says, "", "", o.Labels}
}
