package scanned

import (
	"context"
	"net/http"
	"time"

	"sodrik/internal/core/scan"
	"sodrik/internal/core/table"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

// streamFor is how long a download may go on writing.
const streamFor = 10 * time.Minute

// download gives counts or events as CSV or JSON, while they are read: days has a row for each place and day of the span, events
// one for each scan, robots too.
func (h *Handler) download(rows func(r *http.Request, a asked, out table.Writer) error, what, kind string) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		a := askedOf(r, h.Codes.Now())
		// Other requests have less time; one that nobody reads any more ends when it writes.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(r.Context()), streamFor)
		defer cancel()
		r = r.WithContext(ctx)
		http.NewResponseController(w).SetWriteDeadline(time.Now().Add(streamFor))
		ui.Attached(w, what+"-"+a.span.From.Format(time.DateOnly)+"."+kind)
		w.Header().Set("Content-Type", map[string]string{"csv": "text/csv; charset=utf-8", "json": "application/json"}[kind])
		out := table.NewCSV(w)
		if kind == "json" {
			out = table.NewJSON(w)
		}
		err := rows(r, a, out)
		switch {
		case err == nil && out.End() == nil:
		case out.Begun(): // too late to say so: what came must not be taken for all
			panic(http.ErrAbortHandler)
		default:
			w.Header().Del("Content-Disposition")
			ui.Fail(w, r, err)
		}
	}
}

// linksAtOnce is how many links are counted by one query.
const linksAtOnce = 200

// days are the counts of each place and day.
func (h *Handler) days(r *http.Request, a asked, out table.Writer) error {
	a.after, a.by = 0, "place"
	every, _, err := h.every(r, a)
	if err != nil {
		return err
	}
	out.Head("day", "place", "code", "link", "scans")
	for len(every) > 0 {
		some := every[:min(linksAtOnce, len(every))]
		every = every[len(some):]
		var links []scans.Key
		for _, one := range some {
			links = append(links, one.links...)
		}
		counts, err := h.Scans.Daily(r.Context(), ui.Actor(r), scans.Which{Links: links}, a.span)
		if err != nil {
			return err
		}
		for _, one := range some {
			for i, n := range added(counts, one.links, a.span.Days()) {
				if err := out.Row(a.span.From.AddDate(0, 0, i).Format(time.DateOnly), one.name(), one.Code, one.Address,
					n); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// eventsAtOnce is how many events one query reads.
const eventsAtOnce = 2000

// events are what was kept of each scan within the span, without what tells phones apart.
func (h *Handler) events(r *http.Request, a asked, out table.Writer) error {
	out.Head(scan.Columns...)
	every, _, err := h.every(r, a)
	if err != nil {
		return err
	}
	var links []string
	if !a.all() {
		links = []string{}
		for _, one := range every {
			links = append(links, one.Address)
		}
	}
	after, until := scans.From(a.span.From), scans.From(a.span.To)
	for {
		list, err := h.Scans.Events(r.Context(), ui.Actor(r), links, after, until, eventsAtOnce)
		if err != nil {
			return err
		}
		for _, e := range list {
			if err := out.Row(e.Row()...); err != nil {
				return err
			}
			after = e.ID
		}
		if len(list) < eventsAtOnce {
			return nil
		}
	}
}
