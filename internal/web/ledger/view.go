package ledger

import (
	"fmt"
	"html/template"
	"strings"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/content"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/pattern"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/paste"
	"sodrik/internal/web/ui"
)

// View is the page.
type View struct {
	ui.Frame
	Taken        *paste.Taken      // what the paste was taken for
	Opens        string            // name of a file that a code could open, "" for none
	Bad          problem.List      // why a file could not be read
	Outcomes     []forms.Outcome   // for those who start with nothing
	Links        []pattern.Pattern // of the house, for the same
	Query        string
	Retired      bool // the retired codes are shown
	RetiredCount int
	Summary      string // "8 in 2 campaigns"
	Groups       []Group
	Next         string // where the next rows begin, "" where these are the last
	Further      bool   // these rows go on with a list
	Continued    bool   // the first of them are of the campaign that the rows before ended in
	Since        string // what has changed since the list was opened
	MayChange    bool
	Done         *Done   // what was just done with several codes
	Table        *Table  // rows that were pasted, nil for none
	Batches      []Batch // many codes each
	MoreBatches  []Batch // that are folded
	Empty        bool    // there are no codes at all
}

// Group is one campaign.
type Group struct {
	Name  string
	Count string
	Rows  []Line
}

// Line is one row, formatted.
type Line struct {
	ID, Name  string
	Crop      template.HTML
	Says      ui.Says
	Full      string
	Sits      string
	Verdict   proof.Verdict
	Verdicted string
	State     string
	Changed   string
	Labels    string
	Retired   bool
	Scans     string
	Soon      string // what changes of where it leads within two weeks
	Dynamic   bool   // it leads through a short link, which Full says
}

// NewView formats a page of the ledger, whose lines come ordered by campaign.
func NewView(p *code.Stretch, state, query string, now time.Time) View {
	v := View{Query: strings.TrimSpace(query), Retired: state == code.Retired, Next: markText(p.Next)}
	for _, l := range p.Lines {
		name := l.Campaign
		if name == "" {
			name = "No campaign"
		}
		if len(v.Groups) == 0 || v.Groups[len(v.Groups)-1].Name != name {
			v.Groups = append(v.Groups, Group{Name: name, Count: plural(p.In[l.Campaign], "code", "codes")})
		}
		g := &v.Groups[len(v.Groups)-1]
		g.Rows = append(g.Rows, Line{ID: l.ID, Name: l.Name, Crop: template.HTML(l.Corner),
			Says: ui.Says{Verb: l.Verb, Object: l.Object}, Full: l.Full,
			Sits: sits(l.Places), Verdict: l.Verdict, Verdicted: ui.VerdictWords(l.Verdict), State: stateOf(l),
			Labels: strings.Join(l.Labels, ", "), Changed: ui.Ago(now, l.Changed), Retired: l.State == code.Retired,
			Scans: "not counted", Dynamic: l.Verb == content.Leads})
	}
	v.Summary = plural(p.Codes, "code", "codes")
	if p.Codes > 0 {
		v.Summary = fmt.Sprintf("%s in %s", measure.Count(p.Codes), plural(p.Campaigns, "campaign", "campaigns"))
	}
	if p.Next == nil && p.Since > 0 {
		v.Since = plural(p.Since, "code has", "codes have") + " changed since this list was opened."
	}
	v.Empty = p.Codes == 0 && v.Query == "" && !v.Retired
	return v
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return measure.Count(n) + " " + many
}

// sits names the places, or counts them where there are many.
func sits(places []string) string {
	switch {
	case len(places) == 0:
		return "–"
	case len(places) > 2:
		return fmt.Sprintf("%d places", len(places))
	}
	return strings.Join(places, ", ")
}

func stateOf(r code.Line) string {
	switch {
	case r.State == code.Retired:
		return "Retired"
	case r.Issued == 0:
		return "Draft"
	case r.Differs:
		return fmt.Sprintf("Not as v%d says", r.Issued)
	}
	words := fmt.Sprintf("v%d handed over", r.Issued)
	if r.InPrint > 0 {
		words = fmt.Sprintf("v%d in print", r.InPrint)
		if r.Checked == r.InPrint {
			words += ", checked"
		}
	}
	if r.AsIssued && !r.Unsound && (r.InPrint == 0 || r.InPrint == r.Issued) {
		return words
	}
	return "Draft · " + words
}

// standing says whether a code works without us; base is where short links and files of ours stand.
func standing(c *code.Code, base string) string {
	if leads.IsServed(c.Rendition.Job.Content, base) {
		return leads.FileNeeds
	}
	if _, dynamic := c.Rendition.Job.Content.(*content.Dynamic); dynamic {
		return "Its destination can change; it needs this server, or the leaving pack."
	}
	return "Fixed address: works for ever without us."
}

// Peek is one code, large, without opening it.
type Peek struct {
	ID, Name, NameText string
	Symbol             template.HTML
	Says               ui.Says
	Payload            string
	Detail             string
	Retired            bool
	Stale              bool
	MayChange          bool
}

// NewPeek formats a code; base is where short links and files of ours stand.
func NewPeek(c *code.Code, base string, mayChange bool) Peek {
	s := c.Rendition.Symbol
	return Peek{ID: c.ID, Name: c.Name(), NameText: c.Text("/name"), Symbol: ui.Picture(c.Rendition),
		Says: ui.SaysOf(c.Rendition.Job.Content), Payload: content.Shown(c.Rendition.Job.Content),
		Retired: c.State == code.Retired, Stale: c.Stale(), MayChange: mayChange,
		Detail: fmt.Sprintf("%d × %d modules, level %v. %s", s.Size, s.Size, s.Level, standing(c, base))}
}

// IssuedView is the list that printers see.
type IssuedView struct {
	ui.Frame
	Rows []IssuedLine
	Next string // where the next page begins, "" on the last
}

// IssuedLine is one issued version.
type IssuedLine struct {
	ID, Name, Sits, When string
	N                    int
	Crop                 template.HTML
	Says                 ui.Says
}

// NewIssuedView formats issued versions.
func NewIssuedView(f ui.Frame, rows []code.IssuedLine, now time.Time) IssuedView {
	v := IssuedView{Frame: f}
	for _, r := range rows {
		v.Rows = append(v.Rows, IssuedLine{ID: r.ID, Name: r.Name, Sits: sits(r.Places), When: ui.Ago(now, r.At), N: r.N,
			Crop: template.HTML(r.Corner), Says: ui.Says{Verb: r.Verb, Object: r.Object}})
	}
	return v
}
