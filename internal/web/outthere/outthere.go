// Package outthere is the page of everything that may hang somewhere: what, where, since when, until when, by whom printed. It is
// made to be printed, and to be taken as a table.
package outthere

import (
	"cmp"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/table"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/web/ui"
)

//go:embed *.html
var files embed.FS

var pages = ui.Parse(files)

// Handler serves the page.
type Handler struct {
	Codes   *code.Store
	Links   *link.Store
	Batches *batches.Store // nil where there are none
}

// Routes mounts the page.
func (h *Handler) Routes(r chi.Router, may func(people.Right) func(http.Handler) http.Handler) {
	r.With(may(people.Look)).Get("/out", h.page)
	r.With(may(people.Look)).Get("/out.csv", h.csv)
}

// most is how many places the page shows; the table has all.
const most = 500

// errEnough ends the reading of what the page has no room for.
var errEnough = errors.New("outthere: enough")

// View is the page.
type View struct {
	ui.Frame
	Campaigns []Campaign
	Places    int
	Batches   int
	Day       string
	Cut       bool // there are more than the page shows
}

// noCampaign heads what is in none.
const noCampaign = "No campaign"

// Campaign is a group of the page.
type Campaign struct {
	Name string
	Rows []Row
}

// Row is a place where a version may hang.
type Row struct {
	Href, Name          string
	Which               string // the version, or how many labels
	Place, Medium       string
	Spot, Since, Until  string // as noted; Since is when it was handed over where nothing is
	Noted               bool
	Over                bool // it was taken down
	Printed             string
	Link, Says, LeadsTo string
}

// spot is one place of a version, with what is known of it.
type spot struct {
	code.Out
	place  *place.Placement // nil where it has none
	placed *link.Placed     // nil where it leads through no short link
}

// spots gives the places of every version, one after the other.
func (h *Handler) spots(r *http.Request, each func(spot) error) error {
	placed, err := h.Links.Placed(r.Context(), ui.Actor(r))
	if err != nil {
		return err
	}
	by := map[[2]string]*link.Placed{}
	for i, p := range placed {
		by[[2]string{p.Live.Code, p.Live.Place}] = &placed[i]
	}
	return h.Codes.Out(r.Context(), ui.Actor(r), func(o code.Out) error {
		if len(o.Job.Placements) == 0 {
			return each(spot{o, nil, by[[2]string{o.Code, ""}]})
		}
		for i := range o.Job.Placements {
			p := &o.Job.Placements[i]
			at := by[[2]string{o.Code, p.Name}]
			if at == nil {
				at = by[[2]string{o.Code, ""}]
			}
			if err := each(spot{o, p, at}); err != nil {
				return err
			}
		}
		return nil
	})
}

// noted is what the house notes of it.
func (s spot) noted() leads.Hanging {
	if s.placed == nil {
		return leads.Hanging{}
	}
	return s.placed.Noted
}

func (s spot) name() string {
	if s.place == nil {
		return ""
	}
	return s.place.Name
}

// medium is on what it hangs and how wide, in words.
func (s spot) medium() string {
	if s.place == nil {
		return ""
	}
	return mediumOf(s.place.Medium, s.place.Width)
}

// mediumOf is a medium and a width, in words.
func mediumOf(key string, wide measure.Length) string {
	var parts []string
	if m, ok := place.MediumOf(key); ok {
		parts = append(parts, m.Name)
	}
	if wide > 0 {
		parts = append(parts, wide.String()+" wide")
	}
	return strings.Join(parts, ", ")
}

// leadsTo is where its link leads now, "" where it has none.
func (s spot) leadsTo(now time.Time) (address, to string) {
	if s.placed == nil {
		return "", ""
	}
	a := s.placed.Live.Lasting(now)
	return s.placed.Address, cmp.Or(a.To, a.Title)
}

// printed is what is said of the print, in words; n is how many there are, 0 where that is not known.
func printed(p *code.Printing, n int) string {
	var parts []string
	if p != nil {
		parts = append(parts, p.On.Format(shortDay))
		if p.Printer != "" {
			parts = append(parts, p.Printer)
		}
	}
	if n > 0 {
		parts = append(parts, measure.Plural(n, "print"))
	}
	return strings.Join(parts, ", ")
}

// quantity is how many hang there: as it is noted of the place, else as it is said of the version, whose places share it; 0 is
// not known.
func (s spot) quantity() int {
	if n := s.noted().Prints; n > 0 || s.Printed == nil {
		return n
	}
	return s.Printed.Quantity
}

// shortDay is how the page writes a day.
const shortDay = "2 Jan 2006"

// said is what a code does, in words: "Opens marrowby.example/fair".
func said(c content.Content) string { return c.Summary().String() }

// day writes a noted date as people read it.
func day(noted string) string {
	at, err := time.Parse(time.DateOnly, noted)
	if err != nil {
		return noted
	}
	return at.Format(shortDay)
}

func (s spot) row(now time.Time) Row {
	n := s.noted()
	r := Row{Href: "/codes/" + s.Code, Name: s.Name, Which: fmt.Sprintf("v%d", s.N), Place: s.name(), Medium: s.medium(),
		Spot: n.Spot, Since: day(n.From), Until: day(n.Until),
		Noted: n.From != "", Printed: printed(s.Printed, s.quantity()), Says: said(s.Job.Content)}
	if !r.Noted {
		r.Since = s.At.Format(shortDay)
	}
	r.Over = n.Until != "" && n.Until < now.Format(time.DateOnly)
	r.Link, r.LeadsTo = s.leadsTo(now)
	return r
}

func (h *Handler) page(w http.ResponseWriter, r *http.Request) {
	now := h.Codes.Now()
	v := View{Frame: ui.FrameOf(r, "What is out there", "codes"), Day: now.Format("2 January 2006")}
	err := h.spots(r, func(s spot) error {
		if v.Places == most {
			v.Cut = true
			return errEnough
		}
		v.Places++
		name := cmp.Or(s.Campaign, noCampaign)
		if n := len(v.Campaigns); n == 0 || v.Campaigns[n-1].Name != name {
			v.Campaigns = append(v.Campaigns, Campaign{Name: name})
		}
		last := &v.Campaigns[len(v.Campaigns)-1]
		last.Rows = append(last.Rows, s.row(now))
		return nil
	})
	if err != nil && !errors.Is(err, errEnough) {
		ui.Fail(w, r, err)
		return
	}
	if err := h.addBatches(r, &v); err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "out", v)
}

// columns of the table.
var columns = []string{"campaign", "code", "version", "place", "medium", "width_mm", "spot", "from", "until", "handed_over", "by",
	"printed_on", "printer", "quantity", "says", "link", "leads_to", "labels"}

func (h *Handler) csv(w http.ResponseWriter, r *http.Request) {
	now := h.Codes.Now()
	ui.Attached(w, "out-there-"+now.Format(time.DateOnly)+".csv")
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	out := table.NewCSV(w)
	out.Head(columns...)
	err := h.spots(r, func(s spot) error { return out.Row(s.cells(now)...) })
	if err == nil && h.Batches != nil {
		err = h.Batches.Out(r.Context(), ui.Actor(r), func(o batches.Out) error { return out.Row(batchCells(o)...) })
	}
	switch {
	case err == nil && out.End() == nil:
	case out.Begun(): // too late to say so: what came must not be taken for all
		panic(http.ErrAbortHandler)
	default:
		w.Header().Del("Content-Disposition")
		ui.Fail(w, r, err)
	}
}

// printing are the cells of what is said of the print.
func printing(p *code.Printing, n int) (on, printer string, quantity any) {
	if quantity = ""; n > 0 {
		quantity = n
	}
	if p != nil {
		on, printer = p.On.Format(time.DateOnly), p.Printer
	}
	return on, printer, quantity
}

// cells are a row of the table.
func (s spot) cells(now time.Time) []any {
	n := s.noted()
	medium, width := "", any("")
	if s.place != nil {
		medium, width = s.place.Medium, measure.Number(float64(s.place.Width), 2)
	}
	on, printer, quantity := printing(s.Printed, s.quantity())
	address, to := s.leadsTo(now)
	return slices.Concat([]any{s.Campaign, s.Name, s.N, s.name(), medium, width, n.Spot, n.From, n.Until,
		s.At.UTC().Format(time.DateOnly), s.Who}, []any{on, printer, quantity, said(s.Job.Content), address, to, ""})
}
