package batched

import (
	"fmt"
	"html/template"
	"slices"
	"strings"
	"time"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/batch"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/impose"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/style"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// View is the page of a batch.
type View struct {
	ui.Frame
	ID, Name, Campaign string
	Undo               string // what can be taken back
	MayChange          bool
	State              State
	Taken              Taken
	Source             string
	Fields             []Field
	More               []forms.Choice // fields that are the same in every row
	Kinds, Keys        []forms.Choice
	Columns            []string
	Line, File         Field
	Same               bool
	Looks              []forms.Choice
	Media              []forms.Choice
	Width              Field
	Inks               []forms.Choice
	CanLead            bool // rows could lead through short links
	Printers           []string
	Sheet              []Setting
	Fold               bool   // more than the usual is set of the sheet
	OnSheets           string // how many labels a sheet has, and how many sheets they take
	FitTo              string // the width that fills the label, "" where the code has it
	Formats            []forms.Choice
	Campaigns          []string
	Show               string // "rows", "pictures" or "sheet"
	Table              Table
	Pictures           []Picture
	Page               Page
	Wrong              string // what could not be done, beside no field
	Done               string
}

// Field is a text with blanks.
type Field struct {
	Path, ID, Label, Text string
	Sets                  Sets
	Example               string // what it gives of the first row
	Error                 string
	Required              bool
}

// Sets says what of which batch a field sets.
type Sets struct{ Batch, Path string }

// Settings says in a line what the batch is set to.
func (v View) Settings() string {
	var parts []string
	for _, choices := range [][]forms.Choice{v.Kinds, v.Looks, v.Media} {
		for _, c := range choices {
			if c.On {
				parts = append(parts, c.Words)
			}
		}
	}
	if v.Width.Text != "" {
		parts = append(parts, v.Width.Text)
	}
	return strings.Join(append(parts, v.OnSheets), " · ")
}

// Makes are the ways to make files of it, the usual one first.
func (v View) Makes() []forms.Choice {
	return []forms.Choice{{Value: batches.AsSheets, Words: "Make sheets, PDF", On: true},
		{Value: batches.AsZip, Words: "Make files, zip"}, {Value: batches.AsPages, Words: "A page each, PDF"},
		{Value: batches.AsTable, Words: "Table, CSV"}}
}

// Sets is a field of the page that stands in no list.
func (v View) Sets(path string) Sets { return Sets{v.ID, path} }

// Setting is a field of the sheet.
type Setting struct {
	Path, ID, Label, Text, Hint, Error string
	Sets                               Sets
	Choices                            []forms.Choice
	Flag, On                           bool
}

// State is how far a batch is: what changes while rows are made and proved, and files are made.
type State struct {
	ID      string
	Facts   string // "200 rows · 3 to mend"
	Percent int    // of the rows that are made
	Busy    bool
	Leads   string // what becomes of short links, "" for fixed rows
	Waiting string // how many destinations wait to be made live, "" for none
	Making  string // "1,200 of 10,000 rows checked", "" where all are
	Sorts   []Sort
	Runs    []Run // those whose file was not handed over yet; the others stand among what was
	Made    bool  // files were made of it
	May     bool
}

// Verdicts are the sorts, one for each verdict.
func (s State) Verdicts() (out []Sort) {
	for _, one := range s.Sorts {
		said := one.Size + ", " + one.Said
		i := slices.IndexFunc(out, func(o Sort) bool { return o.Words == one.Words })
		if i < 0 {
			out = append(out, Sort{Verdict: one.Verdict, Words: one.Words, Said: said})
		} else {
			out[i].Said += "; " + said
		}
	}
	return out
}

// Sort is the codes of a size, with their verdict.
type Sort struct {
	Version       int
	Size, Codes   string
	Verdict, Said string
	Words         string
}

// Run is files that are made.
type Run struct {
	ID, Batch, What, Note, State string
	Words                        string // how far it is, or when it was made
	Percent                      int
	Working, Take, Insist, Go    bool
}

// Table is rows.
type Table struct {
	ID        string
	Heads     []string
	Rows      []Row
	State     string
	Version   int
	Tabs      []Tab
	From, To  string
	Prev      string // where the stretch before begins, "" for none
	Next      string
	MayChange bool
	Bad       int
}

// Tab is a filter.
type Tab struct {
	Words, Link string
	On          bool
}

// Row is one of them.
type Row struct {
	N            int
	Cells        []Cell
	Name, Key    string
	State        string
	Symbol       string // "29 × 29"
	Link         string // that it says, where it leads through one
	Reserve      string
	Verdict      string
	VerdictWords string
	Code         string
	Wrong        []string // beside no cell
}

// Cell is a field of a row.
type Cell struct {
	Path, ID, Label, Text, Error string
	Own, Secret                  bool
}

// Picture is a thumbnail.
type Picture struct {
	N       int
	Name    string
	Drawing template.HTML
	Verdict string
	Words   string
}

// Page is a sheet as it prints.
type Page struct {
	N, Of      int
	Drawing    template.HTML
	Prev, Next int
	Words      string
	Wrong      string
}

// typed is what was typed into a field that could not take it.
type typed struct{ path, text, wrong string }

func (t typed) at(path, text string) (string, string) {
	if t.path == path {
		return t.text, t.wrong
	}
	return text, ""
}

func fieldID(path string) string { return "b" + strings.NewReplacer("/", "-", " ", "-").Replace(path) }

// NewView makes the page of a batch. first is its first row, nil where there is none.
func NewView(b *batches.Batch, first *batches.Row, house *style.Style, t typed) View {
	v := View{ID: b.ID, Name: b.Name, Campaign: b.Campaign, Undo: b.Undo, Columns: b.Columns, Same: b.Plan.Same}
	if b.Source != "" {
		v.Source = b.Source
	}
	kind := b.Plan.Kind()
	v.fields(b, kind, first, t)
	for _, k := range content.Register() {
		if k.Group != content.Turned {
			v.Kinds = append(v.Kinds, forms.Choice{Value: k.Key, Words: k.Name, On: k.Key == kind})
		}
	}
	v.Keys = []forms.Choice{{Value: "", Words: "the number of the row", On: b.Plan.Key == ""}}
	for _, c := range b.Columns {
		v.Keys = append(v.Keys, forms.Choice{Value: c, Words: c, On: strings.EqualFold(c, b.Plan.Key)})
	}
	v.Line = v.text("/line", "Line beneath", b.Plan.Line, b, first, t)
	v.File = v.text("/file", "File names", b.Plan.File, b, first, t)
	from := code.From(b.Plan.Job)
	v.Looks = []forms.Choice{{Value: "", Words: "plain", On: from == ""}}
	for _, l := range slices.Concat(house.Looks, style.Shipped) {
		v.Looks = append(v.Looks, forms.Choice{Value: l.Key, Words: l.Name, On: l.Key == from})
	}
	medium := job.Text(b.Plan.Job, "/placements/0/medium")
	for _, m := range place.Media {
		v.Media = append(v.Media, forms.Choice{Value: m.Key, Words: m.Name, On: m.Key == medium})
	}
	v.Width = Field{Path: "/job/placements/0/width_mm", ID: fieldID("/job/width"), Label: "Width of the code"}
	v.Width.Sets = Sets{b.ID, v.Width.Path}
	v.Width.Text, v.Width.Error = t.at(v.Width.Path, job.Text(b.Plan.Job, "/placements/0/width_mm"))
	if f := job.Field(kind, "/output/colour"); f != nil {
		now := job.Text(b.Plan.Job, "/output/colour")
		for i, c := range f.Options() {
			v.Inks = append(v.Inks, forms.Choice{Value: c.Value, Words: c.Words, On: c.Value == now || now == "" && i == 0})
		}
	}
	v.sheet(b, t)
	for _, f := range compose.All {
		if f.Of == compose.Code {
			v.Formats = append(
				v.Formats,
				forms.Choice{Value: f.Key(), Words: f.Title(), On: slices.Contains(b.Formats, f.Key())},
			)
		}
	}
	k := content.KindOf(kind)
	v.CanLead = !b.Doc.Links && k != nil && k.Stays == ""
	if t.path != "" && !v.said(t.path) {
		v.Wrong = t.wrong
	}
	return v
}

// said says whether a field of the page shows what could not be taken.
func (v *View) said(path string) bool {
	for _, f := range append(slices.Clone(v.Fields), v.Line, v.File, v.Width) {
		if f.Path == path {
			return true
		}
	}
	return slices.ContainsFunc(v.Sheet, func(s Setting) bool { return s.Path == path })
}

// text is a text with blanks, as it reads on the first row.
func (v *View) text(path, label, text string, b *batches.Batch, first *batches.Row, t typed) Field {
	f := Field{Path: path, ID: fieldID(path), Label: label, Sets: Sets{b.ID, path}}
	f.Text, f.Error = t.at(path, text)
	if read, wrong := batch.ReadText(f.Text, b.Columns); wrong == "" && first != nil && len(f.Text) > 0 {
		f.Example = read.Fill(first.N, first.Cells, false)
	}
	return f
}

// fields are those that differ from row to row, and those that could.
func (v *View) fields(b *batches.Batch, kind string, first *batches.Row, t typed) {
	there := map[string]bool{}
	for _, s := range b.Plan.Set {
		there[s.Path] = true
		f := v.text("/set"+s.Path, batch.Called(kind, s.Path), s.Text, b, first, t)
		if first != nil && f.Error == "" {
			f.Example = first.Texts[s.Path]
		}
		v.Fields = append(v.Fields, f)
	}
	for _, c := range job.Columns(kind) {
		if there[c.Path] || c.Field.Fixed || c.Field.Off {
			continue
		}
		if c.Field.Required && strings.HasPrefix(c.Path, "/content/") && job.Text(b.Plan.Job, c.Path) == "" {
			f := v.text("/set"+c.Path, batch.Called(kind, c.Path), "", b, first, t)
			f.Required = true
			v.Fields = append(v.Fields, f)
			there[c.Path] = true
			continue
		}
		if part, _, _ := strings.Cut(c.Path[1:], "/"); part == "content" || part == "name" || c.Field.Heads != "" ||
			strings.HasPrefix(c.Path, "/placements/0/words/") || c.Path == "/look/frame/text" || c.Path == "/look/ink" {
			v.More = append(v.More, forms.Choice{Value: "/set" + c.Path, Words: batch.Called(kind, c.Path)})
		}
	}
}

// keep offers sheets of own measures that were used before.
func (v *View) keep(b *batches.Batch, own []batches.Kept, printers []string) {
	v.Printers = printers
	if len(v.Sheet) == 0 {
		return
	}
	now := b.Setting()
	for _, k := range own {
		v.Sheet[0].Choices = append(
			v.Sheet[0].Choices,
			forms.Choice{Value: k.ID, Words: k.Name, On: now.Key == impose.Own && now.ID() == k.ID},
		)
	}
}

// sheet are the fields of the sheet.
func (v *View) sheet(b *batches.Batch, t typed) {
	s := b.Setting()
	all := s.JSON()
	get := func(key string) string {
		if key == "sheet" && s.Key == "" {
			return impose.Own
		}
		value, ok := all[key]
		if !ok {
			value = impose.Fields.Write(&s, &impose.Setting{}).Map()[key]
		}
		return impose.Fields.Field(key).Format(value)
	}
	for i := range impose.Fields.Fields {
		f := &impose.Fields.Fields[i]
		if f.When != nil && !f.When(get) {
			continue
		}
		one := Setting{Path: "/sheet/" + f.Key, ID: fieldID("/sheet/" + f.Key), Label: f.Label, Hint: f.Hint}
		one.Sets = Sets{b.ID, one.Path}
		one.Text, one.Error = t.at(one.Path, get(f.Key))
		for _, c := range f.Options() {
			one.Choices = append(one.Choices, forms.Choice{Value: c.Value, Words: c.Words, On: c.Value == get(f.Key)})
		}
		if f.Key == "marks" {
			one.Flag, one.On, one.Choices = true, s.Marks, nil
		}
		v.Sheet = append(v.Sheet, one)
	}
	usual := impose.Default()
	usual.Key, usual.Sheet = s.Key, s.Sheet
	v.Fold = s != usual || s.Key == impose.Own || strings.HasPrefix(t.path, "/sheet/")
	n := s.Sheets(b.Good())
	v.OnSheets = fmt.Sprintf("%s a sheet, %s", measure.Plural(s.Cells(), "label"), measure.Plural(n, "sheet"))
	if s.Width == s.LabelWidth {
		v.OnSheets = fmt.Sprintf("%s, each a page", measure.Plural(b.Good(), "label"))
	}
}

// NewState says how far a batch is.
func NewState(b *batches.Batch, runs []*batches.Run, waiting int, may bool, now time.Time) State {
	s := State{ID: b.ID, May: may}
	parts := []string{measure.Plural(b.Rows, "row")}
	if b.Stale > 0 {
		s.Busy, s.Percent = true, 100*(b.Rows-b.Stale)/max(1, b.Rows)
		s.Making = fmt.Sprintf("%s of %s rows checked", measure.Count(b.Rows-b.Stale), measure.Count(b.Rows))
	}
	if b.Bad > 0 {
		parts = append(parts, measure.Count(b.Bad)+" to mend")
	}
	if b.Desks > 0 {
		parts = append(parts, measure.Count(b.Desks)+" on a desk")
	}
	s.Facts = strings.Join(parts, " · ")
	for _, o := range b.Sorts {
		size := 17 + 4*o.Version
		one := Sort{Version: o.Version, Size: fmt.Sprintf("%d × %d", size, size), Codes: measure.Plural(o.Codes, "code"),
			Verdict: o.Verdict, Words: Words(o.Verdict), Said: o.Said()}
		if o.Verdict == "" {
			s.Busy, one.Words = true, "Checking…"
		}
		s.Sorts = append(s.Sorts, one)
	}
	if b.Doc.Links {
		s.Busy = s.Busy || b.Linked < b.Good()
		s.Leads = fmt.Sprintf("%s of %s have short links", measure.Count(b.Linked), measure.Count(b.Rows))
	}
	if waiting > 0 {
		s.Waiting = measure.Plural(waiting, "changed destination")
	}
	s.Made = len(runs) > 0
	for _, r := range runs {
		one := runOf(r, now)
		if one.Take && r.Taken != nil && r.Asked.As != batches.AsTable {
			continue
		}
		one.Batch = b.ID
		s.Busy = s.Busy || one.Working
		s.Runs = append(s.Runs, one)
	}
	return s
}

// Words are those of a verdict.
func Words(verdict string) string {
	if verdict == "" {
		return ""
	}
	return proof.Verdict(verdict).Words()
}

// made names what runs make.
var made = map[string]string{
	batches.AsSheets: "Sheets",
	batches.AsPages:  "Pages",
	batches.AsZip:    "Files",
	batches.AsTable:  "Table",
}

func runOf(r *batches.Run, now time.Time) Run {
	out := Run{ID: r.ID, Note: r.Note, State: r.State,
		What:    fmt.Sprintf("%s of %s", made[r.Asked.As], measure.Plural(r.Labels, "label")),
		Percent: 100 * r.Made / max(1, r.Labels)}
	switch r.State {
	case batches.Working:
		out.Working = true
		out.Words = fmt.Sprintf("%s of %s", measure.Count(r.Made), measure.Count(r.Labels))
		if left := remaining(r, now); left != "" {
			out.Words += ", " + left
		}
	case batches.Stopped:
		out.Go, out.Words = true, fmt.Sprintf("Stopped after %s of %s", measure.Count(r.Made), measure.Count(r.Labels))
	case batches.Failed:
		out.Words = "Failed"
		out.Go = !strings.Contains(r.Note, "start it again")
	case batches.Unread:
		out.Insist, out.Words = true, "Held back"
	default:
		out.Take = true
		out.Words = kept(r)
	}
	return out
}

// kept says what file a run has made.
func kept(r *batches.Run) string { return strings.ToUpper(r.Ending()) + ", " + size(r.Bytes) }

// remaining says how long a run still takes, by how long it took so far; "" where that says nothing.
func remaining(r *batches.Run, now time.Time) string {
	if r.Began == nil || r.Made*20 < r.Labels || r.Made == 0 {
		return ""
	}
	left := time.Duration(float64(now.Sub(*r.Began)) * float64(r.Labels-r.Made) / float64(r.Made))
	switch {
	case left < 10*time.Second:
		return "a few seconds left"
	case left < 90*time.Second:
		return fmt.Sprintf("about %d seconds left", int(left.Seconds()/10+1)*10)
	}
	return fmt.Sprintf("about %d minutes left", int(left.Minutes()+0.5))
}

func size(bytes int64) string {
	if bytes < 1<<20 {
		return fmt.Sprintf("%d kB", max(1, bytes/1000))
	}
	return measure.Number(float64(bytes)/1e6, 1) + " MB"
}

// NewTable makes a stretch of rows.
func NewTable(b *batches.Batch, rows []batches.Row, f batches.Filter, may bool) Table {
	t := Table{ID: b.ID, State: f.State, Version: f.Version, MayChange: may, Bad: b.Bad}
	kind := b.Plan.Kind()
	var paths []string
	for _, s := range b.Plan.Set {
		t.Heads, paths = append(t.Heads, batch.Called(kind, s.Path)), append(paths, s.Path)
	}
	verdicts := map[int]string{}
	for _, o := range b.Sorts {
		verdicts[o.Version] = o.Verdict
	}
	for _, r := range rows {
		t.Rows = append(t.Rows, rowOf(r, kind, paths, verdicts))
	}
	tab := func(words, state string, n int) {
		if n > 0 || state == "" {
			t.Tabs = append(t.Tabs, Tab{Words: fmt.Sprintf("%s (%s)", words, measure.Count(n)), Link: "?state=" + state,
				On: f.State == state && f.Version == 0})
		}
	}
	tab("All", "", b.Rows)
	tab("To mend", batches.Bad, b.Bad)
	tab("On a desk", "desk", b.Desks)
	return t
}

func rowOf(r batches.Row, kind string, paths []string, verdicts map[int]string) Row {
	out := Row{N: r.N, Name: r.Name, Key: r.Key, State: r.State, Code: r.Code}
	said := map[string]bool{}
	for _, path := range paths {
		c := Cell{
			Path:  path,
			ID:    fmt.Sprintf("r%d%s", r.N, fieldID(path)),
			Label: fmt.Sprintf("%s of row %d", batch.Called(kind, path), r.N),
			Text:  r.Texts[path],
		}
		if f := job.Field(kind, path); f != nil && f.Secret {
			c.Secret, c.Text = true, ""
		}
		if own, ok := r.Own[path]; ok && !c.Secret {
			c.Own, c.Text = true, own
		}
		for _, p := range r.Problems.At(path) {
			c.Error = forms.Sentence(p)
			said[p.Field+p.Code] = true
		}
		out.Cells = append(out.Cells, c)
	}
	for _, p := range r.Problems {
		if !said[p.Field+p.Code] {
			out.Wrong = append(out.Wrong, sentence(p))
		}
	}
	if r.Linked && r.State == batches.Good {
		out.Link = r.Says
	}
	if r.State == batches.Good {
		out.Symbol = fmt.Sprintf("%d × %d %s", r.Size, r.Size, r.Level)
		out.Reserve = measure.Number(r.Reserve*100, 0) + " %"
		out.Verdict, out.VerdictWords = verdicts[r.Version], Words(verdicts[r.Version])
	}
	return out
}

// sentence is a problem with what it is about.
func sentence(p problem.Problem) string {
	switch p.Field {
	case "":
		return "The row " + p.Message + "."
	case "/key":
		return "The key " + p.Message + "."
	}
	return forms.Sentence(p)
}
