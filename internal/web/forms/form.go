package forms

import (
	"encoding/json"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/gazetteer"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/schema"
)

// Row is a field, or a group of them on demand.
type Row struct {
	Field  Field
	Beside *Field // that shares the row, of which it takes Share percent; nil for none
	Share  int
	Fields []Field // of a group, instead of Field
	More   string  // words of a group on demand, with Cost
	CostID string
	Cost   string
	Used   string // what a group holds, in brief, "" where it is empty
	Open   bool   // something in it is wrong
	Map    *Map
}

// Map is the world map under a position.
type Map struct {
	ForID, Lat, Lon string
	Towns           []gazetteer.Town // that are called what was typed
}

// Form is the form of one content.
type Form struct {
	Kind   string
	Rows   []Row
	Shape  string // changes when other fields are there
	CodeID string
}

// Fields gives all fields, groups taken apart.
func (f Form) Fields() (out []Field) {
	for _, r := range f.Rows {
		switch {
		case r.More != "":
			out = append(out, r.Fields...)
		case r.Field.Path != "":
			out = append(out, r.Field)
			if r.Beside != nil {
				out = append(out, *r.Beside)
			}
		}
	}
	return out
}

// Ordinary are the rows that always stand there, and Mores the groups on demand, which stand behind them.
func (f Form) Ordinary() (out []Row) { return f.rows(func(r Row) bool { return r.More == "" }) }
func (f Form) Mores() (out []Row)    { return f.rows(func(r Row) bool { return r.More != "" }) }

// Long says that a form of a code that is not there yet has so many groups on demand that one may want all of them; on a desk,
// where most hold something already, they would not be seen at once.
func (f Form) Long() bool { return f.CodeID == "" && len(f.Mores()) > maxShort }

// maxShort is how many groups on demand are unfolded one by one.
const maxShort = 3

func (f Form) rows(wanted func(Row) bool) (out []Row) {
	for _, r := range f.Rows {
		if wanted(r) {
			out = append(out, r)
		}
	}
	return out
}

// Costs gives the rows on demand with their prices.
func (f Form) Costs() (out []Row) {
	for _, r := range f.Rows {
		if r.CostID != "" {
			out = append(out, r)
		}
	}
	return out
}

// Map is the map of the form, nil where it has none.
func (f Form) Map() *Map {
	for _, r := range f.Rows {
		if r.Map != nil {
			return r.Map
		}
	}
	return nil
}

// Zones says that a field of the form is completed from the time zones.
func (f Form) Zones() bool {
	return slices.ContainsFunc(f.Fields(), func(f Field) bool { return f.Complete == "zones" })
}

// builder collects the rows of a form.
type builder struct {
	src    Source
	codeID string
	below  string // what of the code the fields edit, "" for itself
	cost   func(path string) string
	form   *Form
	later  *[]Row // further entries of lists, which stand behind what else can be unfolded
}

// Build makes the form of a kind from what it declares. cost says what an empty field would cost, "" where it is not known.
func Build(kind string, src Source, codeID string, cost func(path string) string) Form {
	return builder{src: src, codeID: codeID, cost: cost}.build(kind, "/content")
}

// BuildAt makes the form of a content that stands at a pointer of a source, in what belongs to a code by a name such as "/lead".
func BuildAt(kind string, src Source, codeID, below, at string) Form {
	return builder{src: src, codeID: codeID, below: below, cost: func(string) string { return "" }}.build(kind, at)
}

func (b builder) build(kind, at string) Form {
	f := Form{Kind: kind, CodeID: b.codeID}
	b.form, b.later = &f, &[]Row{}
	if k := content.KindOf(kind); k != nil {
		b.part(k.Fields, at, "")
	}
	last := len(f.Rows)
	for i, r := range f.Rows {
		if r.CostID != "" {
			last = i + 1
		}
	}
	f.Rows = slices.Insert(f.Rows, last, *b.later...)
	var shape strings.Builder
	shape.WriteString(kind)
	for _, r := range f.Rows {
		shape.WriteString(" " + r.Field.ID + r.More)
		if r.Beside != nil {
			shape.WriteString("+" + r.Beside.ID)
		}
		if r.More != "" {
			for _, x := range r.Fields {
				shape.WriteString(" " + x.ID)
			}
		}
	}
	f.Shape = shape.String()
	return f
}

// getter reads the texts of a part that stands at a pointer.
func (b builder) getter(at string) func(string) string {
	return func(key string) string {
		if f := b.src.Text(at + "/" + key); f != "" {
			return f
		}
		return ""
	}
}

// shown are the fields of a part that have a place on the form now.
func (b builder) shown(p *schema.Part, at string) (out []*schema.Field) {
	for i := range p.Fields {
		f := &p.Fields[i]
		if !f.Off && (f.When == nil || f.When(b.getter(at))) {
			out = append(out, f)
		}
	}
	return out
}

// part adds the rows of a part. label is that of its first field where it is not the field's own.
func (b builder) part(p *schema.Part, at, label string) {
	list := b.shown(p, at)
	for i := 0; i < len(list); i++ {
		f, path := list[i], at+"/"+list[i].Key
		switch {
		case f.Type == schema.Object && f.Folded != "":
			b.more(f.Folded, b.fields(f.Part, path)...)
		case f.Type == schema.Object:
			b.part(f.Part, path, f.Label)
		case f.Type == schema.List:
			b.list(f, path)
		case f.Type == schema.Map:
			b.keyed(f, path)
		case f.Folded != "":
			group := []Field{b.field(f, path)}
			for ; i+1 < len(list) && list[i+1].Folded == f.Folded && list[i+1].Leaf(); i++ {
				group = append(group, b.field(list[i+1], at+"/"+list[i+1].Key))
			}
			b.more(f.Folded, group...)
		default:
			x := b.field(f, path)
			if i == 0 && label != "" {
				x.Label = label
			}
			b.stand(f, x)
		}
		if f.Control == "position" {
			b.position(path)
		}
	}
}

func (b builder) row(f Field) { b.form.Rows = append(b.form.Rows, Row{Field: f}) }

// fields are those of a part, for a group on demand.
func (b builder) fields(p *schema.Part, at string) (out []Field) {
	for _, f := range b.shown(p, at) {
		path := at + "/" + f.Key
		switch f.Type {
		case schema.Map:
			for _, key := range f.Offer {
				out = append(out, b.field(f.Entry(key), path+"/"+key))
			}
		case schema.Object:
			out = append(out, b.fields(f.Part, path)...)
		case schema.List:
		default:
			out = append(out, b.field(f, path))
		}
	}
	return out
}

// maxEntries is how many entries of a list a form shows.
const maxEntries = 10

// list adds the entries of a list: those that are there, and one more.
func (b builder) list(f *schema.Field, at string) {
	n := 0
	for i := range maxEntries {
		for _, x := range b.entry(f, at, i) {
			if x.Value != "" {
				n = i + 1
			}
		}
	}
	most := maxEntries
	if f.Most > 0 {
		most = min(most, int(f.Most))
	}
	for i := range min(most, n+1) {
		words := f.Folded
		if i > 0 && f.Again != "" {
			words = f.Again
		}
		entry := b.entry(f, at, i)
		switch {
		case i > 0:
			b.behind(words, entry...)
		case words != "":
			b.more(words, entry...)
		case f.Item != nil:
			b.whole(at, &entry[0])
			b.row(entry[0])
		default:
			b.first(f.Part, at+"/0")
		}
	}
}

// first adds the first entry of a list; what of it is folded stands behind what else can be unfolded.
func (b builder) first(p *schema.Part, at string) {
	for _, f := range b.shown(p, at) {
		path := at + "/" + f.Key
		switch {
		case f.Type == schema.Map:
			b.keyed(f, path)
		case f.Folded != "":
			b.behind(f.Folded, b.field(f, path))
		default:
			b.stand(f, b.field(f, path))
		}
	}
}

// stand adds a field as a row, or in the row of the field before it.
func (b builder) stand(f *schema.Field, x Field) {
	rows := b.form.Rows
	if last := len(rows) - 1; f.Beside > 0 && last >= 0 && rows[last].Field.Path != "" && rows[last].Beside == nil {
		rows[last].Beside, rows[last].Share = &x, f.Beside
		return
	}
	b.row(x)
}

// whole shows a problem of a list as that of its first entry.
func (b builder) whole(at string, f *Field) {
	for _, p := range b.src.Faults() {
		if p.Field == at && f.Error == "" {
			f.Error = Sentence(p)
		}
	}
}

func (b builder) entry(f *schema.Field, at string, i int) []Field {
	at += "/" + strconv.Itoa(i)
	if f.Item != nil {
		return []Field{b.field(f.Item, at)}
	}
	return b.fields(f.Part, at)
}

// keyed adds what an object whose keys are data holds, and what it is offered to hold.
func (b builder) keyed(f *schema.Field, at string) {
	keys := slices.Clone(f.Offer)
	for _, key := range Keys(b.src.Text(at)) {
		if !slices.Contains(keys, key) {
			keys = append(keys, key)
		}
	}
	if f.Folded != "" {
		var group []Field
		for _, key := range keys {
			group = append(group, b.field(f.Entry(key), at+"/"+key))
		}
		if len(group) > 0 {
			b.behind(f.Folded, group...)
		}
		return
	}
	for _, key := range keys {
		entry := f.Entry(key)
		if x := b.field(entry, at+"/"+key); entry.Folded != "" {
			b.more(entry.Folded, x)
		} else {
			b.row(x)
		}
	}
}

// Keys are those of an object as a source writes it, in order.
func Keys(object string) (out []string) {
	var m map[string]any
	if json.Unmarshal([]byte(object), &m) != nil {
		return nil
	}
	for key := range m {
		out = append(out, key)
	}
	slices.Sort(out)
	return out
}

// more appends fields on demand.
func (b builder) more(words string, fields ...Field) {
	b.form.Rows = append(b.form.Rows, b.group(words, fields...))
}

// behind is more, behind all others.
func (b builder) behind(words string, fields ...Field) {
	*b.later = append(*b.later, b.group(words, fields...))
}

// group is fields on demand: folded until one of them holds something.
func (b builder) group(words string, fields ...Field) Row {
	r := Row{More: words, Fields: fields, CostID: "c-" + fields[0].ID, Cost: b.cost(fields[0].Path)}
	if r.Cost == "" && len(fields) > 1 { // the first is a way to type the others
		r.Cost = b.cost(fields[1].Path)
	}
	var holds []string
	for _, f := range fields {
		usual := len(f.Choices) > 0 && f.Choices[0].On
		if b.src.Text(f.Path) != "" && !usual && f.Kind != "secret" {
			holds = append(holds, f.Shown())
		}
		r.Open = r.Open || f.Error != ""
	}
	if r.Used = strings.Join(holds, ", "); (len(holds) > 0 || r.Open) && len(fields) == 1 { // a field like any other
		r = Row{Field: fields[0], Fields: fields}
	}
	return r
}

// field makes the field of a declared one.
func (b builder) field(f *schema.Field, path string) Field {
	out := Of(b.src, b.codeID, path, f)
	out.Below = b.below
	get := b.getter(path[:strings.LastIndexByte(path, '/')])
	if f.Sample != nil {
		out.Sample = f.Sample(get)
	}
	if f.Hours != nil && f.Hours(get) {
		out.Picker = "datetime-local"
	}
	if f.Note != nil {
		if note := f.Note(out.Value, get); note != "" {
			out.Hint = strings.TrimSpace(out.Hint + " " + note)
		}
	}
	return out
}

// unfinished is a word that somebody may still be typing.
var unfinished = regexp.MustCompile(`^\p{L}[\p{L} .'-]*$`)

// maxTowns is how many towns of a name are offered.
const maxTowns = 6

// position adds the map under a position, and finds towns that are called what was typed.
func (b builder) position(path string) {
	f := &b.form.Rows[len(b.form.Rows)-1].Field
	at := strings.TrimSuffix(path, "/position")
	m := &Map{ForID: f.ID, Lat: b.src.Text(at + "/lat"), Lon: b.src.Text(at + "/lon")}
	lat, errLat := strconv.ParseFloat(m.Lat, 64)
	lon, errLon := strconv.ParseFloat(m.Lon, 64)
	if errLat == nil && errLon == nil && max(lat, -lat) <= 90 && max(lon, -lon) <= 180 {
		f.Hint = content.Sexagesimal(lat, lon)
	}
	if f.Error != "" {
		if m.Towns = gazetteer.Find(f.Value, maxTowns); len(m.Towns) > 0 {
			f.Error, f.Hint = "", "Choose the one that is meant:"
		}
	}
	if f.Error != "" && unfinished.MatchString(f.Value) { // more may follow
		f.Error, f.Hint = "", "No town is called that. Type on, or click the map."
	}
	if f.Error == "" && f.Value == "" {
		for _, p := range b.src.Faults() {
			if p.Field == at+"/lat" {
				f.Error = "The point is missing; type a town or coordinates, or click the map."
			}
		}
	}
	b.form.Rows = append(b.form.Rows, Row{Map: m})
}

// Draft makes a draft of a plain form: the job, and what of the typed text it cannot hold, by pointer.
func Draft(kind string, typed func(path string) string, paths []string) (draft any, unparsed map[string]string) {
	draft, unparsed = map[string]any{"content": map[string]any{"kind": kind}}, map[string]string{}
	for _, path := range paths {
		text := typed(path)
		if text == "" || !job.Editable(draft, path) {
			continue
		}
		ops, bad := job.Edit(draft, path, text)
		if bad != nil {
			unparsed[path] = text
			continue
		}
		if next, _, err := patch.Patch(ops).Apply(draft); err == nil {
			draft = next
		}
	}
	return draft, unparsed
}

// PatchText is a patch as a hidden field or the value of a button carries it.
func PatchText(p patch.Patch) string {
	b, err := json.Marshal(p)
	if err != nil {
		panic(err) // made of strings and numbers
	}
	return string(b)
}
