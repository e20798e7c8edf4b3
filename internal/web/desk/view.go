package desk

import (
	"fmt"
	"html/template"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/ink"
	"sodrik/internal/core/job"
	"sodrik/internal/core/look"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/schema"
	"sodrik/internal/core/symbol"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/ui"
)

// View is the desk.
type View struct {
	ui.Frame
	ID, Name   string
	Campaign   string
	Campaigns  []string // to move to
	Note       string
	Labels     string // with commas between them
	Rev        int64
	Retired    bool
	ReadOnly   bool   // the person may look only
	Chip       string // "Draft · v3 handed over"
	Undo, Redo string

	UndoRev, RedoRev int64
	UndoBy           string // somebody else whose edit undo would take back

	Says    ui.Says
	Wears   string
	Wearing template.HTML
	Sits    string
	Reads   string // until the proof is there

	NameField  Field
	Form       forms.Form
	Zones      []string // of a date
	Tags       []Field  // of a web address
	TagsSet    string
	Links      []LinkForm // patterns of the house, of a web address
	Linked     bool       // the answer is to one of them
	TagsOf     string     // the campaign's tags in words, "" where it has none or they are taken
	TagsFix    string
	Fixed      string
	Price      Price
	Level      Field
	Mask       Field
	MinVersion Field
	QuietZone  Field
	Ink, Paper Field
	Modules    []Field // the form of the modules
	Eyes       []Field
	EyeCorners []Field
	EyeMore    []Field
	EyeInks    []Field

	Inks           []Field // of the modules
	Reverse        []Act
	Sliders        []Slider // of the camera
	Stops          []Act    // what can be done with the colours of a gradient
	EachEye        [3]EachEye
	Mark           []Field
	MarkMore       []Field
	MarkShape      string
	Framing        []Field
	FrameInks      []Field
	FrameActs      []Act
	Captioning     []Field
	FrameShape     string
	Outlining      []Field
	OutlineShape   string
	Parts          []PartButton // of the look
	Views          []ViewTab
	Icons, Uploads []Choice
	HouseMarks     []Choice
	Backdrop       []Field
	BackdropShape  string
	BackdropLine   string
	Uploaded       string // the answer is to an upload, of a mark or a backdrop; "" otherwise
	Left           string // what of an upload was left out

	InksShape, ModulesShape, ModulesLine string
	Contrast                             string
	Place                                int    // the current placement, −1 for none
	PlaceID                              string // of it, "" for none
	Places                               []PlaceTab
	PlaceFields                          []Field
	PlaceRows                            []forms.Row // the same in rows
	AroundFields, WordFields, ArtFields  []Field     // of the place, folded
	AroundLine, WordLine, ArtLine        string
	PlaceName, PlaceShape, ArtShape      string
	Sizes                                []Act   // what the distance asks for
	Rule                                 string  // that they follow
	Media                                []Group // to put it on
	Artworks                             []Choice
	Pages                                []Choice // of the artwork, where it has several
	MediumKept                           string   // what the place has just been kept as
	Ship                                 Ship
	Slips                                []string // languages of the payment part of a bill

	Shown    ui.Shown // what the browser shows of it already
	LookSlot LookSlot
	locked   bool     // to parts of the house
	Since    []string // how the code differs from what was handed over last
	Version  int      // that was
	InPrint  Printed
	New      bool    // nothing was changed in it yet
	Another  string  // what the version in print says, where that is something else
	Again    []Field // whose controls an answer draws again
	Sheet    template.HTML
	Stale    bool
	StaleWhy string
	Bare     string // name of the PNG lying over the sheet
	Width    string // of the placement in mm, for the clipboard
	Gauges   []Gauge
	Proof    *Remarks // nil while the readers are at it
}

// Field, Choice and Swatch are those of all forms.
type (
	Field  = forms.Field
	Choice = forms.Choice
	Swatch = forms.Swatch
)

// ViewTab leads to a view.
type ViewTab struct{ Key, Name string }

// viewTabs are all views; which of them serve a stub stands in the script of the desk.
var viewTabs = []ViewTab{{"place", "in place"}, {"camera", "through a camera"}, {"evidence", "evidence"}, {"files", "files"}, {"plates", "plates"}, {"flat", "flat"},
	{"looks", "looks"}, {"variations", "variations"}, {"damage", "damage"}}

// PlaceTab switches to a placement.
type PlaceTab struct {
	Index   int
	Name    string
	Current bool
}

// Gauge is one figure under the sheet and what it is made of.
type Gauge struct {
	Label, Figure string
	Opened        string
	Fields        []Field
}

// builder makes fields of one code.
type builder struct {
	c     *code.Code
	place int // the current placement, −1 for none
}

// Text and Faults make a code a source of forms.
func (b builder) Text(path string) string { return b.c.Text(path) }
func (b builder) Faults() problem.List    { return b.c.Problems }

// placed binds a field to its place and its house.
func (b builder) placed(f Field) Field {
	if strings.HasPrefix(f.Path, "/placements/") {
		f.At = job.PlacementID(b.c.Draft, b.place)
	}
	if f.Kind == "colour" {
		f.Value = b.c.House.Called(f.Value)
	}
	f.Locked = f.Kind == "colour" && strings.HasPrefix(f.Path, "/look/") && b.locked() && len(b.c.House.Colours) > 0
	return f
}

// at makes the field of a path as the job declares it.
func (b builder) at(path string) Field { return b.placed(forms.Of(b, b.c.ID, path, b.declared(path))) }

func (b builder) declared(path string) *schema.Field {
	if f := job.Field(b.c.Rendition.Job.Content.Kind(), path); f != nil {
		return f
	}
	panic("desk: no field is declared at " + path)
}

// chosen is at, with the value that holds where the draft has none.
func (b builder) chosen(path, value string) Field {
	f := b.at(path)
	f.Value = value
	for i := range f.Choices {
		f.Choices[i].On = f.Choices[i].Value == value
	}
	return f
}

// slide is at, of a number between its bounds.
func (b builder) slide(path string, value float64) Field {
	return b.placed(forms.Slide(b, b.c.ID, path, b.declared(path), value))
}

// NewView formats a code for the desk, with placement i current, −1 for none.
func NewView(c *code.Code, i int, now time.Time) View {
	b := builder{c, i}
	m := c.Rendition
	v := View{Sliders: sliders, Views: viewTabs, New: c.Rev == 0, ID: c.ID, Name: c.Name(), Campaign: c.Campaign, Note: c.Remark.Note, Labels: strings.Join(c.Remark.Labels, ", "), Rev: c.Rev, Retired: c.State == code.Retired, Undo: c.Undo, Redo: c.Redo, UndoRev: c.UndoRev, RedoRev: c.RedoRev, UndoBy: c.UndoBy, Place: i, PlaceID: job.PlacementID(c.Draft, i), Media: mediaOf(c.House)}
	v.Chip = chip(c)
	if c.Issued != nil {
		v.Version = c.Issued.N
		v.InPrint = printedOf(c)
	}
	v.NameField = b.at("/name")
	if v.NameField.Value == "" {
		v.NameField.Hint = v.Name
	}
	v.says(b)
	v.wears(b)
	v.sits(b, i)
	v.ships(b, i)
	v.gauges(b, i)
	at := sheetOf(m, m.Place(i))
	v.Sheet = at.draw(m, i, c.House)
	v.Parts = at.parts(m)
	v.LookSlot, v.locked = lookSlot(c), b.locked()
	v.Bare = export.FileName(c.Name(), 0, 0, "png")
	if c.Stale() {
		v.Stale = true
		v.StaleWhy = job.Called(c.Draft, c.Problems[0].Field)
	}
	return v
}

// fields is every field that the desk shows but the name.
func (v *View) fields() []Field {
	lists := [][]Field{v.Form.Fields(), v.Tags, v.Inks, {v.Paper}, v.Modules, v.Eyes, v.EyeMore, v.EyeCorners, v.EyeInks}
	for _, e := range v.EachEye {
		lists = append(lists, e.Fields)
	}
	return slices.Concat(append(lists, v.Mark, v.MarkMore, v.Framing, v.FrameInks, v.Captioning, v.Outlining, v.Backdrop, v.PlaceFields, v.AroundFields, v.ArtFields, v.WordFields,
		[]Field{v.Level, v.MinVersion, v.Mask, v.QuietZone}, v.Ship.Fields)...)
}

// Errors gives the fields outside the content's form with what is wrong with each, for every answer.
func (v View) Errors() []Field { return v.fields()[len(v.Form.Fields()):] }

// fieldsTouchedBy is the fields whose text an edit of path may have changed besides its own: those of its part of the job.
// Undo and fixes, which have no path, may have changed any.
func (v *View) fieldsTouchedBy(path string) (out []Field) {
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
var switches = regexp.MustCompile(`^/content/(security|all_day|form|repeat/.*)$`)

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

func (v *View) says(b builder) {
	m := b.c.Rendition
	v.Says = ui.SaysOf(m.Job.Content)
	v.Fixed = "Fixed. Works for ever without us."
	kind := m.Job.Content.Kind()
	if text := b.Text("/content/kind"); text != "" {
		kind = text
	}
	v.Form = forms.Build(kind, b, b.c.ID, costs(m))
	v.Price = priceOf(b.c.ID, m)
	if forms.IsPayment(kind) {
		v.Fixed = "Fixed. Nobody stands between payer and account."
	}
	if v.Form.Zones() {
		v.Zones = content.Zones()
	}
	if kind == "url" {
		v.Fixed = "Fixed address. Works for ever without us."
		v.Links = linksOf(b.c.House, b.Text("/content/url"))
		var set []string
		for _, name := range content.TagNames {
			f := b.at("/content/tags/" + name)
			if f.Value != "" {
				set = append(set, f.Value)
			}
			v.Tags = append(v.Tags, f)
		}
		v.TagsSet = "none"
		if len(set) > 0 {
			v.TagsSet = strings.Join(set, " · ")
		}
	}
	v.Level = b.at("/symbol/level")
	v.Mask = b.at("/symbol/mask")
	v.MinVersion = b.at("/symbol/min_version")
	v.MinVersion.Hint = "So that a set looks alike: version 5 is 37 × 37."
	v.QuietZone = b.at("/symbol/quiet_zone")
	if v.QuietZone.Value == "" {
		v.QuietZone.Value = strconv.Itoa(m.Job.Symbol.QuietZone)
	}
}

func levelLine(m *compose.Rendition) string {
	asked := m.Job.Symbol.Level
	if asked == symbol.LevelAuto {
		asked = symbol.M
	}
	if asked == m.Symbol.Level {
		return fmt.Sprintf("level %v", asked)
	}
	if asked > m.Symbol.Level {
		return fmt.Sprintf("level %v, as prescribed", m.Symbol.Level)
	}
	return fmt.Sprintf("level %v raised to %v", asked, m.Symbol.Level)
}

// swatches shows colours at hand.
func swatches(list []ink.Named) (out []Swatch) {
	for _, n := range list {
		out = append(out, Swatch{Value: n.Colour.String(), Name: n.Name, Fill: n.Colour.String()})
	}
	return out
}

// house gives the house's colours as swatches, those that wanted says.
func (b builder) house(wanted func(ink.Colour) bool) (out []Swatch) {
	if b.c.House == nil {
		return nil
	}
	for _, c := range b.c.House.Colours {
		if wanted(c.Value) {
			out = append(out, Swatch{Value: ink.House + c.Key, Name: c.Name, Fill: c.Value.String()})
		}
	}
	return out
}

// lightest is the luminance from which a colour of the house is offered as paper, and not as ink.
const lightest = 0.6

// locked says that only parts of the house are offered.
func (b builder) locked() bool { return b.c.House != nil && b.c.House.Locked }

// inks are those on offer: the house's and black, or where it has none, those at hand. A locked house offers its own alone.
func (b builder) inks() []Swatch {
	own := b.house(func(c ink.Colour) bool { return c.Luminance() < lightest })
	switch {
	case len(own) == 0:
		return append(b.sampled(), swatches(ink.Inks)...)
	case b.locked():
		return own
	}
	return append(append(b.sampled(), own...), swatches(ink.Inks[:1])...)
}

// sampled are the inks of the artwork that the code lies on.
func (b builder) sampled() (out []Swatch) {
	sheet := b.c.Rendition.Sheet(b.c.Rendition.Place(b.place))
	if sheet == nil {
		return nil
	}
	for _, c := range sheet.Inks() {
		if c.Luminance() < lightest {
			out = append(out, Swatch{Value: c.String(), Name: "From the artwork, " + c.String(), Fill: c.String()})
		}
	}
	return out[:min(len(out), 3)]
}

// papers are those on offer; white paper and no paper are there in any house.
func (b builder) papers() []Swatch {
	none := Swatch{Value: "none", Name: "No paper"}
	own := b.house(func(c ink.Colour) bool { return c.Luminance() >= lightest })
	if b.c.House == nil || len(b.c.House.Colours) == 0 {
		return append(swatches(ink.Papers), none)
	}
	return append(append(swatches(ink.Papers[:1]), own...), none)
}

// colourName is what a colour is called: by the house, by us, or by its value.
func (b builder) colourName(c ink.Colour) string {
	if own, ok := b.c.House.Colour(c.Style); ok {
		return strings.ToLower(own.Name)
	}
	for _, list := range [2][]ink.Named{ink.Inks, ink.Papers} {
		for _, n := range list {
			if n.Colour.Same(c) {
				return strings.ToLower(n.Name)
			}
		}
	}
	return c.String()
}

func (v *View) wears(b builder) {
	l := b.c.Rendition.Job.Look
	v.Ink = b.at("/look/ink")
	v.Ink.Swatches, v.Ink.Hex = b.inks(), l.Ink.String()
	if v.Ink.Value == "" {
		v.Ink.Value = ink.Black.String()
	}
	v.Paper = b.at("/look/paper")
	v.Paper.Swatches, v.Paper.Hex = b.papers(), l.Paper.Colour.String()
	if v.Paper.Value == "" {
		v.Paper.Value = ink.White.String()
	}
	paper := "no paper"
	if !l.Paper.None {
		paper = b.colourName(l.Paper.Colour)
	}
	v.Wears = b.colourName(l.Ink) + " on " + paper
	v.inkFields(b)
	v.Reverse = reversing(b)
	v.formFields(b)
	v.markFields(b)
	v.frameFields(b)
	v.backdropFields(b)
	if !l.Plain() {
		v.Wears = v.ModulesLine + " · " + v.Wears
	}
	if b.c.Rendition.Mark != nil {
		v.Wears += " · mark " + share(b.c.Rendition.Mark.Look.Width)
	}
	if !l.Frame.None() {
		v.Wears += " · " + look.FrameName(l.Frame.Shape)
	}
	if l.Outline == "round" {
		v.Wears += " · in a disc"
	}
	if v.BackdropLine != "none" {
		v.Wears += " · " + v.BackdropLine
	}
	v.Wearing = wearing(l.Ink, l.Paper.None, l.Paper.Colour)
}

// wearing shows ink on paper as a printer's drawdown.
func wearing(c ink.Colour, none bool, paper ink.Colour) template.HTML {
	fill := paper.String()
	if none {
		fill = "none"
	}
	return template.HTML(fmt.Sprintf(`<svg class="inline-block align-[-3px] mr-1.5" width="22" height="14" viewBox="0 0 22 14" aria-hidden="true"><rect x=".5" y=".5" width="21" height="13" fill="%s" stroke="#6F7B73"/><rect x="4" y="3" width="14" height="8" fill="%s"/></svg>`, fill, c))
}

func (v *View) gauges(b builder, i int) {
	p := b.c.Rendition.Place(i)
	m := b.c.Rendition.For(p)
	s := m.Symbol
	module, why := "–", "Say where it will hang, and a module has a size."
	if p != nil {
		l := measure.Length(float64(p.Width) / float64(m.Modules()))
		sub, _ := place.SubstrateOf(p.Substrate)
		module = measure.Number(float64(l), 2) + " mm"
		why = fmt.Sprintf("%s across %d modules, border included. On %s a module needs %s mm at least: %s.", p.Width, m.Modules(), sub.Name, measure.Number(sub.MinXDimension, 2), sub.Spread)
	}
	figures := b.c.Rendition.Figures(i)
	reach := figures.Range
	far := "–"
	if p != nil {
		far = rangeWords(reach)
	}
	v.Contrast = measure.Number(math.Abs(figures.Contrast)*100, 0) + " %"
	v.Gauges = []Gauge{
		{"Symbol", fmt.Sprintf("%d × %d %v", s.Size, s.Size, s.Level), fmt.Sprintf("Version %d, %s, mask %d. %d of %d bytes of room are used.", s.Version, levelLine(m), s.Mask, used(m), symbol.DataCodewords(s.Version, s.Level)), []Field{v.Level, v.MinVersion, v.Mask, v.QuietZone}},
		{"Module", module, why, nil},
		{"Contrast", v.Contrast, contrastWords(m) + " 70 % is good; phones need 40 %.", nil},
		{"Reserve", measure.Number(figures.Reserve*100, 0) + " %", "Error correction left for dirt and scratches, where the look takes most. The view “damage” shows where.", nil},
		{"Range", far, reachWords(p), nil},
	}
}

// contrastWords say what the contrast was measured between.
func contrastWords(m *compose.Rendition) string {
	if g := m.Ground; g != nil && g.Look.Mode == "under" {
		return "By how much the ink and the picture behind it differ in brightness, at the module where they differ least."
	}
	return "By how much ground and ink differ in brightness, where they differ least."
}

// reachWords says what the range is, before it is measured.
func reachWords(p *place.Placement) string {
	if p == nil {
		return "Say where it will hang, and the range is measured."
	}
	return "Nearest: the code fills a phone's picture. Farthest: a module still takes two pixels of it. Measuring…"
}

// used is the number of data codewords that the segments take.
func used(m *compose.Rendition) int {
	return min(m.Symbol.Used(), symbol.DataCodewords(m.Symbol.Version, m.Symbol.Level))
}

// Remarks is the proof in words.
type Remarks struct {
	Again   int // how often it will have been asked for again, 0 where it is not
	AgainIn int // seconds from now

	Verdict  proof.Verdict
	Words    string
	Where    string
	Shown    []Remark
	More     []Remark
	None     string
	Line     string // for the ticket
	Families []FamilyLine
	Facts    []string // of range and reserve
	Grades   *Grading
	Trials   []TrialLine
	Beyond   []string // how far it reads beyond the ordinary
	Next     proof.Stage
	Asked    bool   // the next set waits until somebody asks for it
	Looking  string // what is being looked at
	Turned   bool   // what was looked at beyond the ordinary changes the verdict
	Range    string // for the gauge; "" until it is measured
	RangeHow string
	Reserve  string // for the gauge
	Handset  Handset
	CodeID   string
	PlaceIdx int
	Rev      int64
}

// Remark is one finding.
type Remark struct {
	proof.Finding
	Patch  string
	CodeID string
}

// FamilyLine is one family of readers: how much it read of each set.
type FamilyLine struct {
	Family, Engines string
	Cells           []string
}

// maxShown is how many findings stand open at once.
const maxShown = 3

// maxAgain bounds how often a verdict that readers could not give is asked for by itself while the desk stays open.
const maxAgain = 5

// reask has a proof asked for again that a reader did not answer for, after 5 s, 10, 20 and so on. What is not installed is not waited for.
func (r *Remarks) reask(p *proof.Proof, again string) {
	n, _ := strconv.Atoi(again)
	if len(p.Broken) == 0 || n < 0 || n >= maxAgain {
		return
	}
	r.Again, r.AgainIn = n+1, 5<<n
}

// NewRemarks formats a proof for placement i.
func NewRemarks(c *code.Code, p *proof.Proof, i int) *Remarks {
	r := &Remarks{Verdict: p.Verdict, Words: p.Headline(), Where: p.Where, Handset: handsetOf(c.Rendition.For(c.Rendition.Place(i)), p), CodeID: c.ID, PlaceIdx: i}
	if r.Where == "" {
		r.Where = "As a picture only. Say where it will hang, and it is proved for print."
	}
	for k, f := range p.Findings {
		m := Remark{Finding: f, CodeID: c.ID}
		if f.Fix != nil {
			m.Patch = forms.PatchText(job.Guarded(c.Draft, "", f.Fix.Patch))
		}
		if k < maxShown {
			r.Shown = append(r.Shown, m)
		} else {
			r.More = append(r.More, m)
		}
	}
	r.None = c.Rendition.Unfound(p, i)
	r.Line = strings.ToLower(r.Words)
	if i >= 0 {
		r.Line += " at " + c.Rendition.Job.Placements[i].Name
	}
	if n := len(p.Findings); n == 1 {
		r.Line += " · 1 remark"
	} else if n > 1 {
		r.Line += fmt.Sprintf(" · %d remarks", n)
	}
	r.Rev = c.Rev
	r.tally(p)
	r.measured(c, p, i)
	return r
}
