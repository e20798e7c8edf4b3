package desk

import (
	"fmt"
	"html/template"
	"regexp"
	"slices"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/export"
	"sodrik/internal/core/job"
	"sodrik/internal/web/desk/bound"
	"sodrik/internal/web/desk/drawn"
	"sodrik/internal/web/desk/led"
	"sodrik/internal/web/desk/reads"
	"sodrik/internal/web/desk/says"
	"sodrik/internal/web/desk/ships"
	"sodrik/internal/web/desk/sits"
	"sodrik/internal/web/desk/wears"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// View is the desk: its head and its stubs, five or, of a code that leads through a short link, six.
type View struct {
	ui.Frame
	says.Says
	wears.Wears
	sits.Sits
	reads.Reads
	ships.Ships
	Leads led.Leads

	ID, Name  string
	NameField forms.Field
	Campaign  string
	Campaigns []string // to move to
	Note      string
	Labels    string // with commas between them
	Chip      string // "Draft · v3 handed over"
	Retired   bool
	ReadOnly  bool // the person may look only
	New       bool // nothing was changed in it yet

	Rev, UndoRev, RedoRev int64
	Undo, Redo            string
	UndoBy                string // somebody else whose edit undo would take back

	Place    int    // the current placement, −1 for none
	PlaceID  string // of it, "" for none
	Views    []ViewTab
	Sheet    template.HTML
	Bare     string // name of the PNG lying over the sheet
	Another  string // what the version in print says, where that is something else
	Stale    bool   // the picture is the last that could be made
	StaleWhy string

	Shown ui.Shown      // what the browser shows of it already
	Again []forms.Field // whose controls an answer draws again
}

// ViewTab leads to a view.
type ViewTab struct{ Key, Name string }

// viewTabs are all views; which of them serve a stub stands in the script of the desk.
var viewTabs = []ViewTab{{"place", "in place"}, {"camera", "through a camera"}, {"evidence", "evidence"}, {"files", "files"},
	{"plates", "plates"}, {"flat", "flat"}, {"routes", "routes"}, {"scans", "scans"},
	{"looks", "looks"}, {"variations", "variations"}, {"damage", "damage"}}

// NewView formats a code for the desk, with placement i current, −1 for none.
func NewView(c *code.Code, i int) View {
	b := bound.Code{C: c, Place: i}
	m := c.Rendition
	v := View{
		ID: c.ID, Name: c.Name(), NameField: b.At("/name"), Campaign: c.Campaign, Note: c.Remark.Note,
		Labels: strings.Join(c.Remark.Labels, ", "),
		Chip:   chip(c), Retired: c.State == code.Retired, New: c.Rev == 0,
		Rev: c.Rev, UndoRev: c.UndoRev, RedoRev: c.RedoRev, Undo: c.Undo, Redo: c.Redo, UndoBy: c.UndoBy,
		Place: i, PlaceID: job.PlacementID(c.Draft, i), Views: viewTabs, Bare: export.FileName(c.Name(), 0, 0, "png"),
		Says: says.Of(b), Wears: wears.Of(b), Sits: sits.Of(b), Ships: ships.Of(b),
	}
	v.Reads = reads.Of(b, v.Says.Symbol())
	if v.NameField.Value == "" {
		v.NameField.Hint = v.Name
		if v.NameField.Sample = v.Name; c.Rendition.Job.Content.Kind() == "dynamic" { // what a link is for is in nobody's address
			v.NameField.Sample = "Name this code"
		}
	}
	at := drawn.SheetOf(m, m.Place(i))
	v.Sheet, v.Wears.Parts = at.Draw(m, i, c.House), at.Parts(m)
	if c.Stale() {
		v.Stale = true
		v.StaleWhy = job.Called(c.Draft, c.Problems[0].Field)
	}
	return v
}

// fields is every field that the desk shows but the name, those of the content's form first.
func (v *View) fields() []forms.Field {
	return slices.Concat(v.Form.Fields(), v.Says.Fields(), v.Wears.Fields(), v.Sits.Fields(), v.Says.Symbol(), v.Ships.Fields)
}

// List are the files for a recipient.
func (v View) List(r ships.Recipient) ships.FileList { return v.Ships.List(r, v.ID, v.Place, v.Stale) }

// Errors gives the fields outside the content's form with what is wrong with each, for every answer.
func (v View) Errors() []forms.Field { return v.fields()[len(v.Form.Fields()):] }

// fieldsTouchedBy is the fields whose text an edit of path may have changed besides its own: those of its part of the job.
// Undo and fixes, which have no path, may have changed any.
func (v *View) fieldsTouchedBy(path string) (out []forms.Field) {
	part, _, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	changesOthers := part != "content" || switches.MatchString(path)
	for _, f := range v.fields() {
		if path == "" || changesOthers && strings.HasPrefix(f.Path, "/"+part+"/") {
			out = append(out, f)
		}
	}
	return out
}

// switches are the fields of a content that change others with them.
var switches = regexp.MustCompile(`^/content/(security|all_day|form|repeat/.*|address/.*)$`)

func chip(c *code.Code) string {
	switch {
	case c.Issued == nil:
		return "Draft"
	}
	words := fmt.Sprintf("v%d handed over", c.Issued.N)
	if p := c.InPrint; p != nil {
		words = fmt.Sprintf("v%d in print since %s", p.N, p.On.Format("2 Jan 2006"))
	}
	if c.AsIssued() && (c.InPrint == nil || c.InPrint.N == c.Issued.N) {
		return words
	}
	return "Draft · " + words
}
