// Package impose lays labels on sheets: in rows, in columns, or so that cut piles lie in order; with crop marks and bleed, from
// any place of the first sheet on. Lengths are millimetres from the left top of the sheet.
package impose

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"
	"slices"

	"sodrik/internal/core/fields"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/schema"
)

// Sheet is a sheet with places for labels, all of one size.
type Sheet struct {
	Width, Height           float64
	Across, Down            int
	LabelWidth, LabelHeight float64
	Left, Top               float64 // of the first label
	GapX, GapY              float64 // between labels
}

// Usual is a sheet that is known by its measures.
type Usual struct {
	Key  string
	Name string
	Sheet
}

// Usuals are sheets in common use: for office printers, for cutting, and rolls, of which each label is a page. They are named by
// what they measure.
var Usuals = []Usual{
	{"a4-3x8", "A4, 3 × 8 labels of 70 × 37 mm", Sheet{210, 297, 3, 8, 70, 37, 0, 0.5, 0, 0}},
	{"a4-3x7", "A4, 3 × 7 labels of 63.5 × 38.1 mm", Sheet{210, 297, 3, 7, 63.5, 38.1, 7.2, 15.1, 2.55, 0}},
	{"a4-2x7", "A4, 2 × 7 labels of 99.1 × 38.1 mm", Sheet{210, 297, 2, 7, 99.1, 38.1, 4.65, 15.1, 2.5, 0}},
	{"a4-2x4", "A4, 2 × 4 labels of 99.1 × 67.7 mm", Sheet{210, 297, 2, 4, 99.1, 67.7, 4.65, 13.1, 2.5, 0}},
	{"a4-4x10", "A4, 4 × 10 labels of 48.5 × 25.4 mm", Sheet{210, 297, 4, 10, 48.5, 25.4, 8, 21.5, 0, 0}},
	{"a4-5x13", "A4, 5 × 13 labels of 38.1 × 21.2 mm", Sheet{210, 297, 5, 13, 38.1, 21.2, 4.75, 10.7, 2.5, 0}},
	{"letter-3x10", "Letter, 3 × 10 labels of 2⅝ × 1 in", Sheet{215.9, 279.4, 3, 10, 66.675, 25.4, 4.7625, 12.7, 3.175, 0}},
	{"letter-2x5", "Letter, 2 × 5 labels of 4 × 2 in", Sheet{215.9, 279.4, 2, 5, 101.6, 50.8, 3.96875, 12.7, 4.7625, 0}},
	{"sra3-8x12", "SRA3 to be cut, 8 × 12 labels of 35 × 35 mm", Sheet{320, 450, 8, 12, 35, 35, 13, 7.3, 2, 1.4}},
	{"roll-25", "Roll, 25 × 25 mm", Sheet{25, 25, 1, 1, 25, 25, 0, 0, 0, 0}},
	{"roll-50x30", "Roll, 50 × 30 mm", Sheet{50, 30, 1, 1, 50, 30, 0, 0, 0, 0}},
	{"roll-100x50", "Roll, 100 × 50 mm", Sheet{100, 50, 1, 1, 100, 50, 0, 0, 0, 0}},
}

// UsualOf finds a usual sheet by its key.
func UsualOf(key string) (Usual, bool) {
	i := slices.IndexFunc(Usuals, func(u Usual) bool { return u.Key == key })
	if i < 0 {
		return Usual{}, false
	}
	return Usuals[i], true
}

// Orders of labels on sheets.
const (
	ByRow    = "rows"    // along a row, then the next row
	ByColumn = "columns" // down a column, then the next column
	Stack    = "stack"   // cut and stacked, the piles lie in order
)

// Setting says how labels come to lie on sheets.
type Setting struct {
	Sheet
	Key            string // of a usual sheet, "" for one of its own measures
	Order          string
	Start          int     // the place of the first sheet on which the first label lies, from 1 in the order of rows or columns
	TearOff        int     // a column that stays blank, from 1; 0 is none
	Bleed          float64 // how far what a label is printed on goes beyond its edge
	Marks          bool    // crop marks
	Printer        string  // what prints, for which the shift is kept
	ShiftX, ShiftY float64 // of all labels, for a printer that pulls its sheets askew
	Margin         float64 // between the code and the edge of its label, at least
}

// Bounds of sheets, mm.
const (
	MaxSide  = 1200
	MinLabel = 5
	MaxBleed = 10
	MaxShift = 20
	MaxCells = 60 // across, and down
)

// Fields declare a setting.
var Fields = schema.Part{
	Fields: []schema.Field{
		{Key: "sheet", At: schema.In(func(s *Setting) any { return &s.Key }), Called: "sheet", Label: "Sheet", Control: "pick",
			ChoicesOf: usualNames, Always: true, About: "One that is known by its measures, or own."},
		{Key: "order", At: schema.In(func(s *Setting) any { return &s.Order }), Called: "order", Label: "Order",
			Choices: schema.Words(ByRow, "along the rows", ByColumn, "down the columns", Stack, "cut and stack: piles in order"),
			About:   "In which order labels lie on a sheet."},
		count("start", "first label", "Start at place", 1, MaxCells*MaxCells, func(s *Setting) any { return &s.Start },
			"On which place of the first sheet the first label lies, so that a sheet that was begun is used up."),
		count("tear_off", "blank column", "Blank column", 0, MaxCells, func(s *Setting) any { return &s.TearOff },
			"A column that stays blank, to be torn off; 0 is none."),
		side("margin_mm", "margin", "Margin around the code", 0, 100, func(s *Setting) *float64 { return &s.Margin }),
		side("bleed_mm", "bleed", "Bleed", 0, MaxBleed, func(s *Setting) *float64 { return &s.Bleed }),
		{Key: "marks", Type: schema.Flag, At: schema.In(func(s *Setting) any { return &s.Marks }), Called: "crop marks",
			Label: "Crop marks"},
		{Key: "printer", Type: schema.Line, At: schema.In(func(s *Setting) any { return &s.Printer }), Most: 40,
			Called: "printer",
			Label:  "Printer", Hint: "The shift is kept for it and this sheet.", About: "What prints; a shift is kept for it."},
		side("shift_x_mm", "shift", "Shift right", -MaxShift, MaxShift, func(s *Setting) *float64 { return &s.ShiftX }),
		side("shift_y_mm", "shift", "Shift down", -MaxShift, MaxShift, func(s *Setting) *float64 { return &s.ShiftY }),
		own(side("width_mm", "sheet", "Sheet width", 10, MaxSide, func(s *Setting) *float64 { return &s.Width })),
		own(side("height_mm", "sheet", "Sheet height", 10, MaxSide, func(s *Setting) *float64 { return &s.Height })),
		own(count("across", "labels across", "Labels across", 1, MaxCells, func(s *Setting) any { return &s.Across }, "")),
		own(count("down", "labels down", "Labels down", 1, MaxCells, func(s *Setting) any { return &s.Down }, "")),
		own(
			side("label_width_mm", "label", "Label width", MinLabel, MaxSide, func(s *Setting) *float64 { return &s.LabelWidth }),
		),
		own(
			side(
				"label_height_mm",
				"label",
				"Label height",
				MinLabel,
				MaxSide,
				func(s *Setting) *float64 { return &s.LabelHeight },
			),
		),
		own(
			side(
				"left_mm",
				"margin of the sheet",
				"First label from the left",
				0,
				MaxSide,
				func(s *Setting) *float64 { return &s.Left },
			),
		),
		own(
			side(
				"top_mm",
				"margin of the sheet",
				"First label from the top",
				0,
				MaxSide,
				func(s *Setting) *float64 { return &s.Top },
			),
		),
		own(side("gap_x_mm", "gap", "Gap across", 0, MaxSide, func(s *Setting) *float64 { return &s.GapX })),
		own(side("gap_y_mm", "gap", "Gap down", 0, MaxSide, func(s *Setting) *float64 { return &s.GapY })),
	},
	New: func() any { s := Default(); return &s },
}

// Own is the key of a sheet of other measures than the usual ones.
const Own = "own"

func usualNames() (out []schema.Choice) {
	for _, u := range Usuals {
		out = append(out, schema.Choice{Value: u.Key, Words: u.Name})
	}
	return append(out, schema.Choice{Value: Own, Words: "Other measures"})
}

func count(key, called, label string, least, most float64, at func(*Setting) any, about string) schema.Field {
	return schema.Field{Key: key, Type: schema.Whole, At: schema.In(at), Least: least, Most: most, Keep: true, Called: called,
		Label: label, About: about}
}

// side declares a length in millimetres.
func side(key, called, label string, least, most float64, at func(*Setting) *float64) schema.Field {
	return schema.Field{
		Key:    key,
		Type:   schema.Length,
		Keep:   true,
		Flat:   true,
		Least:  least,
		Most:   most,
		Called: called,
		Label:  label,
		Read: func(o schema.Reader, part any) {
			v := o.Number(key, *at(part.(*Setting)))
			if o.Has(key) && (v < least || v > most) {
				o.Problem(
					key,
					"sheet.bounds",
					"is %s mm; it lies between %s and %s mm",
					measure.Number(v, 2),
					measure.Number(least, 0),
					measure.Number(most, 0),
				)
				return
			}
			*at(part.(*Setting)) = v
		},
		Write: func(part any) any { return math.Round(*at(part.(*Setting))*1e4) / 1e4 },
	}
}

// own has a field be on the form of a sheet of other measures alone.
func own(f schema.Field) schema.Field {
	f.When = func(get func(string) string) bool { return get("sheet") == Own }
	return f
}

// Name is a sheet by its measures.
func (s Sheet) Name() string {
	mm := func(v float64) string { return measure.Number(v, 2) }
	return fmt.Sprintf("%s × %s mm, %d × %d labels of %s × %s mm", mm(s.Width), mm(s.Height), s.Across, s.Down, mm(s.LabelWidth),
		mm(s.LabelHeight))
}

// ID tells sheets apart: the key of a usual one, else what its measures say.
func (s Setting) ID() string {
	if s.Key != Own && s.Key != "" {
		return s.Key
	}
	sum := sha256.Sum256(fmt.Append(nil, s.Sheet))
	return OwnPrefix + hex.EncodeToString(sum[:6])
}

// OwnPrefix begins the ids of sheets of own measures.
const OwnPrefix = "own-"

// Default is the first usual sheet, by row.
func Default() Setting {
	return Setting{Sheet: Usuals[0].Sheet, Key: Usuals[0].Key, Order: ByRow, Start: 1, Margin: 2}
}

// Read reads a setting; v is a decoded object, nil for the default one. Problems have pointers below "/sheet".
func Read(v any) (Setting, problem.List) {
	s := Default()
	if v == nil {
		return s, nil
	}
	var problems problem.List
	o := fields.Open(v, "/sheet", &problems)
	Fields.Read(o, &s)
	o.Close()
	if u, ok := UsualOf(s.Key); ok {
		s.Sheet = u.Sheet
	}
	if len(problems) == 0 {
		problems = append(problems, s.Check()...)
	}
	return s, problems.Unique()
}

// JSON is a setting as the value that Read takes.
func (s Setting) JSON() map[string]any { return Fields.Write(&s, nil).Map() }

// Check says what is wrong with a setting.
func (s Setting) Check() (problems problem.List) {
	add := func(key, format string, args ...any) { problems.Add("/sheet/"+key, "sheet."+key, format, args...) }
	mm := func(v float64) string { return measure.Number(v, 2) + " mm" }
	const slack = 0.01
	if w := s.Left + float64(s.Across)*s.LabelWidth + float64(s.Across-1)*s.GapX; w > s.Width+slack {
		add(
			"across",
			"makes the labels %s wide with the margin, and the sheet is %s; take fewer, or smaller ones",
			mm(w),
			mm(s.Width),
		)
	}
	if h := s.Top + float64(s.Down)*s.LabelHeight + float64(s.Down-1)*s.GapY; h > s.Height+slack {
		add(
			"down",
			"makes the labels %s high with the margin, and the sheet is %s; take fewer, or smaller ones",
			mm(h),
			mm(s.Height),
		)
	}
	if s.TearOff > s.Across {
		add("tear_off", "is column %d, and there are %d", s.TearOff, s.Across)
	} else if s.TearOff > 0 && s.Across == 1 {
		add("tear_off", "is the only column; nothing would be printed")
	}
	switch cells := s.Cells(); {
	case cells > 0 && s.Start > cells:
		add("start", "is %d, and a sheet has %d places", s.Start, cells)
	case s.Start > 1 && s.Order == Stack:
		add("start", "is %d; labels that are cut and stacked begin with whole sheets. Start at 1, or order them by rows", s.Start)
	}
	if s.Bleed > 0 && (s.Across > 1 && s.Bleed > s.GapX/2+slack || s.Down > 1 && s.Bleed > s.GapY/2+slack) {
		least := math.Inf(1)
		if s.Across > 1 {
			least = s.GapX / 2
		}
		if s.Down > 1 {
			least = min(least, s.GapY/2)
		}
		add("bleed_mm", "is %s, and would run into the next label; the gaps have room for %s", mm(s.Bleed), mm(least))
	}
	if 2*s.Margin > min(s.LabelWidth, s.LabelHeight)-MinLabel {
		add("margin_mm", "leaves less than %d mm of the label for the code", MinLabel)
	}
	return problems
}
