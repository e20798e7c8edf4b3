package scanned

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"sodrik/internal/code"
	"sodrik/internal/core/export"
	"sodrik/internal/core/export/pdf"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/overview"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/scans"
	"sodrik/internal/web/ui"
)

// Overview is the page for whoever paid for what hangs.
type Overview struct {
	ui.Frame
	House, Title, Sentence, Span string
	Rows                         []OverviewRow
	More                         string
	File                         string // address of the PDF
	Query                        string
	Shown                        string // address under which others see it, just made
	For                          []int  // days for which it can be shown
	May                          bool   // show it to others
	Method                       string
	places                       []place
	more                         int
}

// OverviewRow is a printed place.
type OverviewRow struct {
	Crop, Bars                         template.HTML
	Name, Of, Says, Hangs, Total, Rate string
	Course                             string
}

// overviewOf is what a request asks for.
func (h *Handler) overviewOf(r *http.Request, house string) (o Overview, err error) {
	a := askedOf(r, h.Codes.Now())
	a.after, a.open, a.with = 0, "", nil
	p, err := h.places(r, a)
	if err != nil {
		return o, err
	}
	now := h.Codes.Now()
	o = Overview{House: house, Title: title(a, p, house), Sentence: sentence(a, p), Span: spanWords(a), Query: a.query("", ""),
		places: p.list, more: p.n - len(p.list),
		Method: "Each interval holds the true rate in 95 of 100 cases. Robots and previews are not counted. Static codes are not either."}
	o.File = "/scans/overview.pdf" + o.Query
	if o.more > 0 {
		o.More = fmt.Sprintf("And %s more.", measure.Count(o.more))
	}
	most := 1
	by := step(a.span.Days())
	for _, one := range p.list {
		most = max(most, usualMost(grouped(one.days, by)))
	}
	for _, one := range p.list {
		o.Rows = append(o.Rows, OverviewRow{Crop: template.HTML(one.summary.Corner), Bars: bars(grouped(one.days, by), nil, most),
			Name: one.name(), Of: one.Code, Says: one.says(now), Hangs: one.hangWords(),
			Total: measure.Count(one.total) + scansWord(one.total),
			Rate:  rateWords(a, one), Course: string(one.course())})
	}
	return o, nil
}

func scansWord(n int) string {
	if n == 1 {
		return " scan"
	}
	return " scans"
}

// title is what an overview is of.
func title(a asked, p placed, house string) string {
	switch {
	case a.group != "":
		return a.group
	case (a.code != "" || a.link != "") && len(p.list) > 0:
		return p.list[0].Code
	}
	return "What hangs of " + house
}

// spanWords are the days of a span.
func spanWords(a asked) string {
	last := a.span.To.AddDate(0, 0, -1)
	return fmt.Sprintf("%s to %s. %s.", a.span.From.Format("2 January 2006"), last.Format("2 January 2006"),
		zoneName(a.span.Zone))
}

// says is where a place leads now.
func (p place) says(now time.Time) string {
	if len(p.Live.Steps) == 0 {
		return ""
	}
	act := p.Live.At(now)
	if act.Does == leads.Goes {
		_, rest, _ := strings.Cut(act.To, "://")
		return "Opens " + strings.TrimSuffix(rest, "/")
	}
	return act.Title
}

// hangWords say since when a place hangs, until when, where and how many were printed.
func (p place) hangWords() string {
	var out []string
	say := func(text string) string {
		at, err := time.Parse(time.DateOnly, text)
		if err != nil {
			return text
		}
		return at.Format("2 January 2006")
	}
	switch {
	case p.Noted.From != "":
		out = append(out, "since "+say(p.Noted.From))
	case !p.Since.IsZero():
		out = append(out, "since "+p.Since.Format("2 January 2006"))
	}
	if p.Noted.Until != "" {
		out = append(out, "until "+say(p.Noted.Until))
	}
	if p.Noted.Prints > 0 {
		out = append(out, measure.Count(p.Noted.Prints)+" printed")
	}
	if p.Noted.Spot != "" {
		out = append(out, p.Noted.Spot)
	}
	return strings.Join(out, ", ")
}

func (h *Handler) overview(w http.ResponseWriter, r *http.Request) {
	o, err := h.overviewOf(r, ui.FrameOf(r, "", "").Workspace)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	o.For, o.May = scans.SharedFor, ui.May(r, people.Change)
	if token := r.FormValue("shown"); token != "" {
		o.Shown = h.Base + "/overview/" + url.PathEscape(token)
	}
	o.Frame = ui.FrameOf(r, o.Title, "scans")
	ui.Render(w, http.StatusOK, pages, "overview", o)
}

func (h *Handler) overviewPDF(w http.ResponseWriter, r *http.Request) {
	h.sendPDF(w, r, ui.FrameOf(r, "", "").Workspace)
}

// sendPDF sends an overview as one page.
func (h *Handler) sendPDF(w http.ResponseWriter, r *http.Request, house string) {
	o, err := h.overviewOf(r, house)
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	sheet := overview.Overview{House: o.House, Title: o.Title, Sentence: o.Sentence, Span: o.Span, More: o.more, Method: o.Method}
	for i, p := range o.places {
		row := overview.Row{Name: o.Rows[i].Name, Of: o.Rows[i].Of, Says: o.Rows[i].Says, Hangs: o.Rows[i].Hangs,
			Bars: grouped(p.days, step(len(p.days))), Total: o.Rows[i].Total, Rate: o.Rows[i].Rate, Goes: o.Rows[i].Course}
		if i < overview.Most {
			if err := h.picture(r, p, &row); err != nil {
				ui.Fail(w, r, err)
				return
			}
		}
		sheet.Rows = append(sheet.Rows, row)
	}
	ui.Attachment(w, export.FileName(o.Title+" overview", 0, 0, "pdf"),
		pdf.Encode(overview.Draw(sheet), export.Meta{Title: o.Title + ", overview"}))
}

// picture draws the code of a place.
func (h *Handler) picture(r *http.Request, p place, row *overview.Row) error {
	c, err := h.Codes.Get(r.Context(), ui.Actor(r), p.Live.Code)
	if errors.Is(err, code.ErrNotFound) || err == nil && c.Rendition == nil {
		return nil
	}
	if err != nil {
		return err
	}
	at := -1
	for _, l := range link.Links(c.Rendition.Job) {
		if l.Address.String() == p.Address {
			at = l.Place
		}
	}
	row.Code = c.Rendition.Scene(c.Rendition.Place(at))
	return nil
}

// share shows an overview to others for a while.
func (h *Handler) share(w http.ResponseWriter, r *http.Request) {
	query, _ := url.ParseQuery(strings.TrimPrefix(r.FormValue("query"), "?"))
	asks := r.Clone(r.Context())
	asks.Form = query
	o, err := h.overviewOf(asks, ui.FrameOf(r, "", "").Workspace)
	if err == nil {
		if query.Get("zone") == "" {
			query.Set("zone", askedOf(asks, h.Codes.Now()).span.Zone.String())
		}
		var token string
		if token, err = h.Scans.Share(r.Context(), ui.Actor(r), o.Title, query.Encode(), r.FormValue("for")); err == nil {
			query.Set("shown", token)
			http.Redirect(w, r, "/scans/overview?"+query.Encode(), http.StatusSeeOther)
			return
		}
	}
	ui.Fail(w, r, err)
}

func (h *Handler) withdraw(w http.ResponseWriter, r *http.Request) {
	if err := h.Scans.Withdraw(r.Context(), ui.Actor(r), r.FormValue("token")); err != nil {
		ui.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/scans/settings?done=withdrawn", http.StatusSeeOther)
}

// shared is an overview for whoever has its address, as a page or as a PDF.
func (h *Handler) shared(asPDF bool) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		s, err := h.Scans.SharedBy(r.Context(), chi.URLParam(r, "token"))
		if errors.Is(err, scans.ErrNotShared) {
			ui.Render(w, http.StatusNotFound, pages, "not-shared", ui.Frame{Title: "Not shown"})
			return
		}
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		viewer := s.Viewer()
		present := &people.Present{Workspace: viewer.Workspace, Role: viewer.Role}
		asks := r.WithContext(ui.WithPresent(r.Context(), present))
		asks.Form, _ = url.ParseQuery(s.Query)
		w.Header().Set("X-Robots-Tag", "noindex, nofollow")
		if asPDF {
			h.sendPDF(w, asks, s.House)
			return
		}
		o, err := h.overviewOf(asks, s.House)
		if err != nil {
			ui.Fail(w, r, err)
			return
		}
		o.File = "/overview/" + url.PathEscape(s.Token) + "/pdf"
		o.Frame = ui.Frame{Title: o.Title}
		ui.Render(w, http.StatusOK, pages, "overview", o)
	}
}
