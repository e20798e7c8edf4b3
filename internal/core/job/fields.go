package job

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"sodrik/internal/core/content"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/ink/press"
	"sodrik/internal/core/leads"
	"sodrik/internal/core/look"
	"sodrik/internal/core/place"
	"sodrik/internal/core/schema"
	"sodrik/internal/core/symbol"
)

// Bounds of lengths in print, mm.
const (
	MaxBleed     = 20
	MaxReduction = 0.5
)

// whole declares a whole number.
func whole[T any](key string, least, most float64, f schema.Field, at func(*T) any) schema.Field {
	f.Key, f.Type, f.At, f.Least, f.Most, f.Keep = key, schema.Whole, schema.In(at), least, most, true
	return f
}

// optional is whole, and empty text takes it away.
func optional[T any](key string, least, most float64, f schema.Field, at func(*T) any) schema.Field {
	f = whole(key, least, most, f, at)
	f.Keep = false
	return f
}

// levels are named by what of the code may be damaged (ISO/IEC 18004:2015, clause 6.5.1, table 12).
var levels = schema.Words("auto", "from M, raised while it is free", "L", "L, about 7 %", "M", "M, about 15 %", "Q",
	"Q, about 25 %", "H", "H, about 30 %")

func masks() []schema.Choice {
	out := schema.Words("auto", "the most even")
	for i := range 8 {
		out = append(out, schema.Choice{Value: strconv.Itoa(i), Words: strconv.Itoa(i)})
	}
	return out
}

var symbolFields = schema.Part{
	Fields: []schema.Field{
		{Key: "level", Keep: true, Choices: levels, Read: func(o schema.Reader, part any) {
			part.(*Symbol).Level, _ = symbol.ParseLevel(o.OneOf("level", schema.Values(levels)...))
		}, Write: func(part any) any {
			if l := part.(*Symbol).Level; l != symbol.LevelAuto {
				return l.String()
			}
			return nil
		}, Called: "level", Label: "Level", Hint: "How much of the code may be damaged.",
			About: "Least error correction level; auto starts from M."},
		{Key: "boost", Type: schema.Flag, At: schema.In(func(s *Symbol) any { return &s.Boost }), Keep: true,
			Called: "raising of the level", Label: "Raise the level while it fits",
			About: "Raise the level while the symbol does not grow."},
		whole("min_version", 1, 40, schema.Field{Called: "version", Label: "Smallest version"}, func(s *Symbol) any {
			return &s.MinVersion
		}),
		whole("max_version", 1, 40, schema.Field{Called: "version", Label: "Largest version"}, func(s *Symbol) any {
			return &s.MaxVersion
		}),
		{Key: "mask", Type: schema.Whole, Keep: true, Most: 7, Choices: masks(), Read: func(o schema.Reader, part any) {
			if v, ok := o.Any("mask"); ok && v != "auto" {
				part.(*Symbol).Mask = symbol.Pattern(o.Int("mask", 0, 0, 7))
			}
		}, Write: func(part any) any {
			if m := part.(*Symbol).Mask; m != symbol.AutoMask {
				return int(m) - 1
			}
			return nil
		}, Called: "mask", Label: "Mask"},
		whole("quiet_zone", 0, 40, schema.Field{Called: "quiet zone", Label: "Quiet zone", Unit: "modules",
			Hint: "Modules on every side.", About: "Modules on every side."}, func(s *Symbol) any { return &s.QuietZone }),
		{Key: "kanji", Type: schema.Flag, At: schema.In(func(s *Symbol) any { return &s.Kanji }), Keep: true,
			Called: "kanji mode", Label: "Kanji mode",
			About: "Allow kanji mode in place of ECI 26 where that is shorter."},
	},
	New: func() any { s := Default().Symbol; return &s },
}

func conditions() (out []schema.Choice) {
	out = schema.Words("rgb", "screens and office")
	for _, c := range press.Conditions {
		out = append(out, schema.Choice{Value: c.Key, Words: c.Name})
	}
	return out
}

func millimetres(key string, most float64, f schema.Field, at func(*Output) any) schema.Field {
	f.Key, f.Type, f.Most, f.At = key, schema.Length, most, schema.In(at)
	return f
}

func pressFlag(key, called, label, about string, at func(*Output) any) schema.Field {
	return schema.Field{Key: key, Type: schema.Flag, At: schema.In(at), Called: called, Label: label, About: about}
}

// Bounds of the width of a PNG of a code without a place.
const (
	MinPixels = 100
	MaxPixels = 10_000
)

var outputFields = schema.Part{
	Fields: []schema.Field{
		{Key: "colour", Keep: true, At: schema.In(func(out *Output) any { return &out.Colour }), Choices: conditions(),
			Called: "printing condition", Label: "Condition",
			About: "rgb, or the printing condition that inks are made for."},
		whole("dpi", 36, 4800, schema.Field{Called: "resolution", Label: "Resolution", Unit: "dpi",
			About: "Least resolution of pixel files."}, func(out *Output) any { return &out.DPI }),
		optional("pixels", MinPixels, MaxPixels, schema.Field{Called: "width in pixels", Label: "Pixels wide",
			Example: "as many as 2,000 need",
			About:   "Of the PNG of the code without a place: whole pixels a module, and the margin takes the rest."},
			func(out *Output) any { return &out.Pixels }),
		optional("quality", 1, 100, schema.Field{Called: "quality of the JPEG", Label: "JPEG quality", Unit: "%",
			About: "Of a JPEG."}, func(out *Output) any { return &out.Quality }),
		optional("printer_dpi", 100, 1200, schema.Field{Called: "dots of the printer", Label: "Printer resolution", Unit: "dpi",
			Choices: schema.Choices("203", "300", "600"), Open: true, About: "Dots an inch of a label printer."},
			func(out *Output) any { return &out.PrinterDPI }),
		optional("thinner_dots", 0, 4, schema.Field{Called: "thinner dots", Label: "Thinner by", Unit: "dots",
			Choices: schema.Words("0", "0 dots", "1", "1 dot", "2", "2 dots"), Open: true,
			Hint: "Dark parts lose what heat adds.", About: "Dots that dark parts lose on a label printer, which heat adds."},
			func(out *Output) any { return &out.Thinner }),
		millimetres("bleed_mm", MaxBleed, schema.Field{Code: "output.bleed", Usual: "3 is usual", Called: "bleed", Label: "Bleed",
			Example: "0 mm", About: "Of files for a press."},
			func(out *Output) any { return &out.Bleed }),
		millimetres("reduction_mm", MaxReduction, schema.Field{Code: "output.reduction",
			Usual: "two hundredths to a tenth are usual", Called: "bar width reduction",
			Label: "Bar width reduction", Example: "0 mm",
			About: "Bar width reduction: width that dark parts lose in print, half at each edge, for ink to gain."},
			func(out *Output) any { return &out.Reduction }),
		pressFlag("marks", "press marks", "Crop and registration marks",
			"Crop and registration marks, a colour bar and a line around files for a press.", func(out *Output) any {
				return &out.Marks
			}),
		pressFlag("overprint", "press marks", "Black and spot inks overprint",
			"Black and spot inks print over what lies beneath.", func(out *Output) any { return &out.Overprint }),
	},
	New: func() any { out := Default().Output; return &out },
}

// maxName bounds the name of a code, in bytes.
const maxName = 120

// Fields are those of a job. Those of its content depend on its kind: see Field.
var Fields = schema.Part{
	Fields: []schema.Field{
		{Key: "style", Read: func(o schema.Reader, _ any) { o.Any("style") }, Off: true, Fixed: true,
			Schema: `{"$ref": "#/$defs/house-style"}`},
		{Key: "version", Read: func(o schema.Reader, _ any) { o.Int("version", 1, 1, 1) }, Off: true, Fixed: true,
			Schema: `{"const": 1}`},
		{
			Key:    "name",
			Heads:  "code name, label",
			Type:   schema.Line,
			Keep:   true,
			At:     schema.In(func(j *Job) any { return &j.Name }),
			Most:   maxName,
			Called: "name",
			Label:  "Name",
		},
		{Key: "content", Type: schema.Object, Part: &schema.Part{New: func() any { return nil }}, Required: true,
			Read: readContent, Write: func(part any) any {
				if c := part.(*Job).Content; c != nil {
					return content.JSON(c)
				}
				return (*struct{})(nil)
			}},
		{Key: "lead", Read: readLead, Off: true, Fixed: true, Schema: `{"type": "object", "required": ["to"], "description": ` +
			`"Of a dynamic code: where it is to lead, with its routes; see links.md and routes.md. Read when a code is made of ` +
			`the file, and kept apart from then on."}`},
		{Key: "symbol", Type: schema.Object, Part: &symbolFields, At: schema.In(func(j *Job) any { return &j.Symbol })},
		{Key: "look", Type: schema.Object, Part: &look.Fields, Read: func(o schema.Reader, part any) {
			part.(*Job).Look = look.Read(o.Object("look"))
		}, Write: func(part any) any {
			if l := part.(*Job).Look; l != look.Default() {
				return l
			}
			return nil
		}},
		{Key: "placements", Type: schema.List, Part: &place.Fields, Most: MaxPlacements, Read: readPlacements,
			Write: func(part any) any {
				if list := part.(*Job).Placements; len(list) > 0 {
					return list
				}
				return nil
			}},
		{Key: "output", Type: schema.Object, Part: &outputFields, At: schema.In(func(j *Job) any { return &j.Output })},
	},
	New:   func() any { j := Default(); return &j },
	About: "One description of a code. Unknown keys are refused by name.",
}

func readContent(o schema.Reader, part any) {
	if !o.Has("content") {
		o.Problem("content", "job.content",
			`is missing; it says what the code holds, such as {"kind": "url", "url": "https://marrowby.example/fair"}`)
		return
	}
	part.(*Job).Content = content.Read(o.Object("content"))
}

// readLead reads where a dynamic code is to lead.
func readLead(o schema.Reader, part any) {
	v, ok := o.Any("lead")
	if !ok {
		return
	}
	l, problems := leads.Read(v)
	for _, p := range problems.Nest(o.At("lead")) {
		o.Problems().Add(p.Field, p.Code, "%s", p.Message)
	}
	j := part.(*Job)
	if _, dynamic := j.Content.(*content.Dynamic); !dynamic && j.Content != nil {
		o.Problem(
			"lead",
			"job.lead",
			"says where a short link leads, and this code says something itself; leave it out, or make the "+
				"content a short link",
		)
	}
	j.Lead = l
}

func readPlacements(o schema.Reader, part any) {
	j := part.(*Job)
	names, ids := map[string]bool{}, map[string]bool{}
	list := o.List("placements")
	if len(list) > MaxPlacements {
		o.Problem("placements", "job.placements", "holds %d places; a code has %d at most", len(list), MaxPlacements)
		return
	}
	for i, v := range list {
		at := o.At("placements") + "/" + strconv.Itoa(i)
		p := place.Read(fields.Open(v, at, o.Problems()))
		if names[p.Name] && p.Name != "" {
			o.Problems().Add(at+"/name", "place.twice", "there is already a placement called %q", p.Name)
		}
		if ids[p.ID] && p.ID != "" {
			o.Problems().Add(at+"/id", "place.twice", "is %q, as that of another place; leave it out", p.ID)
		}
		names[p.Name], ids[p.ID] = true, true
		j.Placements = append(j.Placements, p)
	}
}

func (j *Job) check(o *fields.Object) {
	if len(j.Name) > maxName {
		o.Problem("name", "job.name", "is longer than %d bytes; a short name is easier to find again", maxName)
	}
	s := o.Object("symbol")
	if j.Symbol.MinVersion > j.Symbol.MaxVersion {
		s.Problem("max_version", "symbol.versions", "is %d, below min_version %d", j.Symbol.MaxVersion, j.Symbol.MinVersion)
		j.Symbol.MaxVersion = 40
	}
	out := o.Object("output")
	for key, mm := range map[string]*float64{"bleed_mm": &j.Output.Bleed, "reduction_mm": &j.Output.Reduction} {
		if !out.Sound(key) || math.IsNaN(*mm) {
			*mm = 0
		}
	}
}

// Field is the field of a job at a JSON Pointer, nil where there is none. kind is that of its content; "" is any that has
// such a field.
func Field(kind, path string) *schema.Field {
	below, isContent := strings.CutPrefix(path, "/content/")
	if !isContent {
		return Fields.Find(path)
	}
	if k := content.KindOf(kind); k != nil {
		return k.Fields.Find("/" + below)
	}
	for _, k := range content.Register() {
		if f := k.Fields.Find("/" + below); f != nil {
			return f
		}
	}
	return nil
}

// Columns are the fields of a job of a kind that can be typed, each as the column of a table of many rows: its name, its
// content, its look, its first placement, its files.
func Columns(kind string) (out []schema.Column) {
	for i := range Fields.Fields {
		switch f := &Fields.Fields[i]; {
		case f.Key == "content":
			if k := content.KindOf(kind); k != nil {
				out = append(out, k.Fields.Columns("/content")...)
			}
		case f.Type == schema.List:
			out = append(out, f.Part.Columns("/"+f.Key+"/0")...)
		case f.Part != nil:
			out = append(out, f.Part.Columns("/"+f.Key)...)
		default:
			out = append(out, schema.Column{Path: "/" + f.Key, Field: f})
		}
	}
	return slices.DeleteFunc(out, func(c schema.Column) bool { return c.Field.Fixed })
}
